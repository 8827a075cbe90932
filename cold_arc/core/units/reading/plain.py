"""Plain numbers, codes, lengths and readings of a meter, as they are typed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import filterfalse

from lark import Token, Tree

from cold_arc.core.units import measures
from cold_arc.core.units.figures import Meaning, NotUnderstoodError, figures, write_figure
from cold_arc.core.units.reading.grammar import Term, Typed, Within, tree_of, typed_of, unit_name
from cold_arc.core.units.reading.settling import agreeing, in_family, settle, signed
from cold_arc.core.units.text import tidy


def parse_number(text: str, within: Within | None = None, unit: str = "") -> float:
    """A plain number, with or without its *unit* (a key of ``measures.PLAIN``), in that unit.

    >>> parse_number("13,8"), parse_number("60 °C", unit="°C")
    (13.8, 60.0)
    >>> parse_number("1 h 20 min", unit="min")
    80.0
    """
    wanted = A_LENGTH if unit == "mm" else f"a number{f', in {unit}' if unit else ''}."

    def read(part: str) -> list[Meaning]:
        typed = typed_of(tree_of(part, "simple", wanted))
        if any(term.unit == "FAHRENHEIT" for term in typed.terms):
            return [
                Meaning((meaning.value - 32) / 1.8, meaning.text)
                for meaning in signed(_plain(typed.terms, unit), typed.sign)
            ]
        return signed(_plain(typed.terms, unit), typed.sign)

    return settle(text, agreeing(text, read), within, wanted)


def _plain(terms: Sequence[Term], unit: str) -> list[Meaning]:
    """Bare figures as they are, figures with units through their family."""
    family = measures.PLAIN[unit]
    if len(terms) == 1 and terms[0].unit is None:
        return [
            Meaning(value, measures.with_unit(write_figure(value), unit))
            for value in figures(terms[0].text)
        ]
    same_system = [family]
    if unit == "mm":
        same_system = [{name: family[name] for name in lengths} for lengths in measures.LENGTHS]
    return [meaning for units in same_system for meaning in in_family(terms, units, None)]


def parse_code(text: str, within: Within | None = None) -> float:
    """The figure of a code such as IP67."""
    wanted = "a code like IP67."
    tree = tree_of(tidy(text), "coded", wanted)
    return settle(
        text,
        [Meaning(value, write_figure(value)) for value in figures(str(tree.children[-1]))],
        within,
        wanted,
    )


BARE = {"mm": "MILLIMETRE", "cm": "CENTIMETRE", "m": "METRE", "in": "INCH", "ft": "FOOT"}


A_LENGTH = "a length. Write it like 7.62 m, 25 ft, 41 cm or 2 1/2 in."


def lengths_of(terms: Sequence[Term], bare: str) -> list[Meaning]:
    """A length's meanings, m."""
    return [
        meaning for family in measures.LENGTHS for meaning in in_family(terms, family, BARE[bare])
    ]


def parse_length(text: str, bare: str = "m", within: Within | None = None) -> float:
    """Metres from "7.62 m", "25 ft", "2' 4\\"", "1 m 20 cm"; a bare number is in the unit *bare*.

    >>> round(parse_length("25 ft"), 4)
    7.62
    """

    def read(part: str) -> list[Meaning]:
        typed = typed_of(tree_of(part, "simple", A_LENGTH))
        return signed(lengths_of(typed.terms, bare), typed.sign)

    return settle(text, agreeing(text, read), within, A_LENGTH)


A_READING = "a reading. Write it like 410, 41 x10 or 38 fc."


ABOVE_ZERO = Within(0.0, math.inf, "zero or more")


def parse_illuminance(
    text: str, range_factor: float = 1.0, within: Within | None = None, display: bool = True
) -> float:
    """Lux from a meter: "410", "41 x10", "38 fc", "2.5 klx".

    A bare figure is what the display shows (*display*), so the meter's *range_factor* is applied; a
    factor written in the text takes its place. With a factor set, a figure with its unit may be
    either, and so may one off the display.

    >>> parse_illuminance("41 x10"), parse_illuminance("41", range_factor=10)
    (410.0, 410.0)
    """

    def read(part: str) -> list[Meaning]:
        typed = _display(part)
        if typed.sign == "-":
            raise NotUnderstoodError(
                "A reading cannot be below zero. Zero the meter and read again."
            )
        has_unit = typed.terms[0].unit is not None
        if typed.factor is not None:
            factors = [typed.factor]
        elif range_factor == 1 or (display and not has_unit):
            factors = [range_factor]
        else:
            factors = [1.0, range_factor]
        return [
            Meaning(
                meaning.value * factor, f"{meaning.text}{_times(factor, factors, range_factor)}"
            )
            for meaning in in_family(typed.terms, measures.LUX, "LUX")
            for factor in factors
        ]

    # A figure too large for the range is a slip as often as it is the other reading.
    return settle(text, agreeing(text, read), within or ABOVE_ZERO, A_READING, asks_all=True)


def _times(factor: float, factors: Sequence[float], range_factor: float) -> str:
    """How a factor is written: left out where it could be no other."""
    return f" x{factor:g}" if len(factors) > 1 or factor != 1 or range_factor != 1 else ""


def _display(part: str) -> Typed:
    """A meter's display as typed: a figure, its unit before or behind the factor."""
    tree = tree_of(part, "reading", A_READING)
    amount = next(str(child) for child in tree.children if isinstance(child, Token))
    kids = [child for child in tree.children if isinstance(child, Tree)]
    units = list(filter(_is_unit, kids))
    if len(units) > 1:
        raise NotUnderstoodError(f"“{part}” is not {A_READING}")
    rest = typed_of(Tree("reading", list(filterfalse(_is_unit, kids))))
    term = Term(amount, unit_name(units[0]) if units else None)
    return Typed(rest.sign, (term,), frozenset(), factor=rest.factor)


def _is_unit(child: Token | Tree[Token]) -> bool:
    return isinstance(child, Tree) and child.data == "unit"
