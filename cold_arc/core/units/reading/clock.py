"""Angles of a collar as they are typed: degrees with their way, or a clock's hours."""

from __future__ import annotations

from lark import Token

from cold_arc.core.units import measures
from cold_arc.core.units.figures import Meaning, NotUnderstoodError, figures, write_figure
from cold_arc.core.units.reading.grammar import SAME, Typed, tree_of, typed_of
from cold_arc.core.units.reading.settling import agreeing, in_family, settle

FULL_TURN_DEG = 360.0


A_CLOCK_ANGLE = "an angle. Write it like 20 cw, 20 ccw or 1 o'clock."


def parse_clock_angle(text: str) -> float:
    """Degrees clockwise from upright, in (−180, 180], from "20 cw", "20 ccw", "-20°" or "1
    o'clock".

    A bare whole number from 1 to 12 may be degrees or an hour, so it is asked back.

    >>> parse_clock_angle("11 o'clock")
    -30.0
    """
    return settle(text, agreeing(text, _clock_meanings), None, A_CLOCK_ANGLE)


def _clock_meanings(part: str) -> list[Meaning]:
    tree = tree_of(part, "clock", A_CLOCK_ANGLE)
    if tree.children[0] == "upright":
        return [Meaning(0.0, "upright")]
    if isinstance(tree.children[0], Token):
        return _o_clock(str(tree.children[0]))
    typed = typed_of(tree)
    if len(typed.ways) > 1:
        raise NotUnderstoodError("Write clockwise or anticlockwise, not both.")
    if typed.ways and typed.sign:
        raise NotUnderstoodError("Write either a sign or cw/ccw, not both.")
    return [*_turned(typed), *_lone_hour(typed)]


def _turned(typed: Typed) -> list[Meaning]:
    """An angle turned one way, degrees clockwise."""
    if typed.terms[0].unit not in (None, "DEGREE"):
        return []
    angles = in_family(typed.terms, measures.DEGREES, "DEGREE")
    if any(meaning.value > FULL_TURN_DEG for meaning in angles):
        raise NotUnderstoodError("Write an angle of no more than a full turn.")
    back = typed.sign == "-" or typed.ways == {"CCW"}
    way, word = (-1.0, "ccw") if back else (1.0, "cw")
    return [
        Meaning(_wrap_half_turn(way * meaning.value), f"{meaning.text} {word}")
        for meaning in angles
    ]


def _lone_hour(typed: Typed) -> list[Meaning]:
    """A bare figure that may be an hour on the dial."""
    bare = len(typed.terms) == 1 and typed.terms[0].unit is None
    hour = typed.terms[0].text if bare and not typed.ways and not typed.sign else ""
    if not hour.isdecimal() or not 1 <= int(hour) <= 12:
        return []
    return [Meaning(_wrap_half_turn(30.0 * int(hour)), f"{int(hour)} o'clock")]


def _o_clock(text: str) -> list[Meaning]:
    """A time on a clock face: an hour with a part of it (1.5, 1 1/2), or with minutes (1:30).

    Two digits behind a point may be either: 1.30.
    """
    values = [] if ":" in text else list(figures(text))
    hours = [value for value in (*values, *_hour_and_minutes(text)) if 1 <= value < 13]
    if not hours:
        raise NotUnderstoodError(f"“{text}” is not a time on a clock face.")
    return [Meaning(_wrap_half_turn(30.0 * value), _say_hours(value)) for value in hours]


def _hour_and_minutes(text: str) -> list[float]:
    """An hour and two digits of minutes, whatever parts them; none for anything else."""
    hour, _, minutes = text.replace(",", ".").replace(".", ":").partition(":")
    is_time = hour.isdecimal() and len(minutes) == 2 and minutes.isdecimal() and int(minutes) < 60
    return [int(hour) + int(minutes) / 60] if is_time else []


def _say_hours(hours: float) -> str:
    """A time on a clock face that can be read one way only: 1:30 o'clock."""
    minutes = round(60 * hours)
    if abs(60 * hours - minutes) > SAME:
        return f"{write_figure(30 * hours, 1)} cw"
    hour, rest = divmod(minutes, 60)
    return f"{hour}:{rest:02d} o'clock" if rest else f"{hour} o'clock"


def _wrap_half_turn(degrees: float) -> float:
    wrapped = degrees % 360
    return wrapped - 360 if wrapped > 180 else wrapped
