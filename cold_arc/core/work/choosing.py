"""Which way in to propose: of those known for a car, the one that costs it least time, or least
risk, and why.

Common practice, no published source: what a way costs is what it adds to the whole car's plan.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.units import say_minutes
from cold_arc.core.work.access import RISKS, RouteStep, tools

PREFERS = {"time": "The least time", "risk": "The least risk"}


@dataclass(frozen=True)
class Cost:
    """What a way in costs: *adds* is what the car's plan grows by, minutes; *risks* the sum over
    its steps.
    """

    name: str
    adds: float
    fasteners: int
    tools: int
    people: int
    worst: int
    risks: int

    @property
    def risk(self) -> str:
        """Its worst risk in a word."""
        return RISKS[self.worst]


def cost(name: str, steps: Sequence[RouteStep], adds: float) -> Cost:
    """The cost of a way in that *adds* so many minutes."""
    return Cost(
        name,
        adds,
        sum(group.count for step in steps for group in step.fasteners),
        len(tools(steps)),
        max((step.people for step in steps), default=1),
        max((step.risk for step in steps), default=0),
        sum(step.risk for step in steps),
    )


def propose(costs: Sequence[Cost], prefers: str) -> tuple[int, str] | None:
    r"""Which of the ways to propose, and the reason in words; None where there is nothing to choose
    between.

    >>> quick, safe = Cost("Bumper", 5, 18, 4, 2, 2, 3), Cost("Door", 9, 4, 2, 1, 1, 1)
    >>> propose([quick, safe], "time")
    (0, 'The least time: 5\xa0min, 4\xa0min less than Door, but of more risk (some, against low).')
    >>> propose([quick, safe], "risk")
    (1, 'The least risk: low, against some of Bumper. It takes 4\xa0min longer.')
    """
    if len(costs) < 2:
        return None
    by_time = sorted(
        range(len(costs)),
        key=lambda name: (costs[name].adds, costs[name].risks, costs[name].fasteners),
    )
    by_risk = sorted(
        range(len(costs)), key=lambda name: (costs[name].worst, costs[name].risks, costs[name].adds)
    )
    order = by_time if prefers == "time" else by_risk
    best, other = costs[order[0]], costs[order[1]]
    return order[0], (_time_reason if prefers == "time" else _risk_reason)(best, other)


def _time_reason(best: Cost, other: Cost) -> str:
    less = other.adds - best.adds
    if less < 0.5:
        return (
            f"As quick as {other.name}, "
            f"{'with less risk' if best.risks < other.risks else 'with fewer fasteners'}."
        )
    words = f"The least time: {say_minutes(best.adds)}, {say_minutes(less)} less than {other.name}"
    dearer = (
        f", but of more risk ({best.risk}, against {other.risk})"
        if best.worst > other.worst
        else ""
    )
    return f"{words}{dearer}."


def _risk_reason(best: Cost, other: Cost) -> str:
    longer = best.adds - other.adds
    against = (
        f"{best.risk}, against {other.risk} of {other.name}"
        if best.worst < other.worst
        else best.risk
    )
    fewer = "" if best.worst < other.worst else f", in fewer risky steps than {other.name}"
    later = f" It takes {say_minutes(longer)} longer." if longer >= 0.5 else ""
    return f"The least risk: {against}{fewer}.{later}"
