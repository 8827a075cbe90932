"""How able somebody is, from answers right and wrong, and how hard the next question is to be.

The model is Rasch's with guessing (Rasch 1960; Birnbaum 1968; both from memory): an answer is right
with probability g + (1 − g)·σ(θ − b), g what a blind guess gets, b how hard its level is, θ how
able somebody is in its kind of exercise. θ is a share common to all kinds and one of its own; both
are taken at the mode of their posterior, under normal priors, by Newton's method with Fisher's
information.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.school.exercise import LEVELS

Array = NDArray[np.float64]
# How hard each level is; standard deviations of what is common and of each kind's own (own).
HARDNESS = {1: -2.0, 2: -1.0, 3: 0.0, 4: 1.0, 5: 2.0}
COMMON_SD, OWN_SD = 1.5, 0.7
# How often an answer is to be right: about four in five.
WANTED = 0.8
MOST_STEPS, CLOSE = 30, 1e-6
# An answer's weight halves in so many later ones: somebody learns (own).
HALVES_IN = 60.0


@dataclass(frozen=True)
class Scored:
    """One answer: its kind of exercise and level, what a blind guess gets, whether it was right."""

    kind: str
    level: int
    guessed: float
    right: bool


@dataclass(frozen=True)
class Ability:
    """*common* to all kinds, each kind's *own* besides, and the standard uncertainty of the
    common.
    """

    common: float
    own: Mapping[str, float]
    doubt: float

    def of(self, kind: str) -> float:
        """How able in a kind of exercise."""
        return self.common + self.own.get(kind, 0.0)

    def expected(self, kind: str, level: int, guessed: float = 0.0) -> float:
        """How probably an answer is right."""
        return chance(self.of(kind), level, guessed)

    def level(self, kind: str, guessed: float = 0.0) -> int:
        """The level whose answers are right about four times in five."""
        return min(LEVELS, key=lambda level: abs(self.expected(kind, level, guessed) - WANTED))


def chance(able: float, level: int, guessed: float) -> float:
    """How probably somebody answers a level rightly."""
    return guessed + (1 - guessed) / (1 + math.exp(HARDNESS[level] - able))


def ability(answers: Sequence[Scored]) -> Ability:
    """How able somebody is, by the answers given, the oldest first."""
    kinds = sorted({answer.kind for answer in answers})
    design = _design(answers, kinds)
    certain = np.array([COMMON_SD**-2] + [OWN_SD**-2] * len(kinds))
    able, information = np.zeros(1 + len(kinds)), np.diag(certain)
    for _ in range(MOST_STEPS):
        slope, information = _slopes(answers, design, able)
        step = np.linalg.solve(information + np.diag(certain), slope - certain * able)
        able = able + np.clip(step, -1.0, 1.0)
        if np.abs(step).max() < CLOSE:
            break
    cover = np.linalg.inv(information + np.diag(certain))
    own = dict(zip(kinds, map(float, able[1:]), strict=True))
    return Ability(float(able[0]), own, math.sqrt(float(cover[0, 0])))


def _design(answers: Iterable[Scored], kinds: Sequence[str]) -> Array:
    """Which shares of θ each answer tells of: (answers, 1 + kinds)."""
    rows = [[1.0, *(float(answer.kind == kind) for kind in kinds)] for answer in answers]
    return np.array(rows, dtype=np.float64).reshape(-1, 1 + len(kinds))


def _slopes(answers: Sequence[Scored], design: Array, able: Array) -> tuple[Array, Array]:
    """The slope of the logarithm of likelihood, and Fisher's information."""
    ages = np.arange(len(answers))[::-1]
    weights = 0.5 ** (ages / HALVES_IN)
    hard = np.array([HARDNESS[answer.level] for answer in answers])
    guessed = np.array([answer.guessed for answer in answers])
    right = np.array([float(answer.right) for answer in answers])
    bent = 1 / (1 + np.exp(hard - design @ able))
    likely = guessed + (1 - guessed) * bent
    rises = (1 - guessed) * bent * (1 - bent)
    spread = np.maximum(likely * (1 - likely), 1e-9)
    slope = design.T @ (weights * rises * (right - likely) / spread)
    information = design.T @ (design * (weights * rises**2 / spread)[:, None])
    return np.asarray(slope), np.asarray(information)
