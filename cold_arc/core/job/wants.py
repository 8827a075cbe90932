"""What each stage still needs of its things, in words."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from cold_arc.core.car import condition
from cold_arc.core.car.front import BeamKey, Key, SocketKey, UnitKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.aim import target_of
from cold_arc.core.job.entries.fit import Checked, Clocked, FastenerBack
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.prove import Interlocked, Proved
from cold_arc.core.job.outcome import dazzle
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering import readings
from cold_arc.core.work import clocking, fitting, interlocks, proof, seating
from cold_arc.core.work.access import Fasteners
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.extras import Extra
from cold_arc.core.work.interlocks import Interlock

Wants = Callable[[Progress, Key], Iterator[str]]


def _book_in(progress: Progress, key: Key) -> Iterator[str]:
    if isinstance(key, SocketKey) and progress.record.socket(key).base is None:
        yield "optic, base and present source not identified"


def _inspect(progress: Progress, key: Key) -> Iterator[str]:
    if isinstance(key, UnitKey) and progress.record.condition(key) is None:
        yield "condition not recorded"


def _wall_points(record: Record, key: Key, phase: str) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    taken = record.readings(key, phase)
    named = [point for point in record.readings(key, "before") if point in readings.POINTS]
    needed = readings.needed(key.function.value)
    wanted = needed if phase == "before" else named or needed  # a skipped Baseline proves nothing
    if absent := [point for point in wanted if point not in taken]:
        yield f"no reading {phase}: {', '.join(absent)}"


def _baseline(progress: Progress, key: Key) -> Iterator[str]:
    yield from _wall_points(progress.record, key, "before")


def _match(progress: Progress, key: Key) -> Iterator[str]:
    if progress.record.latest(Chosen, key) is None:
        yield "nothing chosen"


def _plan(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    route = progress.record.route(key.of_unit)
    if route is None or not route.steps:
        yield "no access route"


def _fit(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    record = progress.record
    done = record.ticks(key) | record.ticks(key.of_unit)
    wanted = steps_to_tick(record, key) + own_extras(record, key.of_unit)
    open_steps = [step for step in wanted if step not in done]
    if open_steps:
        yield f"{len(open_steps)} steps not ticked"
    if needs_clocking(record, key):
        yield from clocking_wants(record, key)
    yield from checks_wanted(record, [key])


def at_fit(record: Record, extra: Extra, unit: UnitKey) -> bool:
    """Whether a step at Fit of a unit stands for extra work on it."""
    sockets = [key for key in record.sockets if key.of_unit == unit]
    return any(step.id == extra.fit for key in sockets for step in fit_steps(record, key))


def own_extras(record: Record, unit: UnitKey) -> list[str]:
    """The ticks of extra work on a unit that no step at Fit stands for."""
    return [f"extra:{extra.id}" for extra in record.extras(unit) if not at_fit(record, extra, unit)]


def checks_wanted(record: Record, sockets: Iterable[SocketKey]) -> Iterator[str]:
    """The checks that were not right when last made."""
    for key in sockets:
        newest = {entry.check: entry for entry in record.all(Checked, key)}
        yield from (
            f"{entry.check} not right{f' ({entry.note})' if entry.note else ''}"
            for entry in newest.values()
            if not entry.right
        )


def clocking_wants(record: Record, key: SocketKey) -> Iterator[str]:
    """What is missing of a socket's clocking."""
    clocked = record.latest(Clocked, key)
    if clocked is None:
        yield "clocking not read"
    elif clocked_as(record, key, clocked).finding.level is Level.STOP:
        yield "clocking too far off"


def _prove(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    record = progress.record
    for stage_pass, words in proof.PASSES.items():
        results = board(record, stage_pass)
        wanted = proof.cells(board_functions(progress, stage_pass))
        if untested := proof.untested(wanted, results):
            yield f"{words.lower()}: {len(untested)} cells untested"
        faults = [cell for cell in wanted if results.get(cell, "works") not in proof.GOOD_RESULTS]
        for cell in faults:
            yield f"{words.lower()}: {cell.words} {proof.RESULTS[results[cell]].lower()}"
    if progress.passed(Stage.PROVE, key) is None:  # what earlier versions proved had none of it
        yield from _put_together(progress, key.of_unit)
    if loose := sum(row.loose for row in tray(record, key.of_unit)):
        yield f"{loose} fasteners or plugs not accounted for"


def _put_together(progress: Progress, unit: UnitKey) -> Iterator[str]:
    """What is missing of how functions work together, of closing, of the count of the tools."""
    record = progress.record
    seen, done = interlocks_seen(record, "closed"), record.ticks(unit)
    if untold := [
        interlock for interlock in interlocks_asked(progress) if interlock.id not in seen
    ]:
        yield f"{len(untold)} interlocks not tried"
    if shut := _not_closed(record, unit):
        yield f"{shut} parts not closed again"
    if "tools:out" in done and "tools:back" not in done:
        yield "tools not counted back"


def _not_closed(record: Record, unit: UnitKey) -> int:
    """How many parts before a lamp were opened and are not closed."""
    done, behind = (
        record.ticks(unit),
        [opening.ids[unit] for opening in record.plan.openings if unit in opening.units],
    )
    return sum(f"route:{number}" in done and f"close:{number}" not in done for number in behind)


def _aim(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    as_left = progress.record.aimed(key, "left", practised=False)
    if as_left is None:
        yield "aim as left not read"
        return
    target = target_of(as_left)
    if target.keep.excess(as_left.slope):
        yield "aim as left is out"
    if as_left.sideways is not None and target.sideways_excess(as_left.sideways):
        yield "aim as left is out sideways"


def _verify(progress: Progress, key: Key) -> Iterator[str]:
    yield from _wall_points(progress.record, key, "after")


def _hand_over(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    for beam in progress.record.front.beams_of(key):
        if beam.function.is_road_beam and dazzle(progress.record, beam):
            yield f"{beam.function.label.lower()} dazzles: a reason is needed"
    if progress.record.latest(HandedOver) is None:
        yield "customer sheet not completed"


_WANTS: dict[Stage, Wants] = {
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


def missing(progress: Progress, stage: Stage, key: Key) -> list[str]:
    """What a stage still needs for one of its things (a stage of the car: for one socket), in
    words.
    """
    return list(_WANTS[stage](progress, key))


def needs_clocking(record: Record, key: SocketKey) -> bool:
    """Whether the socket gets a bulb whose emitters must face 3 and 9 o'clock: a beam made by
    faces.
    """
    chosen = record.latest(Chosen, key)
    return bool(
        chosen and chosen.source and chosen.source.is_bulb and record.socket(key).road_beams
    )


def clocked_as(record: Record, key: SocketKey, clocked: Clocked) -> clocking.Clocking:
    """A clocking judged for the chosen bulb: two equal faces look the same every half turn."""
    chosen = record.latest(Chosen, key)
    source = chosen.source if chosen else None
    alike = 2 if source and source.faces == 2 and not source.dip_shield else 1
    return clocking.preset(clocked.stopped_deg, alike)


def seat_findings(record: Record, key: SocketKey) -> list[Finding]:
    """What is to be said of how a bulb sits: its clocking, what came of the preset, its depth."""
    read = record.all(Clocked, key)
    if not read:
        return []
    judged = [clocked_as(record, key, clocked) for clocked in read]
    again = clocking.second_reading(judged[-2], judged[-1]) if len(judged) > 1 else None
    depth_mm = read[-1].depth_mm
    optic = record.socket(key).optic
    is_projector = optic is not None and optic.is_projector
    deep = (
        seating.seated(depth_mm, record.base(key), is_projector) if depth_mm is not None else None
    )
    return [finding for finding in (judged[-1].finding, again, deep) if finding]


def fit_steps(record: Record, key: SocketKey) -> list[fitting.FitStep]:
    """The fitting steps of one socket."""
    chosen = record.latest(Chosen, key)
    return fitting.steps(
        record.socket(key), record.condition(key.of_unit), chosen.source if chosen else None
    )


def steps_to_tick(record: Record, key: SocketKey) -> list[str]:
    """The ids of every step at Fit, in order: the way in, then the fitting."""
    route = record.route(key.of_unit)
    way_in = [f"route:{step.id}" for step in route.steps] if route else []
    return way_in + [f"fit:{step.id}" for step in fit_steps(record, key)]


@dataclass(frozen=True)
class TrayRow:
    """Fasteners or a plug of one step: out of the car, back in, or noted as lost or broken; *units*
    behind it.
    """

    step: int
    fasteners: Fasteners
    out: bool
    said: FastenerBack
    units: tuple[UnitKey, ...]

    @property
    def back(self) -> int:
        """How many are back in the car."""
        return self.said.back

    @property
    def noted(self) -> int:
        """How many are noted as lost or broken."""
        return self.said.noted

    @property
    def loose(self) -> int:
        """How many lie in the tray, unaccounted for."""
        return self.fasteners.count - self.back - self.noted if self.out else 0


def tray(record: Record, key: UnitKey) -> list[TrayRow]:
    """Every group of fasteners and every plug on the way in to one unit."""
    return [
        row
        for opening in record.plan.openings
        if key in opening.units
        for row in tray_of(record, opening)
    ]


def tray_of(record: Record, opening: Opening) -> list[TrayRow]:
    """What comes loose where a part is opened: out once its step is ticked for a lamp behind it."""
    out = any(f"route:{number}" in record.ticks(key) for key, number in opening.ids.items())
    entries = {
        (entry.kind, entry.place): entry
        for key, number in opening.ids.items()
        for entry in record.all(FastenerBack, key)
        if entry.step == number
    }
    return [
        TrayRow(
            opening.step.id,
            group,
            out,
            entries.get((group.kind, group.place))
            or entries.get((group.kind, ""))
            or FastenerBack(opening.step.id, group.kind, 0, place=group.place),
            opening.units,
        )
        for group in opening.step.held
    ]


def board(record: Record, stage_pass: str) -> dict[proof.Cell, str]:
    """The newest result of every marked cell in one pass, made since what gives it was fitted."""
    results = {}
    for entry in record.entries:
        proved = entry.payload
        if (
            isinstance(proved, Proved)
            and proved.stage_pass == stage_pass
            and entry.id > _fitted_at(record, proved)
        ):
            results[proof.Cell(proved.function, proved.side.value, proved.engine)] = proved.result
    return results


def _fitted_at(record: Record, proved: Proved) -> int:
    """The entry that last finished Fit for what gives a proved function; 0 where none did."""
    function = proof.as_function(proved.function)
    givers = (
        record.front.givers(BeamKey(function, proved.side)) if function and record.fitted_at else ()
    )
    return max((record.fitted_at.get(key, 0) for key in givers), default=0)


def board_functions(progress: Progress, stage_pass: str) -> list[str]:
    """The rows of the board: before closing what is fitted and not closed yet, after refit
    everything the car has.
    """
    there = set(proof.FUNCTIONS) if stage_pass == "closed" else _given_at_prove(progress)
    there -= progress.record.absent_functions()
    return [function for function in proof.FUNCTIONS if function in there]


def _given_at_prove(progress: Progress) -> set[str]:
    """What the sockets that stand at Prove or after give; what all of them give where none does."""
    record = progress.record
    ready = [key for key in record.sockets if _is_fitted(progress, key)]
    return {
        function.value
        for key in ready or record.sockets
        for function in record.front.socket(key).functions
    }


def _is_fitted(progress: Progress, key: SocketKey) -> bool:
    """Whether a socket has come to Prove, or through every stage."""
    stage = progress.current(key)
    return stage is None or stage.number >= Stage.PROVE.number


def interlocks_asked(progress: Progress) -> list[Interlock]:
    """The interlocks to try on this car after refit, as its market's rule has them."""
    booking = progress.record.booking
    return interlocks.wanted(booking.market if booking else "", board_functions(progress, "closed"))


def interlocks_seen(record: Record, stage_pass: str) -> dict[str, bool]:
    """What was seen of the interlocks in one pass."""
    return {
        entry.interlock: entry.right
        for entry in record.all(Interlocked)
        if entry.stage_pass == stage_pass
    }


def condition_verdict(record: Record, key: UnitKey) -> condition.Verdict | None:
    """Go, restore or replace, once inspected."""
    seen = record.condition(key)
    return condition.verdict(seen, condition.findings(seen)) if seen else None
