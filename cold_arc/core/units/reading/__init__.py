"""From typed text to a number in SI: the grammar's tree, its meanings, and which of them is
plausible.

Every ``parse_*`` takes typed text and returns SI (or the unit its name says). What can't be
understood raises :class:`NotUnderstoodError`; what can be read two ways raises
:class:`AmbiguousError` with both readings, each as text that can be read one way only. *within*
narrows the readings to what is plausible for the field.
"""

from cold_arc.core.units.reading.aims import MOST_SLOPE, parse_offset, parse_sideways, parse_slope
from cold_arc.core.units.reading.clock import parse_clock_angle
from cold_arc.core.units.reading.grammar import AmbiguousError, Within
from cold_arc.core.units.reading.plain import (
    parse_code,
    parse_illuminance,
    parse_length,
    parse_number,
)

__all__ = [
    "MOST_SLOPE",
    "AmbiguousError",
    "Within",
    "parse_clock_angle",
    "parse_code",
    "parse_illuminance",
    "parse_length",
    "parse_number",
    "parse_offset",
    "parse_sideways",
    "parse_slope",
]
