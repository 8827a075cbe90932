"""What an exercise is: what is shown, what may be answered, what is right, and how an answer was.

The same skill, level and seed always make the same exercise.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from random import Random
from string import ascii_lowercase

from cold_arc.core.aim.rules import Target
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.errors import ColdArcError
from cold_arc.core.school.skills import kind_of

LEVELS = (1, 2, 3, 4, 5)
# Seeds are drawn below this.
MOST_SEED = 1_000_000
# What an answer's text may hold at most.
LONGEST_ANSWER = 400


class NoAnswerError(ColdArcError, ValueError):
    """An answer that is none, in words."""


def figure_of(text: str, otherwise: str) -> float:
    """A finite figure of an answer; NoAnswerError, saying *otherwise*, for anything else."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise NoAnswerError(otherwise)
    return value


@dataclass(frozen=True)
class Posed:
    """A question: a skill, a level and a seed, which make it."""

    skill: str
    level: int
    seed: int

    @property
    def kind(self) -> str:
        """Its kind of exercise."""
        return kind_of(self.skill)

    @property
    def luck(self) -> Random:
        """What chance makes of it, from the beginning: always the same."""
        return Random(f"{self.skill} {self.level} {self.seed}")


@dataclass(frozen=True)
class AnswerOption:
    """One answer to choose; *means*: the skill that is confused with where it is chosen wrongly."""

    id: str
    text: str
    means: str = ""


@dataclass(frozen=True)
class BeamsShown:
    """Beams on the Wall, by letter where there are several; *meant*: the lamp as it should be;
    *taped*: with the line where its edge belongs.
    """

    setups: tuple[SetUp, ...]
    meant: SetUp
    taped: bool = False


@dataclass(frozen=True)
class FaceShown:
    """A base from behind, and what is seen of it besides: question and answer."""

    base: str
    seen: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class LineShown:
    """A beam whose edge stands *stands_deg* up, on a wall; answered within *within_deg*."""

    setup: SetUp
    stands_deg: float
    within_deg: float
    distance_m: float


@dataclass(frozen=True)
class CollarShown:
    """A bulb that locked at *stopped_deg*, and in how many positions of a turn it looks alike."""

    stopped_deg: float
    turns_alike: int
    within_deg: float


@dataclass(frozen=True)
class ScrewsShown:
    """A lamp to be aimed by two screws: what a turn does (slopes up, right), its play, where it
    stands; *par*: in how many moves; *sideways*: whether the elbow is aimed too.
    """

    setup: SetUp
    stands: tuple[float, float]
    per_height: tuple[float, float]
    per_side: tuple[float, float]
    play: float
    par: int
    sideways: bool
    target: Target
    distance_m: float


@dataclass(frozen=True)
class RowsShown:
    """Rows of a table, each with an id where it can be picked."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class MeterShown:
    """A lamp before the wall and a meter that was left on a range: what the bay's lights add, lx,
    the supply with the engine off, V, and how much sound readings scatter, as a share.
    """

    housing: str
    base: str
    source: str
    left_on: float
    lit_lx: float
    off_v: float
    scatter: float

    @property
    def lamp(self) -> tuple[str, str, str]:
        """Housing, base and source."""
        return self.housing, self.base, self.source

    @property
    def setup(self) -> SetUp:
        """The lamp as it shines."""
        return SetUp(housing=self.housing, base=self.base, source=self.source)


@dataclass(frozen=True)
class CarShown:
    """A simulated car: its hidden fault, its luck, what it is brought in with; the tests that are
    offered and how long one may search.
    """

    fault: str
    number: int
    symptom: str
    tests: tuple[str, ...]
    allowed_minutes: float


@dataclass(frozen=True)
class StepsShown:
    """Steps that are done, in order; *back*: on the way back."""

    done: tuple[str, ...]
    back: bool = False


@dataclass(frozen=True)
class FactsShown:
    """What is known of a car, line by line."""

    facts: tuple[tuple[str, str], ...]


Shown = (
    BeamsShown
    | FaceShown
    | LineShown
    | CollarShown
    | ScrewsShown
    | RowsShown
    | MeterShown
    | CarShown
    | StepsShown
    | FactsShown
)


@dataclass(frozen=True)
class Exercise:
    """One exercise. *told*: what is known besides what is *shown*; *right*: the ids of the options
    that are; *picks*: how many are to be chosen; *why*: what is true of it.
    """

    posed: Posed
    ask: str
    shown: Shown
    told: tuple[str, ...] = ()
    options: tuple[AnswerOption, ...] = ()
    right: frozenset[str] = field(default_factory=frozenset)
    picks: int = 1
    why: str = ""

    @property
    def guessed(self) -> float:
        """How often a blind guess is right."""
        if not self.options:
            return 0.0
        return 1.0 / len(self.options) if self.picks == 1 else 1.0 / len(self.options) ** 2

    def text_of(self, option: str) -> str:
        """An option's words."""
        return next((known.text for known in self.options if known.id == option), option)


@dataclass(frozen=True)
class Judgement:
    """Whether an answer is right, what was said and what is true, in words; *taken_for*: the skill
    it was confused with, "" for none; *notes*: what else is to be known.
    """

    right: bool
    said: str
    true: str
    taken_for: str = ""
    notes: tuple[str, ...] = ()


def by_level(level: int, values: Sequence[float]) -> float:
    """What a level has of five values."""
    return values[level - 1]


def judged_by_options(exercise: Exercise, answer: str) -> Judgement:
    """An answer of options, their ids parted by commas; NoAnswerError for one that is none."""
    chosen = frozenset(filter(None, answer.split(",")))
    known = {option.id: option for option in exercise.options}
    if not chosen or not chosen <= known.keys():
        raise NoAnswerError("Choose one of the answers.")
    if len(chosen) > exercise.picks:
        raise NoAnswerError(f"Choose {exercise.picks} at most.")
    wrong = [known[key] for key in known if key in chosen - exercise.right]
    return Judgement(
        chosen == exercise.right,
        _words(exercise, chosen),
        exercise.why or _words(exercise, exercise.right),
        wrong[0].means if wrong else "",
    )


def _words(exercise: Exercise, chosen: frozenset[str]) -> str:
    return "; ".join(option.text for option in exercise.options if option.id in chosen)


def shuffled(options: Mapping[str, AnswerOption], luck: Random) -> tuple[AnswerOption, ...]:
    """Options in an order of luck."""
    order = list(options.values())
    luck.shuffle(order)
    return tuple(order)


def lettered(
    texts: Sequence[str], right: str, luck: Random
) -> tuple[tuple[AnswerOption, ...], str]:
    """Options of texts in an order of luck, called by letters that tell nothing; and which is
    *right*.
    """
    order = list(texts)
    luck.shuffle(order)
    options = tuple(
        AnswerOption(letter, text) for letter, text in zip(ascii_lowercase, order, strict=False)
    )
    return options, next(option.id for option in options if option.text == right)
