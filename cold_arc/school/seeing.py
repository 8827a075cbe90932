"""How plainly two beams on a wall differ to the eye: the peak signal-to-noise ratio of their
pictures.

PSNR is the ratio of a picture's range to what two of them differ by, dB (ITU-T J.340, from memory;
computed by OpenCV): the lower, the plainer they differ. Pictures are drawn roughly: what only a
fine one shows is not seen at a glance.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.beam.report import rough_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.formats import picture

# Pixels across, and source elements, of a picture that is looked at at a glance.
ACROSS, POINTS = 256, 120
# Pictures that differ by less noise than this look alike to a hurried eye (own, by looking).
PLAIN_DB = 28.5


@lru_cache(maxsize=512)
def glance(setup: SetUp) -> NDArray[np.uint8]:
    """A set-up's picture on the wall, small: pixels (rows, ACROSS, 3)."""
    beam = rough_of(setup, POINTS)
    lux = picture.on_wall(
        beam,
        picture.ONE_LAMP,
        picture.view_frame(),
        picture.VIEW_DISTANCE_M,
        ACROSS,
    )
    light = lux * picture.VIEW_DISTANCE_M**2 / picture.WHITE_CD
    return picture.exposed(light.astype(np.float32), picture.colour_of(beam)).pixels


def alike_db(one: SetUp, other: SetUp) -> float:
    """How alike two set-ups look, dB; the lower, the plainer they differ."""
    first: Any = glance(one)
    return float(cv2.PSNR(first, glance(other)))


def is_plain(one: SetUp, others: Sequence[SetUp], most_db: float = PLAIN_DB) -> bool:
    """Whether a set-up differs plainly from each of others."""
    return all(alike_db(one, other) <= most_db for other in others)
