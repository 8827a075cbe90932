"""The record of a job: what was entered, when, about what. Everything else follows from it.

A job is its entries. Nothing is overwritten: a later entry of a kind takes the place of an earlier
one, and undoing an entry takes it out of account, so every entry is dated, kept and can be undone.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from cold_arc.core.car.bases import Base, find, measured
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import BeamKey, Front, Key, Socket, SocketKey, UnitKey
from cold_arc.core.car.lamps import Function
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import (
    Booking,
    FrontSet,
    Identified,
    OldBulbMeasured,
    WorkChosen,
)
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.entries.plan import ExtraWork, Routed
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading, joined
from cold_arc.core.work.access import RouteStep
from cold_arc.core.work.composing import CarPlan, compose
from cold_arc.core.work.extras import Extra, extras


@dataclass(frozen=True)
class Unreadable:
    """An entry this version can't read: of an unknown kind, damaged, or implausible. Kept, and of
    no account.
    """

    kind: str
    why: str

    def in_words(self) -> str:
        """What the record says of it."""
        return f"Unreadable entry ({self.kind}): kept, and of no account"


@dataclass(frozen=True)
class Entry:
    """One dated entry of a job's record; *about*: the units, sockets or beams it speaks of (none:
    the whole car).
    """

    id: int
    at: dt.datetime
    about: frozenset[Key]
    payload: Payload | Unreadable
    undone_at: dt.datetime | None = None

    @property
    def kind(self) -> str:
        """The payload's kind by its id."""
        payload = self.payload
        return payload.kind if isinstance(payload, Unreadable) else payload.ENTRY.id


P = TypeVar("P")


class Record:
    """All live entries of one job, oldest first, and questions to them."""

    def __init__(self, entries: Iterable[Entry]) -> None:
        self.entries = [entry for entry in entries if entry.undone_at is None]

    def all(self, kind: type[P], key: Key | None = None) -> list[P]:
        """Every payload of *kind* that speaks of *key* (or, without one, every one), oldest
        first.
        """
        return [
            entry.payload
            for entry in self.entries
            if isinstance(entry.payload, kind) and (key is None or key in entry.about)
        ]

    def latest(self, kind: type[P], key: Key | None = None) -> P | None:
        """The newest payload of *kind*, if any."""
        entries = self.all(kind, key)
        return entries[-1] if entries else None

    @property
    def booking(self) -> Booking | None:
        """The car and terms as last entered."""
        return self.latest(Booking)

    @cached_property
    def front(self) -> Front:
        """The car's front as last set; an empty one where none was."""
        front_set = self.latest(FrontSet)
        return front_set.front if front_set else Front()

    @cached_property
    def sockets(self) -> list[SocketKey]:
        """The sockets to work on, in the order of the front."""
        chosen = [entry.about for entry in self.entries if isinstance(entry.payload, WorkChosen)]
        return [key for key in self.front.sockets() if chosen and key in chosen[-1]]

    @cached_property
    def units(self) -> list[UnitKey]:
        """The units with a socket to work on."""
        return list(dict.fromkeys(key.of_unit for key in self.sockets))

    @cached_property
    def beams(self) -> list[BeamKey]:
        """What the sockets to work on give, in the order of the functions."""
        given = {beam for key in self.sockets for beam in self.front.beams_of(key)}
        order = list(Function)
        return sorted(given, key=lambda beam: (order.index(beam.function), beam.side))

    @property
    def road_beams(self) -> list[BeamKey]:
        """Those of them that are read and aimed on the wall."""
        return [beam for beam in self.beams if beam.function.is_road_beam]

    def givers(self, beam: BeamKey) -> list[SocketKey]:
        """The sockets to work on that give a beam."""
        return [key for key in self.front.givers(beam) if key in self.sockets]

    def socket(self, key: SocketKey) -> Socket:
        """What is known of one socket: as identified, or as its ready-made front has it."""
        plan, known = self.front.socket(key), self.latest(Identified, key)
        if known:
            return Socket(key, plan.functions, known.optic, known.base, known.present)
        return Socket(key, plan.functions, plan.optic, None, plan.present)

    def base(self, key: SocketKey) -> Base | None:
        """The base of one socket, with what was measured off its old bulb in place of what is not
        known.
        """
        known, taken = self.latest(Identified, key), self.latest(OldBulbMeasured, key)
        base = find(known.base) if known else None
        return measured(base, taken.bulb) if base and taken else base

    def condition(self, key: UnitKey) -> UnitCondition | None:
        """What was seen on one unit."""
        inspected = self.latest(Inspected, key)
        return inspected.seen if inspected else None

    def readings(self, key: BeamKey, phase: str, lens: str | None = None) -> dict[str, WallReading]:
        """The newest reading at each point, before or after, repeated ones joined; *lens*: through
        it in that state.
        """
        taken: dict[str, list[WallReading]] = {}
        for read in self.all(Read, key):
            if read.phase == phase and lens in (None, read.reading.lens):
                held = taken.setdefault(read.reading.point, [])
                if not read.repeat:
                    held.clear()
                held.append(read.reading)
        return {point: joined(held) for point, held in taken.items()}

    def route(self, key: UnitKey) -> Routed | None:
        """The way in to one unit."""
        return self.latest(Routed, key)

    @cached_property
    def ways(self) -> dict[UnitKey, tuple[RouteStep, ...]]:
        """The ways in that are told, by unit."""
        routes = {key: self.route(key) for key in self.units}
        return {key: route.steps for key, route in routes.items() if route}

    @cached_property
    def plan(self) -> CarPlan:
        """The ways in to all units as one plan."""
        return compose(self.ways)

    def extras(self, key: UnitKey) -> list[Extra]:
        """The extra work on one unit."""
        chosen = self.latest(ExtraWork, key)
        return [
            extra for name in (chosen.extras if chosen else ()) if (extra := extras().get(name))
        ]

    def extras_asked(self, when: str, units: Iterable[UnitKey]) -> dict[Extra, list[UnitKey]]:
        """The extra work of a time ("before" or "open") on some units, each sort with those it was
        asked for.
        """
        asked: dict[Extra, list[UnitKey]] = {}
        for key in units:
            for extra in self.extras(key):
                if extra.when == when:
                    asked.setdefault(extra, []).append(key)
        return asked

    @cached_property
    def fitted_at(self) -> dict[Key, int]:
        """The entry that last finished Fit for each socket: what was proved of it before counts no
        more.
        """
        fits = [
            entry
            for entry in self.entries
            if isinstance(entry.payload, Passed) and entry.payload.stage == Stage.FIT
        ]
        return {key: entry.id for entry in fits for key in entry.about}

    def ticks(self, key: UnitKey | SocketKey) -> set[str]:
        """The steps ticked for one unit or socket."""
        return {tick.step for tick in self.all(Ticked, key)}

    def aimed(self, key: BeamKey, phase: str, practised: bool = True) -> Aimed | None:
        """The newest aim reading, as found or as left; *practised*: a simulated camera's counts
        too.
        """
        aims = [
            aim
            for aim in self.all(Aimed, key)
            if aim.phase == phase and (practised or not aim.simulated)
        ]
        return aims[-1] if aims else None

    def absent_functions(self) -> set[str]:
        """Functions this car does not have."""
        known = {entry.function: entry.absent for entry in self.all(NotOnCar)}
        return {function for function, absent in known.items() if absent}
