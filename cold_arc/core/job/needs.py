"""What is still missing before an act: the table of needs asked of a record.

Stages, holds, finishing, sheet and the day's view ask here; no one of them has rules of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from cold_arc.core.car.keys import BeamKey, Key, SocketKey, UnitKey
from cold_arc.core.job import at_lamp, proofs
from cold_arc.core.job.entries.aim import Aimed, target_of
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.needed import LEAVE, Need, finish, needs
from cold_arc.core.job.outcome import dazzle
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record, once_a_record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import moved_over, tray
from cold_arc.core.metering import readings
from cold_arc.core.units import say_count
from cold_arc.core.work import proof
from cold_arc.core.work.tick import TOOLS_BACK, TOOLS_OUT, Tick, TickKind


@dataclass(frozen=True)
class Unmet:
    """A need that is not met: of which thing, and what is missing, in words."""

    need: Need
    key: Key
    words: str


Missing = Callable[[Progress, Key], Iterator[str]]


def _identified(progress: Progress, key: Key) -> Iterator[str]:
    if isinstance(key, SocketKey) and not progress.record.is_identified(key):
        yield "optic, base and present source not identified"


def _condition_seen(progress: Progress, key: Key) -> Iterator[str]:
    record = progress.record
    if isinstance(key, UnitKey) and record.was_there(key) and record.condition(key) is None:
        yield "condition not recorded"


def _read_before(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    if not progress.record.gave_before(key):
        return
    taken = progress.record.readings(key, Phase.BEFORE)
    yield from _unread(taken, readings.needed(key.function), Phase.BEFORE)


def _read_after(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    record = progress.record
    needed = readings.needed(key.function)
    named = [point for point in record.readings(key, Phase.BEFORE) if point in readings.POINTS]
    taken = record.readings(key, Phase.AFTER, since=_disturbed(record, key, "read-after"))
    yield from _unread(taken, named or needed, Phase.AFTER)  # a skipped Baseline proves nothing


def _unread(taken: Iterable[str], wanted: Iterable[str], phase: Phase) -> Iterator[str]:
    there = set(taken)
    if absent := [point for point in wanted if point not in there]:
        yield f"no reading {phase}: {', '.join(absent)}"


def _disturbed(record: Record, beam: BeamKey, need: str) -> int:
    """The entry that last undid what a need asks of a beam; 0 where none did."""
    return proofs.last_disturbed(record, record.givers(beam), needs()[need].undone_by)


def _chosen(progress: Progress, key: Key) -> Iterator[str]:
    if progress.record.latest(Chosen, key) is None:
        yield "nothing chosen"


def _way_in(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    route = progress.record.route(key.of_unit)
    if route is None or not route.steps:
        yield "no access route"


def _steps_done(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    record, unit = progress.record, key.of_unit
    opened = {
        Tick.of(TickKind.ROUTE, step.id)
        for step in record.ways.get(unit, ())
        if record.part_state(unit, step.id)
    }
    done = record.ticks(key) | {
        tick for tick in record.ticks(unit) if tick.kind is not TickKind.ROUTE
    }
    wanted = at_lamp.steps_to_tick(record, key) + at_lamp.own_extras(record, unit)
    if open_steps := [step for step in wanted if step not in done | opened]:
        yield f"{say_count(len(open_steps), 'step')} not ticked"


def _clocking_read(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    if at_lamp.needs_clocking(progress.record, key):
        yield from at_lamp.clocking_wants(progress.record, key)


def _checks_right(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    yield from at_lamp.checks_wrong(progress.record, [key, key.of_unit])


def _proved_open(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, SocketKey)
    bad = proofs.unproved_open(progress.record, key)
    yield from _not_proved(bad, proofs.board(progress.record, proofs.OPEN), "before closing")


def _proved_closed(progress: Progress, key: Key) -> Iterator[str]:
    record = progress.record
    results = proofs.board(record, proofs.CLOSED)
    cells = proof.cells(proofs.board_functions(progress, proofs.CLOSED))
    bad = [cell for cell in cells if results.get(cell) not in proof.GOOD_RESULTS]
    yield from _not_proved(bad, results, "after refit")


def _not_proved(bad: list[proof.Cell], results: dict[proof.Cell, str], when: str) -> Iterator[str]:
    untested = [cell for cell in bad if cell not in results]
    if untested:
        more = f", and {len(untested) - 1} more" if len(untested) > 1 else ""
        yield f"not proved {when}: {untested[0].words}{more}"
    for cell in bad:
        if cell in results:
            yield f"{when}: {cell.words} {proof.RESULTS[results[cell]].lower()}"


def _closed(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, UnitKey)
    record = progress.record
    standing = [
        step
        for step in record.ways.get(key, ())
        if step.comes_back and record.part_state(key, step.id) == "open"
    ]
    if standing:
        yield f"{say_count(len(standing), 'part')} not closed again"


def _interlocks(progress: Progress, _: Key) -> Iterator[str]:
    seen = proofs.interlocks_seen(progress.record, proofs.CLOSED)
    if untold := [
        interlock for interlock in proofs.interlocks_asked(progress) if interlock.id not in seen
    ]:
        yield f"{say_count(len(untold), 'interlock')} not tried"


def _counted(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, UnitKey)
    if loose := sum(row.loose for row in tray(progress.record, key)):
        yield f"{say_count(loose, 'fastener or plug', 'fasteners or plugs')} not accounted for"
    if left := [moved.what for moved in moved_over(progress.record, key) if not moved.done]:
        yield f"not moved over: {', '.join(left)}"


def _tools_back(progress: Progress, _: Key) -> Iterator[str]:
    done = {tick for unit in progress.record.units for tick in progress.record.ticks(unit)}
    if TOOLS_OUT in done and TOOLS_BACK not in done:
        yield "tools not counted back"


def _aimed(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    record = progress.record
    as_left = aimed_since(record, key)
    if as_left is None:
        before = record.aimed(key, AimPhase.LEFT, practised=False)
        yield "aim as left not read" + (" since its lamp was worked on" if before else "")
        return
    target = target_of(as_left)
    if target.keep.excess(as_left.slope):
        yield "aim as left is out"
    if as_left.sideways is not None and target.sideways_excess(as_left.sideways):
        yield "aim as left is out sideways"


def unaimed(progress: Progress, beam: BeamKey) -> bool:
    """Whether a beam's aim as left is not read yet, or is out."""
    return any(_aimed(progress, beam))


def aimed_since(record: Record, beam: BeamKey) -> Aimed | None:
    """The newest aim of a beam as left that no practice made and nothing at its lamp undid."""
    return record.aimed(
        beam, AimPhase.LEFT, practised=False, since=_disturbed(record, beam, "aimed")
    )


def _no_dazzle(progress: Progress, key: Key) -> Iterator[str]:
    assert isinstance(key, BeamKey)
    if dazzle(progress.record, key):
        yield f"{key.function.label.lower()} dazzles: a reason is needed"


def _sheet(progress: Progress, _: Key) -> Iterator[str]:
    if progress.record.latest(HandedOver) is None:
        yield "customer sheet not completed"


def _nothing(_: Progress, __: Key) -> Iterator[str]:
    """What holds the touch of a lamp is asked step by step, by the work at the car."""
    return iter(())


_MISSING: dict[str, Missing] = {
    "identified": _identified,
    "condition-seen": _condition_seen,
    "read-before": _read_before,
    "chosen": _chosen,
    "way-in": _way_in,
    "made-safe": _nothing,
    "steps-done": _steps_done,
    "clocking-read": _clocking_read,
    "checks-right": _checks_right,
    "proved-open": _proved_open,
    "closed": _closed,
    "proved-closed": _proved_closed,
    "interlocks": _interlocks,
    "counted": _counted,
    "tools-back": _tools_back,
    "aimed": _aimed,
    "read-after": _read_after,
    "no-dazzle": _no_dazzle,
    "sheet": _sheet,
}


def unmet(progress: Progress, act: str, key: Key) -> Iterator[Unmet]:
    """Every need an act about a thing waits for that is not met, in the table's order."""
    for need in needs().values():
        if act in need.holds:
            for about in _asked_of(progress, need, key):
                for words in _MISSING[need.id](progress, about):
                    yield Unmet(need, about, words)


def _asked_of(progress: Progress, need: Need, key: Key) -> list[Key]:
    """What a need is asked of where an act is about *key*."""
    if need.of == "unit" and isinstance(key, SocketKey):
        return [key.of_unit]
    if need.of == "beam" and isinstance(key, SocketKey):
        return [beam for beam in progress.record.front.beams_of(key) if beam.function.is_road_beam]
    return [key]


# What is asked at Prove of what earlier versions finished without it.
_LATER = {"closed", "interlocks", "tools-back"}


def missing(progress: Progress, stage: Stage, key: Key) -> list[str]:
    """What a stage still needs for one of its things (a stage of the car: for one socket), in
    words.
    """
    return list(_missing_words(progress.record, (stage, key)))


@once_a_record
def _missing_words(record: Record, asked: tuple[Stage, Key]) -> tuple[str, ...]:
    stage, key = asked
    progress = record.once(Progress)
    finished = progress.passed(stage, key) is not None
    return tuple(
        lacking.words
        for lacking in unmet(progress, finish(stage), key)
        if not (finished and lacking.need.id in _LATER)
    )


def is_over(progress: Progress, need_id: str, stage: Stage) -> bool:
    """Whether a need is met of everything a stage has, or the stage was finished so for a
    reason.
    """
    things = progress.things(stage)
    return bool(things) and all(
        ((passed := progress.passed(stage, key)) is not None and bool(passed.reason))
        or not any(_MISSING[need_id](progress, key))
        for key in things
    )


def holds_leaving(progress: Progress) -> list[Unmet]:
    """What is not so as the car leaves, each once."""
    every = (lacking for key in progress.record.sockets for lacking in unmet(progress, LEAVE, key))
    return list(dict.fromkeys(every))
