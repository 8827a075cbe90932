"""What is said at Book in: the car, its front, the work, what each socket is."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core import law
from cold_arc.core.car import bases, identity
from cold_arc.core.car.bases import MeasuredBulb
from cold_arc.core.car.front import Front
from cold_arc.core.car.lamps import Drive, Holds, Optic, Present
from cold_arc.core.job.entries.kind import (
    LONGEST_BULB_MM,
    EntryKind,
    Payload,
    Plain,
    must,
    tells_more,
)
from cold_arc.core.units import say_mm

_SEALED = {"assembly": "sealed"}


def _optic_for_housing(plain: Plain) -> Plain:
    """Identified, 1 to 2: what makes the pattern is a socket's optic; an assembly is a sealed
    one.
    """
    housing = plain["housing"]
    kept = {key: value for key, value in plain.items() if key != "housing"}
    return {**kept, "optic": _SEALED.get(housing, housing)}


@dataclass(frozen=True)
class Booking(Payload):
    """The car, the customer's wish, the terms. *volts* is the nominal supply; *plate* and *vin* as
    they were typed, empty where nobody told them.
    """

    # 2: by what the car is known again.
    ENTRY = EntryKind("booking", 2, older={1: tells_more})

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
    plate: str = ""
    vin: str = ""

    @property
    def known_by(self) -> tuple[str, str]:
        """Its number and its plate, as they are compared."""
        return identity.plain(self.vin), identity.plain(self.plate)

    @property
    def vehicle(self) -> str:
        """Make, model and year as one line."""
        return " ".join(str(part) for part in (self.make, self.model, self.year) if part)

    def must_hold(self) -> None:
        must(
            self.market in law.markets() and self.volts in bases.TEST_VOLTS,
            "A market or supply that is not known",
        )
        must(
            len(self.plate) <= identity.LONGEST_PLATE and len(self.vin) <= identity.LONGEST_NUMBER,
            "Such a plate or number",
        )

    def in_words(self) -> str:
        return f"Booking: {self.vehicle}"


@dataclass(frozen=True)
class FrontSet(Payload):
    """What the front of the car is made of."""

    ENTRY = EntryKind("front")

    front: Front

    def in_words(self) -> str:
        return f"Front: {', '.join(unit.words.lower() for unit in self.front.units)}"


@dataclass(frozen=True)
class WorkChosen(Payload):
    """The sockets to work on are those of the entry."""

    ENTRY = EntryKind("work")

    def in_words(self) -> str:
        return "Work chosen"


@dataclass(frozen=True)
class Identified(Payload):
    """What the entry's sockets are. *base* is empty and *present* may be None where no bulb hangs
    in them; *plug*, *wires*, *fasteners* and *outline* say then how it hangs.
    """

    # 2: optic in place of housing. 3: what holds no bulb.
    ENTRY = EntryKind("identified", 3, older={1: _optic_for_housing, 2: tells_more})

    optic: Optic
    base: str
    present: Present | None
    holds: Holds = Holds.BULB
    plug: str = ""
    wires: str = ""
    fasteners: str = ""
    outline: str = ""

    def must_hold(self) -> None:
        if self.holds is Holds.BULB:
            must(bases.find(self.base) is not None, "A base that is not in the catalogue")
        else:
            must(not self.base, "A base of what holds no bulb")
        must(self.present is not None or self.holds is Holds.NOTHING, "A source that is not told")

    def in_words(self) -> str:
        held = self.base or self.holds.words
        return f"Identified: {held}, {self.optic.label.lower()}"


@dataclass(frozen=True)
class OldBulbMeasured(Payload):
    """What calipers say of the old bulb of the entry's sockets, where its base's figures are not
    known.
    """

    ENTRY = EntryKind("measured")

    bulb: MeasuredBulb

    def must_hold(self) -> None:
        lengths = [value for value in vars(self.bulb).values() if value is not None]
        must(
            all(0 <= length <= LONGEST_BULB_MM for length in lengths) and not self.bulb.faults(),
            "Such a bulb",
        )

    def in_words(self) -> str:
        return f"Old bulb measured: light centre {say_mm(self.bulb.lcl_mm)}"
