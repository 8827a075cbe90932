"""Light out of pixels: sRGB made linear, what is clipped, how dark the dark is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.errors import ColdArcError

Pixels = NDArray[np.uint8]
Light = NDArray[np.float32]
# A channel from here on tells no more (8 bits); luminance of linear sRGB (IEC 61966-2-1).
CLIPPED_AT = 250
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
# Of the picture's light: the share of pixels that may be clipped, the least light worth measuring
# (own).
MOST_CLIPPED, LEAST_LIGHT = 0.25, 0.02


class PhotoUnusableError(ColdArcError, ValueError):
    """A photograph that can't be measured; the message says why, in a sentence."""


@dataclass(frozen=True)
class WallPicture:
    """A photograph as light: *light* relative (1 is a white pixel), *clipped* where it tells no
    more.
    """

    light: Light
    clipped: NDArray[np.bool_]

    @property
    def size(self) -> tuple[int, int]:
        """Pixels across and down."""
        down, across = self.light.shape
        return across, down


def _linear_table() -> Light:
    """sRGB (IEC 61966-2-1) to linear, for every 8-bit value."""
    value = np.arange(256) / 255
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    return linear.astype(np.float32)


TO_LINEAR = _linear_table()


# Steps of linear light that 8-bit sRGB is looked up for: a twentieth of its step where it is
# finest.
SHOWN_STEPS = 65535


def _shown_table() -> Pixels:
    """8-bit sRGB (IEC 61966-2-1) of SHOWN_STEPS even steps of linear light."""
    share = np.arange(SHOWN_STEPS + 1) / SHOWN_STEPS
    shown = np.where(share <= 0.0031308, 12.92 * share, 1.055 * share ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(255 * shown), dtype=np.uint8)


TO_SHOWN = _shown_table()


def as_shown(light: NDArray[Any]) -> Pixels:
    """Linear light, 1 for white, as 8-bit sRGB (IEC 61966-2-1), by a table."""
    steps = np.clip(light * np.float32(SHOWN_STEPS), 0, SHOWN_STEPS) + np.float32(0.5)
    return np.asarray(TO_SHOWN[steps.astype(np.uint16)])


def light_of(pixels: Pixels) -> WallPicture:
    """The light of a picture (rows, columns, 3; RGB); PhotoUnusableError where it is too dark, or
    mostly clipped.
    """
    light = np.zeros(pixels.shape[:2], dtype=np.float32)
    for channel, share in enumerate(LUMINANCE):
        light += share * cv2.LUT(np.ascontiguousarray(pixels[..., channel]), TO_LINEAR)
    clipped = (pixels >= CLIPPED_AT).any(axis=2)
    brightest = float(np.percentile(light[::4, ::4], 99.5))
    if brightest < LEAST_LIGHT:
        raise PhotoUnusableError(
            "The photograph is too dark: no beam can be made out. Expose it longer."
        )
    if float(clipped.mean()) > MOST_CLIPPED:
        raise PhotoUnusableError(
            "The photograph is over-exposed: much of the wall is plain white. Expose it less."
        )
    return WallPicture(light, np.asarray(clipped))
