"""Stage 6, Fit: the work at the car step by step, by one or several; what lies in the tray, where
the bulb locked.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypedDict

from flask import Blueprint, abort, redirect, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.datastructures import MultiDict
from werkzeug.wrappers import Response
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core.car.keys import Key, SocketKey
from cold_arc.core.job import as_it_came, proofs, timing
from cold_arc.core.job.at_lamp import (
    clocked_as,
    clockings,
    needs_clocking,
    seat_findings,
    wire_findings,
)
from cold_arc.core.job.entries.fit import Checked, Clocked, ClockRan, Pictured, Ticked
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.step_order import CLOSES
from cold_arc.core.job.steps import Step
from cold_arc.core.job.tray import TrayRow, tray_of
from cold_arc.core.work.fitting import o_ring_fault
from cold_arc.core.work.tick import Tick
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job.at_car import LONGEST_NOTE, ClockForm, counted
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.parts.dial import Dial, build_dial
from cold_arc.web.parts.tray import build_tray
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.shell import cookies
from cold_arc.web.shell.db import session, writable

bp = Blueprint("fit", __name__)


class CheckForm(FlaskForm):
    """What a check found; of an O-ring its thickness and the one needed."""

    note = StringField("What is not right", [Length(max=LONGEST_NOTE)])
    fitted_mm = fields.number("O-ring fitted", 0.2, 10, "mm", required=False)
    needed_mm = fields.number("O-ring needed", 0.2, 10, "mm", required=False)


@dataclass(frozen=True)
class StepLine:
    """One step as listed: where it is done, whether it is, by whom, and what it waits for."""

    step: Step
    where: str
    done: bool
    who: str
    waits: tuple[str, ...]
    not_right: str
    shut: bool


def step_lines(work: Handwork, page: StagePage) -> list[StepLine]:
    """The steps about the units in scope, in order."""
    units, record = set(page.units), page.record
    mine = [
        step for step in work.steps if units & set(step.units) and _in_scope(step, page.sockets)
    ]
    ticks = [
        (entry.about, tick) for entry in record.entries if isinstance(tick := entry.payload, Ticked)
    ]
    who = {(key, tick.step): tick.who for about, tick in ticks for key in about}
    return [
        _line(work, step, work.where(step, page.sockets), who.get(step.ticks[0], ""))
        for step in mine
    ]


def _line(work: Handwork, step: Step, where: str, who: str) -> StepLine:
    """One step as listed."""
    done = work.done(step)
    waits = () if done else tuple(work.waits_for(step))
    not_right = _not_right(work.record, step)
    return StepLine(step, where, done, who, waits, not_right, work.is_shut(step))


def _in_scope(step: Step, sockets: Sequence[SocketKey]) -> bool:
    """A socket's own step only where that socket is in scope."""
    keys = [key for key, _ in step.ticks if isinstance(key, SocketKey)]
    return not keys or any(key in sockets for key in keys)


def _not_right(record: Record, step: Step) -> str:
    """What was last found wrong by a check; "" where it is right, or was not made."""
    made = (
        [entry for entry in record.all(Checked, step.ticks[0][0]) if entry.check == step.check]
        if step.check
        else []
    )
    return (made[-1].note or "not right") if made and not made[-1].right else ""


@bp.route("/jobs/<int:job_id>/<scope:scope>/fit", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Ticks steps, reads the clocking, counts fasteners."""
    page = open_stage(job_id, scope, Stage.FIT)
    if request.method == "POST":
        return _change(page)
    return _render(page)


def _change(page: StagePage) -> ResponseReturnValue:
    what, _, argument = request.form.get("do", "").partition(":")
    handlers: dict[str, Callable[[StagePage, str], ResponseReturnValue]] = {
        "tick": _tick,
        "home": _home,
        "group": _group,
        "again": _again,
        "wrong": _wrong,
        "clock": _clock,
        "run": _run,
        "who": _who,
    }
    if what not in handlers:
        abort(404)
    return handlers[what](page, argument)


def _who(page: StagePage, _: str) -> Response:
    """Who works at the car with this device, kept by its browser."""
    answer = redirect(page.url, 303)
    name = "".join(sign for sign in request.form.get("who", "") if sign.isprintable()).strip()
    cookies.keep(answer, "hand", name[:30])
    return answer


def _run(page: StagePage, argument: str) -> Response:
    """Starts or stops the clock; started twice it runs once."""
    running = argument == "1"
    if running is timing.is_running(page.record):
        return redirect(page.url, 303)
    return page.save(ClockRan(running), about=(), merged=True)


def _home(page: StagePage, step_id: str) -> ResponseReturnValue:
    """A part closed with everything that held it back in the car."""
    return _tick(page, step_id, all_back=True)


def _step(work: Handwork, step_id: str) -> Step:
    """The step of an id; 404 where there is none."""
    step = next((step for step in work.steps if step.id == step_id), None)
    if step is None:
        abort(404)
    return step


def _tick(page: StagePage, step_id: str, all_back: bool = False) -> ResponseReturnValue:
    """A step done. One that waits for others is not, but a panel closed all the same with a
    reason.
    """
    work = page.record.once(Handwork)
    step = _step(work, step_id)
    reason = request.form.get("reason", "").strip()[:LONGEST_NOTE]
    waits = work.waits_for(step)
    if not_now := _not_now(work, step, waits, reason):
        after_save(not_now)
        return redirect(page.url, 303)
    if step.kind == "prove":
        here = stage_url(page.job.id, page.scope, Stage.PROVE, **{"pass": proofs.OPEN})
        return redirect(here, 303)
    back = _all_back(page, step) if all_back and step.opening else []
    if step.check and not waits:
        return _check(page, step, back)
    return _record(page, [*_ticks(step, reason if waits else ""), *back])


def _not_now(work: Handwork, step: Step, waits: Sequence[str], reason: str) -> str:
    """Why a step is not ticked now; "" where it may be."""
    if work.done(step):
        return f"Done meanwhile: {step.text}"
    if not waits or (step.kind == "close" and reason):
        return ""
    return f"{'Not yet.' if step.kind == 'close' else 'Tick the steps in order.'} {waits[0]}."


def _group(page: StagePage, step_id: str) -> ResponseReturnValue:
    """Steps done in one go, those that were shown: the checks among them right, what came loose
    back in the car.
    """
    run = _together(page, step_id, request.form.get("to", ""))
    if not run:
        after_save("Nothing there to tick together: look, then press again.")
        return redirect(page.url, 303)
    first, *others = run
    rest = [entry for step in others for entry in _done_right(page, step)]
    if first.check:
        return _check(page, first, [*_back_of(page, first), *rest])
    return _record(page, [*_done_right(page, first), *rest])


def _together(page: StagePage, first_id: str, last_id: str) -> list[Step]:
    """What may be done in one go from one step to another; nothing where that changed meanwhile."""
    work = page.record.once(Handwork)
    shown = [line.step for line in step_lines(work, page)]
    first = next((step for step in shown if step.id == first_id), None)
    run = work.together(shown, first) if first and not work.done(first) else []
    ids = [step.id for step in run]
    return run[: ids.index(last_id) + 1] if last_id in ids else []


def _done_right(page: StagePage, step: Step) -> list[tuple[Payload, list[Key]]]:
    """The entries of a step done, its check right, everything back that it closes over."""
    keys = [key for key, _ in step.ticks]
    looked: list[tuple[Payload, list[Key]]] = (
        [(Checked(step.check, True), keys)] if step.check else []
    )
    return [*looked, *_ticks(step, ""), *_back_of(page, step)]


def _back_of(page: StagePage, step: Step) -> list[tuple[Payload, list[Key]]]:
    """All that comes back into the car as a step closes over it; nothing of any other step."""
    return _all_back(page, step) if step.opening and step.kind in CLOSES else []


def _again(page: StagePage, step_id: str) -> Response:
    """A part that was closed, opened once more: what was proved behind it counts no more."""
    work = page.record.once(Handwork)
    step = _step(work, step_id)
    if not work.is_shut(step):
        after_save("It stands open, or was never opened. Nothing was changed.")
        return redirect(page.url, 303)
    return _record(page, _ticks(step, ""))


def _ticks(step: Step, reason: str) -> list[tuple[Payload, list[Key]]]:
    """The entries of a step done: one for each name it has."""
    ticks: dict[Tick, list[Key]] = {}
    for key, tick in step.ticks:
        ticks.setdefault(tick, []).append(key)
    return [(Ticked(tick, hand(), reason), keys) for tick, keys in ticks.items()]


def hand() -> str:
    """Who works with this device, as its browser knows."""
    return request.cookies.get("hand", "")[:30]


def _record(page: StagePage, entries: Sequence[tuple[Payload, Sequence[Key]]]) -> Response:
    for payload, keys in entries:
        jobs.append(writable(), page.job.id, payload, keys)
    return page.save(about=())


def _all_back(page: StagePage, step: Step) -> list[tuple[Payload, list[Key]]]:
    """Everything that came loose where a part is closed, back in the car."""
    assert step.opening is not None
    rows = tray_of(page.record, step.opening)
    back = [(counted(row, "all", ""), row) for row in rows if not row.uncounted]
    return [(entry, _owners(row, step)) for entry, row in back if entry]


def _owners(row: TrayRow, step: Step) -> list[Key]:
    assert step.opening is not None
    return [key for key, number in step.opening.ids.items() if number == row.step]


def _check(
    page: StagePage, step: Step, back: Sequence[tuple[Payload, Sequence[Key]]]
) -> ResponseReturnValue:
    """A check that is right; of an O-ring the figures say so."""
    form = CheckForm()
    if not form.validate():
        return _render(page, check=form)
    fitted, needed = form.fitted_mm.data, form.needed_mm.data
    if fault := o_ring_fault(fitted, needed):
        form.fitted_mm.errors = [f"{fault} Change it, or record it as not right."]
        return _render(page, check=form)
    keys = [key for key, _ in step.ticks]
    made = Checked(step.check, True, form.note.data or "", fitted, needed)
    return _record(page, [(made, keys), *_ticks(step, ""), *back])


def _wrong(page: StagePage, step_id: str) -> ResponseReturnValue:
    """A check that is not right: it stays to be done, and the panel open."""
    step = _step(page.record.once(Handwork), step_id)
    if not step.check:
        abort(404)
    form = CheckForm()
    if form.validate() and not (form.note.data or "").strip():
        form.note.errors = ["Say what is not right."]
    if form.errors or form.note.errors:
        return _render(page, check=form)
    made = Checked(
        step.check, False, form.note.data.strip(), form.fitted_mm.data, form.needed_mm.data
    )
    return page.save(made, about=[key for key, _ in step.ticks], merged=True)


def _clock(page: StagePage, name: str) -> ResponseReturnValue:
    key = next((key for key in page.sockets if str(key) == name), None)
    if key is None or not needs_clocking(page.record, key):
        abort(404)
    form = ClockForm(prefix=name)
    if form.validate():
        typed = form.stopped.raw_data[0].strip()
        return page.save(Clocked(form.stopped.data, typed, form.depth.data), about=[key])
    return _render(page, {key: form})


def _dial(
    page: StagePage, key: SocketKey, answered: ClockForm | None
) -> tuple[Dial | None, ClockForm]:
    """The Dial of a socket as last read, and the form for the next reading."""
    read = clockings(page.record, key)
    judged = clocked_as(page.record, key, read[-1]) if read else None
    return build_dial(judged), answered or ClockForm(MultiDict(), prefix=str(key))


def _cautions(line: StepLine | None) -> list[str]:
    return [line.step.caution] if line and line.step.caution else []


def _pictures(page: StagePage, line: StepLine | None) -> list[Pictured]:
    """The pictures kept beside a step."""
    step = line.step.id if line else None
    return [picture for picture in page.record.all(Pictured) if picture.step == step]


def _render(
    page: StagePage,
    answered: dict[SocketKey, ClockForm] | None = None,
    check: CheckForm | None = None,
) -> ResponseReturnValue:
    work = page.record.once(Handwork)
    lines = step_lines(work, page)
    clocked = [key for key in page.sockets if needs_clocking(page.record, key)]
    findings = [
        *(() if page.record.all(Ticked) else as_it_came.unsigned(page.record)),
        *(
            finding.named(key.side.value.capitalize())
            for key in page.sockets
            for finding in (*seat_findings(page.record, key), *wire_findings(page.record, key))
        ),
    ]
    under_hand = _under_hand(lines)
    return page.render(
        findings,
        _cautions(under_hand),
        state=jobs.state(session(), page.job.id),
        lines=lines,
        under_hand=under_hand,
        **_of_step(page, work, lines, under_hand),
        check=check or CheckForm(MultiDict()),
        dials={key: _dial(page, key, (answered or {}).get(key)) for key in clocked},
        tray=build_tray(page.record, page.units),
        several=len({key.name for key in page.sockets}) > 1,
        **_clock_of(page.record),
        picture_error=request.args.get("picture-error", ""),
    )


class StepAside(TypedDict):
    """What stands beside the step under hand: its pictures, whether a proof is wanted, what may be
    ticked with it.
    """

    pictures: list[Pictured]
    unproved: bool
    together: list[Step]


def _of_step(
    page: StagePage, work: Handwork, lines: Sequence[StepLine], under_hand: StepLine | None
) -> StepAside:
    step = under_hand.step if under_hand else None
    return {
        "pictures": _pictures(page, under_hand),
        "unproved": step is not None and work.wants_proof(step),
        "together": work.together([line.step for line in lines], step) if step else [],
    }


class WorkClock(TypedDict):
    """The clock of the work at the car, and whose device this is."""

    running: bool
    ran_min: float
    step_min: float
    hand: str


def _clock_of(record: Record) -> WorkClock:
    now = jobs.now()
    return {
        "running": timing.is_running(record),
        "ran_min": timing.ran_min(record.entries, now),
        "step_min": timing.step_min(record, now, hand()),
        "hand": hand(),
    }


def _under_hand(lines: Sequence[StepLine]) -> StepLine | None:
    """The step asked for by a tap, or the first that can be done, or the first that waits."""
    asked = request.values.get("step", "")
    left = [line for line in lines if not line.done]
    picked = [line for line in left if line.step.id == asked]
    return next(iter([*picked, *(line for line in left if not line.waits), *left]), None)
