"""The ten stages of a job: what each still needs for a lamp, and where each lamp stands.

A stage is finished by a `Passed` entry. Whatever is missing then must be answered with a reason. Going back
reopens a stage and all after it; the entries made there stay.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from cold_arc.core import aim, clocking, condition, fitting, proof, readings
from cold_arc.core.access import Fasteners
from cold_arc.core.findings import Level
from cold_arc.core.lamps import LampKey
from cold_arc.core.record import (
    Chosen,
    Clocked,
    FastenerBack,
    HandedOver,
    Passed,
    Proved,
    Record,
    Reopened,
    Routed,
)


class Stage(StrEnum):
    """The stages in the order the work is done."""

    BOOK_IN = "book-in"
    INSPECT = "inspect"
    BASELINE = "baseline"
    MATCH = "match"
    PLAN = "plan"
    FIT = "fit"
    PROVE = "prove"
    AIM = "aim"
    VERIFY = "verify"
    HAND_OVER = "hand-over"

    @property
    def label(self) -> str:
        """The stage's name."""
        return self.value.replace("-", " ").capitalize()

    @property
    def number(self) -> int:
        """1 to 10."""
        return list(Stage).index(self) + 1

    @property
    def next(self) -> Stage | None:
        """The stage after it."""
        return list(Stage)[self.number] if self.number < len(Stage) else None


class Status(StrEnum):
    """Where a lamp stands at a stage."""

    DONE = "done"
    SKIPPED = "skipped"
    OPEN = "open"
    AHEAD = "ahead"


Missing = Callable[[Record, LampKey], Iterator[str]]


def _book_in(record: Record, key: LampKey) -> Iterator[str]:
    if record.lamp(key).base is None:
        yield "housing, base and present source not identified"


def _inspect(record: Record, key: LampKey) -> Iterator[str]:
    if record.condition(key) is None:
        yield "condition not recorded"


def _wall_points(record: Record, key: LampKey, phase: str) -> Iterator[str]:
    taken = record.readings(key, phase)
    wanted = readings.NEEDED_POINTS if phase == "before" else tuple(record.readings(key, "before"))
    if absent := [point for point in wanted if point not in taken]:
        yield f"no reading {phase}: {', '.join(absent)}"


def _baseline(record: Record, key: LampKey) -> Iterator[str]:
    if key.function.is_road_beam:
        yield from _wall_points(record, key, "before")


def _match(record: Record, key: LampKey) -> Iterator[str]:
    if record.latest(Chosen, key) is None:
        yield "nothing chosen"


def _plan(record: Record, key: LampKey) -> Iterator[str]:
    route = record.latest(Routed, key)
    if route is None or not route.steps:
        yield "no access route"


def _fit(record: Record, key: LampKey) -> Iterator[str]:
    done = record.ticks(key)
    left = [step for step in steps_to_tick(record, key) if step not in done]
    if left:
        yield f"{len(left)} steps not ticked"
    if needs_clocking(record, key):
        yield from _clocking(record, key)


def _clocking(record: Record, key: LampKey) -> Iterator[str]:
    clocked = record.latest(Clocked, key)
    if clocked is None:
        yield "clocking not read"
    elif clocked_as(record, key, clocked).finding.level is Level.STOP:
        yield "clocking too far off"


def _prove(record: Record, key: LampKey) -> Iterator[str]:
    for stage_pass, words in proof.PASSES.items():
        results = board(record, stage_pass)
        wanted = proof.cells(board_functions(record, stage_pass))
        if untested := proof.untested(wanted, results):
            yield f"{words.lower()}: {len(untested)} cells untested"
        faults = [cell for cell in wanted if results.get(cell, "works") not in proof.GOOD_RESULTS]
        for cell in faults:
            yield f"{words.lower()}: {cell.words} {proof.RESULTS[results[cell]].lower()}"
    if loose := sum(row.loose for row in tray(record, key)):
        yield f"{loose} fasteners not accounted for"


def _aim(record: Record, key: LampKey) -> Iterator[str]:
    if not key.function.is_road_beam:
        return
    left = record.aimed(key, "left")
    if left is None:
        yield "aim as left not read"
        return
    target = aim.rules()[left.rule].target(left.height_m)
    if target.keep.excess(left.slope):
        yield "aim as left is out"
    if left.sideways is not None and target.sideways_excess(left.sideways):
        yield "aim as left is out sideways"


def _verify(record: Record, key: LampKey) -> Iterator[str]:
    if key.function.is_road_beam:
        yield from _wall_points(record, key, "after")


def _hand_over(record: Record, key: LampKey) -> Iterator[str]:
    if record.latest(HandedOver) is None:
        yield "customer sheet not completed"


_MISSING: dict[Stage, Missing] = {
    Stage.BOOK_IN: _book_in,
    Stage.INSPECT: _inspect,
    Stage.BASELINE: _baseline,
    Stage.MATCH: _match,
    Stage.PLAN: _plan,
    Stage.FIT: _fit,
    Stage.PROVE: _prove,
    Stage.AIM: _aim,
    Stage.VERIFY: _verify,
    Stage.HAND_OVER: _hand_over,
}


def missing(record: Record, key: LampKey, stage: Stage) -> list[str]:
    """What a stage still needs for one lamp, in words; empty when it is complete."""
    return list(_MISSING[stage](record, key))


def needs_clocking(record: Record, key: LampKey) -> bool:
    """Whether the lamp gets a bulb whose emitters must face 3 and 9 o'clock: a beam made by faces."""
    chosen = record.latest(Chosen, key)
    return bool(chosen and chosen.source and chosen.source.is_bulb and key.function.is_road_beam)


def clocked_as(record: Record, key: LampKey, clocked: Clocked) -> clocking.Clocking:
    """A clocking judged for the chosen bulb: two equal faces look the same every half turn."""
    chosen = record.latest(Chosen, key)
    source = chosen.source if chosen else None
    alike = 2 if source and source.faces == 2 and not source.dip_shield else 1
    return clocking.preset(clocked.stopped_deg, alike)


def fit_steps(record: Record, key: LampKey) -> list[fitting.FitStep]:
    """The fitting steps of one lamp."""
    chosen = record.latest(Chosen, key)
    return fitting.steps(record.lamp(key), record.condition(key), chosen.source if chosen else None)


def steps_to_tick(record: Record, key: LampKey) -> list[str]:
    """The ids of every step at Fit, in order: the way in, then the fitting."""
    route = record.latest(Routed, key)
    way_in = [f"route:{step.id}" for step in route.steps] if route else []
    return way_in + [f"fit:{step.id}" for step in fit_steps(record, key)]


@dataclass(frozen=True)
class TrayRow:
    """Fasteners of one step: out of the car, back in, or noted as missing."""

    step: int
    fasteners: Fasteners
    out: bool
    back: int
    noted: int
    note: str = ""

    @property
    def loose(self) -> int:
        """How many lie in the tray, unaccounted for."""
        return self.fasteners.count - self.back - self.noted if self.out else 0


def tray(record: Record, key: LampKey) -> list[TrayRow]:
    """Every group of fasteners on the way to one lamp; a group is out once its step is ticked."""
    route = record.latest(Routed, key)
    done = record.ticks(key)
    said = {(entry.step, entry.kind): entry for entry in record.all(FastenerBack, key)}
    rows = []
    for step in route.steps if route else ():
        for fasteners in step.fasteners:
            entry = said.get((step.id, fasteners.kind))
            back, noted, note = (entry.back, entry.noted, entry.note) if entry else (0, 0, "")
            rows.append(TrayRow(step.id, fasteners, f"route:{step.id}" in done, back, noted, note))
    return rows


def board(record: Record, stage_pass: str) -> dict[proof.Cell, str]:
    """The newest result of every marked cell in one pass."""
    return {
        proof.Cell(entry.function, entry.side.value, entry.engine): entry.result
        for entry in record.all(Proved)
        if entry.stage_pass == stage_pass
    }


def board_functions(record: Record, stage_pass: str) -> list[str]:
    """The rows of the board: before closing the lamps worked on, after refit everything the car has."""
    absent = record.absent_functions()
    worked_on = {key.function.value for key in record.lamp_keys}
    wanted = worked_on if stage_pass == "open" else set(proof.FUNCTIONS)
    return [function for function in proof.FUNCTIONS if function in wanted and function not in absent]


def statuses(record: Record, key: LampKey) -> dict[Stage, Status]:
    """Where one lamp stands at each stage."""
    passed: dict[Stage, Passed] = {}
    for entry in record.entries:
        if key not in entry.lamps:
            continue
        if isinstance(entry.payload, Passed):
            passed[Stage(entry.payload.stage)] = entry.payload
        elif isinstance(entry.payload, Reopened):
            back_to = Stage(entry.payload.stage).number
            passed = {stage: done for stage, done in passed.items() if stage.number < back_to}
    result: dict[Stage, Status] = {}
    for stage in Stage:
        if stage in passed:
            result[stage] = Status.SKIPPED if passed[stage].reason else Status.DONE
        else:
            result[stage] = Status.AHEAD if Status.OPEN in result.values() else Status.OPEN
    return result


def current(record: Record, key: LampKey) -> Stage | None:
    """The stage a lamp is at; None when all ten are finished."""
    return next((stage for stage, status in statuses(record, key).items() if status is Status.OPEN), None)


def least(record: Record) -> Stage | None:
    """The stage the job waits on: the earliest of its lamps; None when handed over."""
    open_stages = [stage for key in record.lamp_keys if (stage := current(record, key))]
    return min(open_stages, key=lambda stage: stage.number) if open_stages else None


def condition_verdict(record: Record, key: LampKey) -> condition.Verdict | None:
    """Go, restore or replace, once inspected."""
    seen = record.condition(key)
    return condition.verdict(seen, condition.findings(seen)) if seen else None
