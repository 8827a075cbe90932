"""The uncertainty of a reading and of a gain, after the GUM (JCGM 100, from memory): parts in
quadrature, k = 2.

Every part is a relative standard uncertainty of the candela worked out from a reading. A limit of
error *a* counts as a rectangular distribution, a/√3; a display's step q as q/(2√3); the mean of n
repeated readings as s/√n. In a gain what both readings share falls away: the meter's calibration,
and the walls' distance where the car was not moved.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cache

from scipy.special import stdtrit

from cold_arc.core.car.lamps import Function
from cold_arc.core.light import photometry
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.references import PRACTICE, Sources, cite

GUM = cite("jcgm-100")
COVERAGE = 2.0
# Standard uncertainties by hand. Common practice, no published source.
DISTANCE_M = 0.01
PLACE_M = 0.004  # of a meter's head on the wall
SUPPLY_V = 0.05
UNSTEADY = 0.01  # a reading's own, a share
SETTLING = 0.005  # what is left of a warm-up after it has settled, a share
AMBIENT_LIMIT = 0.2  # the ambient light's own change, a limit, a share of it
# How far a filament's own exponent may lie from 3.4 (limit; handbooks give 3.2 to 3.6, from
# memory).
EXPONENT_LIMIT = 0.2
# How steeply the logarithm of candela falls off at each place, per degree across and up: about the
# steepest of the beam model's housings (own). The brightest point is flat, if curved.
FALL_OFF = {
    "low": {"peak": 0.1, "edge": 3.0, "below": 0.3, "left": 3.7, "right": 0.9, "stray": 0.2},
    "high": {"peak": 0.1, "edge": 0.2, "below": 1.2, "left": 0.5, "right": 0.5, "stray": 1.3},
    "fog": {"peak": 0.1, "edge": 1.5, "below": 0.4, "left": 1.5, "right": 1.5, "stray": 0.3},
}
USUAL_FALL_OFF = 1.0
# The least a reading of no light at all is taken for, lx: a share of nothing means nothing.
LEAST_LX = 1e-3


@dataclass(frozen=True)
class BudgetPart:
    """One part of a budget: *share*, its relative standard uncertainty; *shared*: the same at every
    place of a beam.
    """

    id: str
    text: str
    share: float
    advice: str
    sources: Sources
    shared: bool = False


@dataclass(frozen=True)
class Budget:
    """All parts, the largest first."""

    parts: tuple[BudgetPart, ...]

    @property
    def standard(self) -> float:
        """The combined relative standard uncertainty."""
        return math.hypot(*(part.share for part in self.parts))

    @property
    def expanded(self) -> float:
        """k = 2 times that: about 95 %."""
        return COVERAGE * self.standard

    @property
    def largest(self) -> BudgetPart | None:
        """What to improve first."""
        return self.parts[0] if self.parts else None

    def of(self, shared: bool) -> float:
        """The parts in quadrature that are shared by every place, or those that are each place's
        own.
        """
        return math.hypot(*(part.share for part in self.parts if part.shared is shared))


EMPTY = Budget(())


def budget(*parts: BudgetPart | None) -> Budget:
    """A budget of the parts that matter, the largest first."""
    counted = [part for part in parts if part is not None and part.share > 0]
    return Budget(tuple(sorted(counted, key=lambda part: -part.share)))


def fall_off(reading: WallReading, function: Function) -> float:
    """How steep the light is where a reading was taken, as a share per degree."""
    return FALL_OFF.get(function, FALL_OFF["low"]).get(reading.point, USUAL_FALL_OFF)


def _calibration(reading: WallReading) -> BudgetPart:
    meter = reading.meter_class
    return BudgetPart(
        "calibration",
        "the meter's own error",
        meter.total / math.sqrt(3),
        "Take a meter of a better class, or have it calibrated.",
        meter.sources,
        shared=True,
    )


def display_step_lx(reading: WallReading) -> float:
    """The last digit of the display a reading was taken from, lx."""
    return reading.meter_class.digit_lx * reading.range_factor


def _display(reading: WallReading) -> BudgetPart:
    step = display_step_lx(reading)
    share = step / (2 * math.sqrt(3)) / max(reading.net_lux, LEAST_LX)
    return BudgetPart("display", "the display's step", min(share, 1.0), "Take a finer range.", GUM)


@cache
def few_readings(count: int) -> float:
    """How much wider the mean of so few readings must be told for twice its doubt to hold 95.45 %:
    Student's t with count − 1 degrees of freedom over 2 (JCGM 100 G.3, from memory).

    >>> [round(few_readings(count), 2) for count in (2, 3, 5, 20)]
    [6.98, 2.26, 1.43, 1.07]
    """
    return float(stdtrit(count - 1, 0.97725)) / 2


def _repeats(reading: WallReading) -> BudgetPart:
    if reading.spread is None:
        text, advice = "one reading, taken once", "Read it three times."
        return BudgetPart("repeats", text, UNSTEADY, advice, PRACTICE)
    few = few_readings(reading.repeats)
    share = math.hypot(few * reading.spread / math.sqrt(reading.repeats), SETTLING)
    return BudgetPart(
        "repeats", f"the spread of {reading.repeats} readings", share, "Read it more often.", GUM
    )


def _ambient(reading: WallReading) -> BudgetPart | None:
    if not reading.ambient_lx:
        return None
    step = reading.meter_class.digit_lx
    doubt = math.hypot(AMBIENT_LIMIT * reading.ambient_lx / math.sqrt(3), step / (2 * math.sqrt(3)))
    share = doubt / max(reading.net_lux, LEAST_LX)
    return BudgetPart(
        "ambient", "the room's own light", min(share, 1.0), "Darken the bay.", PRACTICE
    )


def _distance(reading: WallReading) -> BudgetPart:
    share = 2 * DISTANCE_M / reading.distance_m
    text = "the distance to the wall"
    return BudgetPart(
        "distance",
        text,
        share,
        "Measure it to the centimetre.",
        cite("handbook inverse-square law"),
        True,
    )


def _place(reading: WallReading, function: Function) -> BudgetPart:
    off_deg = math.degrees(math.atan(PLACE_M / reading.distance_m))
    share = fall_off(reading, function) * off_deg
    return BudgetPart(
        "place",
        "where the head was held",
        share,
        "Mark the places on the wall, or step back.",
        PRACTICE,
    )


def _supply(reading: WallReading, follows: bool) -> BudgetPart | None:
    if not follows:
        return None
    share = photometry.FLUX_EXPONENT * SUPPLY_V / reading.volts
    text = "the supply at the lamp"
    return BudgetPart(
        "supply",
        text,
        share,
        "Hold it with a charger and read it at the lamp.",
        cite("handbook flux ∝ V^3.4"),
        True,
    )


def _brought(before: WallReading, after: WallReading, before_follows: bool) -> BudgetPart | None:
    """What is doubtful of bringing the before reading to the after's supply: the law's exponent."""
    if not before_follows:
        return None
    share = abs(math.log(after.volts / before.volts)) * EXPONENT_LIMIT / math.sqrt(3)
    text = "the correction for the supply"
    return BudgetPart(
        "exponent", text, share, "Read both at one supply.", cite("handbook flux ∝ V^3.4"), True
    )


def of_reading(
    reading: WallReading, follows_supply: bool, function: Function = Function.LOW
) -> Budget:
    """The budget of the candela of one reading.

    >>> of_reading(WallReading("peak", 410, 10.0, 13.2, meter="a"), False).largest.id
    'calibration'
    """
    return budget(
        _calibration(reading),
        _display(reading),
        _repeats(reading),
        _ambient(reading),
        _distance(reading),
        _place(reading, function),
        _supply(reading, follows_supply),
    )


def _both(one: BudgetPart | None, other: BudgetPart | None) -> BudgetPart | None:
    """The same part of both readings, each by itself."""
    if one is None or other is None:
        return one or other
    greater = max(one, other, key=lambda part: part.share)
    return replace(greater, share=math.hypot(one.share, other.share))


def _meter_of(before: WallReading, after: WallReading, colour_changed: bool) -> list[BudgetPart]:
    """What is left of the meter's error in a gain: with the same meter its calibration falls
    away.
    """
    meter, sources = after.meter_class, after.meter_class.sources
    if before.meter != after.meter:
        both = _both(_calibration(before), _calibration(after))
        assert both is not None
        return [
            replace(
                both, text="two meters, each with its own error", advice="Use one meter for both."
            )
        ]
    left = [
        BudgetPart(
            "linearity",
            "the meter's linearity",
            meter.linearity / math.sqrt(3),
            "Use one range.",
            sources,
        )
    ]
    if colour_changed:
        advice = "A meter with a closer match to the eye."
        text = "another colour than the meter was calibrated for"
        left.append(
            BudgetPart(
                "spectral", text, meter.spectral / math.sqrt(3), advice, sources, shared=True
            )
        )
    return left


def of_gain(
    before: WallReading,
    after: WallReading,
    follows: tuple[bool, bool],
    function: Function = Function.LOW,
    colour_changed: bool = True,
    head_share: float = 0.0,
) -> Budget:
    """The budget of after over before. *follows*: whether each source's light follows the supply;
    *head_share*: what is doubtful of a correction for the head."""
    same_place = (
        before.distance_m == after.distance_m and before.wall == after.wall and bool(before.wall)
    )
    advice = "Read both at one distance."
    return budget(
        *_meter_of(before, after, colour_changed),
        _both(_display(before), _display(after)),
        _both(_repeats(before), _repeats(after)),
        _both(_ambient(before), _ambient(after)),
        None if same_place else _both(_distance(before), _distance(after)),
        _both(_place(before, function), _place(after, function)),
        _both(_supply(before, follows[0]), _supply(after, follows[1])),
        _brought(before, after, follows[0]),
        BudgetPart(
            "head", "what the head averages, corrected", head_share, advice, cite("beam-model")
        ),
    )
