"""Lux on a wall to candela from a lamp, and what supply voltage does to a filament.

Sources: photometric inverse-square and cosine laws (lighting handbooks); filament exponents and the
five-times rule as given in lighting handbooks, from memory.
"""

from __future__ import annotations

import math

from scipy.special import i1

# Test volts by nominal volts (UN R37, from memory); exponents of a filament's flux, power, life and
# colour temperature over its volts, the distance in sources' widths from which inverse square holds
# (lighting handbooks, from memory); a meter's head, mm (common practice); how steeply light falls
# off above an edge, e-folds a degree (own: the steepest of the model's).
REFERENCE_VOLTS = {6.0: 6.3, 12.0: 13.2, 24.0: 28.0}
FLUX_EXPONENT = 3.4
POWER_EXPONENT = 1.6
LIFE_EXPONENT = -13.0
COLOUR_TEMPERATURE_EXPONENT = 0.42
FIVE_TIMES = 5.0
HEAD_MM, STEEPEST_PER_DEG = 30.0, 5.0


def candela(lux: float, distance_m: float, across_m: float = 0.0, drop_m: float = 0.0) -> float:
    """Luminous intensity, cd, behind *lux* on a wall square to the axis at *distance_m*.

    I = E·d²/cos³θ, θ the angle from the axis to a point *across_m* and *drop_m* away from it.
    Raises ValueError for a distance that is not positive.

    >>> candela(410, 10)
    41000.0
    """
    if distance_m <= 0:
        raise ValueError("The distance must be more than zero.")
    tangent = math.hypot(across_m, drop_m) / distance_m
    return float(lux * distance_m**2 * (1 + tangent**2) ** 1.5)


def wall_lux(
    candelas: float, distance_m: float, across_m: float = 0.0, drop_m: float = 0.0
) -> float:
    """Illuminance, lx, of a wall square to the axis: the inverse of :func:`candela`."""
    return candelas / candela(1.0, distance_m, across_m, drop_m)


def filament_factor(volts: float, reference_volts: float, exponent: float = FLUX_EXPONENT) -> float:
    """How much of its reference value a filament quantity has at *volts*: (V/V0)^n.

    Flux by default; other exponents stand in this module. Raises ValueError unless both are
    positive.

    >>> round(filament_factor(12.0, 13.2), 3)
    0.723
    """
    if volts <= 0 or reference_volts <= 0:
        raise ValueError("Voltages must be more than zero.")
    return float((volts / reference_volts) ** exponent)


def reference_volts(nominal_volts: float) -> float:
    """The test voltage a headlamp filament's flux is given at: 6.3, 13.2 or 28 V (UN R37, from
    memory).

    Raises KeyError for another nominal supply.
    """
    return REFERENCE_VOLTS[nominal_volts]


def head_deg(distance_m: float, head_mm: float = HEAD_MM) -> float:
    """The angle a meter's round head covers at the wall, degrees, as seen from the lamp."""
    return math.degrees(2 * math.atan(head_mm / 2000 / distance_m))


def head_excess(distance_m: float, head_mm: float = HEAD_MM) -> float:
    """The most a meter's head overstates stray light just above a cut-off: its mean over the head,
    over the middle's.

    Above an edge light falls by e^(−k·angle); over a disc of angular radius r the mean of that is
    2·I₁(k·r)/(k·r) times the middle's (I₁ the modified Bessel function). k = 5 per degree: the
    steepest of the beam model's housings with their nominal sources, at 0.57° above horizontal.

    >>> round(head_excess(3.0), 2), round(head_excess(10.0), 2)
    (1.28, 1.02)
    """
    x = STEEPEST_PER_DEG * head_deg(distance_m, head_mm) / 2
    return float(2 * i1(x) / x)


def reach_m(candelas: float, threshold_lx: float) -> float:
    """Distance, m, at which *candelas* fall to *threshold_lx* on a surface facing the lamp."""
    return math.sqrt(candelas / threshold_lx)


def far_field_m(largest_dimension_m: float) -> float:
    """Least distance, m, for under about 1 % inverse-square error: five times the largest
    dimension.
    """
    return FIVE_TIMES * largest_dimension_m


def gain(before: float, after: float) -> float:
    """Relative gain: 1.0 is +100 %. Raises ValueError when there is no before.

    >>> round(gain(127, 1013), 2)
    6.98
    """
    if before <= 0:
        raise ValueError("There is no reading before to compare with.")
    return after / before - 1
