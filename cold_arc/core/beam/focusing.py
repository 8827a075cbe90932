"""Focus of a lens-optic lamp by the smallest image: how large the bright part on the wall is as its
screw is turned.

The image is all light from half of the brightest on. Its size comes from the beam model; how an old
lamp is focused on a wall is common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import rough_of
from cold_arc.core.beam.setup import SetUp

# The screw's travel looked at, mm; how finely the image is looked at, degrees; where; rays a place
# of the mirror (own).
TRAVEL_MM = (-6.0, -4.0, -3.0, -2.0, -1.0, 0.0, 1.0, 2.0, 3.0, 4.0, 6.0)
STEP_DEG, ACROSS_DEG, UP_DEG, SOURCE_POINTS = 0.1, 14.0, 6.0, 64


@dataclass(frozen=True)
class Image:
    """The bright part on the wall with the screw moved by *focus_mm*: *wide* and *tall* m, *area*
    m²; *peak* cd.
    """

    focus_mm: float
    wide: float
    tall: float
    area: float
    peak: float


@dataclass(frozen=True)
class Focus:
    """Images over the screw's travel, and the smallest of them."""

    images: tuple[Image, ...]

    @property
    def best(self) -> Image:
        """The smallest."""
        return min(self.images, key=lambda image: image.area)

    @property
    def within_mm(self) -> tuple[float, float]:
        """From where to where the image is no more than a tenth larger than the smallest: closer
        the eye can't tell.
        """
        near = [image.focus_mm for image in self.images if image.area <= 1.1 * self.best.area]
        return min(near), max(near)


def image_of(beam: Beam, focus_mm: float, distance_m: float) -> Image:
    """The bright part of a *beam*, its source *focus_mm* before the focus, on a wall at
    *distance_m*.
    """
    h, v = (
        np.arange(-reach_deg, reach_deg + STEP_DEG / 2, STEP_DEG)
        for reach_deg in (ACROSS_DEG, UP_DEG)
    )
    light = beam.at(*np.meshgrid(h, v))
    bright = light >= light.max() / 2
    step_m = distance_m * math.tan(math.radians(STEP_DEG))
    wide, tall = (float(bright.any(axis=axis).sum()) * step_m for axis in (0, 1))
    return Image(focus_mm, wide, tall, float(bright.sum()) * step_m**2, float(light.max()))


@lru_cache(maxsize=16)
def focus_of(setup: SetUp, distance_m: float, travel_mm: Sequence[float] = TRAVEL_MM) -> Focus:
    """The images of a lens-optic lamp, *setup*, on a wall at *distance_m* over its screw's
    *travel_mm*; ValueError for any other lamp.
    """
    if setup.housing != "lens-optic":
        raise ValueError("Only a lens-optic lamp is focused by its image.")
    beams = (
        (focus_mm, rough_of(replace(setup, focus=focus_mm), SOURCE_POINTS))
        for focus_mm in travel_mm
    )
    return Focus(tuple(image_of(beam, focus_mm, distance_m) for focus_mm, beam in beams))
