"""Identify: from what can be seen on the old bulb, in any order, to its base.

Common practice, no published source: the questions, and what tells look-alikes apart
(``data/look_alikes.toml``). The printed code beats every guess; a base whose answer is not known is
never ruled out by it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from itertools import combinations

from cold_arc.core import data
from cold_arc.core.car.base_faces import tab_count
from cold_arc.core.car.bases import BEAMS, LOOKS, Base, catalogue, code, find, usual
from cold_arc.core.car.lamps import Optic
from cold_arc.core.errors import ColdArcError
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import NotUnderstoodError, UnitSystem, raised, worded
from cold_arc.core.units.quantities import Quantity

FACTS_OF_BASES = cite("un-r37", "un-r99", "iec-60061")
DIAMETER_TOLERANCE_MM = 1.0
WATTS_TOLERANCE = 1.0
MOST_TAKEN_BACK = 3
MOST_ALIKE_SHOWN = 6


@dataclass(frozen=True)
class Question:
    """One thing to look at; *options* from value to words, none where the answer is typed.

    *agrees* says whether a base fits an answer, None where the base's own answer is not known;
    *would_say*: what one would type for a base.
    """

    id: str
    text: str
    options: Mapping[str, str]
    agrees: Callable[[Base, str], bool | None]
    hint: str = ""
    would_say: Callable[[Base], tuple[str, ...]] = lambda _: ()

    def check(self, answer: str) -> None:
        """Raises NotUnderstoodError for an answer that is none of the choices, or can't be read."""
        if self.options and answer not in self.options:
            raise NotUnderstoodError(f"“{answer}” is not one of the answers.")
        self.agrees(catalogue()[0], answer)

    def choices(self, remaining: Iterable[Base]) -> dict[str, str]:
        """Its options, or for a typed answer what would be typed for the bases remaining."""
        typed = dict.fromkeys(text for base in remaining for text in self.would_say(base))
        return dict(self.options) or {text: text for text in typed}


def _is(attribute: str) -> Callable[[Base, str], bool | None]:
    def agrees(base: Base, answer: str) -> bool | None:
        value = getattr(base, attribute)
        return None if value is None else str(value) == answer

    return agrees


def _printed(base: Base, answer: str) -> bool:
    wanted, names = code(answer), [code(name) for name in base.names]
    if any(wanted in map(code, other.names) for other in catalogue()):
        return wanted in names
    return any(wanted in text for text in (*names, code(base.cap or "")))


RIM, PRINTED_WATTS = Quantity(2, 80, "mm"), Quantity(1, 150, "W")


@lru_cache(maxsize=256)
def _figure(quantity: Quantity, answer: str) -> float:
    """An answer's figure, read once for all bases; NotUnderstoodError, in words."""
    return quantity.read(answer, UnitSystem.METRIC, {})


def _diameter(base: Base, answer: str) -> bool | None:
    width = _figure(RIM, answer)
    return (
        None if base.diameter_mm is None else abs(width - base.diameter_mm) <= DIAMETER_TOLERANCE_MM
    )


def _watts(base: Base, answer: str) -> bool:
    printed = _figure(PRINTED_WATTS, answer)
    return any(abs(printed - watts) <= WATTS_TOLERANCE for watts in base.watts)


def _rim(base: Base) -> tuple[str, ...]:
    return (f"{base.diameter_mm:g} mm",) if base.diameter_mm else ()


def _say_watts(base: Base) -> tuple[str, ...]:
    return tuple(f"{watts:g}" for watts in base.watts)


def _tabs(base: Base, answer: str) -> bool | None:
    count = tab_count(base)
    return None if count is None else str(count) == answer


def _plug(base: Base, answer: str) -> bool | None:
    """A high-voltage socket is gas discharge's alone, whatever else is not known of a base's
    plug.
    """
    if base.plug is None:
        return False if answer == "high-voltage" and base.kind != "hid" else None
    return base.plug == answer


def _igniter(base: Base, answer: str) -> bool:
    return bool(base.igniter) is (answer == "box")


def _mercury(base: Base, answer: str) -> bool:
    return base.kind == "hid" and base.contains_mercury is (answer == "no")


QUESTIONS: tuple[Question, ...] = (
    Question("printed", "Code on the old bulb", {}, _printed, "any part of it"),
    Question("diameter", "Rim across, without tabs", {}, _diameter, "26 mm", _rim),
    Question("watts", "Watts printed", {}, _watts, "55", _say_watts),
    Question("looks", "Body", LOOKS, _is("looks")),
    Question(
        "beams", "Bulbs a side for low and high", {**BEAMS, "single": "One for each"}, _is("beams")
    ),
    Question(
        "contacts",
        "Contacts",
        {str(count): str(count) for count in (1, 2, 3, 4)},
        _is("contact_count"),
    ),
    Question(
        "plug",
        "Plug",
        {
            "blades": "Bare blades at the back",
            "angled": "Socket at a right angle",
            "straight": "Shroud in line, pins in a row",
            "lead": "Wire tail",
            "high-voltage": "High-voltage socket",
            "wires": "Bent wires or strips",
            "point": "One point at the bottom",
        },
        _plug,
    ),
    Question("tabs", "Tabs or pins on the rim", {"0": "None", "2": "2", "3": "3"}, _tabs),
    Question(
        "glass",
        "Glass",
        {
            "clear": "Clear to the tip",
            "dark tip": "Dark tip",
            "cup": "Metal cup inside",
            "painted": "Painted shield",
            "coated": "Coloured sheen",
            "amber": "Amber",
        },
        _is("glass"),
    ),
    Question(
        "igniter", "Box on the bulb", {"box": "Yes, an igniter box", "none": "No box"}, _igniter
    ),
    Question("mercury", "HID label", {"free": "Says mercury free", "no": "No such mark"}, _mercury),
)
_BY_ID = {question.id: question for question in QUESTIONS}
Answers = Mapping[str, str]


class AnswerError(ColdArcError, ValueError):
    """An answer that can't be read; *question* is its id."""

    def __init__(self, question: str, message: str) -> None:
        super().__init__(message)
        self.question = question


@dataclass(frozen=True)
class Split:
    """A question worth asking next: how many bases each answer would leave."""

    question: Question
    leaves: tuple[tuple[str, int], ...]
    expected: float

    @property
    def words(self) -> str:
        """How the remaining would split, in words."""
        return ", ".join(f"{words.lower()}: {count}" for words, count in self.leaves)


@dataclass(frozen=True)
class Identification:
    """The bases that agree with every answer, what contradicts what, what to look at next, whom
    they are taken for.

    *rarer*: rare bases that agree too, beside usual ones.
    """

    remaining: tuple[Base, ...]
    contradictions: tuple[Finding, ...]
    closest: tuple[Base, ...]
    next: Split | None
    alike: tuple[Finding, ...]
    rarer: tuple[Base, ...] = ()


def read(answers: Answers) -> tuple[dict[str, str], dict[str, str]]:
    """The answers given, without blanks and unknown questions, and what is wrong with those that
    can't be read.
    """
    given, wrong = {}, {}
    for name, question in _BY_ID.items():
        text = answers.get(name, "").strip()[:40]
        if not text:
            continue
        try:
            question.check(text)
            given[name] = text
        except NotUnderstoodError as error:
            wrong[name] = str(error)
    return given, wrong


def clean(answers: Answers) -> dict[str, str]:
    """The answers given; AnswerError for one that can't be read."""
    given, wrong = read(answers)
    for name, message in wrong.items():
        raise AnswerError(name, message)
    return given


def narrow(answers: Answers) -> tuple[Base, ...]:
    """The usual bases no answer rules out, or where none is left the rare ones; AnswerError for
    what can't be read.
    """
    agreeing = _agreeing(answers)
    return tuple(base for base in agreeing if not base.rare) or agreeing


def rarer(answers: Answers) -> tuple[Base, ...]:
    """Rare bases that agree with every answer beside the usual ones; AnswerError for an answer that
    can't be read.
    """
    agreeing = _agreeing(answers)
    return (
        tuple(base for base in agreeing if base.rare)
        if any(not base.rare for base in agreeing)
        else ()
    )


def _agreeing(answers: Answers) -> tuple[Base, ...]:
    given = clean(answers)
    return tuple(
        base
        for base in (catalogue() if given else usual())
        if all(_BY_ID[name].agrees(base, text) is not False for name, text in given.items())
    )


def identify(answers: Answers) -> Identification:
    """Everything the answers so far say; AnswerError for an answer that can't be read."""
    given = clean(answers)
    remaining = narrow(given)
    contradictions, closest = ((), ()) if remaining else _contradictions(given)
    split = next_question(remaining, given)
    return Identification(
        remaining, contradictions, closest, split, _warnings(remaining), rarer(given)
    )


def _warnings(remaining: tuple[Base, ...]) -> tuple[Finding, ...]:
    """Look-alikes among a few remaining; for one alone, everything it is mistaken for."""
    if len(remaining) == 1:
        return tuple(mistaken_for(remaining[0]))
    return tuple(look_alikes(remaining)) if len(remaining) <= MOST_ALIKE_SHOWN else ()


def _contradictions(given: Answers) -> tuple[tuple[Finding, ...], tuple[Base, ...]]:
    """The fewest answers to take back until something agrees, each way of doing so, and what it
    leaves.
    """
    for count in range(1, min(MOST_TAKEN_BACK, len(given)) + 1):
        ways = []
        for taken in combinations(given, count):
            left = narrow({name: text for name, text in given.items() if name not in taken})
            if left:
                ways.append((taken, left))
        if ways:
            contradictions = tuple(_contradiction(given, taken, left) for taken, left in ways)
            return contradictions, tuple(dict.fromkeys(base for _, left in ways for base in left))
    return (
        Finding(
            "answers-contradict",
            Level.STOP,
            "The answers contradict one another.",
            FACTS_OF_BASES,
            advice="Start again from the code.",
        ),
    ), ()


def _contradiction(given: Answers, taken: tuple[str, ...], left: tuple[Base, ...]) -> Finding:
    phrases = " and ".join(
        f"{_BY_ID[name].text.lower()} “{answer_words(name, given[name])}”" for name in taken
    )
    names = ", ".join(base.name for base in left[:MOST_ALIKE_SHOWN])
    more = f" and {len(left) - MOST_ALIKE_SHOWN} more" if len(left) > MOST_ALIKE_SHOWN else ""
    code_too = "printed" in taken
    return Finding(
        "answer-contradicts",
        Level.CAUTION,
        worded("{phrase} contradicts the other answers.", phrase=raised(phrases)),
        FACTS_OF_BASES,
        worded("without it: {names}{more}", names=names, more=more),
        advice="Read the code once more: it beats every guess."
        if code_too
        else "Look again, or take it back.",
    )


def answer_words(name: str, answer: str) -> str:
    """An answer as people say it."""
    return _BY_ID[name].options.get(answer, answer)


def next_question(remaining: tuple[Base, ...], given: Answers) -> Split | None:
    """The unanswered question that leaves the fewest bases to be expected; None when none splits
    them.
    """
    if len(remaining) < 2:
        return None
    splits = [_split(question, remaining) for question in QUESTIONS if question.id not in given]
    useful = [split for split in splits if split.expected < len(remaining) - 1e-9]
    return min(useful, key=lambda split: split.expected, default=None)


def _split(question: Question, remaining: tuple[Base, ...]) -> Split:
    """How a question splits the remaining, each base taken as equally likely.

    A base none of the choices speaks of (its answer unknown, or the question meaningless for it)
    can't be answered and leaves everything.
    """
    choices, count = question.choices(remaining), len(remaining)
    verdicts = {value: [question.agrees(base, value) for base in remaining] for value in choices}
    leaves = {value: len(row) - row.count(False) for value, row in verdicts.items()}
    expected = sum(_left_by(verdicts, leaves, index, count) for index in range(count)) / count
    shown = tuple((choices[value], leaves[value]) for value, row in verdicts.items() if True in row)
    return Split(question, shown, expected)


def _left_by(
    verdicts: Mapping[str, Sequence[bool | None]],
    leaves: Mapping[str, int],
    index: int,
    count: int,
) -> float:
    """How many are left on average by the answers that hold for the base at *index*; all *count*
    where none does.
    """
    ways = [leaves[value] for value, row in verdicts.items() if row[index] is True]
    return sum(ways) / len(ways) if ways else float(count)


@cache
def _groups() -> tuple[tuple[frozenset[str], str], ...]:
    table = data.load("look_alikes")["group"]
    unknown = {name for row in table for name in row["bases"] if find(name) is None}
    if unknown:
        raise ValueError(f"look_alikes.toml: {', '.join(sorted(unknown))} not in the catalogue")
    return tuple((frozenset(row["bases"]), row["tell"]) for row in table)


def look_alikes(candidates: Iterable[Base]) -> list[Finding]:
    """Warnings for remaining bases that are mistaken for one another, and what tells them apart."""
    names = [base.name for base in candidates]
    warnings = []
    for group, tell in _groups():
        alike = [name for name in names if name in group]
        if len(alike) > 1:
            warnings.append(
                Finding(
                    "bases-alike",
                    Level.CAUTION,
                    worded("{alike} look alike.", alike=", ".join(alike)),
                    PRACTICE,
                    advice=worded("{tell}.", tell=raised(tell)),
                )
            )
    return warnings


def mistaken_for(base: Base) -> list[Finding]:
    """What an identified base is often mistaken for."""
    return [
        Finding(
            "base-mistaken",
            Level.NOTE,
            worded(
                "{base} is mistaken for {group}.",
                base=base.name,
                group=", ".join(sorted(group - {base.name})),
            ),
            PRACTICE,
            advice=worded("{tell}.", tell=raised(tell)),
        )
        for group, tell in _groups()
        if base.name in group
    ]


def against_optic(base: Base, optic: Optic | None) -> list[Finding]:
    """S bases belong in projectors, R bases (painted shield) in reflectors (UN R99, from
    memory).
    """
    made_for = (
        {"S": Optic.PROJECTOR, "R": Optic.REFLECTOR}.get(base.name[-1])
        if base.kind == "hid"
        else None
    )
    projector_like = made_for is Optic.PROJECTOR and optic is not None and optic.is_projector
    if made_for is None or optic is None or projector_like or optic in (made_for, Optic.SEALED):
        return []
    return [
        Finding(
            "base-of-other-optic",
            Level.CAUTION,
            (
                worded(
                    "{base} belongs in a {made_for}, and this is a {optic}.",
                    base=base.name,
                    made_for=made_for.label.lower(),
                    optic=optic.label.lower(),
                )
            ),
            cite("un-r99"),
            worded("rim {diameter_mm:number} mm either way", diameter_mm=base.diameter_mm)
            if base.diameter_mm
            else "",
            advice=(
                "Look at the glass: a painted shield means R. Somebody may have fitted the wrong "
                "one."
            ),
        )
    ]


def not_known(base: Base) -> list[Finding]:
    """A word where a forward bulb's light centre is not in the catalogue: it can be measured off
    the old bulb.
    """
    if base.lcl_mm is not None or base.beams == "signal" or base.sealed:
        return []
    text = worded(
        "The light centre of {base} is not known here, so a candidate's depth can't be judged.",
        base=base.name,
    )
    return [
        Finding(
            "light-centre-unknown",
            Level.NOTE,
            text,
            PRACTICE,
            advice="Measure the old bulb: two caliper readings.",
        )
    ]
