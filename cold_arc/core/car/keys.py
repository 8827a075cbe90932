"""What a front is named by: its units, their sockets, the beams they give, each on its side."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache
from typing import TypeVar

from cold_arc.core.car.lamps import Function, Side

MOST_NUMBER = 10


class UnitKind(StrEnum):
    """What is one piece on the car."""

    HEADLAMP = "headlamp"
    FOG_LAMP = "foglamp"
    DAYTIME = "daytime"
    INDICATOR = "indicator"
    EXTRA = "extra"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return _UNIT_LABELS[self]


_UNIT_LABELS = {
    UnitKind.HEADLAMP: "Headlamp",
    UnitKind.FOG_LAMP: "Fog lamp",
    UnitKind.DAYTIME: "Daytime lamp",
    UnitKind.INDICATOR: "Indicator unit",
    UnitKind.EXTRA: "Extra lamp",
}


@dataclass(frozen=True, order=True)
class UnitKey:
    """One unit on one side."""

    unit: str
    side: Side

    def __str__(self) -> str:
        return f"{self.unit}-{self.side.value}"

    @property
    def name(self) -> str:
        """What both sides share."""
        return self.unit


@dataclass(frozen=True, order=True)
class SocketKey:
    """One socket of a unit on one side."""

    unit: str
    number: int
    side: Side

    def __str__(self) -> str:
        return f"{self.name}-{self.side.value}"

    @property
    def name(self) -> str:
        """What both sides share."""
        return f"{self.unit}-{self.number}"

    @property
    def of_unit(self) -> UnitKey:
        """The unit it is in."""
        return UnitKey(self.unit, self.side)


@dataclass(frozen=True, order=True)
class BeamKey:
    """What the sockets of one side give: a beam or a signal."""

    function: Function
    side: Side

    def __str__(self) -> str:
        return f"{self.function.value}-{self.side.value}"

    @property
    def name(self) -> str:
        """What both sides share."""
        return self.function.value


Key = UnitKey | SocketKey | BeamKey


_WRITTEN = re.compile(r"([a-z]+\d?)(?:-(\d))?-(left|right)")


@cache
def parse_key(text: str) -> Key:
    """The key from its written form; ValueError for anything else."""
    match = _WRITTEN.fullmatch(text)
    if match is None:
        raise ValueError(f"“{text}” is no unit, socket or beam.")
    name, number, side = match[1], match[2], Side(match[3])
    if number is not None:
        return SocketKey(name, int(number), side)
    return BeamKey(Function(name), side) if name in list(Function) else UnitKey(name, side)


K = TypeVar("K", UnitKey, SocketKey, BeamKey)


def across(key: K) -> K:
    """The same on the other side."""
    return replace(key, side=key.side.other)
