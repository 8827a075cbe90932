"""Units: how large each is, what they are spelled like when written back. Sizes are exact by
definition.
"""

from __future__ import annotations

from enum import StrEnum

INCH_M = 0.0254
FOOT_M = 12 * INCH_M
FOOT_CANDLE_LX = 1 / FOOT_M**2
NBSP = "\u00a0"
MINUS = "\u2212"


class UnitSystem(StrEnum):
    """Which units bare numbers take at the edge and which units are shown."""

    METRIC = "metric"
    INCH = "inch"


Family = dict[str, float]

# Units that may follow one another, largest first, by their names in the grammar, each with its
# size.
METRIC_LENGTHS: Family = {"METRE": 1.0, "CENTIMETRE": 0.01, "MILLIMETRE": 0.001}
INCH_LENGTHS: Family = {"FOOT": FOOT_M, "INCH": INCH_M}
LENGTHS = (METRIC_LENGTHS, INCH_LENGTHS)
DEGREES: Family = {"DEGREE": 1.0, "ARCMIN": 1 / 60, "ARCSEC": 1 / 3600}
PER_CENT: Family = {"PERCENT": 0.01}
LUX: Family = {"LUX": 1.0, "KILOLUX": 1000.0, "K": 1000.0, "FOOT_CANDLE": FOOT_CANDLE_LX}
MINUTES: Family = {"HOUR": 60.0, "ARCMIN": 1.0}

# What plain figures may carry after them, by the unit they are kept in.
PLAIN: dict[str, Family] = {
    "": {},
    "V": {"VOLT": 1.0},
    "W": {"WATT": 1.0},
    "A": {"AMPERE": 1.0},
    "Hz": {"HERTZ": 1.0},
    "%": {"PERCENT": 1.0},
    "mm²": {"SQUARE_MM": 1.0},
    "°C": {"CELSIUS": 1.0, "FAHRENHEIT": 1.0},
    "K": {"KELVIN": 1.0, "K": 1.0},
    "lm": {"LUMEN": 1.0},
    "lx": LUX,
    "°": DEGREES,
    "mm": {unit: round(size * 1000, 9) for family in LENGTHS for unit, size in family.items()},
    "min": MINUTES,
    "h": {"HOUR": 1.0},
    "years": {"YEAR": 1.0},
    "turns": {"TURN": 1.0},
}

SPELLED = {
    "METRE": "m",
    "CENTIMETRE": "cm",
    "MILLIMETRE": "mm",
    "FOOT": "ft",
    "INCH": "in",
    "DEGREE": "°",
    "ARCMIN": "min",
    "ARCSEC": "sec",
    "PERCENT": "%",
    "LUX": "lx",
    "KILOLUX": "klx",
    "K": "k",
    "FOOT_CANDLE": "fc",
    "VOLT": "V",
    "WATT": "W",
    "AMPERE": "A",
    "HERTZ": "Hz",
    "SQUARE_MM": "mm²",
    "CELSIUS": "°C",
    "FAHRENHEIT": "°F",
    "KELVIN": "K",
    "LUMEN": "lm",
    "HOUR": "h",
    "YEAR": "years",
    "TURN": "turns",
}
NO_GAP = ("", "%", "°")


def with_unit(figure: str, unit: str, gap: str = " ") -> str:
    """A figure and its unit behind a *gap*, but for those that follow at once."""
    return f"{figure}{'' if unit in NO_GAP else gap}{unit}"


# A short mark is feet or minutes, a long one inches or seconds, by the family it is read in.
MARKS = {"MARK1": ("FOOT", "ARCMIN"), "MARK2": ("INCH", "ARCSEC")}
