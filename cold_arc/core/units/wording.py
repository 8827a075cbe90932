"""Sentences made from named values, in one place: template and values are kept beside the words, so
that a reader, a test or another language can go by them.
"""

from __future__ import annotations

import string
from collections.abc import Callable, Mapping
from typing import Any, Final

from cold_arc.core.units.saying import (
    say_candela,
    say_degrees,
    say_glare,
    say_lux,
    say_minutes,
    say_mm,
    say_number,
    say_percent,
    say_volts,
)

# How a value is said, by the name that stands behind its colon: "{room_mm:mm}",
# "{share:percent 2 signed}".
SAYERS: Final[Mapping[str, Callable[..., str]]] = {
    "candela": say_candela,
    "degrees": say_degrees,
    "glare": say_glare,
    "lux": say_lux,
    "minutes": say_minutes,
    "mm": say_mm,
    "number": say_number,
    "percent": say_percent,
    "volts": say_volts,
}
SIGNED = "signed"


class _Sayer(string.Formatter):
    """Formats a value as this program says such values, or by Python's own rules."""

    def format_field(self, value: Any, format_spec: str) -> str:
        """One value in its words."""
        name, *figures = format_spec.split()[:3] or [""]
        if name not in SAYERS:
            return str(super().format_field(value, format_spec))
        digits = [int(figure) for figure in figures if figure != SIGNED]
        signed = {SIGNED: True} if SIGNED in figures else {}
        return SAYERS[name](value, *digits, **signed)


_SAYER: Final = _Sayer()


class Sentence(str):
    """Words that keep what they were made from: *template*, and *values* by name."""

    template: str
    values: Mapping[str, Any]

    def __new__(cls, template: str, values: Mapping[str, Any]) -> Sentence:
        made = super().__new__(cls, _SAYER.vformat(template, (), values))
        made.template, made.values = template, values
        return made

    def __reduce__(self) -> tuple[type[Sentence], tuple[str, Mapping[str, Any]]]:
        return type(self), (self.template, self.values)


def worded(template: str, /, **values: Any) -> Sentence:
    """The sentence of a template, with its values named.

    >>> room = worded("{room_mm:mm} of room", room_mm=62.0)
    >>> room, room.values
    ('62.0\\xa0mm of room', {'room_mm': 62.0})

    Raises:
        KeyError: the template names a value that is not given.
        ValueError: a value can't be said in the way asked.
    """
    return Sentence(template, values)
