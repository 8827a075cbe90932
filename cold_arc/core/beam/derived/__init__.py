"""What a beam means: cut-off, sharpness, hot spots, test points, lux on wall and road, reach,
glare, fidelity.
"""

from cold_arc.core.beam.derived.edge import (
    SHARP_RANGE,
    CutOffShape,
    cut_off_height,
    cut_off_line,
    cut_off_shape,
    flat_side_deg,
    share_above,
    sharpness,
)
from cold_arc.core.beam.derived.likeness import LEAST_LM, Fidelity, fidelity
from cold_arc.core.beam.derived.road import (
    Glare,
    Mounting,
    de_boer,
    discomfort,
    oncoming_glare,
    reach_m,
    road_lux,
)
from cold_arc.core.beam.derived.spots import HotSpot, Peak, hot_spots, peak, roughness
from cold_arc.core.beam.derived.wall import (
    meter_candela,
    meter_lux,
    wall_direction,
    wall_lux,
    wall_place,
)
from cold_arc.core.beam.derived.yardsticks import (
    MeasuredPoint,
    at_yardstick,
    least_of,
    mirrored,
    yardsticks,
)

__all__ = [
    "LEAST_LM",
    "SHARP_RANGE",
    "CutOffShape",
    "Fidelity",
    "Glare",
    "HotSpot",
    "MeasuredPoint",
    "Mounting",
    "Peak",
    "at_yardstick",
    "cut_off_height",
    "cut_off_line",
    "cut_off_shape",
    "de_boer",
    "discomfort",
    "fidelity",
    "flat_side_deg",
    "hot_spots",
    "least_of",
    "meter_candela",
    "meter_lux",
    "mirrored",
    "oncoming_glare",
    "peak",
    "reach_m",
    "road_lux",
    "roughness",
    "share_above",
    "sharpness",
    "wall_direction",
    "wall_lux",
    "wall_place",
    "yardsticks",
]
