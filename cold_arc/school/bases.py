"""Exercises on bases: from what is seen of an old bulb to its base."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from random import Random

from cold_arc.core import data
from cold_arc.core.car import identify
from cold_arc.core.car.base_faces import faces
from cold_arc.core.car.bases import Base, find, usual
from cold_arc.core.car.identify import QUESTIONS, Question
from cold_arc.core.school.exercise import AnswerOption, Exercise, FaceShown, Posed, by_level
from cold_arc.core.school.skills import kinds

# How many bases a level offers, and how many facts beyond what tells them apart.
OFFERED, MORE_FACTS = (3, 4, 4, 5, 6), (3, 2, 1, 0, 0)
# What is told of a bulb in hand; the code on it would give it away.
HIDDEN_QUESTION = "printed"
MOST_TRIES = 60


@cache
def _drawn() -> tuple[Base, ...]:
    """The usual bases whose face is known."""
    return tuple(base for base in usual() if base.name in faces())


@cache
def _alike() -> tuple[tuple[str, ...], ...]:
    """Groups of bases that are mistaken for one another, as the catalogue's table has them."""
    groups = data.load("look_alikes")["group"]
    return tuple(tuple(name for name in row["bases"] if name in faces()) for row in groups)


def answer_of(question: Question, base: Base) -> str:
    """What one would answer to a question with such a base in hand; "" where it is not known."""
    choices = list(question.options) or list(question.would_say(base))
    return next((text for text in choices if question.agrees(base, text)), "")


def fitting(seen: Sequence[tuple[str, str]], among: Sequence[str]) -> list[str]:
    """The bases *among* some that agree with everything seen, by the core's own questions."""
    left = {base.name for base in identify.narrow(dict(seen))}
    return [name for name in among if name in left]


def _others(base: Base, skill: str, count: int, luck: Random) -> list[str]:
    """Bases offered beside the right one: look-alikes first, or of other bodies."""
    alike = skill == "base.alike"
    rest = [other.name for other in _drawn() if (other.looks == base.looks) is alike]
    luck.shuffle(rest)
    names = dict.fromkeys([base.name, *(_mistaken(base.name) if alike else ()), *rest])
    return list(names)[1:count]


def _mistaken(name: str) -> list[str]:
    """The bases one is mistaken for."""
    return [other for group in _alike() if name in group for other in group]


def name_base(posed: Posed) -> Exercise:
    """Which base it is, from its face and as many facts as tell it from the others offered."""
    luck, level = posed.luck, posed.level
    for _ in range(MOST_TRIES):
        base = _any(posed.skill, luck)
        names = [base.name, *_others(base, posed.skill, round(by_level(level, OFFERED)), luck)]
        seen = _seen(base, names, level, luck)
        if len(names) > 2 and seen and fitting(seen, names) == [base.name]:
            break
    else:
        raise RuntimeError(f"no such base: {posed}")
    luck.shuffle(names)
    return Exercise(
        posed,
        kinds()["base"].ask,
        FaceShown(base.name, tuple(_words(*pair) for pair in seen)),
        (),
        tuple(AnswerOption(name, name) for name in names),
        frozenset({base.name}),
        why=_why(base),
    )


def _any(skill: str, luck: Random) -> Base:
    if skill != "base.alike":
        return luck.choice(_drawn())
    base = find(luck.choice([name for group in _alike() for name in group]))
    assert base is not None
    return base


def _seen(base: Base, names: Sequence[str], level: int, luck: Random) -> list[tuple[str, str]]:
    """Facts that leave it alone among those offered, and some more where the level has them."""
    known = [
        (question.id, answer)
        for question in QUESTIONS
        if question.id != HIDDEN_QUESTION and (answer := answer_of(question, base))
    ]
    luck.shuffle(known)
    seen: list[tuple[str, str]] = []
    while known and fitting(seen, names) != [base.name]:
        left = len(fitting(seen, names))
        telling = [pair for pair in known if len(fitting([*seen, pair], names)) < left]
        if not telling:
            return []
        seen.append(telling[0])
        known.remove(telling[0])
    return seen + known[: round(by_level(level, MORE_FACTS))]


def _words(question: str, answer: str) -> tuple[str, str]:
    asked = next(known for known in QUESTIONS if known.id == question)
    return asked.text, asked.options.get(answer, answer)


def _why(base: Base) -> str:
    alike = [finding.text for finding in identify.mistaken_for(base)]
    return " ".join([f"{base.name}: {base.keys}.", *alike])
