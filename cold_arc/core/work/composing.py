"""The whole car's plan: the ways in to all its lamps as one, what they share opened once, closed in
the exact reverse.

A way in is a path through the parts of the car: each step stands behind the parts it names, or the
step before it. Steps that open the same part are one step of the whole; the order keeps every path.
Where two ways in would open shared parts in opposite orders, the later does what is at odds for
itself. Common practice, no published source, for the quicker second side and the spares.
"""

from __future__ import annotations

import heapq
import math
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from graphlib import TopologicalSorter

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.work.access import (
    BATTERY,
    BONNET,
    PLUGGED,
    SECOND_SIDE,
    RouteStep,
    in_order,
    stands_behind,
    tools,
)
from cold_arc.core.work.learning import part_of

# Of fasteners that break, this share is kept ready as spares.
SPARE_SHARE = 0.2
BREAKING = ("push pin", "clip", "rivet")
Ways = Mapping[UnitKey, tuple[RouteStep, ...]]


@dataclass(frozen=True)
class OpeningPlace:
    """What a step opens and where: on the whole car (no side), on one side, or at one lamp only
    (*unit*).
    """

    what: str
    side: Side | None = None
    unit: str = ""


@dataclass(frozen=True)
class Opening:
    """One step of the whole: *units* are the lamps behind it, each with its *own* step, of which
    the longest is *step*; *minutes* count out and back, less on a second side."""

    step: RouteStep
    place: OpeningPlace
    units: tuple[UnitKey, ...]
    minutes: float
    own: tuple[RouteStep, ...]

    @property
    def ids(self) -> dict[UnitKey, int]:
        """The id it has on the way in to each lamp."""
        return {key: step.id for key, step in zip(self.units, self.own, strict=True)}

    @property
    def is_battery(self) -> bool:
        """Whether it takes the battery off."""
        return self.step.opens == BATTERY

    @property
    def is_bonnet(self) -> bool:
        """Whether it opens what the battery stands under in most cars."""
        return self.step.opens == BONNET

    @property
    def owners(self) -> tuple[UnitKey, ...]:
        """The lamps whose own step is the one that stands for all."""
        return tuple(key for key, number in self.ids.items() if number == self.step.id)


@dataclass(frozen=True)
class CarPlan:
    """The steps in the order they are opened; *one_by_one*: minutes if each lamp of each side were
    done by itself.
    """

    openings: tuple[Opening, ...]
    one_by_one: float

    @property
    def closing(self) -> tuple[Opening, ...]:
        """What comes back, in the exact reverse; but the battery on last of all, and then what it
        stands under.
        """
        coming = [opening for opening in self.openings[::-1] if opening.step.comes_back]
        return tuple(sorted(coming, key=lambda each: (each.is_bonnet, each.is_battery)))

    @property
    def plugged_in(self) -> tuple[Opening, ...]:
        """What is plugged in again before anything is proved, in the order it comes back."""
        return tuple(each for each in self.closing if each.step.kind == PLUGGED)

    @property
    def covers(self) -> tuple[Opening, ...]:
        """What is closed once all is proved, in the order it comes back, but the bonnet."""
        shut = (each for each in self.closing if each.step.kind != PLUGGED)
        return tuple(each for each in shut if not each.is_bonnet)

    @property
    def bonnet(self) -> tuple[Opening, ...]:
        """The bonnet, which is shut last of all."""
        return tuple(each for each in self.closing if each.is_bonnet)

    @property
    def units(self) -> set[UnitKey]:
        """The lamps it opens the way to."""
        return {key for opening in self.openings for key in opening.units}

    @property
    def minutes(self) -> float:
        """All of it, out and back, one person."""
        return sum(opening.minutes for opening in self.openings)

    @property
    def tools(self) -> list[str]:
        """Every tool once, in the order it is first needed."""
        return tools(opening.step for opening in self.openings)

    @property
    def people(self) -> int:
        """How many people its heaviest step takes."""
        return max((opening.step.people for opening in self.openings), default=1)

    @property
    def risk(self) -> int:
        """The worst risk of any step, as in access.RISKS."""
        return max((opening.step.risk for opening in self.openings), default=0)

    @property
    def plugs(self) -> list[str]:
        """What is unplugged before something moves, in order."""
        return [name for opening in self.openings for name in opening.step.unplug]

    @property
    def fasteners(self) -> dict[str, int]:
        """How many of each kind come out."""
        counted: Counter[str] = Counter()
        for opening in self.openings:
            for group in opening.step.fasteners:
                counted[group.kind] += group.most or group.count
        return dict(counted)

    @property
    def spares(self) -> dict[str, int]:
        """How many of each kind that breaks to have ready: a fifth, rounded up."""
        return self.spares_with({})

    def spares_with(self, shares: Mapping[str, Callable[[float], float]]) -> dict[str, int]:
        """The same where the shop knows better for some parts: what share of their fasteners
        breaks.
        """
        wanted: dict[str, float] = {}
        for opening in self.openings:
            known = shares.get(part_of(opening.step))
            share = known(SPARE_SHARE) if known else SPARE_SHARE
            for group in opening.step.fasteners:
                if any(word in group.kind for word in BREAKING):
                    wanted[group.kind] = (
                        wanted.get(group.kind, 0.0) + (group.most or group.count) * share
                    )
        return {kind: math.ceil(round(count, 6)) for kind, count in wanted.items()}


Before = dict[OpeningPlace, set[OpeningPlace]]


def compose(ways: Ways) -> CarPlan:
    """One plan of the ways in, by lamp.

    >>> cap = RouteStep(2, "Cap off", 4)
    >>> bonnet = RouteStep(1, "Bonnet up", 1, shared=True)
    >>> compose({UnitKey("headlamp", side): (bonnet, cap) for side in Side}).minutes
    8.0
    """
    return CarPlan(
        tuple(_openings(ways)), sum(_minutes({key: steps}) for key, steps in ways.items())
    )


def added_by(ways: Ways, tried: Ways) -> float:
    """Minutes the ways *tried*, each to its own lamp, add to the car's plan, given the ways in to
    all the others.

    >>> door = RouteStep(1, "Door", 4, opens="liner door")
    >>> ways = {UnitKey("fog", Side.LEFT): (door,)}
    >>> added_by(ways, {UnitKey("headlamp", Side.LEFT): (door, RouteStep(2, "Cap", 2))})
    2.0
    """
    others = {key: way for key, way in ways.items() if key not in tried}
    return _minutes({**others, **tried}) - _minutes(others)


def _minutes(ways: Ways) -> float:
    return _minutes_of(tuple((key, tuple(steps)) for key, steps in ways.items()))


@lru_cache(maxsize=1024)
def _minutes_of(ways: tuple[tuple[UnitKey, tuple[RouteStep, ...]], ...]) -> float:
    """Minutes of ways in, by lamp; kept: a page tries dozens on a car, and the next page again."""
    return float(sum(opening.minutes for opening in _openings(dict(ways))))


def _openings(written: Ways) -> Iterator[Opening]:
    ways = {key: in_order(steps) for key, steps in written.items()}
    chains, before = _chains(ways)
    behind: dict[OpeningPlace, dict[UnitKey, RouteStep]] = {}
    for key, chain in chains.items():
        for place, step in zip(chain, ways[key], strict=True):
            behind.setdefault(place, {})[key] = step
    seen: set[tuple[str, str]] = set()
    for place in _ordered(before, list(behind)):
        step = max(behind[place].values(), key=lambda each: each.minutes)
        again = place.side is not None and (place.what, place.unit) in seen
        seen.add((place.what, place.unit))
        minutes = step.minutes * (SECOND_SIDE if again else 1.0)
        yield Opening(step, place, tuple(behind[place]), minutes, tuple(behind[place].values()))


def _chains(ways: Ways) -> tuple[dict[UnitKey, list[OpeningPlace]], Before]:
    """Each way in as places, shared ones the same, and what must be open before each; a step that
    contradicts those before it is its lamp's alone."""
    chains: dict[UnitKey, list[OpeningPlace]] = {}
    before: Before = {}
    for key, steps in ways.items():
        chain = chains[key] = []
        for number, step in enumerate(steps):
            behind = [chain[before_it] for before_it in stands_behind(steps, number)]
            needed = set(chain).union(*(_needed(before, place) for place in behind))
            places = _places(key, number, step)
            place = next(candidate for candidate in places if candidate not in needed)
            before.setdefault(place, set()).update(behind)
            chain.append(place)
    return chains, before


def _needed(before: Before, place: OpeningPlace) -> set[OpeningPlace]:
    """A place and everything that must be open before it."""
    needed, waiting = {place}, [place]
    while waiting:
        new = before[waiting.pop()] - needed
        needed |= new
        waiting += new
    return needed


def _places(key: UnitKey, number: int, step: RouteStep) -> Iterator[OpeningPlace]:
    """Where a step may stand, the widest first; the last is no other's."""
    own = f"{number} {step.text}"
    if step.shared:
        yield from (OpeningPlace(step.opens or step.text), OpeningPlace(own, None, key.name))
    elif step.opens:
        yield OpeningPlace(step.opens, key.side)
    yield OpeningPlace(own, key.side, key.name)


def _ordered(before: Before, seen: list[OpeningPlace]) -> Iterator[OpeningPlace]:
    """Every place after what must be open before it: the whole car's first, then a side after the
    other, as planned.
    """
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
