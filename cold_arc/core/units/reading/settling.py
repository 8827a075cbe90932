"""What terms may mean, and which of their meanings is plausible: one, or it is asked back."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from itertools import product

from cold_arc.core.units import measures
from cold_arc.core.units.figures import Meaning, NotUnderstoodError, figures, write_figure
from cold_arc.core.units.measures import Family
from cold_arc.core.units.reading.grammar import SAME, AmbiguousError, Term, Within
from cold_arc.core.units.text import tidy

AGREE_SHARE, AGREE_LEAST = 0.012, 0.0014


def in_family(terms: Sequence[Term], family: Family, bare: str | None) -> list[Meaning]:
    """Every meaning of terms whose units belong to one family, each smaller than the one before;
    none otherwise.
    """
    units = _units_of(terms, family, bare)
    sizes = [family.get(unit or "", 0.0) for unit in units]
    if not all(sizes) or (len(terms) > 1 and terms[0].unit is None):
        return []
    return [
        _summed(values, sizes, units)
        for values in product(*(figures(term.text) for term in terms))
        if _descends(values, sizes)
    ]


def _units_of(terms: Sequence[Term], family: Family, bare: str | None) -> list[str | None]:
    """Each term's unit in the family; a lone bare one is in *bare*, one behind feet in inches."""
    lone = bare if len(terms) == 1 else None
    units = [_unit(term.unit, family) or (None if term.unit else lone) for term in terms]
    if len(terms) == 2 and terms[1].unit is None and units[0] == "FOOT":
        units[1] = "INCH"
    return units


def _summed(
    values: Sequence[float], sizes: Sequence[float], units: Sequence[str | None]
) -> Meaning:
    """Terms as one figure, and as they are spelled."""
    spelled = (_spelled(value, unit) for value, unit in zip(values, units, strict=True))
    return Meaning(
        sum(value * size for value, size in zip(values, sizes, strict=True)), " ".join(spelled)
    )


def _spelled(value: float, unit: str | None) -> str:
    """A figure and its unit in a way that reads back as itself alone."""
    return measures.with_unit(write_figure(value), measures.SPELLED[unit or ""])


def _unit(name: str | None, family: Family) -> str | None:
    """A unit's name in a family: a mark is one of two."""
    return next(
        (unit for unit in measures.MARKS.get(name or "", (name or "",)) if unit in family), None
    )


def _descends(values: Sequence[float], sizes: Sequence[float]) -> bool:
    """Whether each term is whole but the last, and each less than one of the unit before it."""
    whole = all(value == int(value) for value in values[:-1])
    pairs = zip(sizes, values[1:], sizes[1:], strict=False)
    return whole and all(value * size < before * (1 - SAME) for before, value, size in pairs)


def settle(
    typed: str,
    meanings: Iterable[Meaning],
    within: Within | None,
    wanted: str,
    asks_all: bool = False,
) -> float:
    """The one plausible meaning; AmbiguousError for several, NotUnderstoodError for none.

    *asks_all*: what can be read two ways is asked back even where one of them is not plausible.
    """
    distinct = _distinct(meanings)
    if not distinct:
        raise NotUnderstoodError(f"“{typed.strip()}” is not {wanted}")
    plausible = [meaning for meaning in distinct if _is_plausible(meaning, within)]
    if not plausible:
        assert within is not None
        read = " or ".join(meaning.text for meaning in distinct)
        raise NotUnderstoodError(f"Must be {within.words}; this reads as {read}.")
    if len(plausible) > 1:
        raise AmbiguousError(typed, plausible)
    if asks_all and len(distinct) > 1:
        raise AmbiguousError(typed, distinct)
    return plausible[0].value


def _distinct(meanings: Iterable[Meaning]) -> list[Meaning]:
    """The meanings that are not one figure, in their order."""
    distinct: list[Meaning] = []
    for meaning in meanings:
        if not any(_is_same(meaning, other) for other in distinct):
            distinct.append(meaning)
    return distinct


def _is_same(one: Meaning, other: Meaning) -> bool:
    """Whether two meanings are one figure."""
    return abs(one.value - other.value) <= SAME * max(1, abs(other.value))


def _is_plausible(meaning: Meaning, within: Within | None) -> bool:
    return math.isfinite(meaning.value) and (within is None or within.holds(meaning.value))


def agreeing(text: str, read: Callable[[str], list[Meaning]]) -> list[Meaning]:
    """The meanings of a text that says one thing in several units, as the program does: "7.62 m, 25
    ft".

    Parted by a dot in the middle, or by a comma behind a unit; every part must mean the first,
    within its rounding.
    """
    first, *others = _parts(tidy(text))
    meanings = read(first)
    for part in others:
        same = read(part)
        meanings = [
            meaning
            for meaning in meanings
            if any(_agree(meaning.value, other.value) for other in same)
        ]
        if not meanings:
            raise NotUnderstoodError(f"“{first}” and “{part}” are not the same. Write one of them.")
    return meanings


def _parts(text: str) -> list[str]:
    parts: list[str] = []
    for piece in text.split("·"):
        first, *rest = piece.split(", ")
        parts.append(first.strip())
        for part in rest:
            if parts[-1][-1:].isdigit():
                parts[-1] += f", {part}"
            else:
                parts.append(part.strip())
    return parts


def _agree(one: float, other: float) -> bool:
    return abs(one - other) <= max(AGREE_SHARE * max(abs(one), abs(other)), AGREE_LEAST)


def signed(meanings: Iterable[Meaning], sign: str) -> list[Meaning]:
    return [
        Meaning(-meaning.value, f"-{meaning.text}") if sign == "-" else meaning
        for meaning in meanings
    ]
