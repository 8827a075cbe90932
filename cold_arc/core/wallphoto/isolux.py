"""A photograph's light in lux, by one reading of a meter: the brightest, and lines of equal light
on the wall.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.wallphoto.camera import WallCamera
from cold_arc.core.wallphoto.directions import Directions, Plan, Subject
from cold_arc.core.wallphoto.picture import WallPicture

# Lines of equal light that are drawn, lx: round figures, three a decade.
LINES_LX = tuple(step * 10.0**power for power in range(-1, 5) for step in (1, 2, 5))
MOST_LINES, LEAST_POINTS, STEADY_PX = 7, 12, 5.0


@dataclass(frozen=True)
class LuxReading:
    """One reading of a meter, lx, at a place on the wall, cm right of the lamp's centre line and up
    from the floor.
    """

    lux: float
    wall_cm: tuple[float, float]


def lux_a_light(
    picture: WallPicture, camera: WallCamera, reading: LuxReading | None
) -> float | None:
    """How many lux the unit of a picture's light is; None without a reading, or where it lies
    outside or is lost in white.
    """
    if reading is None:
        return None
    u, v = camera.pixels(np.array([reading.wall_cm[0]]), np.array([reading.wall_cm[1]]))
    column, row = round(float(u[0])), round(float(v[0]))
    if (
        not (0 <= column < picture.size[0] and 0 <= row < picture.size[1])
        or picture.lost[row, column]
    ):
        return None
    light = float(picture.light[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2].mean())
    return reading.lux / light if light > 0 else None


def peak_cd(wall: Directions, subject: Subject, scale: float | None) -> float | None:
    """The brightest light, cd; None without a *scale* (lux a unit of light), or where it is
    clipped.
    """
    brightest = float(np.nanmax(wall.light))
    if scale is None or (wall.clipped & (wall.light >= 0.95 * brightest)).any():
        return None
    return brightest * scale * subject.distance_m**2


Run = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Isolux:
    """A line of equal light: *lux*, and its runs of places, m right and down of the lamp's axis."""

    lux: float
    runs: tuple[Run, ...]


def lines(plan: Plan, scale: float) -> list[Isolux]:
    """The lines of equal light on a wall laid flat, the brightest first."""
    lux = cv2.GaussianBlur(plan.light, (0, 0), STEADY_PX) * scale
    brightest = float(lux.max())
    wanted = [level for level in LINES_LX if level < 0.95 * brightest][-MOST_LINES:]
    isoluxes = (Isolux(level, tuple(_runs(plan, lux >= level))) for level in reversed(wanted))
    return [isolux for isolux in isoluxes if isolux.runs]


def _runs(plan: Plan, inside: NDArray[np.bool_]) -> list[Run]:
    """The edge of what is inside, without the picture's own edge."""
    rows, columns = inside.shape
    contours, _ = cv2.findContours(inside.astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    runs = []
    for piece in (piece for contour in contours for piece in _pieces(contour[:, 0], rows, columns)):
        if len(piece) >= LEAST_POINTS:
            places = _simpler(piece)
            across = plan.left + (plan.right - plan.left) * places[:, 0] / (columns - 1)
            down = -plan.up + (plan.up - plan.down) * places[:, 1] / (rows - 1)
            runs.append(tuple((float(x), float(y)) for x, y in zip(across, down, strict=True)))
    return runs


def _simpler(piece: NDArray[Any]) -> NDArray[Any]:
    """A line with fewer places, no more than a pixel off; closed where it was."""
    if (piece[0] != piece[-1]).any():
        return np.asarray(cv2.approxPolyDP(piece[:, None, :], 1.0, False)[:, 0])
    places = cv2.approxPolyDP(piece[:-1, None, :], 1.0, True)[:, 0]
    return np.vstack([places, places[:1]])


def _pieces(contour: NDArray[Any], rows: int, columns: int) -> list[NDArray[Any]]:
    """A closed line in pieces, where it runs along the picture's edge; one that does not,
    closed.
    """
    x, y = contour.T
    on_edge = (x == 0) | (x == columns - 1) | (y == 0) | (y == rows - 1)
    if not on_edge.any():
        return [np.vstack([contour, contour[:1]])]
    start = int(on_edge.argmax())
    turned, kept = np.roll(contour, -start, axis=0), ~np.roll(on_edge, -start)
    cuts = np.flatnonzero(np.diff(kept.astype(int))) + 1
    return [
        piece
        for piece, keep in zip(np.split(turned, cuts), np.split(kept, cuts), strict=True)
        if keep.all()
    ]
