"""Light out of pixels: sRGB made linear, what is clipped, how dark the dark is."""

from __future__ import annotations

import math
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
# Pixels that tell of the lamp's colour: from this 8-bit value in every channel, so many; by how
# much its logarithm may differ between them, as half of them do (own).
COLOUR_FROM, COLOUR_PIXELS, COLOUR_SCATTER = 90, 400, 0.04


class PhotoUnusableError(ColdArcError, ValueError):
    """A photograph that can't be measured; the message says why, in a sentence."""


@dataclass(frozen=True)
class WallPicture:
    """A photograph as light: *light* relative (1 is a white pixel), *clipped* where a channel tells
    no more, *lost* where that can't be made good by the others.
    """

    light: Light
    clipped: NDArray[np.bool_]
    lost: NDArray[np.bool_]

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
    channels: list[Light] = [
        np.asarray(cv2.LUT(np.ascontiguousarray(pixels[..., channel]), TO_LINEAR), dtype=np.float32)
        for channel in range(3)
    ]
    light = np.zeros(pixels.shape[:2], dtype=np.float32)
    for share, channel in zip(LUMINANCE, channels, strict=True):
        light += share * channel
    full = pixels >= CLIPPED_AT
    clipped = np.asarray(full.any(axis=2))
    brightest = float(np.percentile(light[::4, ::4], 99.5))
    if brightest < LEAST_LIGHT:
        raise PhotoUnusableError(
            "The photograph is too dark: no beam can be made out. Expose it longer."
        )
    if float(clipped.mean()) > MOST_CLIPPED:
        raise PhotoUnusableError(
            "The photograph is over-exposed: much of the wall is plain white. Expose it less."
        )
    lost = clipped.copy()
    if clipped.any():
        tells = np.asarray(~clipped & (pixels.min(axis=2) >= COLOUR_FROM))
        for channel, is_full in zip(channels, np.moveaxis(full, 2, 0), strict=True):
            _make_good(light, lost, channel, is_full, tells)
    return WallPicture(light, clipped, lost)


def _make_good(
    light: Light,
    lost: NDArray[np.bool_],
    channel: Light,
    is_full: NDArray[np.bool_],
    tells: NDArray[np.bool_],
) -> None:
    """Light where other channels are full but this one is not: as much more than it as where all of
    them *tell*; nothing where that differs from place to place.
    """
    if int(tells.sum()) < COLOUR_PIXELS:
        return
    more = np.log(light[tells] / channel[tells])
    middle = float(np.median(more))
    scatter = float(np.median(np.abs(more - middle)))
    if scatter > COLOUR_SCATTER:
        return
    good = lost & ~is_full
    light[good] = np.maximum(light[good], math.exp(middle) * channel[good])
    lost &= is_full
