"""How a light source fades with the hours it is lit: exponentially, as IES TM-21 (from memory) has
it of LEDs.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.references import Sources, cite

SOURCES: Sources = cite("ies-tm-21")
# The share of its light at which a claimed life ends: L70.
LEFT_AT_END = 0.7
PER_H = 1000.0


@dataclass(frozen=True)
class Fade:
    """What is lost in a thousand hours, as a share (negative: gained), between *least* and
    *most*."""

    share: float
    least: float
    most: float


def claimed(life_h: float) -> float:
    """What a life claimed to 70 % lets expect of a thousand hours, as a share; *life_h* > 0.

    >>> round(claimed(1000.0), 3), round(claimed(30_000.0), 4)
    (0.3, 0.0118)
    """
    return 1 - math.pow(LEFT_AT_END, PER_H / life_h)


def measured(ratio: float, uncertainty: float, hours: float) -> Fade:
    """What a *ratio* of light after to before, ± *uncertainty* (k = 2), over some *hours* comes to
    in a thousand.

    ValueError for hours or a ratio that are not above 0.

    >>> round(measured(0.97, 0.01, 500.0).share, 4)
    0.0591
    """
    if hours <= 0 or ratio <= 0:
        raise ValueError("Hours and ratio must be above 0.")

    def lost(left: float) -> float:
        return 1 - math.exp(math.log(max(left, 1e-6)) * PER_H / hours)

    return Fade(lost(ratio), lost(ratio + uncertainty), lost(ratio - uncertainty))
