"""Dial: the bulb from behind with its clocking. Angles clockwise from upright, as the eye sees
them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.findings import Finding
from cold_arc.core.work.clocking import Clocking

RADIUS = 80.0


@dataclass(frozen=True)
class Dial:
    """Where the bulb stopped and where to preset the collar, as pointers; None before it was
    read.
    """

    stopped_deg: float | None
    preset_deg: float | None
    finding: Finding | None
    ticks: tuple[tuple[float, float, float, float, bool], ...]

    def pointer(self, degrees: float, radius: float = 64.0) -> tuple[float, float]:
        """The end of a pointer at *degrees*."""
        angle = math.radians(degrees)
        return round(radius * math.sin(angle), 2), round(-radius * math.cos(angle), 2)


def build_dial(clocking: Clocking | None) -> Dial:
    """The dial, with its hour ticks."""
    ticks = []
    for hour in range(12):
        angle = math.radians(30 * hour)
        inner = RADIUS - (12 if hour % 3 == 0 else 6)
        sin, cos = math.sin(angle), -math.cos(angle)
        ends = (inner * sin, inner * cos, RADIUS * sin, RADIUS * cos)
        ticks.append((*(round(end, 2) for end in ends), hour % 3 == 0))
    if clocking is None:
        return Dial(None, None, None, tuple(ticks))  # type: ignore[arg-type]
    return Dial(clocking.stopped_deg, clocking.preset_deg, clocking.finding, tuple(ticks))  # type: ignore[arg-type]
