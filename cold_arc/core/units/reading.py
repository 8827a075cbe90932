"""From typed text to a number in SI: the grammar's tree, its meanings, and which of them is
plausible.

Every ``parse_*`` takes typed text and returns SI (or the unit its name says). What can't be
understood raises :class:`NotUnderstoodError`; what can be read two ways raises
:class:`AmbiguousError` with both readings, each as text that can be read one way only. *within*
narrows the readings to what is plausible for the field.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from itertools import filterfalse, product

from lark import Lark, Token, Tree
from lark.exceptions import LarkError

from cold_arc.core.units import measures
from cold_arc.core.units.figures import Meaning, NotUnderstoodError, figures, write_figure
from cold_arc.core.units.measures import Family
from cold_arc.core.units.text import LONGEST, tidy

MOST_SLOPE = 0.25
FULL_TURN_DEG = 360.0
SAME = 1e-9
AGREE_SHARE, AGREE_LEAST = 0.012, 0.0014


class AmbiguousError(NotUnderstoodError):
    """Typed text with more than one plausible meaning."""

    def __init__(self, typed: str, meanings: Sequence[Meaning]) -> None:
        super().__init__(
            f"“{typed.strip()}” can be read as "
            f"{' or '.join(meaning.text for meaning in meanings)}. Which?"
        )
        self.meanings = tuple(meanings)


@dataclass(frozen=True)
class Within:
    """What is plausible for a field, in the unit it is kept in; *words* say it."""

    low: float
    high: float
    words: str

    def holds(self, value: float) -> bool:
        """Whether *value* is plausible; the bounds are, a rounding error beyond them too."""
        slack = SAME * max(abs(value), 1.0)
        return self.low - slack <= value <= self.high + slack


@dataclass(frozen=True)
class Term:
    """A figure and the unit written after it, if any, by its name in the grammar."""

    text: str
    unit: str | None


@dataclass(frozen=True)
class Typed:
    """What the grammar found: sign, terms, and the words beside them."""

    sign: str
    terms: tuple[Term, ...]
    ways: frozenset[str]
    at: tuple[Term, ...] = ()
    factor: float | None = None


@cache
def _parser() -> Lark:
    grammar = resources.files(__package__).joinpath("quantity.lark").read_text("utf-8")
    return Lark(grammar, parser="lalr", start=["simple", "reading", "placed", "clock", "coded"])


def _tree(text: str, start: str, wanted: str) -> Tree[Token]:
    """The tree of tidied *text*; NotUnderstoodError, saying what is *wanted*, where the grammar has
    none.
    """
    if len(text) > LONGEST:
        raise NotUnderstoodError("That is too long for a number.")
    tree = _parsed(text, start)
    if tree is None:
        raise NotUnderstoodError(f"“{text}” is not {wanted}")
    return tree


@lru_cache(maxsize=1024)
def _parsed(text: str, start: str) -> Tree[Token] | None:
    """The grammar's tree, remembered; None where it has none."""
    try:
        return _parser().parse(text, start=start)
    except LarkError:
        return None


def _terms(tree: Tree[Token]) -> tuple[Term, ...]:
    terms = []
    for term in tree.children:
        assert isinstance(term, Tree)
        terms.append(
            Term(
                str(term.children[0]),
                _unit_name(term.children[1]) if len(term.children) > 1 else None,
            )
        )
    return tuple(terms)


def _unit_name(unit: Tree[Token] | Token) -> str:
    """A unit's name in the grammar."""
    assert isinstance(unit, Tree)
    assert isinstance(unit.children[0], Token)
    return unit.children[0].type


def _typed(tree: Tree[Token]) -> Typed:
    """The tree as a record."""
    sign, lists, words, factor = "", [], set(), None
    for child in tree.children:
        if isinstance(child, Token):
            words.add(child.type)
        elif child.data == "sign":
            sign = "-" if child.children[0] == "-" else "+"
        elif child.data == "terms":
            lists.append(_terms(child))
        elif child.data == "times":
            factor = float(child.children[-1])  # type: ignore[arg-type]
        else:
            words |= {token.type for token in child.children}  # type: ignore[union-attr]
    at = lists[1] if len(lists) > 1 else ()
    return Typed(sign, lists[0] if lists else (), frozenset(words - {"FILLER", "AT"}), at, factor)


def _in_family(terms: Sequence[Term], family: Family, bare: str | None) -> list[Meaning]:
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


def _agreeing(text: str, read: Callable[[str], list[Meaning]]) -> list[Meaning]:
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


def _signed(meanings: Iterable[Meaning], sign: str) -> list[Meaning]:
    return [
        Meaning(-meaning.value, f"-{meaning.text}") if sign == "-" else meaning
        for meaning in meanings
    ]


def parse_number(text: str, within: Within | None = None, unit: str = "") -> float:
    """A plain number, with or without its *unit* (a key of ``measures.PLAIN``), in that unit.

    >>> parse_number("13,8"), parse_number("60 °C", unit="°C")
    (13.8, 60.0)
    >>> parse_number("1 h 20 min", unit="min")
    80.0
    """
    wanted = A_LENGTH if unit == "mm" else f"a number{f', in {unit}' if unit else ''}."

    def read(part: str) -> list[Meaning]:
        typed = _typed(_tree(part, "simple", wanted))
        if any(term.unit == "FAHRENHEIT" for term in typed.terms):
            return [
                Meaning((meaning.value - 32) / 1.8, meaning.text)
                for meaning in _signed(_plain(typed.terms, unit), typed.sign)
            ]
        return _signed(_plain(typed.terms, unit), typed.sign)

    return settle(text, _agreeing(text, read), within, wanted)


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
    return [meaning for units in same_system for meaning in _in_family(terms, units, None)]


def parse_code(text: str, within: Within | None = None) -> float:
    """The figure of a code such as IP67."""
    wanted = "a code like IP67."
    tree = _tree(tidy(text), "coded", wanted)
    return settle(
        text,
        [Meaning(value, write_figure(value)) for value in figures(str(tree.children[-1]))],
        within,
        wanted,
    )


BARE = {"mm": "MILLIMETRE", "cm": "CENTIMETRE", "m": "METRE", "in": "INCH", "ft": "FOOT"}
A_LENGTH = "a length. Write it like 7.62 m, 25 ft, 41 cm or 2 1/2 in."


def _lengths(terms: Sequence[Term], bare: str) -> list[Meaning]:
    """A length's meanings, m."""
    return [
        meaning for family in measures.LENGTHS for meaning in _in_family(terms, family, BARE[bare])
    ]


def parse_length(text: str, bare: str = "m", within: Within | None = None) -> float:
    """Metres from "7.62 m", "25 ft", "2' 4\\"", "1 m 20 cm"; a bare number is in the unit *bare*.

    >>> round(parse_length("25 ft"), 4)
    7.62
    """

    def read(part: str) -> list[Meaning]:
        typed = _typed(_tree(part, "simple", A_LENGTH))
        return _signed(_lengths(typed.terms, bare), typed.sign)

    return settle(text, _agreeing(text, read), within, A_LENGTH)


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
            for meaning in _in_family(typed.terms, measures.LUX, "LUX")
            for factor in factors
        ]

    # A figure too large for the range is a slip as often as it is the other reading.
    return settle(text, _agreeing(text, read), within or ABOVE_ZERO, A_READING, asks_all=True)


def _times(factor: float, factors: Sequence[float], range_factor: float) -> str:
    """How a factor is written: left out where it could be no other."""
    return f" x{factor:g}" if len(factors) > 1 or factor != 1 or range_factor != 1 else ""


def _display(part: str) -> Typed:
    """A meter's display as typed: a figure, its unit before or behind the factor."""
    tree = _tree(part, "reading", A_READING)
    amount = next(str(child) for child in tree.children if isinstance(child, Token))
    kids = [child for child in tree.children if isinstance(child, Tree)]
    units = list(filter(_is_unit, kids))
    if len(units) > 1:
        raise NotUnderstoodError(f"“{part}” is not {A_READING}")
    rest = _typed(Tree("reading", list(filterfalse(_is_unit, kids))))
    term = Term(amount, _unit_name(units[0]) if units else None)
    return Typed(rest.sign, (term,), frozenset(), factor=rest.factor)


def _is_unit(child: Token | Tree[Token]) -> bool:
    return isinstance(child, Tree) and child.data == "unit"


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
        lambda typed: [] if typed.at else _lengths(typed.terms, bare),
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
        typed = _typed(_tree(part, "placed", wanted))
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

    return settle(text, _agreeing(text, read), within, wanted)


def _slopes(typed: Typed, distance_m: float, bare: str) -> list[Meaning]:
    """Every meaning of a size seen from the lamp, as a slope."""
    lengths = _lengths(typed.terms, bare)
    if typed.at:
        return _slopes_at(typed, lengths) if typed.terms[0].unit is not None else []
    lone_seconds = [term.unit for term in typed.terms] in (["MARK2"], ["ARCSEC"])
    angles = [] if lone_seconds else _in_family(typed.terms, measures.DEGREES, None)
    return [
        *(Meaning(length.value / distance_m, length.text) for length in lengths),
        *(Meaning(_tangent(angle.value), angle.text) for angle in angles),
        *_in_family(typed.terms, measures.PER_CENT, None),
    ]


def _slopes_at(typed: Typed, lengths: Sequence[Meaning]) -> list[Meaning]:
    """A length at a distance of its own, which must name its unit."""
    aways = _lengths(typed.at, "m") if typed.at[0].unit is not None else []
    return [
        Meaning(length.value / away.value, f"{length.text} at {write_figure(away.value)} m")
        for length in lengths
        for away in aways
        if away.value > 0
    ]


def _tangent(degrees: float) -> float:
    """Rise over run; beyond all bounds from a right angle on, where the tangent would come back."""
    return math.tan(math.radians(degrees)) if degrees < 90 else math.inf


A_CLOCK_ANGLE = "an angle. Write it like 20 cw, 20 ccw or 1 o'clock."


def parse_clock_angle(text: str) -> float:
    """Degrees clockwise from upright, in (−180, 180], from "20 cw", "20 ccw", "-20°" or "1
    o'clock".

    A bare whole number from 1 to 12 may be degrees or an hour, so it is asked back.

    >>> parse_clock_angle("11 o'clock")
    -30.0
    """
    return settle(text, _agreeing(text, _clock_meanings), None, A_CLOCK_ANGLE)


def _clock_meanings(part: str) -> list[Meaning]:
    tree = _tree(part, "clock", A_CLOCK_ANGLE)
    if tree.children[0] == "upright":
        return [Meaning(0.0, "upright")]
    if isinstance(tree.children[0], Token):
        return _o_clock(str(tree.children[0]))
    typed = _typed(tree)
    if len(typed.ways) > 1:
        raise NotUnderstoodError("Write clockwise or anticlockwise, not both.")
    if typed.ways and typed.sign:
        raise NotUnderstoodError("Write either a sign or cw/ccw, not both.")
    return [*_turned(typed), *_lone_hour(typed)]


def _turned(typed: Typed) -> list[Meaning]:
    """An angle turned one way, degrees clockwise."""
    if typed.terms[0].unit not in (None, "DEGREE"):
        return []
    angles = _in_family(typed.terms, measures.DEGREES, "DEGREE")
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
