"""Sizes one can buy: resistors, capacitors, wires."""

from __future__ import annotations

import bisect
import math

E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)


E6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
# Cross-sections sold for cars and the continuous current thin-wall wire of class B carries in free
# air of 30 °C, A.
RATED_AIR_C, RATED_CLASS = 30.0, "B"
WIRES_A = {0.5: 8.0, 0.75: 10.0, 1.0: 13.0, 1.5: 17.0, 2.5: 24.0, 4.0: 32.0, 6.0: 42.0, 10.0: 58.0}
# The hottest a wire of each insulation class may get, °C (ISO 6722, from memory).
INSULATION_C = {"A": 85.0, "B": 100.0, "C": 125.0, "D": 150.0}
INSULATION = {name: f"Class {name}, to {hottest:g} °C" for name, hottest in INSULATION_C.items()}
AWG_SIZES = (20, 18, 16, 14, 12, 10, 8, 6)


def next_up(sizes: tuple[float, ...], wanted: float) -> float | None:
    """The smallest size that is enough, if any."""
    place = bisect.bisect_left(sizes, wanted - 1e-9)
    return sizes[place] if place < len(sizes) else None


def e24_at_most(ohm: float) -> float:
    """The largest E24 value (IEC 60063) not above *ohm*; ValueError unless above zero.

    >>> e24_at_most(5.81)
    5.6
    """
    if ohm <= 0:
        raise ValueError("A resistance must be above zero.")
    decade = math.floor(math.log10(ohm))
    below = [
        value * 10.0**power
        for power in (decade - 1, decade)
        for value in E24
        if value * 10.0**power <= ohm * (1 + 1e-9)
    ]
    return round(below[-1], 6)


def e6_at_least(value: float) -> float:
    """The smallest E6 value (IEC 60063) not below *value*, in its own unit; ValueError unless above
    zero.
    """
    if value <= 0:
        raise ValueError("A capacitance must be above zero.")
    decade = math.floor(math.log10(value))
    return next(
        round(step * 10.0**power, 9)
        for power in (decade, decade + 1)
        for step in E6
        if step * 10.0**power >= value * (1 - 1e-9)
    )


def awg_mm2(gauge: int) -> float:
    """Copper cross-section of an American wire gauge, mm² (ASTM B258: diameter 0.127 mm · 92^((36 −
    n)/39)).

    >>> round(awg_mm2(14), 2)
    2.08
    """
    diameter: float = 0.127 * 92 ** ((36 - gauge) / 39)
    return math.pi / 4 * diameter**2
