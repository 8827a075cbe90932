"""Where the brightest point is: from the readings so far, where to hold the meter next and how sure
one is by now.

The beam of a lamp of its kind is known but for its aim, its width and its brightness. Those are
weighed against the readings (Bayes' rule on a grid), which says where the brightest point lies; the
next place is where the remaining guesses disagree most. A hot spot is flat on top, so that its
middle is what is looked for (of all within a tenth of the brightest), and what tells its place is
read on its slopes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.beam.model import Beam

Array = NDArray[np.float64]
# How far lamps of a kind are aimed off (standard deviations, degrees right and up), how far is
# looked and how finely; their widths; what a reading and the model's beam differ by, as a share and
# in cd (own).
AIM_DEG, LOOKED_DEG, STEP_DEG = (0.8, 0.6), (3.0, 2.4), 0.1
WIDTHS, WIDTH_DOUBT = (0.85, 0.93, 1.0, 1.08, 1.18), 0.1
DIFFERENCE, DIFFERENCE_CD = 0.085, 30.0
# What stands within this share of the brightest is the hot spot (own).
HOT_SHARE = 0.9
SURE_DEG = 0.3
# No search is surer than this, however many readings: a lamp is never quite as modelled (own).
LEAST_DEG = 0.14
# By how much a seat a little off (4° of clock, 0.2 mm) leans an LED's light, a share a degree; a
# hot spot whose middle goes by more than this with it is wide, degrees (own: docs/trials.md).
LEANS = 0.005
WIDE_DEG = 1.0
MOST_READINGS = 8
# Where the next place is looked for: as far across as the beam has this share of its brightest, but
# no farther than a wall is wide (degrees), in so many steps; degrees up; and what share of the
# light there must be.
FLANK_SHARE, WIDEST_DEG, PLACES_ACROSS = 0.15, 24.0, 29
AROUND_V, LEAST_SHARE = np.arange(-3.0, 2.01, 0.5), 0.04
DRAWN = 160
LEAST_APART_DEG = 0.35


@dataclass(frozen=True)
class Taken:
    """A reading: degrees right and up of the lamp's axis, cd."""

    h_deg: float
    v_deg: float
    candela: float


@dataclass(frozen=True)
class Search:
    """Where it is by now, *h_deg*, *v_deg*, within *sure_deg* (95 %); the next place; whether it is
    found.
    """

    h_deg: float
    v_deg: float
    sure_deg: float
    next_h_deg: float
    next_v_deg: float
    readings: int

    @property
    def found(self) -> bool:
        """Whether it is bracketed to within 0.3°."""
        return self.sure_deg <= SURE_DEG


def hot_spot(beam: Beam) -> tuple[float, float]:
    """The middle of a beam's hot spot, degrees right and up: the centre of gravity of what stands
    out of nine tenths of its brightest. It moves evenly with the beam, where the brightest point
    of a flat top jumps; of two spots alike it is between them.
    """
    over = _over(beam.intensity)
    total = float(over.sum())
    return float(over.sum(axis=0) @ beam.grid.h) / total, float(
        over.sum(axis=1) @ beam.grid.v
    ) / total


def _over(candela: Array) -> Array:
    """What of a beam stands out of nine tenths of its brightest, cd."""
    return np.asarray(np.maximum(candela - HOT_SHARE * float(candela.max()), 0.0))


@dataclass(frozen=True)
class Likeness:
    """The beam of a lamp of its kind, as far as it is known: for every guess of aim and width its
    place and weight.
    """

    beam: Beam

    @cached_property
    def peak(self) -> tuple[float, float]:
        """The middle of its hot spot, degrees."""
        return hot_spot(self.beam)

    @cached_property
    def flat_deg(self) -> float:
        """How far sideways the middle may lie of a hot spot that is wide, or two: a seat a little
        off leans its light to one side, and the middle goes with it. 0 for a usual one.
        """
        leaned = [self._leaned(LEANS), self._leaned(-LEANS)]
        reach = max(abs(middle - self.peak[0]) for middle in leaned)
        return reach if reach > WIDE_DEG else 0.0

    def _leaned(self, share: float) -> float:
        """Where the middle lies sideways once the light grows by a share a degree to the right."""
        h = self.beam.grid.h
        over = _over(self.beam.intensity * np.exp(share * (h - self.peak[0])))
        return float(over.sum(axis=0) @ h / over.sum())

    @cached_property
    def around_h(self) -> Array:
        """Degrees across from its hot spot where reading may tell something."""
        row = self.beam.at(self.beam.grid.h, np.full_like(self.beam.grid.h, self.peak[1]))
        lit = np.abs(self.beam.grid.h[row >= FLANK_SHARE * row.max()] - self.peak[0])
        half = min(float(lit.max()), WIDEST_DEG)
        return np.linspace(-half, half, PLACES_ACROSS)

    @cached_property
    def guesses(self) -> tuple[Array, Array, Array]:
        """Every guess: degrees aimed right, up, and its width."""
        across = np.arange(-LOOKED_DEG[0], LOOKED_DEG[0] + 1e-9, STEP_DEG)
        up = np.arange(-LOOKED_DEG[1], LOOKED_DEG[1] + 1e-9, STEP_DEG)
        right, high, wide = np.meshgrid(across, up, np.array(WIDTHS), indexing="ij")
        return right.ravel(), high.ravel(), wide.ravel()

    @cached_property
    def prior(self) -> Array:
        """The logarithm of each guess's weight before any reading."""
        right, high, wide = self.guesses
        squares = (
            (right / AIM_DEG[0]) ** 2 + (high / AIM_DEG[1]) ** 2 + (np.log(wide) / WIDTH_DOUBT) ** 2
        )
        return np.asarray(-0.5 * squares)

    def light(
        self, h: Array | float, v: Array | float, which: NDArray[np.intp] | slice = slice(None)
    ) -> Array:
        """The logarithm of its candela at places, for the guesses of *which*, a column each
        place.
        """
        right, high, wide = (guess[which] for guess in self.guesses)
        across = (np.atleast_1d(h)[None, :] - right[:, None]) / wide[:, None]
        up = np.atleast_1d(v)[None, :] - high[:, None]
        return np.asarray(np.log(np.maximum(self.beam.at(across, up), DIFFERENCE_CD)))


def search(likeness: Likeness, taken: Sequence[Taken]) -> Search:
    """Where the brightest point is by the readings *taken*, and the next place to read; any number
    of readings.
    """
    weights = _weights(likeness, taken)
    right, high, wide = likeness.guesses
    h, v = likeness.peak[0] * wide + right, likeness.peak[1] + high
    mean_h, mean_v = float(weights @ h), float(weights @ v)
    spread = math.sqrt(max(float(weights @ (h - mean_h) ** 2), float(weights @ (v - mean_v) ** 2)))
    place = _next(likeness, weights, taken, (mean_h, mean_v)) if taken else (mean_h, mean_v)
    sure = math.hypot(2 * spread, LEAST_DEG, likeness.flat_deg)
    return Search(mean_h, mean_v, sure, *place, len(taken))


def _weights(likeness: Likeness, taken: Sequence[Taken]) -> Array:
    """How likely each guess is; how bright the lamp is in all is left open."""
    score = likeness.prior.copy()
    if len(taken) > 1:
        read = np.array([max(reading.candela, 1.0) for reading in taken])
        light = likeness.light(
            np.array([reading.h_deg for reading in taken]),
            np.array([reading.v_deg for reading in taken]),
        )
        off = np.log(np.maximum(read, DIFFERENCE_CD))[None, :] - light
        certain = 1 / (DIFFERENCE**2 + (DIFFERENCE_CD / read) ** 2)
        off = off - (off @ certain / certain.sum())[:, None]
        score = score - 0.5 * (off**2 @ certain)
    weights = np.exp(score - score.max())
    return np.asarray(weights / weights.sum())


def _next(
    likeness: Likeness, weights: Array, taken: Sequence[Taken], top: tuple[float, float]
) -> tuple[float, float]:
    """The place where the likely guesses disagree most, of those lit enough and not read yet."""
    likely = np.argsort(-weights)[:DRAWN]
    share = weights[likely] / weights[likely].sum()
    h, v = (axis.ravel() for axis in np.meshgrid(top[0] + likeness.around_h, top[1] + AROUND_V))
    light = likeness.light(h, v, likely)
    known = likeness.light(
        np.array([reading.h_deg for reading in taken]),
        np.array([reading.v_deg for reading in taken]),
        likely,
    )
    against = light - known.mean(axis=1, keepdims=True)
    mean = share @ against
    spread = share @ (against - mean) ** 2
    lit = share @ light > np.log(LEAST_SHARE) + (share @ light).max()
    apart = (
        np.min([np.hypot(h - reading.h_deg, v - reading.v_deg) for reading in taken], axis=0)
        >= LEAST_APART_DEG
    )
    best = int(np.argmax(np.where(lit & apart, spread, -1.0)))
    return float(h[best]), float(v[best])
