"""Clocking: turning an LED bulb's collar so that its emitters face 3 and 9 o'clock.

Common practice, no published source: lock the bulb, read where it stopped, turn the collar back by
the same angle. Angles are degrees clockwise from upright, as seen from behind the bulb.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_clock_angle, worded

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
        number = worded("{locked_at}", locked_at=say_clock_angle(self.stopped_deg))
        limit = worded("within {good_deg:degrees}", good_deg=GOOD_DEG)
        if off <= GOOD_DEG:
            return Finding(
                "clock-faces", Level.OK, "Emitters face 3 and 9 o'clock.", PRACTICE, number, limit
            )
        advice = worded(
            "Preset the collar {preset_deg}, lock it again and read again.",
            preset_deg=say_clock_angle(self.preset_deg),
        )
        if off <= TOLERABLE_DEG:
            return Finding(
                "clock-off",
                Level.CAUTION,
                "Emitters are a little off 3 and 9 o'clock.",
                PRACTICE,
                number,
                limit,
                advice,
            )
        return Finding(
            "clock-far-off",
            Level.STOP,
            "Emitters are well off 3 and 9 o'clock: light goes up.",
            PRACTICE,
            number,
            limit,
            advice,
        )


def second_reading(first: Clocking, now: Clocking) -> Finding | None:
    """What a reading after the preset says of it: None where it came out as it should, or the first
    was good.

    >>> second_reading(preset(20), preset(-2)) is None
    True
    >>> second_reading(preset(20), preset(40)).text
    'The collar was turned the wrong way.'
    """
    if abs(first.stopped_deg) <= GOOD_DEG or abs(now.stopped_deg) <= GOOD_DEG:
        return None
    number = worded(
        "{first}, then {second}",
        first=say_clock_angle(first.stopped_deg),
        second=say_clock_angle(now.stopped_deg),
    )
    if abs(now.stopped_deg - first.stopped_deg) <= GOOD_DEG:
        advice = "Turn the collar by the preset, tighten its screw, lock and read again."
        return Finding(
            "collar-slips",
            Level.CAUTION,
            "The collar was not preset, or slips on its screw.",
            PRACTICE,
            number,
            advice=advice,
        )
    if abs(now.stopped_deg - 2 * first.stopped_deg) <= 2 * GOOD_DEG:
        advice = "Turn it back by twice what it was turned, the other way from where it stopped."
        return Finding(
            "collar-wrong-way",
            Level.CAUTION,
            "The collar was turned the wrong way.",
            PRACTICE,
            number,
            advice=advice,
        )
    advice = "Read once more: does it lock at the same place each time?"
    return Finding(
        "clock-not-as-preset",
        Level.CAUTION,
        "The second reading is not what the preset should give.",
        PRACTICE,
        number,
        advice=advice,
    )


def preset(stopped_deg: float, turns_alike: int = 1) -> Clocking:
    """The collar preset that brings a bulb which locked at *stopped_deg* upright.

    *turns_alike* is the number of positions in a turn in which the bulb looks the same: 1 with a
    dip shield or a drain hole that must hang down, 2 for two equal faces.

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
