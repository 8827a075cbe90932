"""Numbers as people write them at the car, and as they read them back.

Every ``parse_*`` takes typed text and returns SI (or the unit its name says); anything it cannot
understand raises :class:`NotUnderstood` with a sentence fit to stand beside the field. Every ``say_*``
turns a number into words with its unit. Conversion constants are exact by definition
(1 in = 25.4 mm; 1 fc = 1 lm/ft² = 10.7639 lx).
"""

from __future__ import annotations

import math
import re
from enum import StrEnum

INCH_M = 0.0254
FOOT_M = 12 * INCH_M
FOOT_CANDLE_LX = 1 / FOOT_M**2
NBSP = "\u00a0"
MINUS = "\u2212"


class NotUnderstood(ValueError):  # noqa: N818 - reads as the sentence it carries
    """Typed text that is not a quantity of the kind asked for; the message is for the person who typed it."""


class UnitSystem(StrEnum):
    """Which units bare numbers take at the edge and which units are shown."""

    METRIC = "metric"
    INCH = "inch"


_NUMBER = r"[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)"
_LENGTHS = {
    "mm": 0.001,
    "cm": 0.01,
    "m": 1.0,
    "in": INCH_M,
    "inch": INCH_M,
    "inches": INCH_M,
    '"': INCH_M,
    "ft": FOOT_M,
    "feet": FOOT_M,
    "foot": FOOT_M,
    "'": FOOT_M,
}
_LENGTH_UNIT = "|".join(re.escape(unit) for unit in sorted(_LENGTHS, key=len, reverse=True))
_FEET_INCHES = re.compile(rf"^({_NUMBER})\s*(?:'|ft|feet)\s*({_NUMBER})\s*(?:\"|in|inches)?$")
_LENGTH = re.compile(rf"^({_NUMBER})\s*({_LENGTH_UNIT})?$")
_ILLUMINANCE = re.compile(rf"^({_NUMBER})\s*(klx|lux|lx|fc)?\s*(?:[x×*]\s*(\d+))?\s*(klx|lux|lx|fc)?$")
_ILLUMINANCE_UNITS = {None: 1.0, "lx": 1.0, "lux": 1.0, "klx": 1000.0, "fc": FOOT_CANDLE_LX}
_DIRECTION_WORDS = re.compile(r"\b(up|above|high|down|below|low)\b")
_PERCENT = re.compile(rf"^({_NUMBER})\s*(?:%|percent|per cent)$")
_DEGREES = re.compile(rf"^({_NUMBER})\s*(?:°|deg|degrees?)$")
_CLOCK = re.compile(rf"^({_NUMBER})\s*(?:°|deg|degrees?)?\s*(cw|ccw|clockwise|anticlockwise)?$")
_O_CLOCK = re.compile(r"^(\d{1,2})(?:[:.](\d{2}))?\s*o'?\s?clock$")


def _tidy(text: str) -> str:
    """Lower case, plain spaces, one kind of minus and quote: what the patterns expect."""
    tidy = text.strip().lower().replace(MINUS, "-").replace("–", "-").replace(NBSP, " ")
    for curly, plain in (("′", "'"), ("’", "'"), ("″", '"'), ("”", '"')):
        tidy = tidy.replace(curly, plain)
    return tidy


def _number(text: str) -> float:
    value = float(text.replace(",", "."))
    if not math.isfinite(value):
        raise NotUnderstood("That number is too large.")
    return value


def parse_number(text: str) -> float:
    """A plain number; a comma may stand for the decimal point.

    >>> parse_number("13,8")
    13.8
    """
    tidy = _tidy(text)
    if not re.fullmatch(_NUMBER, tidy):
        raise NotUnderstood(f"“{text.strip()}” is not a number.")
    return _number(tidy)


def parse_length(text: str, bare: str = "m") -> float:
    """Metres from "7.62 m", "25 ft", "2' 4\\"", "41 cm"; a bare number is in the unit *bare*.

    >>> round(parse_length("25 ft"), 4)
    7.62
    """
    tidy = _tidy(text)
    if match := _FEET_INCHES.match(tidy):
        feet, inches = _number(match[1]), _number(match[2])
        return feet * FOOT_M + math.copysign(inches, feet) * INCH_M
    if not (match := _LENGTH.match(tidy)):
        raise NotUnderstood(f"“{text.strip()}” is not a length. Write it like 7.62 m, 25 ft, 41 cm or 2 in.")
    return _number(match[1]) * _LENGTHS[match[2] or bare]


def parse_illuminance(text: str, range_factor: float = 1.0) -> float:
    """Lux from a meter display: "410", "41 x10", "38 fc", "2.5 klx".

    A factor written in the text ("x10") takes the place of *range_factor*, the meter's set range.

    >>> parse_illuminance("41 x10")
    410.0
    """
    match = _ILLUMINANCE.match(_tidy(text))
    if not match or (match[2] and match[4]):
        raise NotUnderstood(f"“{text.strip()}” is not a reading. Write it like 410, 41 x10 or 38 fc.")
    factor = float(match[3]) if match[3] else range_factor
    lux = _number(match[1]) * factor * _ILLUMINANCE_UNITS[match[2] or match[4]]
    if lux < 0:
        raise NotUnderstood("A reading cannot be below zero. Zero the meter and read again.")
    return lux


def parse_volts(text: str) -> float:
    """Volts from "13.8", "13.8 V" or "13,8 volts"."""
    return parse_number(re.sub(r"\s*v(olts?)?$", "", _tidy(text)))


def parse_slope(text: str, distance_m: float, bare: str = "cm") -> float:
    """Slope of a line of sight (rise over run, up positive) from "-1.2%", "0.4° down", "8 cm", "2 in up".

    A cut-off hangs below its lamp, so text with neither sign nor direction word counts as *below*.
    Lengths are offsets on a wall at *distance_m*; a bare number takes the unit *bare*.

    >>> round(parse_slope("2 in", 7.62), 5)
    -0.00667
    """
    tidy = _tidy(text)
    direction = _DIRECTION_WORDS.search(tidy)
    body = _DIRECTION_WORDS.sub("", tidy).strip()
    if direction and body[:1] in "+-":
        raise NotUnderstood("Write either a sign or “up/down”, not both.")
    size = _slope_size(body, distance_m, bare, text)
    if direction:
        return size if direction[1] in {"up", "above", "high"} else -size
    return size if body[:1] in "+-" else -size


def _slope_size(body: str, distance_m: float, bare: str, typed: str) -> float:
    if match := _PERCENT.match(body):
        return _number(match[1]) / 100
    if match := _DEGREES.match(body):
        degrees = _number(match[1])
        if abs(degrees) >= 45:
            raise NotUnderstood("An aim of 45° or more is not an aim. Check the number.")
        return math.tan(math.radians(degrees))
    try:
        return parse_length(body, bare) / distance_m
    except NotUnderstood:
        raise NotUnderstood(f"“{typed.strip()}” is not an aim. Write it like 8 cm, 2 in up, -1.2% or 0.4°.") from None


def parse_clock_angle(text: str) -> float:
    """Degrees clockwise from upright, in (−180, 180], from "20", "20 ccw", "-20°" or "1 o'clock".

    >>> parse_clock_angle("11 o'clock")
    -30.0
    """
    tidy = _tidy(text)
    if match := _O_CLOCK.match(tidy):
        hours, minutes = int(match[1]), int(match[2] or 0)
        if not (1 <= hours <= 12 and minutes < 60):
            raise NotUnderstood(f"“{text.strip()}” is not a time on a clock face.")
        return _wrap_half_turn(30.0 * hours + minutes / 2)
    if not (match := _CLOCK.match(tidy)):
        raise NotUnderstood(f"“{text.strip()}” is not an angle. Write it like 20 cw, 20 ccw or 1 o'clock.")
    degrees = _number(match[1])
    if abs(degrees) > 360:
        raise NotUnderstood("Write an angle of no more than a full turn.")
    return _wrap_half_turn(-degrees if match[2] in {"ccw", "anticlockwise"} else degrees)


def _wrap_half_turn(degrees: float) -> float:
    wrapped = degrees % 360
    return wrapped - 360 if wrapped > 180 else wrapped


def _grouped(value: float, decimals: int = 0) -> str:
    text = f"{value:,.{decimals}f}".replace(",", NBSP)
    if set(text) <= set("-0.\u00a0"):
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def _significant(value: float, digits: int) -> str:
    """*value* to so many significant digits, without exponents."""
    if value == 0:
        return "0"
    decimals = digits - 1 - math.floor(math.log10(abs(value)))
    rounded = round(value, decimals)
    text = _grouped(rounded, max(decimals, 0))
    return text.rstrip("0").rstrip(".") if "." in text else text


def say_number(value: float, digits: int = 3) -> str:
    """A plain number to *digits* significant digits."""
    return _significant(value, digits)


def say_lux(lux: float) -> str:
    """Lux to three significant digits, or whole lux above 1000.

    >>> say_lux(410.0)
    '410\\xa0lx'
    """
    return f"{_significant(lux, 3 if lux < 1000 else 4)}{NBSP}lx"


def say_candela(cd: float) -> str:
    """Candela to four significant digits."""
    return f"{_significant(cd, 4)}{NBSP}cd"


def say_volts(volts: float) -> str:
    """Volts to three significant digits."""
    return f"{_significant(volts, 3)}{NBSP}V"


def say_distance(metres: float, system: UnitSystem) -> str:
    """A distance to the wall: metres or feet."""
    if system is UnitSystem.INCH:
        return f"{_significant(metres / FOOT_M, 3)}{NBSP}ft"
    return f"{_significant(metres, 3)}{NBSP}m"


def say_offset(metres: float, system: UnitSystem) -> str:
    """A short length, as on the wall: centimetres or inches, one decimal."""
    unit, size = ("in", INCH_M) if system is UnitSystem.INCH else ("cm", 0.01)
    return f"{_grouped(metres / size, 1)}{NBSP}{unit}"


def say_mm(millimetres: float, signed: bool = False) -> str:
    """Millimetres, one decimal, with a plus sign when *signed*."""
    plus = "+" if signed and millimetres > 0 else ""
    return f"{plus}{_grouped(millimetres, 1)}{NBSP}mm"


def say_percent(fraction: float, decimals: int = 0, signed: bool = False) -> str:
    """A fraction as per cent.

    >>> say_percent(6.98, signed=True)
    '+698\\xa0%'
    """
    plus = "+" if signed and fraction > 0 else ""
    return f"{plus}{_grouped(fraction * 100, decimals)}{NBSP}%"


def say_degrees(degrees: float, decimals: int = 0) -> str:
    """Degrees with their sign, if any."""
    return f"{_grouped(degrees, decimals)}°"


def say_clock_angle(degrees: float) -> str:
    """A clocking angle in words: "20° clockwise", "upright"."""
    if abs(degrees) < 0.5:
        return "upright"
    return f"{say_degrees(abs(degrees))} {'clockwise' if degrees > 0 else 'anticlockwise'}"


def say_slope(slope: float, distance_m: float, system: UnitSystem) -> str:
    """A line on the wall in all three languages: offset, per cent and degrees.

    >>> say_slope(-0.01, 10.0, UnitSystem.METRIC).replace(NBSP, " ")
    '10.0 cm below lamp height · −1.00 % · −0.57°'
    """
    degrees = math.degrees(math.atan(slope))
    where = "level with the lamp"
    if abs(slope * distance_m) >= 0.0005:
        side = "above" if slope > 0 else "below"
        where = f"{say_offset(abs(slope) * distance_m, system)} {side} lamp height"
    return f"{where} · {say_percent(slope, 2)} · {say_degrees(degrees, 2)}"
