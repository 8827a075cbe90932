"""Stage 6, Fit: steps ticked in order, fasteners out and back, the bulb clocked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, abort, redirect, request
from flask_wtf import FlaskForm
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from cold_arc.core.car.front import Key, SocketKey, UnitKey
from cold_arc.core.job.entries import Clocked, FastenerBack, Ticked
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.wants import TrayRow, clocked_as, fit_steps, needs_clocking
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job.scope import Scope, stage_url
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.parts.dial import build_dial
from cold_arc.web.parts.tray import build_tray
from cold_arc.web.shell.db import session

bp = Blueprint("fit", __name__)


# A step's id; its text, caution, whether it is done once for both sides, its fasteners.
Fact = tuple[str, tuple[str, str, bool, str]]


class ClockForm(FlaskForm):
    """Where the bulb stopped."""

    stopped = fields.clock_angle("Stopped at")


@dataclass(frozen=True)
class TickLine:
    """One step to tick: what it is about, what of that waits for it, and whether it is the next in order."""

    id: str
    text: str
    caution: str
    done: bool
    partly: str
    next: bool
    shared: bool
    fasteners: str
    about: tuple[Key, ...]


def tick_lines(record: Record, sockets: Sequence[SocketKey]) -> list[TickLine]:
    """The steps of the sockets in scope, in order, the way in to their units first; only the first unticked is next."""
    facts: dict[str, tuple[str, str, bool, str]] = {}
    wanted: dict[str, list[UnitKey | SocketKey]] = {}
    told: list[tuple[UnitKey | SocketKey, list[Fact]]] = []
    told += [(unit, _way_in(record, unit)) for unit in _units(sockets)]
    told += [(socket, _fitting(record, socket)) for socket in sockets]
    for key, steps in told:
        for step_id, fact in steps:
            facts.setdefault(step_id, fact)
            wanted.setdefault(step_id, []).append(key)
    lines: list[TickLine] = []
    for step_id, (text, caution, shared, fasteners) in facts.items():
        keys = wanted[step_id]
        done = [key for key in keys if step_id in record.ticks(key)]
        finished = len(done) == len(keys)
        partly = ", ".join(dict.fromkeys(key.side.value for key in done)) if done and not finished else ""
        is_next = not finished and all(line.done for line in lines)
        lines.append(TickLine(step_id, text, caution, finished, partly, is_next, shared, fasteners, tuple(keys)))
    return lines


def _units(sockets: Sequence[SocketKey]) -> list[UnitKey]:
    return list(dict.fromkeys(key.of_unit for key in sockets))


def _fitting(record: Record, key: SocketKey) -> list[Fact]:
    return [(f"fit:{step.id}", (step.text, step.caution, False, "")) for step in fit_steps(record, key)]


def _way_in(record: Record, key: UnitKey) -> list[Fact]:
    route = record.route(key)
    return [
        (
            f"route:{step.id}",
            (step.text, step.caution, step.shared, "; ".join(group.words for group in step.fasteners)),
        )
        for step in (route.steps if route else ())
    ]


@bp.route("/jobs/<int:job_id>/<scope:scope>/fit", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Ticks steps, reads the clocking, counts fasteners."""
    page = open_stage(job_id, scope, Stage.FIT)
    if request.method == "POST":
        return _change(page)
    return _render(page, {})


def _change(page: StagePage) -> Any:
    what, _, argument = request.form.get("do", "").partition(":")
    if what == "tick":
        return _tick(page, argument)
    if what == "clock":
        return _clock(page, argument)
    abort(404)


def _tick(page: StagePage, step_id: str) -> Response:
    lines = tick_lines(page.record, page.sockets)
    line = next((line for line in lines if line.id == step_id), None)
    if line is None:
        abort(404)
    if not line.next:
        after_save("Tick the steps in order.")
        return redirect(page.url, 303)
    return page.save(Ticked(step_id), about=_both_sides(page, line.about) if line.shared else line.about)


def _both_sides(page: StagePage, keys: Sequence[Key]) -> list[Key]:
    """A shared step is done for both sides of what is worked on."""
    names = {key.name for key in keys}
    every: list[Key] = [*page.record.units, *page.record.sockets]
    return [key for key in every if key.name in names]


def _clock(page: StagePage, name: str) -> Any:
    key = next((key for key in page.sockets if str(key) == name), None)
    if key is None:
        abort(404)
    form = ClockForm(prefix=name)
    if form.validate():
        return page.save(Clocked(form.stopped.data, form.stopped.raw_data[0].strip()), about=[key])
    return _render(page, {key: form})


def _render(page: StagePage, answered: dict[SocketKey, ClockForm]) -> Any:
    lines = tick_lines(page.record, page.sockets)
    dials, found = {}, []
    for key in page.sockets:
        if not needs_clocking(page.record, key):
            continue
        clocked = page.record.latest(Clocked, key)
        judged = clocked_as(page.record, key, clocked) if clocked else None
        form = answered.get(key) or ClockForm(MultiDict(), prefix=str(key))
        dials[key] = (build_dial(judged), form)
        if judged:
            found.append(judged.finding.named(key.side.value.capitalize()))
    ahead = [line for line in lines if not line.done]
    return page.render(
        found,
        (line.caution for line in ahead[:3] if line.caution),
        lines=lines,
        dials=dials,
        tray=build_tray(page.record, page.units),
        tray_back=page.url,
        several=len({key.name for key in page.sockets}) > 1,
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/<any(fit, prove):stage>/tray")
def tray(job_id: int, scope: Scope, stage: str) -> Response:
    """Accounts for one group of fasteners: all back, one more back, or one noted missing or replaced."""
    page = open_stage(job_id, scope, Stage(stage))
    known = {line.id: line for line in build_tray(page.record, page.units).lines}
    line = known.get(request.form.get("row", ""))
    if line is None:
        after_save("Those fasteners are on this way in no more. Nothing was changed.")
        return redirect(stage_url(job_id, scope, Stage(stage)), 303)
    if request.form.get("stood", line.state) != line.state:
        after_save(f"Somebody counted them meanwhile: {line.state}. Look, then press again.")
        return redirect(stage_url(job_id, scope, Stage(stage)), 303)
    entry = _counted(line.row, request.form.get("do", ""), request.form.get("note", "").strip()[:100])
    if entry:
        jobs.append(session(), job_id, entry, _both_sides(page, line.units) if line.is_shared else line.units)
        session().commit()
    return redirect(stage_url(job_id, scope, Stage(stage)), 303)


def _counted(row: TrayRow, what: str, note: str) -> FastenerBack | None:
    """The entry for one button of a group; None where nothing is loose or the button says nothing."""
    if not row.loose or what not in ("all", "one", "note"):
        return None
    back = {"all": row.back + row.loose, "one": row.back + 1}.get(what, row.back)
    noted = row.noted + (what == "note")
    return FastenerBack(row.step, row.fasteners.kind, back, noted, note or row.note, row.fasteners.place)
