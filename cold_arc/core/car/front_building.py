"""Fronts ready made, and what is changed of one: lamps, sockets, functions."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car.front import Front, SocketPlan, UnitPlan
from cold_arc.core.car.keys import UnitKind
from cold_arc.core.car.lamps import Function, Optic, Present


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
