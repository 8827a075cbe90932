"""Several exposures of one wall made one: each made linear, laid over the middle one, merged by
OpenCV.

What a camera says of its exposures is not asked: how much longer one was is seen where both tell.
Merging: P. Debevec and J. Malik, Recovering high dynamic range radiance maps (1997), recalled from
memory, as OpenCV does it.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.wallphoto.picture import (
    CLIPPED_AT,
    LUMINANCE,
    TO_LINEAR,
    PhotoUnusableError,
    Pixels,
    WallPicture,
    light_of,
)

MOST_EXPOSURES = 9
# 8-bit values that tell a ratio; pixels that must; the farthest a hand moves between two, as a
# power of two (own).
TELLING, LEAST_TELLING, MOST_SHIFT_BITS = (25, 235), 500, 5


def in_order(series: Sequence[Pixels]) -> list[int]:
    """A series' places from the darkest picture to the brightest; the middle one of it is the one
    that marks are on.
    """
    return sorted(range(len(series)), key=lambda number: float(series[number][::8, ::8].mean()))


def picture_of(series: Sequence[Pixels]) -> WallPicture:
    """The light of one picture, or of a series from the darkest to the brightest."""
    return light_of(series[0]) if len(series) == 1 else merged(series)


def merged(series: Sequence[Pixels]) -> WallPicture:
    """One picture of exposures from the darkest to the brightest; PhotoUnusableError where they
    don't go together.
    """
    if len(series) > MOST_EXPOSURES or len({exposure.shape for exposure in series}) != 1:
        raise PhotoUnusableError(
            f"A series is up to {MOST_EXPOSURES} pictures of one size, of the same wall."
        )
    middle = series[len(series) // 2]
    laid = [_laid_over(middle, exposure) for exposure in series]
    times = _times(laid)
    response = np.maximum(np.repeat(TO_LINEAR[:, None, None], 3, axis=2), TO_LINEAR[1] / 4).astype(
        np.float32
    )
    light = cv2.createMergeDebevec().process(list(laid), times, response) @ LUMINANCE
    clipped = np.asarray((laid[0] >= CLIPPED_AT).any(axis=2))
    relative = np.asarray(light / np.percentile(light, 99.99), dtype=np.float32)
    return WallPicture(relative, clipped, clipped)


def _laid_over(middle: Pixels, other: Pixels) -> Pixels:
    """A picture shifted to where the middle one stood: a hand is never quite still."""
    if other is middle:
        return middle
    align = cv2.createAlignMTB(MOST_SHIFT_BITS, 4, False)
    shift = align.calculateShift(
        *(cv2.cvtColor(exposure, cv2.COLOR_RGB2GRAY) for exposure in (middle, other))
    )
    return np.asarray(align.shiftMat(other, shift), dtype=np.uint8)


def _times(series: Sequence[Pixels]) -> NDArray[np.float32]:
    """How long each was exposed against the first, by where both it and its neighbour tell."""
    times = [1.0]
    for dark, bright in pairwise(series):
        one, other = (exposure[::2, ::2, 1] for exposure in (dark, bright))
        tells = (
            (one > TELLING[0]) & (other > TELLING[0]) & (one < TELLING[1]) & (other < TELLING[1])
        )
        if tells.sum() < LEAST_TELLING:
            raise PhotoUnusableError(
                "The series' pictures are too far apart in exposure: take one between them."
            )
        times.append(times[-1] * float(np.median(TO_LINEAR[other[tells]] / TO_LINEAR[one[tells]])))
    if min(np.diff(times)) <= 0.05 * min(times):
        raise PhotoUnusableError(
            "The series' pictures are exposed alike: they add nothing to one another."
        )
    return np.array(times, dtype=np.float32)
