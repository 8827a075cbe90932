"""Clocking: turning an LED bulb's collar so that its emitters face 3 and 9 o'clock.

Common practice, no published source: lock the bulb, read where it stopped, turn the collar back by the
same angle. Angles are degrees clockwise from upright, as seen from behind the bulb.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_clock_angle, say_degrees

GOOD_DEG = 5.0
TOLERABLE_DEG = 15.0


@dataclass(frozen=True)
class Clocking:
    """Where a bulb stopped and what to do about it, degrees."""

    stopped_deg: float
    preset_deg: float

    @property
    def finding(self) -> Finding:
        """Judges how far off the emitters stand."""
        off = abs(self.stopped_deg)
        number = f"{say_clock_angle(self.stopped_deg)}"
        limit = f"within {say_degrees(GOOD_DEG)}"
        if off <= GOOD_DEG:
            return Finding(Level.OK, "Emitters face 3 and 9 o'clock.", PRACTICE, number, limit)
        advice = f"Preset the collar {say_clock_angle(self.preset_deg)}, lock it again and read again."
        if off <= TOLERABLE_DEG:
            return Finding(Level.CAUTION, "Emitters are a little off 3 and 9 o'clock.", PRACTICE, number, limit, advice)
        return Finding(
            Level.STOP, "Emitters are well off 3 and 9 o'clock: light goes up.", PRACTICE, number, limit, advice
        )


def preset(stopped_deg: float, turns_alike: int = 1) -> Clocking:
    """The collar preset that brings a bulb which locked at *stopped_deg* upright.

    *turns_alike* is the number of positions in a turn in which the bulb looks the same: 1 with a dip
    shield or a drain hole that must hang down, 2 for two equal faces.

    >>> preset(20).preset_deg
    -20.0
    >>> preset(170, turns_alike=2).preset_deg
    10.0
    """
    period = 360.0 / turns_alike
    off = (stopped_deg + period / 2) % period - period / 2
    if off == -period / 2:
        off = period / 2
    return Clocking(off, -off if off else 0.0)
