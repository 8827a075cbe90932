"""From pixels to the wall: the plane's perspective from known marks, and whether a camera can have
seen them so.

A plane is seen by a camera through a homography (R. Hartley and A. Zisserman, Multiple View
Geometry; recalled from memory); a camera with square pixels leaves its two rotation columns equally
long and at right angles, which tells a stretched picture and a mark typed wrong. With six marks or
more the lens's first radial term is fitted too.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from cold_arc.core.wallphoto.picture import PhotoUnusableError

Array = NDArray[np.float64]
# Pixels in whatever precision they are worked in.
Places = NDArray[Any]
MOST_MARKS = 200
# How far marks may be off their fitted place; how far a camera's columns may be off; how flat a
# quadrilateral may be (own). Focal lengths looked through, in picture widths.
MOST_RESIDUAL_CM, MOST_SKEW, LEAST_SPREAD = 3.0, 0.06, 0.003
FOCAL_WIDTHS = np.geomspace(0.4, 8.0, 60)
# Fewer marks than this, or over less of the picture's diagonal, leave the lens's distortion untold
# (own).
MARKS_FOR_LENS, LENS_SPREAD, FARTHEST_CM = 6, 0.25, 10_000.0
CLICKED_PX = 0.4


@dataclass(frozen=True)
class PhotoMark:
    """A mark seen at a pixel, its place on the wall known: cm right of the lamp's centre line, up
    from the floor; *doubt_px*: how well it was placed, pixels a 1500-pixel-wide picture (clicked by
    hand, own)."""

    px: tuple[float, float]
    wall_cm: tuple[float, float]
    doubt_px: float = CLICKED_PX


@dataclass(frozen=True)
class WallCamera:
    """How the wall was seen: *to_px* takes wall cm to ideal pixels, *k1* bends them about the
    picture's middle.
    """

    to_px: Array
    k1: float
    size: tuple[int, int]
    residual_cm: float

    def pixels(self, x_cm: Array, y_cm: Array) -> tuple[Array, Array]:
        """Where places on the wall, *x_cm* and *y_cm* (…), are in the picture, pixels (…)."""
        flat = np.stack([np.ravel(x_cm), np.ravel(y_cm), np.ones(np.size(x_cm))])
        u, v, w = self.to_px @ flat
        u, v = bent(u / w, v / w, self.k1, self.size)
        return u.reshape(np.shape(x_cm)), v.reshape(np.shape(x_cm))


def bent(u: Places, v: Places, k1: float, size: tuple[int, int]) -> tuple[Places, Places]:
    """Ideal pixels *u*, *v* (…) of a picture of *size* (across, down) as a lens with a radial term
    *k1* (per half diagonal squared) bends them.
    """
    middle_u, middle_v = (size[0] - 1) / 2, (size[1] - 1) / 2
    half = math.hypot(*size) / 2
    x, y = (u - middle_u) / half, (v - middle_v) / half
    scale = 1 + k1 * (x * x + y * y)
    return middle_u + x * scale * half, middle_v + y * scale * half


def find_camera(marks: Sequence[PhotoMark], size: tuple[int, int]) -> WallCamera:
    """The camera that saw the *marks* in a picture of *size* (across, down), pixels;
    PhotoUnusableError where there is none.
    """
    _check(marks, size)
    px, wall = (
        np.array([getattr(mark, name) for mark in marks], dtype=np.float64)
        for name in ("px", "wall_cm")
    )
    k1 = _lens(px, wall, size) if tell_lens(marks, size) else 0.0
    to_px = _homography(wall, _straight(px, k1, size))
    camera = WallCamera(to_px, k1, size, _residual_cm(to_px, _straight(px, k1, size), wall))
    if camera.residual_cm > MOST_RESIDUAL_CM:
        raise PhotoUnusableError(
            f"The marks don't agree: they are {camera.residual_cm:.1f} cm off one plane's "
            "perspective. "
            "One was clicked or typed wrong."
        )
    if _skew(to_px, size) > MOST_SKEW:
        raise PhotoUnusableError(
            "No camera sees the marks like this: the picture is stretched, or a mark's place "
            "on the wall is wrong."
        )
    return camera


def tell_lens(marks: Sequence[PhotoMark], size: tuple[int, int]) -> bool:
    """Whether marks tell a lens's bend: enough of them, over enough of the picture."""
    spread = np.ptp([mark.px for mark in marks], axis=0)
    return len(marks) >= MARKS_FOR_LENS and float(np.hypot(*spread)) >= LENS_SPREAD * float(
        np.hypot(*size)
    )


def _check(marks: Sequence[PhotoMark], size: tuple[int, int]) -> None:
    if not 4 <= len(marks) <= MOST_MARKS:
        raise PhotoUnusableError("Four marks or more are needed, with their places on the wall.")
    px = np.array([mark.px for mark in marks], dtype=np.float64)
    wall = np.array([mark.wall_cm for mark in marks], dtype=np.float64)
    if not np.isfinite([px, wall]).all():
        raise PhotoUnusableError("A mark's place is no number.")
    if (px < -0.5).any() or (px > size).any():
        raise PhotoUnusableError("A mark lies outside the picture.")
    if (np.abs(wall) > FARTHEST_CM).any():
        raise PhotoUnusableError("A mark's place on the wall is beyond any wall.")
    share = px / size
    extent = float(np.ptp(wall, axis=0).max())
    if not (_is_spread(share, LEAST_SPREAD) and _is_spread(wall, LEAST_SPREAD * extent**2)):
        raise PhotoUnusableError(
            "The marks don't make a quadrilateral: spread them over the wall, not in a line."
        )


def _is_spread(points: Array, least: float) -> bool:
    """Whether points (n, 2) enclose a quadrilateral, at least, of an area of *least*."""
    hull = cv2.convexHull(points.astype(np.float32))
    corners = cv2.approxPolyDP(hull, 0.01 * float(cv2.arcLength(hull, True)), True)
    spread = float(np.ptp(points, axis=0).max()) > 0
    return spread and len(corners) >= 4 and float(cv2.contourArea(hull)) >= least


def _homography(wall: Array, px: Array) -> Array:
    matrix, _ = cv2.findHomography(wall, px, 0)
    if matrix is None or not np.isfinite(matrix).all() or abs(np.linalg.det(matrix)) < 1e-12:
        raise PhotoUnusableError(
            "The marks don't make a quadrilateral: spread them over the wall, not in a line."
        )
    w = np.column_stack([wall, np.ones(len(wall))]) @ matrix[2]
    if (
        w.min() * w.max() <= 0 or np.linalg.det(matrix) * np.sign(w[0]) > 0
    ):  # crossed, or seen from behind
        raise PhotoUnusableError(
            "The marks are in the wrong order: their places on the wall and in the picture cross."
        )
    return np.asarray(matrix / matrix[2, 2])


def seen_through(marks: Sequence[PhotoMark], like: WallCamera) -> WallCamera:
    """A camera with the lens of another, *like*, through *marks* as they are."""
    px, wall = (
        np.array([getattr(mark, name) for mark in marks], dtype=np.float64)
        for name in ("px", "wall_cm")
    )
    matrix, _ = cv2.findHomography(wall, _straight(px, like.k1, like.size), 0)
    return like if matrix is None else replace(like, to_px=matrix / matrix[2, 2])


def _straight(px: Array, k1: float, size: tuple[int, int]) -> Array:
    """Pixels as a lens without distortion would have them: the bend undone by repetition."""
    u, v = px[:, 0], px[:, 1]
    for _ in range(20 if k1 else 0):
        bent_u, bent_v = bent(u, v, k1, size)
        u, v = u + px[:, 0] - bent_u, v + px[:, 1] - bent_v
    return np.column_stack([u, v])


def _residual_cm(to_px: Array, px: Array, wall: Array) -> float:
    back = cv2.perspectiveTransform(px[:, None, :], np.linalg.inv(to_px))[:, 0]
    return float(np.sqrt(np.mean(np.sum((back - wall) ** 2, axis=1))))


def _lens(px: Array, wall: Array, size: tuple[int, int]) -> float:
    """The radial term with which the marks agree best."""

    def off(k1: Array) -> Array:
        straight = _straight(px, float(k1[0]), size)
        matrix, _ = cv2.findHomography(wall, straight, 0)
        if matrix is None:
            return np.full(2 * len(px), 1e3)
        seen = cv2.perspectiveTransform(wall[:, None, :], matrix)[:, 0]
        return np.asarray((seen - straight).ravel())

    return float(least_squares(off, [0.0], bounds=(-0.3, 0.3), diff_step=1e-4).x[0])


def _skew(to_px: Array, size: tuple[int, int]) -> float:
    """How far the camera that fits best is from one with square pixels: 0 for none."""
    centre = np.array([[1, 0, -(size[0] - 1) / 2], [0, 1, -(size[1] - 1) / 2], [0, 0, 1]])
    one, other = (centre @ to_px)[:, 0], (centre @ to_px)[:, 1]
    worst: list[float] = []
    for focal in FOCAL_WIDTHS * size[0]:
        a, b = one / [focal, focal, 1], other / [focal, focal, 1]
        long, wide = np.linalg.norm(a), np.linalg.norm(b)
        worst.append(max(float(abs(a @ b) / (long * wide)), abs(float(long / wide) - 1)))
    return min(worst)
