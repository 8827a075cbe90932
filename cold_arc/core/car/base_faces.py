"""The rim of a base seen from behind, to scale (``data/base_faces.toml``). Millimetres; degrees
clockwise.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car.bases import Base, find

Numbers = tuple[float, ...]


@dataclass(frozen=True)
class BaseFace:
    """Tabs and notches (at, width, out or deep), blades (x, y, width, height), pins (x, y), an
    angled socket, a box.
    """

    tabs: tuple[Numbers, ...] = ()
    notches: tuple[Numbers, ...] = ()
    blades: tuple[Numbers, ...] = ()
    pins: tuple[Numbers, ...] = ()
    arm: Numbers | None = None
    box: Numbers | None = None


@cache
def faces() -> dict[str, BaseFace]:
    """The faces by base; ValueError for a base that is not in the catalogue."""
    drawn = {}
    for row in data.load("base_faces")["face"]:
        face = BaseFace(**{name: _numbers(value) for name, value in row.items() if name != "bases"})
        for name in row["bases"]:
            if find(name) is None:
                raise ValueError(f"base_faces.toml: {name} is not in the catalogue")
            drawn[name] = face
    return drawn


def _numbers(value: list[Any]) -> tuple[Any, ...]:
    return tuple(tuple(item) if isinstance(item, list) else item for item in value)


def tab_count(base: Base) -> int | None:
    """Tabs or pins on the rim; None for a wedge, which has no rim."""
    if base.looks == "wedge" or base.name not in faces():
        return None
    return len(faces()[base.name].tabs)
