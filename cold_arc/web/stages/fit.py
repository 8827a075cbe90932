"""Stage 6, Fit: steps ticked in order, fasteners out and back, the bulb clocked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, abort, redirect, request
from flask_wtf import FlaskForm
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response

from cold_arc.core import units
from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Clocked, FastenerBack, Record, Routed, Ticked
from cold_arc.core.stages import Stage, clocked_as, fit_steps, needs_clocking
from cold_arc.store import jobs
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.fields import TypedField, plain
from cold_arc.web.parts.dial import build_dial
from cold_arc.web.parts.tray import build_tray
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.stage_page import Desk, after_save, open_desk

bp = Blueprint("fit", __name__)


class ClockForm(FlaskForm):
    """Where the bulb stopped."""

    stopped = TypedField(
        "Stopped at",
        units.parse_clock_angle,
        lambda degrees: f"{plain(abs(degrees))} {'cw' if degrees >= 0 else 'ccw'}",
        validators=[fields.needed("Read where it stopped.")],
    )


@dataclass(frozen=True)
class TickLine:
    """One step to tick: whom it waits for, and whether it is the next in order."""

    id: str
    text: str
    caution: str
    done: bool
    partly: str
    next: bool
    shared: bool
    fasteners: str


def tick_lines(record: Record, keys: Sequence[LampKey]) -> list[TickLine]:
    """The steps of the lamps in scope, in order, the way in first; only the first unticked is next."""
    facts: dict[str, tuple[str, str, bool, str]] = {}
    wanted: dict[str, list[LampKey]] = {}
    for part in ("route", "fit"):
        for key in keys:
            for step_id, fact in _steps(record, key, part):
                facts.setdefault(step_id, fact)
                wanted.setdefault(step_id, []).append(key)
    lines: list[TickLine] = []
    for step_id, (text, caution, shared, fasteners) in facts.items():
        done = [key for key in wanted[step_id] if step_id in record.ticks(key)]
        finished = len(done) == len(wanted[step_id])
        partly = ", ".join(key.side.value for key in done) if done and not finished else ""
        is_next = not finished and all(line.done for line in lines)
        lines.append(TickLine(step_id, text, caution, finished, partly, is_next, shared, fasteners))
    return lines


def _steps(record: Record, key: LampKey, part: str) -> list[tuple[str, tuple[str, str, bool, str]]]:
    if part == "fit":
        return [(f"fit:{step.id}", (step.text, step.caution, False, "")) for step in fit_steps(record, key)]
    route = record.latest(Routed, key)
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
    desk = open_desk(job_id, scope, Stage.FIT)
    if request.method == "POST":
        return _change(desk)
    return _render(desk, {})


def _change(desk: Desk) -> Any:
    what, _, argument = request.form.get("do", "").partition(":")
    if what == "tick":
        return _tick(desk, argument)
    if what == "clock":
        return _clock(desk, argument)
    abort(404)


def _tick(desk: Desk, step_id: str) -> Response:
    lines = tick_lines(desk.record, desk.keys)
    line = next((line for line in lines if line.id == step_id), None)
    if line is None:
        abort(404)
    if not line.next:
        after_save("Tick the steps in order.")
        return redirect(desk.url, 303)
    return desk.save(Ticked(step_id), lamps=_for_both(desk) if line.shared else None)


def _for_both(desk: Desk) -> list[LampKey]:
    """A shared step is done for every lamp of the functions in scope."""
    functions = {key.function for key in desk.keys}
    return [key for key in desk.record.lamp_keys if key.function in functions]


def _clock(desk: Desk, name: str) -> Any:
    key = next((key for key in desk.keys if str(key) == name), None)
    if key is None:
        abort(404)
    form = ClockForm(prefix=name)
    if form.validate():
        return desk.save(Clocked(form.stopped.data, form.stopped.raw_data[0].strip()), lamps=[key])
    return _render(desk, {key: form})


def _render(desk: Desk, answered: dict[LampKey, ClockForm]) -> Any:
    lines = tick_lines(desk.record, desk.keys)
    dials, found = {}, []
    for key in desk.keys:
        if not needs_clocking(desk.record, key):
            continue
        clocked = desk.record.latest(Clocked, key)
        judged = clocked_as(desk.record, key, clocked) if clocked else None
        form = answered.get(key) or ClockForm(MultiDict(), prefix=str(key))
        dials[key] = (build_dial(judged), form)
        if judged:
            found.append(judged.finding.named(key.side.value.capitalize()))
    ahead = [line for line in lines if not line.done]
    return desk.render(
        found,
        (line.caution for line in ahead[:3] if line.caution),
        lines=lines,
        dials=dials,
        tray=build_tray(desk.record, desk.keys),
        tray_back=desk.url,
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/<any(fit, prove):stage>/tray")
def tray(job_id: int, scope: Scope, stage: str) -> Response:
    """Accounts for one group of fasteners: all back, one more back, or one noted missing or replaced."""
    desk = open_desk(job_id, scope, Stage(stage))
    row_index = request.form.get("row", "")
    lines = build_tray(desk.record, desk.keys).lines
    if not row_index.isdecimal() or int(row_index) >= len(lines):
        abort(404)
    line = lines[int(row_index)]
    row, what = line.row, request.form.get("do", "")
    if row.loose:
        back = {"all": row.back + row.loose, "one": row.back + 1}.get(what, row.back)
        noted = row.noted + (what == "note")
        note = request.form.get("note", "").strip()[:100] or row.note
        entry = FastenerBack(row.step, row.fasteners.kind, back, noted, note)
        jobs.append(session(), job_id, entry, _for_both(desk) if line.side == "shared" else line.lamps)
        session().commit()
    return redirect(stage_url(job_id, scope, Stage(stage)), 303)
