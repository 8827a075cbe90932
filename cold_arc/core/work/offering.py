"""The ways in that may be taken to a lamp, each with what it would add to the car's plan, and which
of those known for the car to propose.

Ways of one side each belong together: as a pair they stand against those that do for both sides.
Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.work.access import RouteStep, minutes_one_side
from cold_arc.core.work.choosing import Cost, cost, propose
from cold_arc.core.work.composing import Ways, added_by
from cold_arc.core.work.learning import Learnt, with_learnt

PAIR = "pair"


@dataclass(frozen=True)
class KnownWay:
    """A way in that may be offered: its value in a form, what is said of it, the one side it is for
    ("": both).
    """

    value: str
    name: str
    steps: tuple[RouteStep, ...]
    note: str = ""
    side: str = ""


@dataclass(frozen=True)
class Offer:
    """A known way and what it would cost the car's plan; *why* it is proposed, if it is."""

    way: KnownWay
    cost: Cost
    why: str = ""

    @property
    def one_side(self) -> float:
        """Minutes for one side alone."""
        return minutes_one_side(self.way.steps)


@dataclass(frozen=True)
class Ground:
    """What ways in are weighed on: the lamps they are for, the car's other ways in, what the shop
    learnt, what it prefers ("time" or "risk").
    """

    units: Sequence[UnitKey]
    ways: Ways
    learnt: Mapping[str, Learnt]
    prefers: str

    def offer(self, way: KnownWay) -> Offer:
        """A way in with what it would add."""
        mine = [key for key in self.units if way.side in ("", key.side.value)]
        return Offer(way, cost(way.name, way.steps, self._adds(dict.fromkeys(mine, way.steps))))

    def _adds(self, tried: Ways) -> float:
        """Minutes some ways, each to its own lamp, add to the car's plan, as learnt."""
        planned, new = (
            {key: with_learnt(steps, self.learnt) for key, steps in ways.items()}
            for ways in (self.ways, tried)
        )
        return added_by(planned, new)

    def pair(self, offers: Sequence[Offer]) -> Offer | None:
        """The best way of each side as one; None where a side has none of its own."""
        best = {key: self._best(offers, key.side.value) for key in self.units}
        sides = {key: offer.way for key, offer in best.items() if offer}
        return self._as_one(sides) if len(sides) == len(self.units) > 1 else None

    def _as_one(self, sides: Mapping[UnitKey, KnownWay]) -> Offer:
        """The ways of two sides as one."""
        name = "; ".join(f"{way.side}: {way.name}" for way in sides.values()).capitalize()
        value = "-".join([PAIR, *(way.value.partition("-")[2] for way in sides.values())])
        steps = tuple(step for way in sides.values() for step in way.steps)
        adds = self._adds({key: way.steps for key, way in sides.items()})
        together = KnownWay(value, name, steps, "A way of its own for each side.")
        return Offer(together, cost(name, steps, adds))

    def _best(self, offers: Sequence[Offer], side: str) -> Offer | None:
        """The one of a side's own that would be proposed; the only one of one."""
        own = [offer for offer in offers if offer.way.side == side]
        proposed = propose([offer.cost for offer in own], self.prefers)
        return own[proposed[0] if proposed else 0] if own else None

    def proposed(self, known: Sequence[Offer]) -> list[Offer]:
        """The known ways, the proposed first with its reason, ways of one side after those for all
        lamps in hand.
        """
        alone = len(self.units) < 2
        whole = [offer for offer in known if alone or not offer.way.side]
        one_sided = [offer for offer in known if offer not in whole]
        if pair := self.pair(one_sided):
            whole.append(pair)
        if proposed := propose([offer.cost for offer in whole], self.prefers):
            best = whole.pop(proposed[0])
            whole.insert(0, replace(best, why=proposed[1]))
        return whole + one_sided
