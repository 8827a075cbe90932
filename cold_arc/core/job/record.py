"""The record of a job: what was entered, when, about what. Everything else follows from it.

A job is its entries. Nothing is overwritten: a later entry of a kind takes the place of an earlier
one, and undoing an entry takes it out of account, so every entry is dated, kept and can be undone.
"""

from __future__ import annotations

import datetime as dt
import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property, wraps
from typing import Any, TypeVar, cast

from cold_arc.core.car.bases import Base, find, measured
from cold_arc.core.car.condition import UnitCondition, as_new
from cold_arc.core.car.front import Front, HungFront, Socket
from cold_arc.core.car.keys import BeamKey, Key, SocketKey, UnitKey
from cold_arc.core.car.lamps import Function, Holds, Present
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import (
    Booking,
    FrontSet,
    Identified,
    OldBulbMeasured,
    WorkChosen,
)
from cold_arc.core.job.entries.fit import Clocked, Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Payload, Phase
from cold_arc.core.job.entries.later import RECHECK, Returned
from cold_arc.core.job.entries.match import HOUSING, SEAL, Chosen, Renewed
from cold_arc.core.job.entries.plan import ExtraWork, Routed
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.metering.readings import AS_FOUND, RESTORED, WallReading, joined
from cold_arc.core.work.access import CARRIES_BEAM, ONE_WAY, RouteStep, said_for, still_off
from cold_arc.core.work.composing import CarPlan, compose
from cold_arc.core.work.extras import Extra, extras
from cold_arc.core.work.fitting import disturbance, seat_of
from cold_arc.core.work.tick import Tick, TickKind

# The tick of a lens that was restored.
LENS_RESTORED = Tick.of(TickKind.FIT, "restore")


def _through_lens(reading: WallReading, restored: bool) -> WallReading:
    """A reading through the lens as it was by then, whatever its form still had."""
    return replace(reading, lens=RESTORED) if restored and reading.lens == AS_FOUND else reading


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


def _disturbing(payload: Payload, before: Payload | None) -> str:
    """What an entry did to its socket, given the one of its kind before it."""
    if isinstance(payload, Ticked):
        return disturbance(payload.step)
    if isinstance(payload, Chosen) and isinstance(before, Chosen):
        return "replaced" if payload.source != before.source else ""
    if isinstance(payload, Renewed):
        return "replaced" if payload.what == HOUSING else ""
    return "refitted" if isinstance(payload, Clocked) and before else ""


P = TypeVar("P")
K = TypeVar("K", bound=Hashable)
R = TypeVar("R")


class Record:
    """All live entries of one job, oldest first, and questions to them."""

    def __init__(self, entries: Iterable[Entry]) -> None:
        self.entries = [entry for entry in entries if entry.undone_at is None]
        self.kept: dict[Hashable, Any] = {}

    def once(self, work: Callable[[Record], R]) -> R:
        """What is worked out of the record, once: `record.once(Progress)`; a record does not
        change.
        """
        if work not in self.kept:
            self.kept[work] = work(self)
        return cast(R, self.kept[work])

    def all(self, kind: type[P], key: Key | None = None) -> list[P]:
        """Every payload of *kind* that speaks of *key* (or, without one, every one), oldest
        first.
        """
        return [
            cast(P, entry.payload)
            for entry in self._by_kind.get(kind, ())
            if key is None or key in entry.about
        ]

    @cached_property
    def _by_kind(self) -> dict[type, list[Entry]]:
        by_kind: dict[type, list[Entry]] = defaultdict(list)
        for entry in self.entries:
            by_kind[type(entry.payload)].append(entry)
        return by_kind

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
        """The car's front as last set, with what holds no bulb called by its name; an empty one
        where none was.
        """
        front_set = self.latest(FrontSet)
        front = front_set.front if front_set else Front()
        hangs = tuple(
            (str(key), known.holds)
            for key in front.sockets()
            if (known := self.latest(Identified, key)) and known.holds is not Holds.BULB
        )
        return HungFront(front.units, hangs) if hangs else front

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
            return Socket(
                key,
                plan.functions,
                known.optic,
                known.base or None,
                known.present,
                known.holds,
                known.plug,
                known.wires,
                known.fasteners,
                known.outline,
            )
        return Socket(key, plan.functions, plan.optic, None, plan.present)

    def gave_before(self, beam: BeamKey) -> bool:
        """Whether anything hung there that could give a beam before the work."""
        return any(self.socket(key).holds is not Holds.NOTHING for key in self.givers(beam))

    def was_there(self, unit: UnitKey) -> bool:
        """Whether a lamp worked on hung on the car before the work, as far as was told."""
        mine = [key for key in self.sockets if key.of_unit == unit]
        return any(self.socket(key).holds is not Holds.NOTHING for key in mine)

    def is_identified(self, key: SocketKey) -> bool:
        """Whether what a socket is was told."""
        return self.latest(Identified, key) is not None

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

    def readings(
        self, key: BeamKey, phase: Phase, lens: str | None = None, since: int = 0
    ) -> dict[str, WallReading]:
        """The newest reading at each point, before or after, repeated ones joined; *lens*: through
        it in that state; *since*: after that entry.
        """
        taken: dict[str, list[WallReading]] = {}
        restored_at = self._lens_restored_at(key)
        for entry in self.entries:
            read = entry.payload
            if not isinstance(read, Read) or key not in entry.about or entry.id <= since:
                continue
            reading = _through_lens(read.reading, entry.id > restored_at)
            if read.phase == phase and lens in (None, reading.lens):
                held = taken.setdefault(reading.point, [])
                if not read.repeat:
                    held.clear()
                held.append(reading)
        return {point: joined(held) for point, held in taken.items()}

    def _lens_restored_at(self, key: BeamKey) -> float:
        """The number of the entry that ticked a beam's lens restored; infinite for none."""
        restored_at = (self.lens_restored_at(socket.of_unit) for socket in self.givers(key))
        return min(filter(None, restored_at), default=math.inf)

    def lens_restored_at(self, unit: UnitKey) -> int:
        """The number of the entry that ticked a unit's lens restored; 0 where none stands."""
        keys: list[Key] = [unit, *(each for each in self.sockets if each.of_unit == unit)]
        return max(self.tick_ids[key].get(LENS_RESTORED, 0) for key in keys)

    def route(self, key: UnitKey) -> Routed | None:
        """The way in to one unit."""
        return self.latest(Routed, key)

    @cached_property
    def ways(self) -> dict[UnitKey, tuple[RouteStep, ...]]:
        """The ways in that are told, by unit, in the words for how its bulbs are held; of a lamp
        that leaves the car whole, without what would be done inside it; of one that holds no bulb,
        without what takes an old one out.
        """
        routes = {key: self.route(key) for key in self.units}
        return {key: tuple(self._way(key, route)) for key, route in routes.items() if route}

    def _way(self, key: UnitKey, route: Routed) -> Iterator[RouteStep]:
        mine = [socket for socket in self.sockets if socket.of_unit == key]
        seats = {self.front.words(socket).lower(): seat_of(self.base(socket)) for socket in mine}
        off = any(map(self.is_gas_discharge, mine))
        for step in route.steps:
            if self._is_done(step, key, mine):
                worded = said_for(step, seats)
                yield still_off(worded) if off else worded

    def _is_done(self, step: RouteStep, key: UnitKey, mine: Iterable[SocketKey]) -> bool:
        """Whether a step of a way in is done at all: nothing inside a lamp that leaves, no bulb
        taken out of one that holds none.
        """
        if not step.inside:
            return True
        if step.kind == ONE_WAY and not any(self.socket(socket).holds_bulb for socket in mine):
            return False
        return not self.leaves(key)

    def is_gas_discharge(self, key: SocketKey) -> bool:
        """Whether a socket holds a gas discharge bulb, or was made for one."""
        base = self.base(key)
        return self.socket(key).present is Present.HID or (base is not None and base.kind == "hid")

    def leaves(self, key: UnitKey) -> bool:
        """Whether a unit leaves the car whole: an assembly was chosen to take its place, or a new
        housing like for like.
        """
        mine = [socket for socket in self.sockets if socket.of_unit == key]
        return any(map(self.is_taken_over, mine)) or self.has_new_housing(key)

    def renewed(self, key: SocketKey) -> dict[str, Renewed]:
        """What of a socket, or of its lamp, is put in new like for like, by what."""
        newest = self._renewals[key]
        return {what: renewed for what, renewed in newest.items() if not renewed.off}

    @cached_property
    def _renewals(self) -> defaultdict[Key, dict[str, Renewed]]:
        """What was last said of every part that may be new, by socket and part."""
        newest: defaultdict[Key, dict[str, Renewed]] = defaultdict(dict)
        for entry in self.entries:
            if isinstance(entry.payload, Renewed):
                for key in entry.about:
                    newest[key][entry.payload.what] = entry.payload
        return newest

    def has_new_housing(self, key: UnitKey) -> bool:
        """Whether a unit gets a new housing like for like, and no other lamp in its place."""
        mine = [socket for socket in self.sockets if socket.of_unit == key]
        new = any(HOUSING in self.renewed(socket) for socket in mine)
        return new and not any(map(self.is_taken_over, mine))

    def is_opened(self, key: UnitKey) -> bool:
        """Whether a unit that stays is opened and sealed anew: it was said so, or a projector goes
        in.
        """
        mine = [socket for socket in self.sockets if socket.of_unit == key]
        return not self.leaves(key) and any(map(self._opens, mine))

    def _opens(self, key: SocketKey) -> bool:
        choice = self.latest(Chosen, key)
        kit = bool(choice and choice.source and choice.source.kind == "projector")
        hangs = self.socket(key).holds is not Holds.NOTHING
        return hangs and (kit or SEAL in self.renewed(key))

    def condition_worked_on(self, key: UnitKey) -> UnitCondition | None:
        """What one unit is like to work on: as it was seen, or as its new housing is."""
        seen = self.condition(key)
        return as_new(seen) if seen and self.has_new_housing(key) else seen

    def is_taken_over(self, key: SocketKey) -> bool:
        """Whether an assembly was chosen for a socket, so that its lamp leaves whole."""
        choice = self.latest(Chosen, key)
        return bool(choice and choice.source and choice.source.kind == "assembly")

    @cached_property
    def plan(self) -> CarPlan:
        """The ways in to all units as one plan."""
        return compose(self.ways)

    def extras(self, key: UnitKey) -> list[Extra]:
        """The extra work on one unit; what only a lamp that stays can need is left out where it
        leaves.
        """
        chosen = self.latest(ExtraWork, key)
        asked = (self.extra_on(name, key) for name in (chosen.extras if chosen else ()))
        return [extra for extra in asked if extra]

    def extra_on(self, name: str, key: UnitKey) -> Extra | None:
        """A sort of extra work as it is done on a unit; None where it is none for it, or unknown:
        its lamp must stay, its lens be one that can be restored.
        """
        extra = extras().get(name)
        if extra is None or (extra.stays and self.leaves(key)):
            return None
        return extra.on(self.condition_worked_on(key))

    @cached_property
    def tick_ids(self) -> defaultdict[Key, dict[Tick, int]]:
        """The entry that last ticked each step, by unit or socket."""
        ids: defaultdict[Key, dict[Tick, int]] = defaultdict(dict)
        for entry in self.entries:
            if isinstance(entry.payload, Ticked):
                for key in entry.about:
                    ids[key][entry.payload.step] = entry.id
        return ids

    def ticks(self, key: UnitKey | SocketKey) -> set[Tick]:
        """The steps ticked for one unit or socket; of a socket, since its source was chosen."""
        since = self.replaced_at(key) if isinstance(key, SocketKey) else 0
        return {step for step, at in self.tick_ids[key].items() if at > since}

    def part_state(self, unit: UnitKey, number: int) -> str:
        """How a step on the way in to a unit stands: "open", "closed", "" for not opened; what was
        closed before the unit's source was replaced is not opened for the new one.
        """
        ids = self.tick_ids[unit]
        opened, closed = (
            ids.get(Tick.of(kind, number), 0) for kind in (TickKind.ROUTE, TickKind.CLOSE)
        )
        if opened > closed:
            return "open"
        return "closed" if closed > self.replaced_at(unit) else ""

    def replaced_at(self, key: Key) -> int:
        """The entry that last chose another source than before for a socket, for any of a unit, or
        for any that gives a beam; 0 where none did.
        """
        if isinstance(key, SocketKey):
            return self.disturbed_at(key, "replaced")
        behind = self.givers(key) if isinstance(key, BeamKey) else self.sockets
        mine = [each for each in behind if isinstance(key, BeamKey) or each.of_unit == key]
        return max((self.disturbed_at(each, "replaced") for each in mine), default=0)

    def disturbed_at(self, key: SocketKey, kind: str) -> int:
        """The entry that last did something to a socket that may undo what was true of it: opened,
        closed, refitted, rewired, replaced; 0 where none did.
        """
        return self._disturbed.get((key, kind), 0)

    @cached_property
    def _disturbed(self) -> dict[tuple[SocketKey, str], int]:
        return {
            (key, kind): number
            for key in self.sockets
            for number, kind in self._disturbances(key)
            if kind
        }

    def _disturbances(self, key: SocketKey) -> Iterator[tuple[int, str]]:
        """What was done to a socket, or its unit, entry by entry; "" for what disturbs nothing. A
        first reading of where its bulb locked does not; one after it does, since it was refitted.
        """
        carrying = {
            step.id for step in self.ways.get(key.of_unit, ()) if step.cover in CARRIES_BEAM
        }
        newest: dict[type, Payload] = {}
        for entry in self.entries:
            payload = entry.payload
            if not isinstance(payload, Ticked | Clocked | Chosen | Renewed):
                continue
            if entry.about.isdisjoint((key, key.of_unit)):
                continue
            yield entry.id, _disturbing(payload, newest.get(type(payload)))
            newest[type(payload)] = payload
            if isinstance(payload, Ticked) and payload.step.part in carrying:
                yield entry.id, "shifted"

    def aimed(
        self, key: BeamKey, phase: AimPhase, practised: bool = True, since: int = 0
    ) -> Aimed | None:
        """The newest aim reading, as found or as left; *practised*: a simulated camera's counts
        too, where no lamp was looked at; *since*: after that entry. At a re-check a beam that is
        not turned is left as it was found.
        """
        taken = list(self._aims(key, phase, since))
        measured = [aim for aim in taken if not aim.simulated]
        if newest := measured or (taken if practised else []):
            return newest[-1]
        as_found = phase == AimPhase.LEFT and self.is_recheck
        return self.aimed(key, AimPhase.FOUND, practised, since) if as_found else None

    def _aims(self, key: BeamKey, phase: AimPhase, since: int) -> Iterator[Aimed]:
        for entry in self.entries:
            aim = entry.payload
            mine = key in entry.about and entry.id > since
            if mine and isinstance(aim, Aimed) and aim.phase == phase:
                yield aim

    @property
    def is_recheck(self) -> bool:
        """Whether the job looks at what an earlier one did, and does nothing else."""
        back = self.latest(Returned)
        return back is not None and back.visit == RECHECK

    def absent_functions(self) -> set[str]:
        """Functions this car does not have."""
        known = {entry.function: entry.absent for entry in self.all(NotOnCar)}
        return {function for function, absent in known.items() if absent}


def once_a_record(work: Callable[[Record, K], R]) -> Callable[[Record, K], R]:
    """Works something out of a record, about a key, once: a record does not change."""

    @wraps(work)
    def kept(record: Record, key: K) -> R:
        if (work, key) not in record.kept:
            record.kept[work, key] = work(record, key)
        return cast(R, record.kept[work, key])

    return kept
