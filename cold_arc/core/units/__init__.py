"""Numbers at the edge: read as people write them (:mod:`reading`), said with their unit
(:mod:`saying`); SI inside.
"""

from cold_arc.core.units.figures import Meaning, NotUnderstoodError, write_figure
from cold_arc.core.units.measures import FOOT_CANDLE_LX, FOOT_M, INCH_M, MINUS, NBSP, UnitSystem
from cold_arc.core.units.reading import (
    AmbiguousError,
    Within,
    parse_clock_angle,
    parse_code,
    parse_illuminance,
    parse_length,
    parse_number,
    parse_offset,
    parse_sideways,
    parse_slope,
)
from cold_arc.core.units.saying import (
    say_candela,
    say_clock_angle,
    say_degrees,
    say_distance,
    say_lux,
    say_minutes,
    say_mm,
    say_number,
    say_offset,
    say_percent,
    say_slope,
    say_time,
    say_volts,
)

__all__ = [
    "FOOT_CANDLE_LX",
    "FOOT_M",
    "INCH_M",
    "MINUS",
    "NBSP",
    "AmbiguousError",
    "Meaning",
    "NotUnderstoodError",
    "UnitSystem",
    "Within",
    "parse_clock_angle",
    "parse_code",
    "parse_illuminance",
    "parse_length",
    "parse_number",
    "parse_offset",
    "parse_sideways",
    "parse_slope",
    "say_candela",
    "say_clock_angle",
    "say_degrees",
    "say_distance",
    "say_lux",
    "say_minutes",
    "say_mm",
    "say_number",
    "say_offset",
    "say_percent",
    "say_slope",
    "say_time",
    "say_volts",
    "write_figure",
]
