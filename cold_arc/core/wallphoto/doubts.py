"""What each figure of a photograph is worth, at 95 %.

The root of the sum of squares of: the fit's own scatter; every mark a little off, carried through
the perspective by moving it; a lens left untold; what the method itself leaves (own, found on
rendered photographs, docs/accuracy.md). JCGM 100 for the adding, recalled from memory.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from cold_arc.core.wallphoto.camera import PhotoMark, WallCamera, seen_through, tell_lens
from cold_arc.core.wallphoto.directions import Subject, places

# A usual lens's bend where it is not fitted; coverage factor; what the method leaves, degrees
# (own).
LENS_K1, COVER = 0.02, 2.0
METHOD_DEG = {
    "cutoff_v_deg": 0.007,
    "roll_deg": 0.0545,
    "elbow_h_deg": 0.028,
    "elbow_v_deg": 0.0066,
    "hot_spot_h_deg": 0.019,
    "hot_spot_v_deg": 0.0075,
}
Where = Mapping[str, tuple[float, float]]


def doubts(
    own: Mapping[str, float],
    at: Where,
    marks: Sequence[PhotoMark],
    subject: Subject,
    camera: WallCamera,
) -> dict[str, float]:
    """What each figure is worth; *own*: the fit's standard errors; *at*: where on the beam each is
    read, degrees.
    """
    squares = {name: own.get(name, 0.0) ** 2 + METHOD_DEG[name] ** 2 for name in at}
    for other in _moved(marks, camera):
        for name, shift in _shifts(camera, other, subject, at).items():
            squares[name] += shift**2
    return {name: COVER * math.sqrt(total) for name, total in squares.items()}


def _moved(marks: Sequence[PhotoMark], camera: WallCamera) -> list[WallCamera]:
    """The camera as it would be with each mark a little off, across and down; and with a usual lens
    untold.
    """
    scale = max(camera.size[0] / 1500, 1.0)
    cameras = []
    for number, mark in enumerate(marks):
        by = mark.doubt_px * scale
        for du, dv in ((by, 0.0), (0.0, by)):
            moved = list(marks)
            moved[number] = replace(mark, px=(mark.px[0] + du, mark.px[1] + dv))
            cameras.append(seen_through(moved, camera))
    if not tell_lens(marks, camera.size):
        cameras.append(seen_through(marks, replace(camera, k1=LENS_K1)))
    return cameras


def _shifts(camera: WallCamera, other: WallCamera, subject: Subject, at: Where) -> dict[str, float]:
    """By how much each figure moves when the same pixel is seen by another camera, degrees."""
    moved: dict[tuple[float, float], tuple[float, float]] = {}

    def shift(h: float, v: float) -> tuple[float, float]:
        if (h, v) not in moved:
            moved[h, v] = _shift(camera, other, subject, h, v)
        return moved[h, v]

    shifts = {}
    for name, (h, v) in at.items():
        if name == "roll_deg":
            left, right = shift(-5.0, v), shift(0.0, v)
            shifts[name] = math.degrees(math.atan((right[1] - left[1]) / 5.0))
        else:
            shifts[name] = shift(h, v)[0 if "_h_" in name else 1]
    return shifts


def _shift(
    camera: WallCamera, other: WallCamera, subject: Subject, h: float, v: float
) -> tuple[float, float]:
    """How far off a direction is told where the other camera is the true one: to first order."""
    near = 0.05
    hs, vs = np.array([h, h + near, h]), np.array([v, v, v + near])
    x, y = places(subject, hs, vs)
    u, w = camera.pixels(x, y)
    gone_u, gone_w = other.pixels(x[:1], y[:1])
    slope = np.array([[u[1] - u[0], u[2] - u[0]], [w[1] - w[0], w[2] - w[0]]]) / near
    dh, dv = np.linalg.solve(slope, [gone_u[0] - u[0], gone_w[0] - w[0]])
    return float(dh), float(dv)
