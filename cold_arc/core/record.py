"""The record of a job: what was entered, when, for which lamps. Everything else follows from it.

A job is its entries. Nothing is overwritten: a later entry of a kind takes the place of an earlier one, and
undoing an entry takes it out of account, so every entry is dated, kept and can be undone.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

import cattrs.preconf.json

from cold_arc.core.access import RouteStep
from cold_arc.core.ballast import BallastTest
from cold_arc.core.condition import LampCondition
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.lamps import ALL_LAMPS, Drive, Housing, Lamp, LampKey, Present, Side
from cold_arc.core.light_source import LightSource
from cold_arc.core.readings import WallReading


@dataclass(frozen=True)
class Booking:
    """The car, the customer's wish, the terms. *volts* is the nominal supply."""

    reference: str
    make: str
    model: str
    drive: Drive
    market: str
    road_use: bool = True
    year: int | None = None
    volts: float = 12.0
    earth_positive: bool = False
    wishes: tuple[str, ...] = ()
    complaint: str = ""
    tampered: str = ""
    due: dt.date | None = None

    @property
    def vehicle(self) -> str:
        """Make, model and year as one line."""
        return " ".join(str(part) for part in (self.make, self.model, self.year) if part)


@dataclass(frozen=True)
class LampsChosen:
    """The lamps to work on are those of the entry."""


@dataclass(frozen=True)
class Identified:
    """What the entry's lamps are."""

    housing: Housing
    base: str
    present: Present


@dataclass(frozen=True)
class Inspected:
    """What was seen on the entry's lamps."""

    seen: LampCondition


@dataclass(frozen=True)
class Read:
    """A reading on the wall; *phase* is "before" or "after"; *typed* as it was entered."""

    phase: str
    typed: str
    reading: WallReading


@dataclass(frozen=True)
class Chosen:
    """What will be fitted: a source as it stood in the catalogue that day, or None to stay with the original.

    *override* is the recorded reason where the market's rule or a stop speaks against it, *off_road* that it is for
    off-road or show use; *accepted*: the ids of the cautions the customer accepted.
    """

    source: LightSource | None
    reason: str
    who: str = ""
    override: str = ""
    off_road: bool = False
    accepted: tuple[str, ...] = ()


@dataclass(frozen=True)
class Refused:
    """Asked for and not fitted: *source* by name, why, and who said no."""

    source: str
    reason: str
    who: str = ""


@dataclass(frozen=True)
class Supplied:
    """What is known of the lamps' electrical feed."""

    facts: SupplyFacts


@dataclass(frozen=True)
class BallastTested:
    """The ballast test of an HID pair."""

    test: BallastTest


@dataclass(frozen=True)
class Routed:
    """The way to the lamp."""

    name: str
    steps: tuple[RouteStep, ...]


@dataclass(frozen=True)
class Ticked:
    """A step done; *step* is "route:3" or "fit:seat"."""

    step: str


@dataclass(frozen=True)
class FastenerBack:
    """Fasteners of one step accounted for: *back* in place, *noted* missing or replaced, and why."""

    step: int
    kind: str
    back: int
    noted: int = 0
    note: str = ""


@dataclass(frozen=True)
class Clocked:
    """Where the bulb stopped when it locked, degrees clockwise from upright, seen from behind."""

    stopped_deg: float
    typed: str = ""


@dataclass(frozen=True)
class Proved:
    """One cell of the board; *stage_pass* is "open" or "closed"."""

    stage_pass: str
    function: str
    side: Side
    engine: str
    result: str


@dataclass(frozen=True)
class NotOnCar:
    """This car has no such function (*absent*), or has it after all."""

    function: str
    absent: bool = True


@dataclass(frozen=True)
class Aimed:
    """Where the cut-off or hot spot stands: slope, up positive; sideways slope, right positive.

    *phase* is "found" or "left"; *turns* of the adjuster since the reading before, if any; *spacing_m* between
    the two lamps' centres.
    """

    phase: str
    rule: str
    height_m: float
    distance_m: float
    slope: float
    typed: str
    sideways: float | None = None
    turns: float | None = None
    spacing_m: float | None = None


@dataclass(frozen=True)
class HandedOver:
    """The close of the job. *cautions* are the ids of those the customer was told."""

    technician: str
    cautions: tuple[str, ...]
    law_told: bool
    old_parts_kept: bool
    recheck: dt.date
    warranty_end: dt.date | None = None
    switching: str = ""
    note: str = ""


@dataclass(frozen=True)
class Passed:
    """A stage is finished for the entry's lamps; *reason* says why when something was missing."""

    stage: str
    reason: str = ""


@dataclass(frozen=True)
class Reopened:
    """Back to a stage: it and all after it are open again for the entry's lamps."""

    stage: str


Payload = (
    Booking
    | LampsChosen
    | Identified
    | Inspected
    | Read
    | Chosen
    | Refused
    | Supplied
    | BallastTested
    | Routed
    | Ticked
    | FastenerBack
    | Clocked
    | Proved
    | NotOnCar
    | Aimed
    | HandedOver
    | Passed
    | Reopened
)
KINDS: dict[str, type] = {kind.__name__: kind for kind in Payload.__args__}
_converter = cattrs.preconf.json.make_converter()


def to_plain(payload: object) -> dict[str, Any]:
    """A payload, or any dataclass of the core, as JSON-ready values."""
    plain: dict[str, Any] = _converter.unstructure(payload)
    return plain


def from_plain(kind: str, plain: dict[str, Any]) -> Any:
    """The payload of *kind* from its plain form; KeyError for an unknown kind."""
    return _converter.structure(plain, KINDS[kind])


T = TypeVar("T")


def structure(plain: dict[str, Any], kind: type[T]) -> T:
    """Any dataclass of the core from its plain form."""
    return _converter.structure(plain, kind)


@dataclass(frozen=True)
class Entry:
    """One dated entry of a job's record; *lamps* it speaks of (none: the whole job)."""

    id: int
    at: dt.datetime
    lamps: frozenset[LampKey]
    payload: Payload
    undone_at: dt.datetime | None = None

    @property
    def kind(self) -> str:
        """The payload's kind by name."""
        return type(self.payload).__name__


P = TypeVar("P")


class Record:
    """All live entries of one job, oldest first, and questions to them."""

    def __init__(self, entries: Iterable[Entry]) -> None:
        self.entries = [entry for entry in entries if entry.undone_at is None]

    def all(self, kind: type[P], lamp: LampKey | None = None) -> list[P]:
        """Every payload of *kind* that speaks of *lamp* (or of the whole job), oldest first."""
        return [
            entry.payload
            for entry in self.entries
            if isinstance(entry.payload, kind) and (lamp is None or lamp in entry.lamps)
        ]

    def latest(self, kind: type[P], lamp: LampKey | None = None) -> P | None:
        """The newest payload of *kind*, if any."""
        found = self.all(kind, lamp)
        return found[-1] if found else None

    @property
    def booking(self) -> Booking | None:
        """The car and terms as last entered."""
        return self.latest(Booking)

    @property
    def lamp_keys(self) -> list[LampKey]:
        """The lamps to work on, in the order of the functions."""
        chosen = [entry.lamps for entry in self.entries if isinstance(entry.payload, LampsChosen)]
        return [key for key in ALL_LAMPS if chosen and key in chosen[-1]]

    def lamp(self, key: LampKey) -> Lamp:
        """What is known of one lamp."""
        known = self.latest(Identified, key)
        return Lamp(key, known.housing, known.base, known.present) if known else Lamp(key)

    def condition(self, key: LampKey) -> LampCondition | None:
        """What was seen on one lamp."""
        inspected = self.latest(Inspected, key)
        return inspected.seen if inspected else None

    def readings(self, key: LampKey, phase: str) -> dict[str, WallReading]:
        """The newest reading at each point, before or after."""
        return {read.reading.point: read.reading for read in self.all(Read, key) if read.phase == phase}

    def ticks(self, key: LampKey) -> set[str]:
        """The steps ticked for one lamp."""
        return {tick.step for tick in self.all(Ticked, key)}

    def aimed(self, key: LampKey, phase: str) -> Aimed | None:
        """The newest aim reading, as found or as left."""
        found = [aim for aim in self.all(Aimed, key) if aim.phase == phase]
        return found[-1] if found else None

    def absent_functions(self) -> set[str]:
        """Functions this car does not have."""
        said = {entry.function: entry.absent for entry in self.all(NotOnCar)}
        return {function for function, absent in said.items() if absent}
