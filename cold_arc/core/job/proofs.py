"""What was proved of a car and still holds: the board of each pass, the functions on it, how they
work together.

A proof falls only when something it proved was opened, refitted, rewired or replaced since; after
refit also when it was closed since.
"""

from __future__ import annotations

from collections.abc import Iterable

from cold_arc.core.car.keys import SocketKey, UnitKey
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.prove import Interlocked, Proved, RearDone
from cold_arc.core.job.facts import switching_of, wires_of
from cold_arc.core.job.needed import needs
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record, once_a_record
from cold_arc.core.job.stages import Stage
from cold_arc.core.work import interlocks, proof
from cold_arc.core.work.interlocks import Interlock

ARRIVAL, OPEN, CLOSED = "arrival", "open", "closed"
# The need whose proof each pass gives; what was seen as the car came proves nothing, and stays.
NEED_OF = {OPEN: "proved-open", CLOSED: "proved-closed"}


def givers_of(record: Record, function: str, side: str) -> list[SocketKey]:
    """The sockets worked on that give a function of the board on a side."""
    known = proof.as_function(function)
    return [
        key
        for key in record.sockets
        if known is not None and key.side == side and known in record.front.socket(key).functions
    ]


def board(record: Record, stage_pass: str) -> dict[proof.Cell, str]:
    """The newest result of every marked cell in one pass that still holds."""
    return {cell: proved.result for cell, proved in proved_cells(record, stage_pass).items()}


@once_a_record
def proved_cells(record: Record, stage_pass: str) -> dict[proof.Cell, Proved]:
    """What was marked of every cell in one pass and still holds."""
    need = NEED_OF.get(stage_pass)
    undone_by = needs()[need].undone_by if need else ()
    held: dict[proof.Cell, Proved] = {}
    for entry in record.entries:
        proved = entry.payload
        if not isinstance(proved, Proved) or proved.stage_pass != stage_pass:
            continue
        givers = givers_of(record, proved.function, proved.side)
        if entry.id > last_disturbed(record, givers, undone_by):
            held[proof.Cell(proved.function, proved.side.value, proved.engine)] = proved
    return held


def faults_as_it_came(record: Record) -> list[str]:
    """What did not work before anything was touched, in words."""
    return [
        f"{cell.words}: {proof.RESULTS[result].lower()}"
        for cell, result in board(record, ARRIVAL).items()
        if result not in proof.GOOD_RESULTS
    ]


def last_disturbed(record: Record, keys: Iterable[SocketKey], by: Iterable[str]) -> int:
    """The entry that last disturbed any of some sockets in one of these ways; 0 where none did."""
    kinds = tuple(by)
    return max((record.disturbed_at(key, kind) for key in keys for kind in kinds), default=0)


def unproved_open(record: Record, key: SocketKey) -> list[proof.Cell]:
    """The cells of what a socket gives that were not seen to work while it is open; none where it
    was closed so for a recorded reason.
    """
    if closed_for_a_reason(record, key):
        return []
    given = {function.value for function in record.front.socket(key).functions}
    given -= record.absent_functions()
    results = board(record, OPEN)
    return [
        cell
        for cell in proof.cells(name for name in proof.FUNCTIONS if name in given)
        if cell.side == key.side.value and results.get(cell) not in proof.GOOD_RESULTS
    ]


def closed_for_a_reason(record: Record, key: SocketKey) -> bool:
    """Whether a part before a socket was closed with a reason since it was last worked on."""
    since = last_disturbed(record, [key], needs()["proved-open"].undone_by)
    return any(
        isinstance(entry.payload, Ticked)
        and entry.payload.reason
        and key.of_unit in entry.about
        and entry.id > since
        for entry in record.entries
    )


def rear_done(record: Record) -> list[RearDone]:
    """What was done at the rear along the way, as last told of each lamp."""
    return list({done.subject(): done for done in record.all(RearDone)}.values())


def turning(record: Record, cell: proof.Cell) -> str:
    """What to turn where a cell stays dark, by the base of what gives it."""
    givers = givers_of(record, cell.function, cell.side)
    if not givers:
        return proof.turning(None)
    kills = wires_of(record, givers[0]).reversed == "kills"
    return proof.turning(record.base(givers[0]), record.socket(givers[0]).holds, kills)


def is_shut(record: Record, unit: UnitKey) -> bool:
    """Whether a lamp was opened and everything before it is closed again."""
    states = [
        record.part_state(unit, step.id) for step in record.ways.get(unit, ()) if step.comes_back
    ]
    return "closed" in states and "open" not in states


def board_functions(progress: Progress, stage_pass: str) -> list[str]:
    """The rows of the board: before closing what is fitted and not closed yet, as it came and
    after refit everything the car has.
    """
    there = _given_at_prove(progress) if stage_pass == OPEN else set(proof.FUNCTIONS)
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
    record = progress.record
    chosen = (record.latest(Chosen, key) for key in record.sockets)
    modes = {mode for choice in chosen if choice and choice.source for mode in choice.source.modes}
    if any(switching_of(record, key) for key in record.sockets):
        modes.add(interlocks.ADDED)
    market = record.booking.market if record.booking else ""
    return interlocks.wanted(market, board_functions(progress, CLOSED), modes)


def interlocks_seen(record: Record, stage_pass: str) -> dict[str, bool]:
    """What was seen of the interlocks in one pass, and still holds."""
    since = last_disturbed(record, record.sockets, needs()["interlocks"].undone_by)
    return {
        entry.payload.interlock: entry.payload.right
        for entry in record.entries
        if isinstance(entry.payload, Interlocked)
        and entry.payload.stage_pass == stage_pass
        and entry.id > since
    }
