"""Plan: the way to the lamp, step by step, and what it costs in minutes, tools and fasteners.

Common practice, no published source: starter routes (``data/routes.toml``) and the quicker second side.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data

SECOND_SIDE = 0.75


@dataclass(frozen=True)
class Fasteners:
    """So many of one kind at one place."""

    kind: str
    count: int
    place: str

    @property
    def words(self) -> str:
        """As people write it: "2 push pin, liner door"."""
        return f"{self.count} {self.kind}, {self.place}"


@dataclass(frozen=True)
class RouteStep:
    """One step: minutes count taking apart and putting back on one side; *shared* is done once for both.

    *opens*: the part of the car it opens or moves, where more than one lamp may lie behind it.
    """

    id: int
    text: str
    minutes: float
    tools: tuple[str, ...] = ()
    fasteners: tuple[Fasteners, ...] = ()
    caution: str = ""
    shared: bool = False
    opens: str = ""


def minutes_one_side(steps: Iterable[RouteStep]) -> float:
    """Minutes for one side alone."""
    return sum(step.minutes for step in steps)


def minutes_both(steps: Iterable[RouteStep]) -> float:
    """Minutes for both sides: shared steps once, the rest again a little quicker."""
    return sum(step.minutes * (1 if step.shared else 1 + SECOND_SIDE) for step in steps)


def tools(steps: Iterable[RouteStep]) -> list[str]:
    """Every tool once, in the order it is first needed."""
    return list(dict.fromkeys(tool for step in steps for tool in step.tools))


def moved(steps: tuple[RouteStep, ...], step_id: int, by: int) -> tuple[RouteStep, ...]:
    """The steps with one moved *by* places, staying inside the list."""
    order = list(steps)
    here = next(index for index, step in enumerate(order) if step.id == step_id)
    there = min(max(here + by, 0), len(order) - 1)
    order.insert(there, order.pop(here))
    return tuple(order)


def renumbered(steps: Iterable[RouteStep], first_id: int) -> tuple[RouteStep, ...]:
    """The steps with fresh ids from *first_id* on, so that old ticks don't count for them."""
    return tuple(replace(step, id=first_id + index) for index, step in enumerate(steps))


@dataclass(frozen=True)
class StarterRoute:
    """A route to start from."""

    name: str
    note: str
    steps: tuple[RouteStep, ...]


def _step(index: int, row: dict[str, Any]) -> RouteStep:
    return RouteStep(
        id=index,
        text=row["text"],
        minutes=float(row["minutes"]),
        tools=tuple(row.get("tools", ())),
        fasteners=tuple(Fasteners(**item) for item in row.get("fasteners", ())),
        caution=row.get("caution", ""),
        shared=row.get("shared", False),
        opens=row.get("opens", ""),
    )


@cache
def starter_routes() -> tuple[StarterRoute, ...]:
    """The routes that ship with the core."""
    return tuple(
        StarterRoute(row["name"], row["note"], tuple(_step(i, step) for i, step in enumerate(row["steps"], 1)))
        for row in data.load("routes")["route"]
    )


@cache
def cautions() -> dict[str, str]:
    """All cautions by id."""
    return dict(data.load("cautions")["cautions"])
