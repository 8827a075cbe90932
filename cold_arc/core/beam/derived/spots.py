"""Where a beam is brightest: peak, hot spots, how rough it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array

# A hot spot: of at least half the peak, the brightest within 0.8°, after a blur as of the eye; two
# whose saddle is less than 8 % darker are one (own, chosen by looking at walls).
SPOT_SHARE = 0.5
SPOT_RADIUS_DEG = 0.8
SPOT_BLUR_DEG = 0.25
MERGE_DIP = 0.08
MOST_SPOTS = 24


@dataclass(frozen=True)
class Peak:
    """The brightest direction: cd, degrees."""

    candela: float
    h_deg: float
    v_deg: float


def peak(beam: Beam) -> Peak:
    """The beam's brightest node."""
    row, column = np.unravel_index(int(beam.intensity.argmax()), beam.intensity.shape)
    return Peak(
        float(beam.intensity[row, column]), float(beam.grid.h[column]), float(beam.grid.v[row])
    )


# What a beam's roughness is measured by (own): the step between rows, the blur's standard deviation
# (about 1° across at half its height), the least share of the peak that counts, and how far from
# the line's edge, degrees, it is left alone.
ROUGH_STEP_DEG, ROUGH_BLUR_DEG, ROUGH_FROM, ROUGH_EDGE_DEG = 0.2, 0.42, 0.02, 1.3


def roughness(beam: Beam) -> float:
    """What a blur of 1° takes out of the beam, as a share of what is there: the root mean square
    over its lit part.

    The blur's own flattening of a smooth slope is taken off (what is left is blurred once more),
    and the cut-off's edge is left out: it may be sharp.
    """
    rows = max(1, round(ROUGH_STEP_DEG / beam.grid.steps[0]))
    intensity, v = beam.intensity[::rows], beam.grid.v[::rows]
    sigma = [ROUGH_BLUR_DEG / step for step in (v[1] - v[0], beam.grid.steps[1])]
    smooth = ndimage.gaussian_filter(intensity, sigma)
    left = intensity - smooth
    left = left - ndimage.gaussian_filter(left, sigma)
    under = v[:, None] < beam.housing.cut_off.at(beam.grid.h)[None, :] - ROUGH_EDGE_DEG
    lit = (smooth >= ROUGH_FROM * smooth.max()) & under
    return float(np.sqrt(np.mean((left[lit] / smooth[lit]) ** 2))) if lit.any() else 0.0


@dataclass(frozen=True)
class HotSpot:
    """A local maximum of at least half the peak."""

    candela: float
    h_deg: float
    v_deg: float


def hot_spots(beam: Beam) -> tuple[list[HotSpot], float]:
    """Hot spots, brightest first, and how dark it is between the two brightest: 1 − dip / weaker
    spot (0 for one).
    """
    h, v, intensity = beam.grid.h[::2], beam.grid.v[::2], beam.intensity[::2, ::2]
    steps = (v[1] - v[0], h[1] - h[0])
    smooth = ndimage.gaussian_filter(intensity, [SPOT_BLUR_DEG / step for step in steps])
    size = [2 * round(SPOT_RADIUS_DEG / step) + 1 for step in steps]
    tops = (smooth == ndimage.maximum_filter(smooth, size)) & (smooth >= SPOT_SHARE * smooth.max())
    places = _distinct(tops, smooth)
    kept: list[tuple[int, int]] = []
    shadow = 0.0
    for place in places:
        dips = [_dip(smooth, other, place) for other in kept]
        if not dips or min(dips) > MERGE_DIP:
            shadow = dips[0] if len(kept) == 1 else shadow
            kept.append(place)
    spots = [
        HotSpot(float(intensity[row, column]), float(h[column]), float(v[row]))
        for row, column in kept
    ]
    return spots, float(shadow)


def _distinct(tops: NDArray[np.bool_], smooth: Array) -> list[tuple[int, int]]:
    """One place for each top, a plateau counting as one, brightest first; no more than a beam can
    have.
    """
    labels, count = ndimage.label(tops, np.ones((3, 3)))
    places = ndimage.maximum_position(smooth, labels, np.arange(1, count + 1))
    return sorted(
        ((int(row), int(column)) for row, column in places), key=lambda place: -smooth[place]
    )[:MOST_SPOTS]


def _dip(smooth: Array, one: tuple[int, int], other: tuple[int, int]) -> float:
    """How much darker the straight way between two places gets than the weaker of them, as a
    share.
    """
    steps = max(abs(one[0] - other[0]), abs(one[1] - other[1])) + 1
    rows, columns = np.linspace(one[0], other[0], steps), np.linspace(one[1], other[1], steps)
    way = ndimage.map_coordinates(smooth, [rows, columns], order=1)
    weaker = min(smooth[one], smooth[other])
    return float(1 - way.min() / weaker) if weaker > 0 else 0.0
