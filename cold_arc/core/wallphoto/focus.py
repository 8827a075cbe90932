"""Whether a photograph is in focus: a soft edge is the lamp's own only where something else in the
picture is sharp.

Tape crosses and coded marks are sharp on the wall; a cut-off may be. Where neither shows a sharp
edge the picture may be blurred, and the cut-off, read at its steepest logarithm, then reads too
high by as much as the blur carries it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from cold_arc.core.light.cut_off import Schools, schools
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.directions import V_STEP, Directions
from cold_arc.core.wallphoto.lines import StraightPart
from cold_arc.core.wallphoto.picture import WallPicture

Array = NDArray[np.float64]
# An edge this wide is out of focus, pixels of a picture 1600 across; how far about a mark it is
# looked for; how many times the noise it stands out (own). A cut-off wider than this is none,
# degrees (own: the softest modelled has 0.9).
SOFT_PX, ABOUT_PX, STANDS_OUT = 6.0, 16.0, 8.0
WIDEST_DEG = 1.15
# Where the cut-off's profile is taken: degrees off the elbow on the flat side, and up and down.
FLAT_SIDE, UP_DOWN, NEAR_DEG = (1.0, 5.0), 1.5, 0.3


@dataclass(frozen=True)
class Profile:
    """The light across the straight cut-off: from a tenth to nine tenths it takes *width_deg*, at
    its steepest it would take *steep_deg*; where other schools read it."""

    width_deg: float
    steep_deg: float
    schools: Schools


def profile(wall: Directions, cut: StraightPart, side: float) -> Profile | None:
    """The profile of *cut*, a cut-off seen on *wall*, on one *side* (+1: right), the middle one of
    its columns; None where too few are seen.
    """
    at = cut.elbow[0] if cut.elbow else 0.0
    columns = np.flatnonzero(
        ((wall.h - at) * side > FLAT_SIDE[0]) & ((wall.h - at) * side < FLAT_SIDE[1])
    )
    r = np.arange(-UP_DOWN, UP_DOWN, V_STEP)
    rows = (cut.heights(wall.h[columns]) + r[:, None] - wall.v[0]) / V_STEP
    light = ndimage.map_coordinates(
        wall.light, [rows, np.broadcast_to(columns, rows.shape)], order=1, cval=np.nan
    )
    light = light[:, np.isfinite(light).all(axis=0)]
    if light.shape[1] < len(columns) / 3 or not light.size:
        return None
    steady = ndimage.gaussian_filter1d(np.median(light / light.max(axis=0), axis=1), 1.0)
    return _crossings(r, steady)


def _crossings(r: Array, light: Array) -> Profile:
    """Where a profile passes a tenth and nine tenths of its height, the last time before it is
    dark, and how steeply.
    """
    low, high = float(light[r > 0].min()), float(light[r < 0].max())
    falling = np.maximum.accumulate(light[::-1])[::-1]
    tenth, most = (
        float(np.interp(-(low + share * (high - low)), -falling, r)) for share in (0.1, 0.9)
    )
    near = light[np.abs(r) <= NEAR_DEG]
    steep = 0.8 * (near.max() - near.min()) / max(float(-np.gradient(near, V_STEP).min()), 1e-9)
    return Profile(tenth - most, float(steep), schools(light, r, 0.0))


def sharp_by(picture: WallPicture, marks: Sequence[PhotoMark], edge_px: float) -> str:
    """By what a picture is seen to be sharp: the "edge" of the cut-off, *edge_px* wide; a "mark";
    "" by nothing.
    """
    most = SOFT_PX * scale(picture)
    if edge_px <= most:
        return "edge"
    finest = finest_px(picture, marks)
    return "mark" if finest is not None and finest <= most else ""


def finest_px(picture: WallPicture, marks: Sequence[PhotoMark]) -> float | None:
    """The sharpest edge about the marks, pixels from a tenth to nine tenths; None where nothing
    stands out of noise.
    """
    about = round(ABOUT_PX * scale(picture))
    widths = [
        width for mark in marks if (width := _finest(_window(picture, mark, about))) is not None
    ]
    return min(widths, default=None)


def scale(picture: WallPicture) -> float:
    """How much finer a picture is than one 1600 pixels across."""
    return max(max(picture.size) / 1600, 0.4)


def _window(picture: WallPicture, mark: PhotoMark, about: int) -> Array:
    """What is seen about a mark, its noise alike all over (the root of light)."""
    column, row = (round(coordinate) for coordinate in mark.px)
    part = picture.light[
        max(row - about, 0) : max(row + about, 0), max(column - about, 0) : max(column + about, 0)
    ]
    return np.sqrt(np.maximum(part.astype(np.float64), 0.0))


def _finest(window: Array) -> float | None:
    """The width of the steepest edge of a window."""
    if min(window.shape) < 8:
        return None
    fine = ndimage.gaussian_filter(window, 1.0)
    noise = 1.4826 * float(np.median(np.abs(window - fine)))
    height = float(np.percentile(fine, 98) - np.percentile(fine, 2))
    if height < STANDS_OUT * max(noise, 1e-3):
        return None
    steepest = float(np.percentile(np.hypot(*np.gradient(fine)), 99))
    return 0.8 * height / max(steepest, 1e-9)
