"""One figure: every number a person may mean by its digits and separators, and a figure that can
mean but one.

A thousands separator (comma, point, space, apostrophe) parts groups of exactly three digits; a
decimal sign (comma or point) stands once, last. Where a single comma or point has three digits
behind it and one to three before it, both are possible, and both are returned.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal

from cold_arc.core.errors import ColdArcError

LONGEST = 20
_PLAIN = re.compile(r"\d+")
_DECIMAL = re.compile(r"\d*[.,]\d+")
_GROUPS = {mark: re.compile(rf"[1-9]\d{{0,2}}(?:{re.escape(mark)}\d{{3}})+") for mark in " '.,"}
_DENOMINATORS = {2, 3, 4, 5, 8, 10, 16, 32, 64}


@dataclass(frozen=True)
class Meaning:
    """One way to read a text: the number, and how to write it so that it can be read no other
    way.
    """

    value: float
    text: str


class NotUnderstoodError(ColdArcError, ValueError):
    """Typed text that is not a quantity of the kind asked for; the message is for the person who
    typed it.

    *meanings*: the readings to choose from, where there are several.
    """

    meanings: tuple[Meaning, ...] = ()


def figures(text: str) -> tuple[float, ...]:
    """What a figure can mean: one number or two; NotUnderstoodError for what is none.

    >>> figures("1,013"), figures("1,013.5"), figures("13,8"), figures("1 013")
    ((1013.0, 1.013), (1013.5,), (13.8,), (1013.0,))
    """
    if len(text) > LONGEST:
        raise NotUnderstoodError("That number has too many digits.")
    if "/" in text:
        return (_fraction(text),)
    values = [float(value) for value in (_grouped(text), _decimal(text)) if value is not None]
    if not values:
        raise NotUnderstoodError(
            f"“{text}” is not a number. Its separators stand where none belong."
        )
    return tuple(values)


def _fraction(text: str) -> float:
    """A vulgar fraction as on a tape measure, alone or after whole units: "3/8", "2 1/2",
    "2-1/2".
    """
    whole, _, rest = text.replace("-", " ").rpartition(" ")
    above, below = (int(part) for part in rest.split("/"))
    if below not in _DENOMINATORS or (whole and above >= below):
        raise NotUnderstoodError(
            f"“{text}” is not a fraction as on a tape measure, such as 1/2 or 2 3/8."
        )
    return int(whole or 0) + above / below


def _grouped(text: str) -> Decimal | None:
    """The number of digits parted in thousands, perhaps with a decimal sign of the other kind."""
    for mark, groups in _GROUPS.items():
        whole, sign, rest = text, "", ""
        if mark != "." and "." in text:
            whole, sign, rest = text.partition(".")
        elif mark != "," and "," in text:
            whole, sign, rest = text.partition(",")
        if groups.fullmatch(whole) and (not sign or _PLAIN.fullmatch(rest)):
            return Decimal(f"{whole.replace(mark, '')}.{rest or 0}")
    return None


def _decimal(text: str) -> Decimal | None:
    """The number of digits with at most one decimal sign and nothing to part thousands."""
    if _PLAIN.fullmatch(text) or _DECIMAL.fullmatch(text):
        return Decimal(text.replace(",", "."))
    return None


def write_figure(value: float, decimals: int | None = None) -> str:
    """*value* in digits that can be read one way only, without exponent; all its decimals unless
    told how many.

    >>> write_figure(1.013), write_figure(1013.0), write_figure(0.125)
    ('1.0130', '1013', '0.125')
    """
    text = format(
        Decimal(repr(float(value))) if decimals is None else Decimal(f"{value:.{decimals}f}"), "f"
    )
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    text = "0" if text == "-0" else text
    return text if len(figures(text.lstrip("-")[:LONGEST])) == 1 else f"{text}0"
