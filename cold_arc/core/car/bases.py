"""Bulb bases: the catalogue. Figures: UN R37 and UN R99 from memory (see ``data/bases.toml``)."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car.lamps import Function, Present
from cold_arc.core.light.photometry import POWER_EXPONENT, REFERENCE_VOLTS
from cold_arc.core.references import MEASURED, Sources, read

LOOKS = {
    "round-metal": "Round metal flange",
    "twist": "Plastic body, O-ring, quarter turn",
    "wedge": "Wedge, no metal cap",
    "bayonet": "Metal cap with pins",
    "hid": "HID, high-voltage",
    "sealed": "The whole lamp, no bulb to take out",
}
BEAMS = {
    "dual": "One bulb does low and high",
    "single": "One bulb for this beam alone",
    "signal": "A small lamp, no beam",
}


# UN R37, from memory: the voltage flux and greatest power are told at, for beams and for signal
# lamps.
TEST_VOLTS = {
    volts: (rated, signal)
    for (volts, rated), signal in zip(REFERENCE_VOLTS.items(), (6.75, 13.5, 28.0), strict=True)
}


@dataclass(frozen=True)
class Rating:
    """One filament (or arc) of a type made for one supply: rated W, the most W at test voltage, lm
    there.

    *lumens* None: not recalled. *assumed*: the type for this supply is not recalled, the 12 V
    type's watts are taken.
    """

    watts: float
    most_watts: float
    lumens: float | None
    test_volts: float
    assumed: bool = False


@dataclass(frozen=True)
class TypeFigures:
    """What a type made for one supply is rated: W, lm and most W at test voltage, filament by
    filament.
    """

    watts: tuple[float, ...]
    lumens: tuple[float, ...] = ()
    most_watts: tuple[float, ...] = ()


@dataclass(frozen=True)
class MeasuredBulb:
    """What calipers say of an old bulb, mm: reference plane to the filament's start and end, and to
    the second's of a dual bulb; rim across; whole length; room its tail takes. None where it was
    not measured."""

    start_mm: float
    end_mm: float
    second_start_mm: float | None = None
    second_end_mm: float | None = None
    rim_mm: float | None = None
    length_mm: float | None = None
    tail_mm: float | None = None

    @property
    def lcl_mm(self) -> float:
        """Reference plane to the middle of the (low-beam) filament."""
        return (self.start_mm + self.end_mm) / 2

    @property
    def filament_mm(self) -> float:
        """The filament's length."""
        return self.end_mm - self.start_mm

    @property
    def high_ahead_mm(self) -> float | None:
        """How far ahead of the low-beam filament the high-beam one stands (negative: behind it)."""
        if self.second_start_mm is None or self.second_end_mm is None:
            return None
        return (self.second_start_mm + self.second_end_mm) / 2 - self.lcl_mm

    def faults(self) -> dict[str, str]:
        """What can't be, by field."""
        by_field = {}
        if self.end_mm <= self.start_mm:
            by_field["end_mm"] = "Must lie beyond where the filament starts."
        start, end = self.second_start_mm, self.second_end_mm
        if (start is None) is not (end is None):
            by_field["second_end_mm"] = "Give both ends of the second filament, or neither."
        elif start is not None and end is not None and end <= start:
            by_field["second_end_mm"] = "Must lie beyond where the filament starts."
        if self.length_mm is not None and self.length_mm < self.end_mm:
            by_field["length_mm"] = "Must not be shorter than to the filament's end."
        return by_field


@dataclass(frozen=True)
class Base:
    """One base and what it fixes. Watts and lumens list each filament; lengths mm; None: not
    recalled.

    *high_offset_mm*: where the high-beam filament of a dual bulb stands from the low-beam one:
    right, up, ahead. *sealed*: the lamp is one piece with its source. *rare*: seldom met, so the
    usual ones come first. *measured*: lengths were taken off the old bulb.
    """

    name: str
    kind: str
    beams: str
    looks: str
    watts: tuple[float, ...]
    lumens: tuple[float, ...]
    keys: str
    sources: Sources
    aliases: tuple[str, ...] = ()
    contacts: int | None = None
    lcl_mm: float | None = None
    filament_mm: float | None = None
    filament: str | None = None
    cap: str | None = None
    plug: str | None = None
    glass: str | None = None
    igniter: bool | None = None
    dip_shield: bool = False
    contains_mercury: bool = False
    arc_volts: float | None = None
    most_watts: tuple[float, ...] = ()
    roles: tuple[tuple[str, ...], ...] = ()
    v24: TypeFigures | None = None
    v6: TypeFigures | None = None
    high_offset_mm: tuple[float, float, float] | None = None
    sealed: bool = False
    rare: bool = False
    measured: MeasuredBulb | None = None

    @property
    def light_centre_sources(self) -> Sources:
        """Where its light centre and its lit length come from."""
        return MEASURED if self.measured else self.sources

    def filament_for(self, function: Function) -> int:
        """Which filament serves a function, by its place in *watts*: the one whose role it is, or
        the brighter one.
        """
        return next(
            (index for index, served in enumerate(self.roles) if function.value in served), 0
        )

    def rating(self, function: Function, nominal_v: float = 12.0) -> Rating:
        """The filament that serves *function* in the type made for a 6, 12 or 24 V car.

        Where its greatest power is not recalled, the power law carries the rated watts from the
        nominal voltage to the test voltage (P ∝ V^1.6, lighting handbook exponent, from memory).
        """
        index, volts = self.filament_for(function), self.test_volts(nominal_v)
        own = TypeFigures(self.watts, self.lumens, self.most_watts)
        if self.kind == "hid":
            return Rating(self.watts[0], self.watts[0], self.lumens[0], volts)
        rated = {12.0: own, 24.0: self.v24, 6.0: self.v6}[nominal_v]
        watts = (rated or own).watts[index]
        grown = watts * (volts / nominal_v) ** POWER_EXPONENT
        if rated is None:
            return Rating(watts, grown, None, volts, assumed=True)
        most, lumens = (
            dict(enumerate(figures)).get(index) for figures in (rated.most_watts, rated.lumens)
        )
        return Rating(watts, most or grown, lumens, volts)

    def test_volts(self, nominal_v: float) -> float:
        """The voltage its figures are told at."""
        return TEST_VOLTS[nominal_v][self.beams == "signal"]

    @property
    def names(self) -> tuple[str, ...]:
        """Its name and its other names."""
        return (self.name, *self.aliases)

    @property
    def is_dual(self) -> bool:
        """Whether low and high beam share the bulb."""
        return self.beams == "dual"

    @property
    def diameter_mm(self) -> float | None:
        """The rim's principal diameter: as measured, or as its cap's designation says."""
        if self.measured and self.measured.rim_mm is not None:
            return self.measured.rim_mm
        return cap_diameter_mm(self.cap) if self.cap else None

    @property
    def contact_count(self) -> int | None:
        """Contacts: as told, or by the letter that ends the cap's designation."""
        return self.contacts or (cap_contacts(self.cap) if self.cap else None)

    @property
    def present(self) -> Present:
        """The kind of light source it carries."""
        return Present(self.kind)


def _frozen(value: Any) -> Any:
    if isinstance(value, list):
        return tuple(map(_frozen, value))
    return (
        TypeFigures(**{name: _frozen(part) for name, part in value.items()})
        if isinstance(value, dict)
        else value
    )


def _base(row: dict[str, Any], sources: dict[str, str]) -> Base:
    fields: dict[str, Any] = {key: _frozen(value) for key, value in row.items()}
    if fields["beams"] not in BEAMS or fields["looks"] not in LOOKS:
        raise ValueError(f"bases.toml: {fields['name']} has an unknown beams or looks")
    return Base(sources=read(sources["arc" if fields["kind"] == "hid" else "filament"]), **fields)


def measured(base: Base, bulb: MeasuredBulb) -> Base:
    """The base with the lengths of an old bulb as its own."""
    offset = base.high_offset_mm
    if bulb.high_ahead_mm is not None:
        offset = (offset[0] if offset else 0.0, offset[1] if offset else 0.0, bulb.high_ahead_mm)
    return replace(
        base,
        lcl_mm=bulb.lcl_mm,
        filament_mm=bulb.filament_mm,
        high_offset_mm=offset,
        measured=bulb,
    )


@cache
def catalogue() -> tuple[Base, ...]:
    """All bases, in the data file's order."""
    table = data.load("bases")
    return tuple(_base(row, table["source"]) for row in table["base"])


@cache
def usual() -> tuple[Base, ...]:
    """The bases a shop meets every week."""
    return tuple(base for base in catalogue() if not base.rare)


_CAP = re.compile(r"[A-Z]+(?:[\d.]+x)?([\d.]+)([sdtq]?)")
_CAP_CONTACTS = {"s": 1, "d": 2, "t": 3, "q": 4, "": None}


def _cap_parts(cap: str) -> re.Match[str]:
    match = _CAP.match(cap)
    if match is None:
        raise ValueError(f"{cap} is not a cap's designation.")
    return match


def cap_diameter_mm(cap: str) -> float:
    """The principal diameter (a wedge's width) in a cap's designation (IEC 60061-1, from memory),
    mm.

    >>> cap_diameter_mm("P43t"), cap_diameter_mm("W2.1x9.5d")
    (43.0, 9.5)
    """
    return float(_cap_parts(cap)[1])


def cap_contacts(cap: str) -> int | None:
    """Contacts by the letter after the diameter: s one, d two, t three, q four (IEC 60061-1, from
    memory).
    """
    return _CAP_CONTACTS[_cap_parts(cap)[2]]


def code(text: str) -> str:
    """A name or code without what people write differently: spaces, dots, dashes, case."""
    return re.sub(r"[\s./-]", "", text).upper()


@cache
def _by_code() -> dict[str, Base]:
    return {code(name): base for base in catalogue() for name in base.names}


def of_cap(name: str) -> list[Base]:
    """The bases with a cap of that designation, spaces and case ignored.

    >>> [base.name for base in of_cap("ba 20 D")]
    ['S1', 'S2']
    """
    return [base for base in catalogue() if base.cap and code(base.cap) == code(name)]


@lru_cache(maxsize=512)
def find(name: str) -> Base | None:
    """The base called *name*, by any of its names, spaces and case ignored.

    >>> find("hb4").name
    '9006'
    """
    return _by_code().get(code(name))


def why_unknown(typed: str) -> str:
    """What to say of a name that is no base's: the bases of that cap, where it is a cap's.

    >>> why_unknown("BA20d")
    '“BA20d” is the cap of S1, S2: say which, by its watts.'
    """
    if capped := [base.name for base in of_cap(typed)]:
        return f"“{typed}” is the cap of {', '.join(capped)}: say which, by its watts."
    return f"“{typed}” is not in the catalogue. Use the questions to find it."
