"""When a skill is practised again: spaced repetition by FSRS-6, over skills, not over cards.

The free spaced repetition scheduler (Ye, Su and Cao, KDD 2022, from memory), by its well-kept
library ``fsrs``: every answer changes how stable a skill's memory is and how hard it is held to be;
it is due when it would be recalled nine times in ten. A skill is practised on exercises that never
repeat, so nothing is crammed within a day: there are no steps of minutes.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from enum import IntEnum

from fsrs import Card, Rating, Scheduler

RECALLED = 0.9
SCHEDULER = Scheduler(
    desired_retention=RECALLED, learning_steps=(), relearning_steps=(), enable_fuzzing=False
)


class Sure(IntEnum):
    """How sure somebody was of an answer."""

    GUESSED = 0
    THOUGHT = 1
    KNEW = 2

    @property
    def words(self) -> str:
        """As it is asked."""
        return ("A guess", "I think so", "I am sure")[self]


RATED = {Sure.GUESSED: Rating.Hard, Sure.THOUGHT: Rating.Good, Sure.KNEW: Rating.Easy}


@dataclass(frozen=True)
class Practised:
    """One answer to a skill: when (UTC, aware), whether right, how sure."""

    skill: str
    at: dt.datetime
    right: bool
    sure: Sure


@dataclass(frozen=True)
class Kept:
    """How a skill is remembered: due when, and how well by now."""

    due: dt.datetime
    recall: float


def rating(answer: Practised) -> Rating:
    """An answer as the scheduler takes it: wrong is "again", whatever was thought of it."""
    return RATED[answer.sure] if answer.right else Rating.Again


def memories(answers: Iterable[Practised], now: dt.datetime) -> dict[str, Kept]:
    """Each skill that was practised: when it is due, how probably it is recalled *now*."""
    cards: dict[str, Card] = {}
    for answer in answers:
        card = cards.get(answer.skill) or Card(card_id=0)
        cards[answer.skill], _ = SCHEDULER.review_card(card, rating(answer), answer.at)
    return {
        skill: Kept(card.due, float(SCHEDULER.get_card_retrievability(card, now)))
        for skill, card in cards.items()
    }
