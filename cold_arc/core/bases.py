"""Bulb bases: the catalogue. Figures: UN R37 and UN R99 from memory (see ``data/bases.toml``)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.lamps import Present

LOOKS = {
    "round-metal": "Round metal flange",
    "twist": "Plastic body, O-ring, quarter turn",
    "wedge": "Wedge, no metal cap",
    "bayonet": "Metal cap with pins",
    "hid": "HID, high-voltage",
}
BEAMS = {
    "dual": "One bulb does low and high",
    "single": "One bulb for this beam alone",
    "signal": "A small lamp, no beam",
}


@dataclass(frozen=True)
class Base:
    """One base and what it fixes. Watts and lumens list each filament; lengths mm; None: not recalled."""

    name: str
    kind: str
    beams: str
    looks: str
    watts: tuple[float, ...]
    lumens: tuple[float, ...]
    keys: str
    source: str
    recalled: bool
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
        """The rim's principal diameter, as its cap's designation says."""
        return cap_diameter_mm(self.cap) if self.cap else None

    @property
    def contact_count(self) -> int | None:
        """Contacts: as told, or by the letter that ends the cap's designation."""
        return self.contacts or (cap_contacts(self.cap) if self.cap else None)

    @property
    def present(self) -> Present:
        """The kind of light source it carries."""
        return Present(self.kind)


def _base(row: dict[str, Any], source: str, recalled: bool) -> Base:
    fields: dict[str, Any] = {key: tuple(value) if isinstance(value, list) else value for key, value in row.items()}
    if fields["beams"] not in BEAMS or fields["looks"] not in LOOKS:
        raise ValueError(f"bases.toml: {fields['name']} has an unknown beams or looks")
    return Base(source=source, recalled=recalled, **fields)


@cache
def catalogue() -> tuple[Base, ...]:
    """All bases, in the data file's order."""
    table = data.load("bases")
    return tuple(_base(row, table["source"], table["recalled"]) for row in table["base"])


_CAP = re.compile(r"[A-Z]+(?:[\d.]+x)?([\d.]+)([sdtq]?)")
_CAP_CONTACTS = {"s": 1, "d": 2, "t": 3, "q": 4, "": None}


def _cap_parts(cap: str) -> re.Match[str]:
    match = _CAP.match(cap)
    if match is None:
        raise ValueError(f"{cap} is not a cap's designation.")
    return match


def cap_diameter_mm(cap: str) -> float:
    """The principal diameter (a wedge's width) in a cap's designation (IEC 60061-1, from memory), mm.

    >>> cap_diameter_mm("P43t"), cap_diameter_mm("W2.1x9.5d")
    (43.0, 9.5)
    """
    return float(_cap_parts(cap)[1])


def cap_contacts(cap: str) -> int | None:
    """Contacts by the letter after the diameter: s one, d two, t three, q four (IEC 60061-1, from memory)."""
    return _CAP_CONTACTS[_cap_parts(cap)[2]]


def code(text: str) -> str:
    """A name or code without what people write differently: spaces, dots, dashes, case."""
    return re.sub(r"[\s./-]", "", text).upper()


@cache
def _by_code() -> dict[str, Base]:
    return {code(name): base for base in catalogue() for name in base.names}


def find(name: str) -> Base | None:
    """The base called *name*, by any of its names, spaces and case ignored.

    >>> find("hb4").name
    '9006'
    """
    return _by_code().get(code(name))
