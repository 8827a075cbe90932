"""Bulb bases: the catalogue, and finding one from what can be seen on the old bulb.

Figures: UN R37 and UN R99 from memory (see ``data/bases.toml``). The printed base on the old bulb beats
every guess; the questions only narrow.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.findings import Finding, Level
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
    "signal": "Not a headlamp: small lamp",
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
    family: str | None = None
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


def _code(text: str) -> str:
    return re.sub(r"[\s./-]", "", text).upper()


@cache
def _by_code() -> dict[str, Base]:
    return {_code(name): base for base in catalogue() for name in base.names}


def find(name: str) -> Base | None:
    """The base called *name*, by any of its names, spaces and case ignored.

    >>> find("hb4").name
    '9006'
    """
    return _by_code().get(_code(name))


def narrow(printed: str = "", beams: str = "", contacts: int | None = None, looks: str = "") -> tuple[Base, ...]:
    """The bases that agree with every answer given; an empty answer says nothing.

    *printed* matches any part of a name or of the cap's code.
    """
    code = _code(printed)

    def agrees(base: Base) -> bool:
        codes = [_code(text) for text in (*base.names, base.cap or "")]
        return (
            (not code or any(code in text for text in codes))
            and beams in ("", base.beams)
            and (contacts is None or base.contacts == contacts)
            and looks in ("", base.looks)
        )

    return tuple(base for base in catalogue() if agrees(base))


def look_alikes(candidates: Iterable[Base]) -> list[Finding]:
    """Warnings for remaining bases that are mistaken for one another, and what tells them apart."""
    families: dict[str, list[Base]] = {}
    for base in candidates:
        family = base.family or ("gas discharge" if base.kind == "hid" else None)
        if family:
            families.setdefault(family, []).append(base)
    return [
        Finding(
            Level.CAUTION,
            f"{', '.join(base.name for base in alike)} look alike.",
            advice="Tell them apart by the printed code, then the keys: "
            + "; ".join(f"{base.name}: {base.keys}" for base in alike[:4])
            + ("; and so on." if len(alike) > 4 else "."),
        )
        for alike in families.values()
        if len(alike) > 1
    ]
