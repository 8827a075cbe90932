"""Numbers as the program says them, each with its unit; whatever it says can be typed back.

``tests/core/test_typed.py`` holds every ``say_*`` that has a field to that. So nothing is said with
exactly three decimals behind whole units: read back, that could as well be thousands.
"""

from __future__ import annotations

import math
import re

from cold_arc.core.units.measures import FOOT_M, INCH_M, MINUS, NBSP, UnitSystem

AMBIGUOUS_DECIMALS = 3
MOST_DECIMALS = 6


def _grouped(value: float, decimals: int = 0) -> str:
    text = f"{value:,.{decimals}f}".replace(",", NBSP)
    if set(text) <= set("-0.\u00a0"):
        text = text.lstrip("-")
    return text.replace("-", MINUS)


def _significant(value: float, digits: int) -> str:
    """*value* to so many significant digits, without exponents."""
    if value == 0:
        return "0"
    decimals = min(digits - 1 - math.floor(math.log10(abs(value))), MOST_DECIMALS)
    if decimals == AMBIGUOUS_DECIMALS and abs(value) >= 1:
        decimals -= 1
    rounded = round(value, decimals)
    text = _grouped(rounded, max(decimals, 0))
    return text.rstrip("0").rstrip(".") if "." in text else text


def say_number(value: float, digits: int = 3) -> str:
    """A plain number to *digits* significant digits."""
    return _significant(value, digits)


def lowered(sentence: str) -> str:
    """A sentence as it stands within another: its first letter small.

    >>> lowered("Low beam")
    'low beam'
    """
    return f"{sentence[:1].lower()}{sentence[1:]}"


def raised(words: str) -> str:
    """Words at the head of a sentence: their first letter large, the rest as they are.

    >>> raised("the PX base")
    'The PX base'
    """
    return f"{words[:1].upper()}{words[1:]}"


def say_count(number: int, one: str, many: str = "") -> str:
    """So many of a thing: "1 step", "2 steps"; *many*: where that is not *one* and an s."""
    return f"{number} {one if number == 1 else many or f'{one}s'}"


def say_lux(lux: float) -> str:
    """Lux to three significant digits, or whole lux above 1000.

    >>> say_lux(410.0)
    '410\\xa0lx'
    """
    return f"{_significant(lux, 3 if lux < 1000 else 4)}{NBSP}lx"


def say_candela(cd: float) -> str:
    """Candela to four significant digits."""
    return f"{_significant(cd, 4)}{NBSP}cd"


def say_minutes(minutes: float) -> str:
    """A span of minutes: "45 min", "1 h 20 min"; under one, in seconds."""
    if 0 < minutes < 0.95:
        return f"{round(60 * minutes)}{NBSP}s"
    hours, rest = divmod(round(minutes), 60)
    return f"{hours}{NBSP}h {rest:02d}{NBSP}min" if hours else f"{rest}{NBSP}min"


def say_glare(de_boer: float) -> str:
    """Discomfort on de Boer's scale, where 9 is just noticed and 1 not to be borne."""
    return f"glare {_significant(de_boer, 2)} of 9"


def say_time(minutes: float) -> str:
    """Minutes after midnight as a time of the day: "14:30"."""
    return f"{int(minutes) // 60 % 24}:{int(minutes) % 60:02d}"


# Longer than this an example length stands in feet, shorter in inches, m.
FEET_FROM_M = 2.0
_LENGTH = re.compile(r"([\d.]+) (m|cm)\b")


def say_example(text: str, system: UnitSystem) -> str:
    """An example of what to type, its metres and centimetres as a page in inches has them.

    >>> say_example("4 cm right", UnitSystem.INCH), say_example("3 m", UnitSystem.INCH)
    ('2 in right', '10 ft')
    """
    return text if system is not UnitSystem.INCH else _LENGTH.sub(_in_inches, text)


def _in_inches(match: re.Match[str]) -> str:
    metres = float(match[1]) * (1.0 if match[2] == "m" else 0.01)
    if metres >= FEET_FROM_M:
        return f"{metres / FOOT_M:.0f} ft"
    return f"{metres / INCH_M:.0f} in"


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
    plus = "+" if signed and round(millimetres, 1) > 0 else ""
    return f"{plus}{_grouped(millimetres, 1)}{NBSP}mm"


def say_price(price: float, currency: str = "") -> str:
    """A price as a bill has it, with the shop's currency where it told one.

    >>> say_price(1249.5, "EUR"), say_price(58)
    ('1\\xa0249.50\\xa0EUR', '58.00')
    """
    return f"{_grouped(price, 2)}{NBSP if currency else ''}{currency}"


def say_percent(fraction: float, decimals: int = 0, signed: bool = False) -> str:
    """A fraction as per cent.

    >>> say_percent(6.98, signed=True)
    '+698\\xa0%'
    """
    plus = "+" if signed and round(fraction * 100, decimals) > 0 else ""
    return f"{plus}{_grouped(fraction * 100, decimals)}{NBSP}%"


def say_degrees(degrees: float, decimals: int = 0, signed: bool = False) -> str:
    """Degrees, with a plus sign when *signed*.

    >>> say_degrees(0.714, 2, signed=True)
    '+0.71°'
    """
    plus = "+" if signed and round(degrees, decimals) > 0 else ""
    return f"{plus}{_grouped(degrees, decimals)}°"


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
    plus = "+" if degrees >= 0.005 else ""
    return f"{where} · {say_percent(slope, 2, signed=True)} · {plus}{say_degrees(degrees, 2)}"
