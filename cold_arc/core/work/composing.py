"""The whole car's plan: the ways in to all its lamps as one, what they share opened once, closed in the exact reverse.

A way in is a chain: each step stands before the next. Steps that open the same part of the car are one step of the
whole; the order keeps every chain. Where two ways in would open shared parts in opposite orders, the later does
what is at odds for itself. Common practice, no published source, for the quicker second side and the spares.
"""

from __future__ import annotations

import heapq
import math
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from graphlib import TopologicalSorter

from cold_arc.core.car.front import UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.work.access import SECOND_SIDE, RouteStep, tools

# Of fasteners that break, this share is kept ready as spares.
SPARE_SHARE = 0.2
BREAKING = ("push pin", "clip", "rivet")
Ways = Mapping[UnitKey, tuple[RouteStep, ...]]


@dataclass(frozen=True)
class Place:
    """What a step opens and where: on the whole car (no side), on one side, or at one lamp only (*unit*)."""

    what: str
    side: Side | None = None
    unit: str = ""


@dataclass(frozen=True)
class Opening:
    """One step of the whole: *units* are the lamps behind it, *minutes* count out and back, less on a second side."""

    step: RouteStep
    place: Place
    units: tuple[UnitKey, ...]
    minutes: float


@dataclass(frozen=True)
class CarPlan:
    """The steps in the order they are opened; *one_by_one*: minutes if each lamp were done by itself."""

    openings: tuple[Opening, ...]
    one_by_one: float

    @property
    def closing(self) -> tuple[Opening, ...]:
        """The exact reverse."""
        return self.openings[::-1]

    @property
    def minutes(self) -> float:
        """All of it, out and back, one person."""
        return sum(it.minutes for it in self.openings)

    @property
    def tools(self) -> list[str]:
        """Every tool once, in the order it is first needed."""
        return tools(it.step for it in self.openings)

    @property
    def fasteners(self) -> dict[str, int]:
        """How many of each kind come out."""
        counted: Counter[str] = Counter()
        for it in self.openings:
            for group in it.step.fasteners:
                counted[group.kind] += group.count
        return dict(counted)

    @property
    def spares(self) -> dict[str, int]:
        """How many of each kind that breaks to have ready: a fifth, rounded up."""
        breaking = {kind: count for kind, count in self.fasteners.items() if any(it in kind for it in BREAKING)}
        return {kind: math.ceil(count * SPARE_SHARE) for kind, count in breaking.items()}


Before = dict[Place, set[Place]]


def compose(ways: Ways) -> CarPlan:
    """One plan of the ways in, by lamp.

    >>> cap = RouteStep(2, "Cap off", 4)
    >>> bonnet = RouteStep(1, "Bonnet up", 1, shared=True)
    >>> compose({UnitKey("headlamp", side): (bonnet, cap) for side in Side}).minutes
    8.0
    """
    names = dict.fromkeys(key.name for key in ways)
    alone = [{key: steps for key, steps in ways.items() if key.name == name} for name in names]
    return CarPlan(tuple(_openings(ways)), sum(map(_minutes, alone)))


def added(ways: Ways, units: Collection[UnitKey], tried: Iterable[tuple[RouteStep, ...]]) -> list[float]:
    """Minutes each of the ways *tried* to some lamps adds to the car's plan, given the ways in to all the others.

    >>> door = RouteStep(1, "Door", 4, opens="liner door")
    >>> added({UnitKey("fog", Side.LEFT): (door,)}, [UnitKey("headlamp", Side.LEFT)], [(door, RouteStep(2, "Cap", 2))])
    [2.0]
    """
    others = {key: way for key, way in ways.items() if key not in units}
    without = _minutes(others)
    return [_minutes(others | dict.fromkeys(units, steps)) - without for steps in tried]


def _minutes(ways: Ways) -> float:
    return float(sum(it.minutes for it in _openings(ways)))


def _openings(ways: Ways) -> Iterator[Opening]:
    chains, before = _chains(ways)
    behind: dict[Place, dict[UnitKey, RouteStep]] = {}
    for key, chain in chains.items():
        for place, step in zip(chain, ways[key], strict=True):
            behind.setdefault(place, {})[key] = step
    seen: set[tuple[str, str]] = set()
    for place in _ordered(before, list(behind)):
        step = max(behind[place].values(), key=lambda it: it.minutes)
        again = place.side is not None and (place.what, place.unit) in seen
        seen.add((place.what, place.unit))
        yield Opening(step, place, tuple(behind[place]), step.minutes * (SECOND_SIDE if again else 1.0))


def _chains(ways: Ways) -> tuple[dict[UnitKey, list[Place]], Before]:
    """Each way in as places, shared ones the same, and what must be open before each; a step that contradicts those
    before it is its lamp's alone."""
    chains: dict[UnitKey, list[Place]] = {}
    before: Before = {}
    for key, steps in ways.items():
        chain: list[Place] = []
        for number, step in enumerate(steps):
            needed = _needed(before, chain[-1]) if chain else set()
            place = next(it for it in _places(key, number, step) if it not in needed)
            before.setdefault(place, set()).update(chain[-1:])
            chain.append(place)
        chains[key] = chain
    return chains, before


def _needed(before: Before, place: Place) -> set[Place]:
    """A place and everything that must be open before it."""
    needed, waiting = {place}, [place]
    while waiting:
        new = before[waiting.pop()] - needed
        needed |= new
        waiting += new
    return needed


def _places(key: UnitKey, number: int, step: RouteStep) -> Iterator[Place]:
    """Where a step may stand, the widest first; the last is no other's."""
    own = f"{number} {step.text}"
    if step.shared:
        yield from (Place(step.opens or step.text), Place(own, None, key.name))
    elif step.opens:
        yield Place(step.opens, key.side)
    yield Place(own, key.side, key.name)


def _ordered(before: Before, seen: list[Place]) -> Iterator[Place]:
    """Every place after what must be open before it: the whole car's first, then a side after the other, as planned."""
    sides = (None, *Side)
    rank = {place: (sides.index(place.side), number) for number, place in enumerate(seen)}
    order = TopologicalSorter(before)
    order.prepare()
    ready = [(rank[place], place) for place in order.get_ready()]
    heapq.heapify(ready)
    while ready:
        _, place = heapq.heappop(ready)
        yield place
        order.done(place)
        for freed in order.get_ready():
            heapq.heappush(ready, (rank[freed], freed))
