"""The front of a car: units (one piece each), the sockets in them, and the beams and signals the
sockets give.

A front is the same on both sides; what is done to one side alone is said by the side of a key. Keys
have a written form for addresses, files and forms: a unit "headlamp-left", a socket of it
"headlamp-1-left", a beam "low-left".
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache, cached_property
from typing import Any, TypeVar

from cold_arc.core import data
from cold_arc.core.car.lamps import Function, Holds, Optic, Present, Side

MOST_UNITS, MOST_SOCKETS = 8, 6
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


@dataclass(frozen=True)
class SocketPlan:
    """A place for one source: what it gives, and where known what makes the pattern and what is in
    it.
    """

    number: int
    functions: tuple[Function, ...]
    optic: Optic | None = None
    present: Present | None = None

    @property
    def is_of_use(self) -> bool:
        """Whether it gives anything, under a number that can be written."""
        return 0 < self.number < MOST_NUMBER and bool(self.functions)

    @property
    def words(self) -> str:
        """What it gives: "Low and high beam", "Turn signal"."""
        if self.functions == (Function.LOW, Function.HIGH):
            return "Low and high beam"
        first, *others = (function.label for function in self.functions)
        return " and ".join([first, *(label.lower() for label in others)])

    @property
    def short(self) -> str:
        """What it gives where there is little room: "Low · High"."""
        return " · ".join(function.short for function in self.functions)


@dataclass(frozen=True)
class UnitPlan:
    """One piece on each side of the car; *name* where its kind alone would not tell it from
    another.
    """

    kind: UnitKind
    sockets: tuple[SocketPlan, ...]
    number: int = 1
    name: str = ""

    @property
    def id(self) -> str:
        """Its written name: "headlamp", "headlamp2"."""
        return f"{self.kind.value}{self.number if self.number > 1 else ''}"

    @property
    def is_numbered(self) -> bool:
        """Whether its number can be written."""
        return 0 < self.number < MOST_NUMBER

    @property
    def words(self) -> str:
        """Its name as shown."""
        return self.name or self.kind.label


@dataclass(frozen=True)
class Front:
    """Everything that shines ahead. Units and sockets keep their numbers when others come and
    go.
    """

    units: tuple[UnitPlan, ...] = ()

    def __post_init__(self) -> None:
        """Refuses what no front can be: nothing in a unit, a name twice, more than any car
        carries.
        """
        if len(self.units) > MOST_UNITS:
            raise ValueError(f"More than {MOST_UNITS} units a side.")
        if len(self._plans) != len(self.units) + sum(len(unit.sockets) for unit in self.units):
            raise ValueError("A unit or socket stands twice.")
        for unit in self.units:
            if not unit.sockets or len(unit.sockets) > MOST_SOCKETS:
                raise ValueError(f"{unit.words}: 1 to {MOST_SOCKETS} sockets.")
            if not unit.is_numbered or not all(socket.is_of_use for socket in unit.sockets):
                raise ValueError(f"{unit.words}: a socket that gives nothing.")

    @cached_property
    def _plans(self) -> dict[str, UnitPlan | SocketPlan]:
        """Every unit and socket by its written name."""
        units: dict[str, UnitPlan | SocketPlan] = {unit.id: unit for unit in self.units}
        return units | {
            f"{unit.id}-{socket.number}": socket for unit in self.units for socket in unit.sockets
        }

    def sockets(self) -> Iterator[SocketKey]:
        """Every socket, left then right, in the order of the units."""
        for unit in self.units:
            for socket in unit.sockets:
                for side in Side:
                    yield SocketKey(unit.id, socket.number, side)

    def has(self, key: Key) -> bool:
        """Whether there is such a unit, socket or beam."""
        return any(self.givers(key)) if isinstance(key, BeamKey) else key.name in self._plans

    def unit(self, key: UnitKey | SocketKey) -> UnitPlan:
        """The plan of a unit, or of the unit a socket is in; KeyError for another car's."""
        plan = self._plans[key.unit]
        assert isinstance(plan, UnitPlan)
        return plan

    def socket(self, key: SocketKey) -> SocketPlan:
        """The plan of a socket; KeyError for another car's."""
        plan = self._plans[key.name]
        assert isinstance(plan, SocketPlan)
        return plan

    def givers(self, beam: BeamKey) -> Iterator[SocketKey]:
        """The sockets that give a beam; twin high beams have two."""
        return (
            key
            for key in self.sockets()
            if key.side is beam.side and beam.function in self.socket(key).functions
        )

    def beams_of(self, socket: SocketKey) -> list[BeamKey]:
        """What a socket gives."""
        return [BeamKey(function, socket.side) for function in self.socket(socket).functions]

    def named(self, key: Key) -> str:
        """What a key is called, with its side: "Low beam left"."""
        return f"{self.words(key)} {key.side.value}"

    def words(self, key: Key) -> str:
        """What a key is called, without its side: "Low beam", "Headlamp", "Low and high beam
        bulb".
        """
        if isinstance(key, BeamKey):
            return key.function.label
        if isinstance(key, UnitKey):
            return self.unit(key).words
        mine = self.socket(key)
        twins = (
            sum(
                socket.functions == mine.functions for unit in self.units for socket in unit.sockets
            )
            > 1
        )
        where = f", {self.unit(key).words.lower()}" if twins else ""
        return f"{mine.words} {self._noun(key)}{where}"

    def _noun(self, key: SocketKey) -> str:
        """What a socket's source is called before it is looked at."""
        whole = self.socket(key).optic is Optic.SEALED
        return "lamp" if whole or self.unit(key).kind is UnitKind.DAYTIME else "bulb"


# What a source is called that is no bulb.
_NOUNS = {Holds.MODULE: "module", Holds.LAMP: "lamp", Holds.NOTHING: "lamp"}


@dataclass(frozen=True)
class HungFront(Front):
    """A front, and what *hangs* in the sockets that hold no bulb, by their written names."""

    hangs: tuple[tuple[str, Holds], ...] = ()

    def _noun(self, key: SocketKey) -> str:
        usual = super()._noun(key)
        held = dict(self.hangs).get(str(key))
        return _NOUNS[held] if held in _NOUNS and usual == "bulb" else usual


@dataclass(frozen=True)
class Socket:
    """What is known of one socket; facts not identified yet are None. What holds no bulb has no
    base: *plug*, *wires* (their colours), *fasteners* and *outline* say how it hangs.
    """

    key: SocketKey
    functions: tuple[Function, ...]
    optic: Optic | None = None
    base: str | None = None
    present: Present | None = None
    holds: Holds = Holds.BULB
    plug: str = ""
    wires: str = ""
    fasteners: str = ""
    outline: str = ""

    @property
    def holds_bulb(self) -> bool:
        """Whether a bulb hangs in it, of which a base is asked."""
        return self.holds is Holds.BULB

    @property
    def words(self) -> str:
        """What is in it, as far as told: "H7 Halogen", "Module LED", "Nothing yet"."""
        if self.holds is Holds.NOTHING:
            return self.holds.label
        held = (self.base or "") if self.holds_bulb else self.holds.words.capitalize()
        return f"{held} {self.present.label if self.present else ''}".strip()

    def gives(self, function: Function) -> bool:
        """Whether *function* is among what it gives."""
        return function in self.functions

    @property
    def road_beams(self) -> tuple[Function, ...]:
        """The beams it gives that are read and aimed on the wall."""
        return tuple(function for function in self.functions if function.is_road_beam)


@dataclass(frozen=True)
class ReadyMade:
    """A front to start from: common practice, no published source (``data/fronts.toml``)."""

    id: str
    name: str
    note: str
    units: tuple[UnitPlan, ...]


def _socket_plan(number: int, row: dict[str, Any]) -> SocketPlan:
    optic, present = row.get("optic"), row.get("present")
    functions = tuple(map(Function, row["functions"]))
    return SocketPlan(
        number, functions, Optic(optic) if optic else None, Present(present) if present else None
    )


def _units(rows: Iterable[dict[str, Any]]) -> tuple[UnitPlan, ...]:
    units: list[UnitPlan] = []
    for row in rows:
        kind = UnitKind(row["kind"])
        number = 1 + sum(unit.kind is kind for unit in units)
        sockets = tuple(_socket_plan(index, plan) for index, plan in enumerate(row["sockets"], 1))
        units.append(UnitPlan(kind, sockets, number, row.get("name", "")))
    return tuple(units)


@cache
def ready_made() -> dict[str, ReadyMade]:
    """The ready-made fronts by id."""
    rows = data.load("fronts")["front"]
    return {
        row["id"]: ReadyMade(row["id"], row["name"], row["note"], _units(row["units"]))
        for row in rows
    }


EXTRAS = {
    "fog": "Fog lamps",
    "drl": "Daytime lamps",
    "turn": "Indicators",
    "position": "Position lamps",
}


_EXTRA_UNITS = {"turn": UnitKind.INDICATOR, "drl": UnitKind.DAYTIME, "fog": UnitKind.FOG_LAMP}


def made(front_id: str, extras: Iterable[str] = ()) -> Front:
    """A ready-made front with fog lamps, daytime lamps, indicators, positions as named; KeyError
    for none such.
    """
    front = Front(ready_made()[front_id].units)
    for extra in extras:
        front = toggle_extra(front, extra)
    return front


def extras_of(front: Front) -> list[str]:
    """Which of the usual additions a front has: a unit of their kind, a position lamp in a socket
    of its own.
    """
    kinds = {unit.kind for unit in front.units}
    held = {extra for extra, kind in _EXTRA_UNITS.items() if kind in kinds}
    if any(
        socket.functions == (Function.POSITION,) for unit in front.units for socket in unit.sockets
    ):
        held.add("position")
    return [extra for extra in EXTRAS if extra in held]


def like(front: Front) -> str:
    """The id of the ready-made front this one is, but for the usual additions; "" where it is
    none.
    """
    if not front.units:
        return ""
    held = set(front.units)
    return next(
        (name for name in ready_made() if set(made(name, extras_of(front)).units) == held), ""
    )


def toggle_extra(front: Front, extra: str) -> Front:
    """The front with one of the usual additions, or without it where it has it; KeyError for none
    such.
    """
    if extra == "position":
        return (
            _without_positions(front) if "position" in extras_of(front) else _with_position(front)
        )
    kind = _EXTRA_UNITS[extra]
    if extra in extras_of(front):
        return Front(tuple(unit for unit in front.units if unit.kind is not kind))
    optic = Optic.REFLECTOR if extra == "fog" else Optic.PLAIN
    return Front((*front.units, UnitPlan(kind, (SocketPlan(1, (Function(extra),), optic),))))


def _with_position(front: Front) -> Front:
    """A position lamp beside the first unit's sockets, or in a headlamp of its own where there is
    no unit.
    """
    first, *others = front.units or (UnitPlan(UnitKind.HEADLAMP, ()),)
    place = SocketPlan(
        _free(socket.number for socket in first.sockets), (Function.POSITION,), Optic.PLAIN
    )
    return Front((replace(first, sockets=(*first.sockets, place)), *others))


def _without_positions(front: Front) -> Front:
    left = [
        replace(
            unit,
            sockets=tuple(
                socket for socket in unit.sockets if socket.functions != (Function.POSITION,)
            ),
        )
        for unit in front.units
    ]
    return Front(tuple(unit for unit in left if unit.sockets))


def add_socket(front: Front, unit_id: str, function: Function) -> Front:
    """The front with one more socket in a unit; KeyError for no such unit, ValueError where there
    is no room.
    """

    def grown(unit: UnitPlan) -> UnitPlan:
        number = _free(socket.number for socket in unit.sockets)
        return replace(unit, sockets=(*unit.sockets, SocketPlan(number, (function,))))

    return _changed(front, unit_id, grown)


def remove_socket(front: Front, unit_id: str, number: int) -> Front:
    """The front without one socket; its unit goes with its last one."""
    sockets = {
        unit.id: tuple(socket for socket in unit.sockets if socket.number != number)
        for unit in front.units
    }
    left = (
        unit if unit.id != unit_id else replace(unit, sockets=sockets[unit.id])
        for unit in front.units
    )
    return Front(tuple(unit for unit in left if unit.sockets))


def toggle_function(front: Front, unit_id: str, number: int, function: Function) -> Front:
    """The front with a function given to a socket, or taken from it (but for its last)."""

    def toggled(socket: SocketPlan) -> SocketPlan:
        if socket.number != number:
            return socket
        given = set(socket.functions) ^ {function}
        return replace(
            socket,
            functions=tuple(function for function in Function if function in given)
            or socket.functions,
        )

    return _changed(
        front, unit_id, lambda unit: replace(unit, sockets=tuple(map(toggled, unit.sockets)))
    )


def add_unit(front: Front, kind: UnitKind) -> Front:
    """The front with one more unit of a kind, with the one socket such a unit has first."""
    number = _free(unit.number for unit in front.units if unit.kind is kind)
    first = {
        UnitKind.HEADLAMP: Function.LOW,
        UnitKind.FOG_LAMP: Function.FOG,
        UnitKind.DAYTIME: Function.DRL,
        UnitKind.INDICATOR: Function.TURN,
        UnitKind.EXTRA: Function.HIGH,
    }[kind]
    name = f"{kind.label} {number}" if number > 1 else ""
    return Front((*front.units, UnitPlan(kind, (SocketPlan(1, (first,)),), number, name)))


def _free(taken: Iterable[int]) -> int:
    """The lowest number nobody has."""
    held = set(taken)
    return next(number for number in range(1, 11) if number not in held)


def _changed(front: Front, unit_id: str, change: Callable[[UnitPlan], UnitPlan]) -> Front:
    if unit_id not in {unit.id for unit in front.units}:
        raise KeyError(unit_id)
    return Front(tuple(change(unit) if unit.id == unit_id else unit for unit in front.units))
