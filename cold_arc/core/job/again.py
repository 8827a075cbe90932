"""A car that comes back: what its last job told of it is not asked again.

For more work it brings its front, what is in each socket, the ways in. For a re-check, a short job
of its own, also how it left: its readings stand as those before, its aim as left is what the new
one is held against, and what takes lamps apart is left out.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import count

from cold_arc.core.car.keys import BeamKey, Key, SocketKey
from cold_arc.core.car.lamps import Holds, Optic, Present
from cold_arc.core.job.at_lamp import ballasts_open, wires_open
from cold_arc.core.job.entries.aim import AdjustersTold, Aimed, WallLaid
from cold_arc.core.job.entries.book_in import (
    Booking,
    FrontSet,
    Identified,
    OldBulbMeasured,
    WorkChosen,
)
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import AimPhase, Payload, Phase
from cold_arc.core.job.entries.later import RECHECK, VISITS, FittedBefore, LeftSo, Returned
from cold_arc.core.job.entries.match import BallastTested, Chosen, Supplied
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.facts import fitted_before
from cold_arc.core.job.in_socket import in_socket
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import About, Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import say_lux

LONGEST_REFERENCE = 60
# What a re-check does not do: nothing is taken apart, and how it left stands as before.
NOT_DONE = (Stage.BASELINE, Stage.MATCH, Stage.PLAN, Stage.FIT, Stage.PROVE)
WHY_NOT = "Re-check: nothing is taken apart"
STAYS = "Re-check: what was fitted stays"
# What is told of a lamp that holds on from one visit to the next.
_LASTING = (OldBulbMeasured, AdjustersTold, Routed)
# What hangs where a whole lamp or a module was put in.
_HOLDS = {"assembly": Holds.LAMP, "module": Holds.MODULE}


@dataclass(frozen=True)
class LeftJob:
    """A job a car left by: its *booking* and *record*, and the day it left."""

    booking: Booking
    record: Record
    left_on: dt.date


Carried = tuple[Payload, frozenset[Key]]


def booked_again(left: LeftJob, visit: str, taken: Collection[str]) -> Booking:
    """The booking of a car that comes back, under a reference none of those *taken*; what was
    wished and complained of was another visit's.
    """
    known, word = left.booking, f", {VISITS[visit].lower()}"
    first = known.reference.partition(word)[0]
    endings = (f"{word} {number}" if number > 1 else word for number in count(1))
    names = (first[: LONGEST_REFERENCE - len(ending)] + ending for ending in endings)
    reference = next(name for name in names if name not in taken)
    return replace(known, reference=reference, wishes=(), complaint="", due=None)


def carried(left: LeftJob, visit: str) -> Iterator[Carried]:
    """What the new job's record starts with, after its booking."""
    record = left.record
    front = record.latest(FrontSet)
    if front is not None:
        yield front, frozenset()
    yield WorkChosen(), frozenset(record.sockets)
    yield Returned(visit, left.booking.reference, left.left_on), frozenset()
    for key in record.sockets:
        yield from _of_socket(left, key)
    yield from _open_ballasts(record)
    yield from _open_wires(record)
    for kind in _LASTING:
        yield from _newest(record, kind)
    for beam in record.road_beams:
        yield from _before_the_wall(record, beam)
    if visit == RECHECK:
        yield from _as_it_left(record)
        yield from _left_out(record)


def _of_socket(left: LeftJob, key: SocketKey) -> Iterator[Carried]:
    """What is in a socket, and by which job."""
    record, here = left.record, frozenset([key])
    now, known = in_socket(record, key), record.latest(Identified, key)
    if now.source is not None:
        yield _holding(now.source, known), here
        yield _fitted(left, key, now.source), here
        return
    if known is not None:
        yield known, here
    if before := fitted_before(record, key):
        yield before, here


def _open_ballasts(record: Record) -> Iterator[Carried]:
    """The tests of ballasts that stay though nothing speaks for them, about every lamp they were
    made of.
    """
    still_open = [record.latest(BallastTested, key) for key, _ in ballasts_open(record)]
    for key in record.sockets:
        tested = record.latest(BallastTested, key)
        if tested and tested in still_open:
            yield tested, frozenset([key])


def _open_wires(record: Record) -> Iterator[Carried]:
    """What was told of a feed that is against a stop still."""
    for key in dict.fromkeys(key for key, _ in wires_open(record)):
        if supplied := record.latest(Supplied, key):
            yield supplied, frozenset([key])


def _fitted(left: LeftJob, key: SocketKey, source: LightSource) -> FittedBefore:
    """What this job put in, with what the law's word on it goes by."""
    chosen, end = left.record.latest(Chosen, key), left.record.latest(HandedOver)
    return FittedBefore(
        source,
        left.booking.reference,
        left.left_on,
        bool(chosen and chosen.off_road),
        end.marks if end else "",
        end.warranty_end if end else None,
    )


def _holding(source: LightSource, known: Identified | None) -> Identified:
    """A socket as it is once a source is in: a bulb's base stays, a whole lamp has none."""
    if source.kind in _HOLDS:
        whole = Optic(source.optic) if source.optic else Optic.SEALED
        return Identified(whole, "", Present.LED, _HOLDS[source.kind])
    base = known.base if known and known.base else source.base
    own = known.optic if known else Optic.PLAIN
    return Identified(Optic.PROJECTOR if source.kind == "projector" else own, base, Present.LED)


def _newest(record: Record, kind: type[Payload]) -> Iterator[Carried]:
    """The newest payload of a kind about each thing it was told of."""
    newest: dict[Key, Payload] = {}
    for entry in record.entries:
        if isinstance(entry.payload, kind):
            newest |= dict.fromkeys(entry.about, entry.payload)
    yield from ((payload, frozenset([key])) for key, payload in newest.items())


def _before_the_wall(record: Record, beam: BeamKey) -> Iterator[Carried]:
    """How a lamp was told to stand before the wall, by which rule: at Aim last."""
    laid = [
        entry.payload
        for entry in record.entries
        if isinstance(entry.payload, Aimed | WallLaid) and beam in entry.about
    ][-1:]
    for newest in laid:
        stands = newest.of(beam.side) if isinstance(newest, WallLaid) else newest
        yield (
            WallLaid(
                stands.rule,
                stands.height_m,
                stands.distance_m,
                stands.spacing_m,
                mark=stands.mark,
                own=stands.own,
            ),
            frozenset([beam]),
        )


def _as_it_left(record: Record) -> Iterator[Carried]:
    """Each beam's readings and aim as it left."""
    for beam in record.road_beams:
        here = frozenset([beam])
        for reading in record.readings(beam, Phase.AFTER).values():
            if not reading.is_simulated:
                as_left = replace(reading, lens="found")
                yield Read(Phase.BEFORE, say_lux(reading.lux), as_left), here
        if (aim := record.aimed(beam, AimPhase.LEFT, practised=False)) is not None:
            yield LeftSo(aim.slope, aim.sideways), here


def _left_out(record: Record) -> Iterator[Carried]:
    """What a re-check leaves out, for every thing of those stages."""
    yield Chosen(None, STAYS), frozenset(record.sockets)
    yield Passed(Stage.BOOK_IN.value), frozenset(record.sockets)
    things: dict[About, Iterable[Key]] = {About.BEAM: record.road_beams}
    for stage in NOT_DONE:
        about = frozenset(things.get(stage.about, record.sockets))
        if about:
            yield Passed(stage.value, WHY_NOT), about
