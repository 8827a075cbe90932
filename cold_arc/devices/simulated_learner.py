"""A simulated learner of known skill who forgets: to check how questions are chosen and judged.

Answers are right as Rasch's model with guessing has it for the learner's own ability; a skill that
is not recalled any more is guessed at. What was answered rightly is forgotten more slowly.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field
from random import Random

from cold_arc.core.school.ability import chance
from cold_arc.core.school.exercise import Posed
from cold_arc.core.school.memory import RECALLED, Sure
from cold_arc.core.school.rounds import A_ROUND, Answered, next_question
from cold_arc.core.school.skills import kinds

# How able learners are: common to all kinds, and each kind's own besides (standard deviations).
COMMON_SD, OWN_SD = 1.3, 0.5
# Days after which a skill is recalled nine times in ten, at first; what a right answer makes of it.
FIRST_DAYS, LONGER = 3.0, 1.8
A_QUESTION = dt.timedelta(minutes=1)
BEGAN = dt.datetime(2026, 1, 5, 8, tzinfo=dt.UTC)


@dataclass
class SimulatedLearner:
    """One by number: able in each kind of exercise by luck, remembering skills since they were
    practised.
    """

    number: int
    able: Mapping[str, float] = field(init=False)
    remembered: dict[str, tuple[dt.datetime, float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Draws how able it is."""
        self._luck = Random(f"learner {self.number}")
        common = self._luck.gauss(0.0, COMMON_SD)
        self.able = {kind: common + self._luck.gauss(0.0, OWN_SD) for kind in kinds()}

    @property
    def ability(self) -> float:
        """How able it is over all kinds."""
        return sum(self.able.values()) / len(self.able)

    def answers(self, posed: Posed, now: dt.datetime) -> Answered:
        """Answers a question, and remembers its skill the better for it."""
        kind = kinds()[posed.kind]
        right = self._luck.random() < self._chance(posed, kind.id, kind.guessed, now)
        _, days = self.remembered.get(posed.skill, (now, FIRST_DAYS / LONGER))
        self.remembered[posed.skill] = now, (days * LONGER if right else FIRST_DAYS)
        sure = Sure.THOUGHT if right else Sure.GUESSED
        return Answered(posed.skill, posed.level, kind.guessed, now, right, sure)

    def _chance(self, posed: Posed, kind: str, guessed: float, now: dt.datetime) -> float:
        known = chance(self.able[kind], posed.level, guessed)
        if posed.skill not in self.remembered:
            return known
        since, days = self.remembered[posed.skill]
        recalled = RECALLED ** ((now - since) / dt.timedelta(days=days))
        return float(recalled * known + (1 - recalled) * guessed)

    def practises(self, rounds: int, every_days: float = 1.0) -> list[Answered]:
        """Rounds of ten, one every so many days: what is asked is what the school would ask."""
        answers: list[Answered] = []
        for day in range(rounds):
            now = BEGAN + dt.timedelta(days=day * every_days)
            asked: list[str] = []
            for number in range(1, A_ROUND + 1):
                posed = next_question(answers, now, f"{self.number} {day} {number}", asked)
                answers.append(self.answers(posed, now))
                asked.append(posed.skill)
                now += A_QUESTION
        return answers
