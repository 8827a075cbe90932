"""What a candidate is judged against."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.bases import Base, find
from cold_arc.core.condition import LampCondition
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.lamps import Housing, Lamp

UNKNOWN_SUPPLY = SupplyFacts()


@dataclass(frozen=True)
class Setting:
    """The lamp as identified and inspected, the car, its market and use; *others*: (name, K) of its other white lamps.

    *ballast_good*: what the ballast test said, None where it was not made.
    """

    lamp: Lamp
    condition: LampCondition | None
    volts: float
    earth_positive: bool
    market: str
    road_use: bool
    supply: SupplyFacts = UNKNOWN_SUPPLY
    others: tuple[tuple[str, float], ...] = ()
    ballast_good: bool | None = None

    @property
    def base(self) -> Base | None:
        """The catalogue entry of the lamp's base."""
        return find(self.lamp.base) if self.lamp.base else None

    @property
    def in_projector(self) -> bool:
        """Whether a shield makes the cut-off, so that the source's place costs light but not the edge."""
        return self.lamp.housing is Housing.PROJECTOR
