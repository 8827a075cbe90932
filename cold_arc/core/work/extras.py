"""Extra work while the car is here: polishing, feeds, small bulbs. Common practice, no published
source.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car import condition
from cold_arc.core.car.condition import UnitCondition


@dataclass(frozen=True)
class Extra:
    """One sort of it: *minutes* of hands, then *cures* minutes without; *when* "before" opening or
    while "open". *fit*: the step at Fit that stands for it. *stays*: only where the lamp stays on
    the car. *wires*: what was proved of the lamp counts no more. *lens*: done by what
    was seen of the lens.
    """

    id: str
    text: str
    when: str
    minutes: float
    cures: float = 0.0
    once: bool = False
    tools: tuple[str, ...] = ()
    consumables: tuple[str, ...] = ()
    caution: str = ""
    fit: str = ""
    stays: bool = False
    wires: bool = False
    lens: bool = False

    def on(self, seen: UnitCondition | None) -> Extra | None:
        """The same as it is done on a unit as it was seen: a lens by its own steps, glass inside
        too and so while it is open; None where there is nothing to do, on clear glass.
        """
        if not self.lens or seen is None:
            return self
        if not seen.haze:
            return None if seen.is_glass else self
        as_seen = replace(
            self,
            text=f"{self.text}: {condition.restoring_words(seen)}",
            minutes=float(condition.restoration_minutes(seen)),
            consumables=condition.restoring_uses(seen),
        )
        on_glass = replace(as_seen, when="open", cures=0.0, tools=(), caution="")
        return on_glass if seen.is_glass else as_seen


@cache
def extras() -> dict[str, Extra]:
    """Every sort by id."""
    listed = []
    for row in data.load("extras")["extra"]:
        several: dict[str, Any] = {
            name: tuple(row.get(name, ())) for name in ("tools", "consumables")
        }
        listed.append(Extra(**(row | several)))
    return {extra.id: extra for extra in listed}


@cache
def fit_minutes() -> dict[str, float]:
    """Minutes to fit one socket, by what is put in."""
    return {name: float(minutes) for name, minutes in data.load("work_times")["fit"].items()}


@cache
def renew_minutes() -> dict[str, float]:
    """Minutes to put in a part new like for like, by what."""
    return {name: float(minutes) for name, minutes in data.load("work_times")["renew"].items()}


def cure_minutes() -> float:
    """What the new seal of an opened lamp takes to cure, with nobody's hands."""
    return float(data.load("work_times")["cure"]["seal"])


@cache
def stage_minutes() -> dict[str, float]:
    """Minutes of proving, aiming and verifying, each side."""
    return {name: float(minutes) for name, minutes in data.load("work_times")["stage"].items()}
