"""What is asked next: a round of ten, about ten minutes.

First what was set, then what is due, the worst remembered first, then something new; never two of a
kind one after the other where there is a choice. How hard it is follows from how able somebody is.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from random import Random

from cold_arc.core.school.ability import Scored, ability
from cold_arc.core.school.exercise import MOST_SEED, Posed
from cold_arc.core.school.memory import Kept, Practised, Sure, memories
from cold_arc.core.school.skills import kind_of, kinds, skills

A_ROUND = 10
# How many new skills are begun in a round at most.
MOST_NEW = 4


@dataclass(frozen=True)
class Answered:
    """An answer as it is kept. *taken_for*: the skill it was confused with, "" for none."""

    skill: str
    level: int
    guessed: float
    at: dt.datetime
    right: bool
    sure: Sure
    taken_for: str = ""

    @property
    def kind(self) -> str:
        """Its kind of exercise."""
        return kind_of(self.skill)

    @property
    def scored(self) -> Scored:
        """As it tells of somebody's ability."""
        return Scored(self.kind, self.level, self.guessed, self.right)

    @property
    def practised(self) -> Practised:
        """As it tells of a skill's memory."""
        return Practised(self.skill, self.at, self.right, self.sure)


def next_question(
    answers: Sequence[Answered],
    now: dt.datetime,
    luck: str,
    this_round: Sequence[str] = (),
    wanted: Sequence[str] = (),
) -> Posed:
    """What is asked next of somebody with these *answers*, the oldest first. *luck*: any text, the
    same for the same question; *this_round*: skills asked in it so far; *wanted*: skills that were
    set.
    """
    dice = Random(luck)
    kept = memories((answer.practised for answer in answers), now)
    practised = Counter(answer.skill for answer in answers)
    begun = sum(practised[skill] == 1 for skill in this_round)
    rows = [list(wanted), *_in_order(kept, now, dice, begun)]
    skill = _first(rows, this_round) or dice.choice(list(skills()))
    kind = kinds()[kind_of(skill)]
    level = ability([answer.scored for answer in answers]).level(kind.id, kind.guessed)
    return Posed(skill, level, dice.randrange(MOST_SEED))


def _first(rows: Iterable[Sequence[str]], this_round: Sequence[str]) -> str:
    """The first skill that was not asked in this round, of another kind than the last where a row
    has one; "" for none.
    """
    last = kind_of(this_round[-1]) if this_round else ""
    for row in rows:
        fresh = [skill for skill in row if skill not in this_round]
        others = [skill for skill in fresh if kind_of(skill) != last]
        if fresh:
            return (others or fresh)[0]
    return ""


def _in_order(
    kept: Mapping[str, Kept], now: dt.datetime, dice: Random, begun: int
) -> list[list[str]]:
    """What is due, what is new, and the rest, each as it is best taken; *begun*: how many were new
    in this round.
    """
    by_recall = sorted(kept, key=lambda skill: kept[skill].recall)
    due = [skill for skill in by_recall if kept[skill].due <= now]
    new = _spread([skill for skill in skills() if skill not in kept], kept, dice)
    return [due, new if begun < MOST_NEW or not kept else [], by_recall, new]


def _spread(names: Sequence[str], begun: Iterable[str], dice: Random) -> list[str]:
    """New skills in an order of luck, those of kinds least begun first, so that a first round shows
    many kinds.
    """
    shuffled = dice.sample(names, len(names))
    seen = Counter(kind_of(skill) for skill in begun)
    ranks = []
    for name in shuffled:
        kind = kind_of(name)
        ranks.append(seen[kind])
        seen[kind] += 1
    ranked = sorted(zip(ranks, range(len(shuffled)), shuffled, strict=True))
    return [name for _, _, name in ranked]
