"""Stage 7, Prove: every function, each side, engine off and running, before closing and after
refit.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import TypedDict

from flask import Blueprint, abort, redirect, request
from flask.typing import ResponseReturnValue

from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job import proofs
from cold_arc.core.job.entries.prove import Interlocked, NotOnCar, Proved
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.proofs import board, board_functions, interlocks_asked, interlocks_seen
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.step_order import CLOSES, LIVE_WHY
from cold_arc.core.job.steps import Step
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded
from cold_arc.core.work import interlocks, proof
from cold_arc.web.job.at_car import LONGEST_NOTE
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.parts.board import build_board
from cold_arc.web.parts.tray import build_tray
from cold_arc.web.scope import Scope, stage_url

bp = Blueprint("prove", __name__)
# What a tap on the board may record.
Proofs = Proved | Interlocked | NotOnCar


@bp.route("/jobs/<int:job_id>/<scope:scope>/prove", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Marks the board; puts the car together again between the passes."""
    page = open_stage(job_id, scope, Stage.PROVE)
    stage_pass = request.values.get("pass", "") or _pass_to_do(page)
    if stage_pass not in proof.PASSES:
        abort(404)
    if request.method == "POST":
        return _change(page, stage_pass)
    view = build_board(page.progress, stage_pass)
    return page.render(
        _findings(page),
        ["engine", "eyes", "fan"],
        **_panels(page, stage_pass),
        board=view,
        passes=proof.PASSES,
        results=proof.RESULTS,
        turning=_turning(page, view.dark) if stage_pass in proofs.NEED_OF else [],
        taps=[result for result in proof.RESULTS if result != "turned"],
        interlocks=interlocks_asked(page.progress) if stage_pass == "closed" else (),
        seen=interlocks_seen(page.record, "closed"),
        tray=build_tray(page.record, page.units),
    )


def _turning(page: StagePage, dark: Iterable[proof.Cell]) -> list[tuple[proof.Cell, str]]:
    """What to turn or swap where a cell stays dark."""
    return [(cell, proofs.turning(page.record, cell)) for cell in dark]


class Panels(TypedDict):
    """How the panels before the lamps in scope stand, and what to mind while they stand open."""

    closings: list[Step]
    shut: int
    can_close: bool
    panels_shut: bool
    live_words: str


def _panels(page: StagePage, stage_pass: str) -> Panels:
    work = page.record.once(Handwork)
    closings = _closings(page, work)
    to_close = [step for step in closings if not work.done(step)]
    shut = any(proofs.is_shut(page.record, key) for key in page.units)
    live = bool(to_close) and any(work.is_live(key) for key in page.units)
    return {
        "closings": closings,
        "shut": len(closings) - len(to_close),
        "can_close": any(not work.waits_for(step) for step in _to_shut(page, work)),
        "panels_shut": shut and stage_pass == proofs.OPEN,
        "live_words": LIVE_WHY if live else "",
    }


def _pass_to_do(page: StagePage) -> str:
    """The first pass with an untested cell."""
    for stage_pass in proofs.NEED_OF:
        wanted = proof.cells(board_functions(page.progress, stage_pass))
        if proof.untested(wanted, board(page.record, stage_pass)):
            return stage_pass
    return "closed"


def _closings(page: StagePage, work: Handwork) -> list[Step]:
    """The parts to close, and to plug in, before the units in scope."""
    mine = set(page.units)
    return [step for step in work.steps if step.kind in CLOSES and mine & set(step.units)]


def _to_shut(page: StagePage, work: Handwork) -> list[Step]:
    """What is left to do on the way to closed panels before the units in scope."""
    mine, kinds = set(page.units), (*CLOSES, "seal", "safe", "live")
    after = [step for step in work.steps if step.kind in kinds and mine & set(step.units)]
    return [step for step in after if not work.done(step)]


def _findings(page: StagePage) -> list[Finding]:
    """What the board and the interlocks say, each once."""

    def turn(cell: proof.Cell) -> str:
        return proofs.turning(page.record, cell)

    seen = [proof.findings(board(page.record, each), turn) for each in proofs.NEED_OF]
    together = interlocks.findings(interlocks_seen(page.record, "closed"))
    came = [
        Finding(
            "as-it-came",
            Level.NOTE,
            worded("As it came: {words}.", words=words),
            PRACTICE,
            advice="It is on the sheet.",
        )
        for words in proofs.faults_as_it_came(page.record)
    ]
    return list(dict.fromkeys(finding for each in (*seen, together, came) for finding in each))


def _change(page: StagePage, stage_pass: str) -> ResponseReturnValue:
    what, _, argument = request.form.get("do", "").partition(":")
    handlers = {
        "mark": _mark,
        "row": _row,
        "absent": _absent,
        "present": _absent,
        "right": _lock,
        "wrong": _lock,
    }
    if what not in handlers:
        abort(404)
    payloads = handlers[what](page, stage_pass, argument, what)
    if stage_pass == proofs.OPEN and any(_seen_shut(page, payload) for payload in payloads):
        reason = " ".join(request.form.get("reason", "").split())[:LONGEST_NOTE]
        if not reason:
            after_save("The panels before it are shut: say why it counts. Nothing was changed.")
            return _back(page, stage_pass)
        payloads = [
            replace(payload, reason=reason)
            if isinstance(payload, Proved) and _seen_shut(page, payload)
            else payload
            for payload in payloads
        ]
    page.save(*payloads, about=())
    return _back(page, stage_pass)


def _seen_shut(page: StagePage, payload: Proofs) -> bool:
    """Whether a cell is to be recorded as seen open while everything before its lamp is shut."""
    if not isinstance(payload, Proved):
        return False
    givers = proofs.givers_of(page.record, payload.function, payload.side)
    return bool(givers) and all(proofs.is_shut(page.record, key.of_unit) for key in givers)


def _back(page: StagePage, stage_pass: str) -> ResponseReturnValue:
    return redirect(stage_url(page.job.id, page.scope, Stage.PROVE, **{"pass": stage_pass}), 303)


def _mark(page: StagePage, stage_pass: str, argument: str, _: str) -> list[Proofs]:
    """One cell, to the result named."""
    parts = argument.split(",")
    if len(parts) != 4 or parts[3] not in proof.RESULTS:
        abort(404)
    cell = proof.Cell(*parts[:3])
    if cell not in proof.cells(board_functions(page.progress, stage_pass)):
        abort(404)
    return [Proved(stage_pass, cell.function, Side(cell.side), cell.engine, parts[3])]


def _row(page: StagePage, stage_pass: str, argument: str, _: str) -> list[Proofs]:
    """Every untested cell of a row, or with "*" of the board, as working."""
    results = board(page.record, stage_pass)
    wanted = [
        cell
        for cell in proof.cells(board_functions(page.progress, stage_pass))
        if argument in (cell.function, "*")
    ]
    return [
        Proved(stage_pass, cell.function, Side(cell.side), cell.engine, "works")
        for cell in proof.untested(wanted, results)
    ]


def _lock(page: StagePage, stage_pass: str, argument: str, what: str) -> list[Proofs]:
    """One interlock does as it should, or not; "*": all not told yet do."""
    if argument == "*":
        seen = interlocks_seen(page.record, stage_pass)
        return [
            Interlocked(stage_pass, interlock.id, True)
            for interlock in interlocks_asked(page.progress)
            if interlock.id not in seen
        ]
    if argument not in {interlock.id for interlock in interlocks_asked(page.progress)}:
        abort(404)
    return [Interlocked(stage_pass, argument, what == "right")]


def _absent(_: StagePage, __: str, argument: str, what: str) -> list[Proofs]:
    """This car has no such function, or has it after all."""
    if argument not in proof.FUNCTIONS:
        abort(404)
    return [NotOnCar(argument, what == "absent")]
