"""Aims as they are typed: per cent, degrees, or lengths at a distance, each with its way."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from cold_arc.core.units import measures
from cold_arc.core.units.figures import Meaning, NotUnderstoodError, write_figure
from cold_arc.core.units.reading.grammar import Typed, Within, tree_of, typed_of
from cold_arc.core.units.reading.plain import A_LENGTH, lengths_of
from cold_arc.core.units.reading.settling import agreeing, in_family, settle

MOST_SLOPE = 0.25


UP_DOWN = ("UP", "DOWN")


RIGHT_LEFT = ("RIGHT", "LEFT")


AN_AIM = "an aim. Write it like 8 cm, 2 in up, -1.2%, 0.4° or 34 min."


def parse_slope(text: str, distance_m: float, bare: str = "cm") -> float:
    """Slope of a line of sight (rise over run, up positive) from "-1.2%", "0.4° down", "8 cm", "2
    in up".

    A cut-off hangs below its lamp, so text with neither sign nor direction word counts as *below*.
    Lengths are offsets on a wall at *distance_m* unless the text says where ("2 in at 25 ft"); a
    bare number takes the unit *bare*. Nothing steeper than 25 % is an aim.

    >>> round(parse_slope("2 in", 7.62), 5)
    -0.00667
    """
    return _placed(text, UP_DOWN, False, lambda typed: _slopes(typed, distance_m, bare))


def parse_sideways(text: str, distance_m: float, bare: str = "cm") -> float:
    """A sideways slope, right positive, from "4 cm right", "2 in left", "-3 cm", "1 % left"; bare
    is to the right.
    """
    return _placed(text, RIGHT_LEFT, True, lambda typed: _slopes(typed, distance_m, bare))


def parse_offset(
    text: str, bare: str, ways: tuple[str, str], within: Within | None = None
) -> float:
    """Metres along the first of two ways ("RIGHT", "LEFT"; "DOWN", "UP"), from "4 cm", "2 in
    left".
    """
    return _placed(
        text,
        ways,
        True,
        lambda typed: [] if typed.at else lengths_of(typed.terms, bare),
        within,
        A_LENGTH,
    )


AIMS = Within(-MOST_SLOPE, MOST_SLOPE, f"an aim: no more than {MOST_SLOPE:.0%} (14°)")


def _placed(
    text: str,
    ways: tuple[str, str],
    bare_is_first: bool,
    size: Callable[[Typed], list[Meaning]],
    within: Within | None = AIMS,
    wanted: str = AN_AIM,
) -> float:
    """A place along one of two *ways*, the first positive: by word or sign; with neither, as
    *bare_is_first* says.
    """

    def read(part: str) -> list[Meaning]:
        typed = typed_of(tree_of(part, "placed", wanted))
        if typed.ways == {"LEVEL"}:
            return [Meaning(0.0, "level")]
        if typed.ways - set(ways):
            raise NotUnderstoodError(f"“{part}” is not {wanted}")
        words = f"{ways[0].lower()}/{ways[1].lower()}"
        if len(typed.ways) > 1:
            raise NotUnderstoodError(f"Write one of {words}, not both.")
        if typed.ways and typed.sign:
            raise NotUnderstoodError(f"Write either a sign or {words}, not both.")
        is_first = (
            ways[0] in typed.ways
            if typed.ways
            else typed.sign == "+"
            if typed.sign
            else bare_is_first
        )
        turn, way = (1.0, ways[0]) if is_first else (-1.0, ways[1])
        return [
            Meaning(turn * meaning.value + 0.0, f"{meaning.text} {way.lower()}")
            for meaning in size(typed)
        ]

    return settle(text, agreeing(text, read), within, wanted)


def _slopes(typed: Typed, distance_m: float, bare: str) -> list[Meaning]:
    """Every meaning of a size seen from the lamp, as a slope."""
    lengths = lengths_of(typed.terms, bare)
    if typed.at:
        return _slopes_at(typed, lengths) if typed.terms[0].unit is not None else []
    lone_seconds = [term.unit for term in typed.terms] in (["MARK2"], ["ARCSEC"])
    angles = [] if lone_seconds else in_family(typed.terms, measures.DEGREES, None)
    return [
        *(Meaning(length.value / distance_m, length.text) for length in lengths),
        *(Meaning(_tangent(angle.value), angle.text) for angle in angles),
        *in_family(typed.terms, measures.PER_CENT, None),
    ]


def _slopes_at(typed: Typed, lengths: Sequence[Meaning]) -> list[Meaning]:
    """A length at a distance of its own, which must name its unit."""
    aways = lengths_of(typed.at, "m") if typed.at[0].unit is not None else []
    return [
        Meaning(length.value / away.value, f"{length.text} at {write_figure(away.value)} m")
        for length in lengths
        for away in aways
        if away.value > 0
    ]


def _tangent(degrees: float) -> float:
    """Rise over run; beyond all bounds from a right angle on, where the tangent would come back."""
    return math.tan(math.radians(degrees)) if degrees < 90 else math.inf
