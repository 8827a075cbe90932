"""Dial: the bulb from behind with its clocking. Angles clockwise from upright, as the eye sees
them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.findings import Finding
from cold_arc.core.work.clocking import Clocking

RADIUS = 80.0
Tick = tuple[float, float, float, float, bool]


@dataclass(frozen=True)
class Dial:
    """Where the bulb stopped and where to preset the collar, as pointers; None before it was
    read.
    """

    stopped_deg: float | None
    preset_deg: float | None
    finding: Finding | None
    ticks: tuple[Tick, ...]

    def pointer(self, degrees: float, radius: float = 64.0) -> tuple[float, float]:
        """The end of a pointer at *degrees*."""
        angle = math.radians(degrees)
        return round(radius * math.sin(angle), 2), round(-radius * math.cos(angle), 2)


def build_dial(clocking: Clocking | None) -> Dial:
    """The dial, with its hour ticks."""
    ticks = tuple(_tick(hour) for hour in range(12))
    if clocking is None:
        return Dial(None, None, None, ticks)
    return Dial(clocking.stopped_deg, clocking.preset_deg, clocking.finding, ticks)


def _tick(hour: int) -> Tick:
    """The tick at an hour: its ends, and whether it is a quarter's, which is longer."""
    angle, quarter = math.radians(30 * hour), hour % 3 == 0
    sin, cos = math.sin(angle), -math.cos(angle)
    inner = RADIUS - (12 if quarter else 6)
    across, up = round(inner * sin, 2), round(inner * cos, 2)
    return across, up, round(RADIUS * sin, 2), round(RADIUS * cos, 2), quarter
