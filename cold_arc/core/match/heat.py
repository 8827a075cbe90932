"""Heat: how much of its light an LED bulb loses once warm behind the cap, from its watts, its size
and its cooling.

A resistor chain: junction = air behind the lamp + heat · (junction to body + body to air), with the
body's outer surface 1 / (h·A). Film coefficients: textbook ranges for natural and forced air (5 to
25 and 10 to 200 W/m²K), from memory; the rest is common practice, no published source. Good to tell
a hot bulb from a cool one, not to a degree.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cold_arc.core.light_source import LightSource

# Share of an LED's watts that become heat; how much more surface fins give than the plain tail;
# film coefficients of still and blown air, W/m²K (textbooks, from memory); chip to body, K/W; air
# behind a lamp and in a maker's test, °C; light lost per K; where drivers fold back, °C; depth and
# width of a tail that is not told, mm. Common practice where not said.
HEAT_SHARE = 0.7
FIN_FACTOR = 3.0
FILM_W_M2K = {"passive": 12.0, "fan": 35.0}
JUNCTION_TO_BODY_K_W = 1.0
BEHIND_LAMP_C = 40.0
CLAIMED_AT_C = 25.0
LOSS_PER_K = 0.0025
FOLD_BACK_C = 125.0
USUAL_TAIL_MM = (35.0, 34.0)


@dataclass(frozen=True)
class Warmth:
    """How warm the chips get and what share of the claimed light is gone by then; *folds_back*: the
    driver must.
    """

    junction_c: float
    fade: float
    watts_per_cm2: float
    folds_back: bool


def body_area_m2(tail_mm: float, width_mm: float) -> float:
    """Outer surface of the tail with its fins, m²: a closed cylinder's side and end, times the fin
    factor.
    """
    side = math.pi * width_mm * tail_mm + math.pi * width_mm**2 / 4
    return FIN_FACTOR * side * 1e-6


def warmth(source: LightSource, air_c: float = BEHIND_LAMP_C) -> Warmth:
    """The settled state of *source* in air of *air_c* behind the lamp; a tail not told counts as a
    usual one.

    Above 125 °C the driver folds back until the junction stays there; ValueError for cooling that
    is not known.
    """
    if source.cooling not in FILM_W_M2K:
        raise ValueError(f"{source.cooling} is not a kind of cooling.")
    tail, width = source.tail_mm or USUAL_TAIL_MM[0], source.tail_width_mm or USUAL_TAIL_MM[1]
    area, heat = body_area_m2(tail, width), HEAT_SHARE * source.watts
    rise = heat * (1 / (FILM_W_M2K[source.cooling] * area) + JUNCTION_TO_BODY_K_W)
    share = min(1.0, (FOLD_BACK_C - air_c) / rise) if rise else 1.0
    junction = air_c + share * rise
    fade = 1 - share * (1 - LOSS_PER_K * max(0.0, junction - CLAIMED_AT_C))
    return Warmth(junction, fade, heat / (area * 1e4), share < 1)
