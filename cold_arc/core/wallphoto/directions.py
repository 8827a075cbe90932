"""The wall's light in directions from the lamp: what a photograph was taken of, and its picture
laid flat.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.light.cut_off import DARK_PERCENTILE, H_SEEN, V_SEEN, LineRead
from cold_arc.core.wallphoto.camera import WallCamera
from cold_arc.core.wallphoto.picture import Light, PhotoUnusableError, WallPicture

Array = NDArray[np.float64]
# How finely a beam is looked at, degrees.
H_STEP, V_STEP = 0.1, 0.02
LEAST_SEEN = 0.15


USUAL_LINES = {"fog": LineRead.LEVEL, "high": LineRead.SPOT}


@dataclass(frozen=True)
class Subject:
    """What a photograph was taken of: the wall's distance, the lamp's height above the floor there,
    m; *function* and *traffic*; *covered*: what hangs on the wall and is no light, cm right of the
    lamp's centre line (from, to) and up from the floor (from, to); *line*: what of the beam the
    rule in use goes by (None: what is usual for the function).
    """

    distance_m: float
    lamp_height_m: float
    function: Function = Function.LOW
    traffic: Traffic = Traffic.RIGHT
    covered: tuple[tuple[float, float, float, float], ...] = ()
    line: LineRead | None = None

    @property
    def reads(self) -> LineRead:
        """What of the beam is read."""
        return self.line or USUAL_LINES.get(self.function, LineRead.FLAT)


@dataclass(frozen=True)
class Directions:
    """The light in directions from the lamp: rows up along *v*, columns along *h*, degrees; nan
    outside the picture; *clipped*, *lost* as in the picture.
    """

    h: Array
    v: Array
    light: Array
    clipped: NDArray[np.bool_]
    lost: NDArray[np.bool_]

    @property
    def dark(self) -> float:
        """What the unlit wall shows: the least of it."""
        return float(np.percentile(self.light[np.isfinite(self.light)], DARK_PERCENTILE))

    @property
    def known(self) -> Array:
        """The light, nothing outside the picture."""
        return np.where(np.isfinite(self.light), self.light, 0.0)


def places(subject: Subject, h: Array, v: Array) -> tuple[Array, Array]:
    """Where directions *h*, *v* (…), degrees, from the lamp of *subject* meet the wall: cm right of
    its centre line, up from the floor.
    """
    across, up = np.radians(h), np.radians(v)
    x = subject.distance_m * np.tan(across) / np.cos(up)
    y = subject.lamp_height_m + subject.distance_m * np.tan(up)
    return 100 * x, 100 * y


Window = tuple[tuple[float, float], tuple[float, float]]


def in_directions(
    picture: WallPicture,
    camera: WallCamera,
    subject: Subject,
    coarse: int = 1,
    window: Window = (H_SEEN, V_SEEN),
) -> Directions:
    """The light of a *picture*, seen by *camera*, in directions from the lamp of *subject*, as
    intensity: E on a flat wall goes with cos³. *coarse*: how many times as wide its cells are;
    *window*: from where to where across and up, degrees.

    PhotoUnusableError where the picture shows hardly any of it.
    """
    h = np.arange(window[0][0], window[0][1] + 1e-9, H_STEP * coarse)
    v = np.arange(window[1][0], window[1][1] + 1e-9, V_STEP * coarse)
    at = places(subject, *np.meshgrid(h, v))
    light = _seen(picture.light, camera, *at)
    if np.isfinite(light).mean() < LEAST_SEEN:
        raise PhotoUnusableError("The picture shows too little of the wall about the lamp's axis.")
    across, up = np.meshgrid(np.radians(h), np.radians(v))
    cosine = np.cos(across) * np.cos(up)
    intensity = np.asarray(light / cosine**3, dtype=np.float64)
    for box in subject.covered:
        _bridge(intensity, h, v, subject, box)
    clipped, lost = (_marked(mask, camera, *at) for mask in (picture.clipped, picture.lost))
    return Directions(h, v, intensity, clipped, lost)


def _bridge(
    light: Array, h: Array, v: Array, subject: Subject, box: tuple[float, float, float, float]
) -> None:
    """Light straight across what covers the wall, row by row from its left to its right."""
    reach, level = 100 * subject.distance_m, 100 * subject.lamp_height_m
    first, last = (
        int(index) for index in np.searchsorted(h, np.degrees(np.arctan(np.array(box[:2]) / reach)))
    )
    low, high = (
        int(index)
        for index in np.searchsorted(v, np.degrees(np.arctan((np.array(box[2:]) - level) / reach)))
    )
    if 0 < first < last < len(h):
        share = (np.arange(first, last) - (first - 1)) / (last - first + 1)
        left, right = light[low:high, first - 1, None], light[low:high, last, None]
        light[low:high, first:last] = left + (right - left) * share


def _seen(light: Light, camera: WallCamera, x: Array, y: Array) -> NDArray[Any]:
    """What the *camera* saw of some *light* at places on the wall; nan outside its picture."""
    u, w = (axis.astype(np.float32) for axis in camera.pixels(x, y))
    outside = [math.nan]
    border = cv2.BORDER_CONSTANT
    return np.asarray(
        cv2.remap(light, u, w, cv2.INTER_LINEAR, borderMode=border, borderValue=outside)
    )


def _marked(mask: NDArray[np.bool_], camera: WallCamera, x: Array, y: Array) -> NDArray[np.bool_]:
    """Where on the wall a *mask* of what the *camera* saw holds."""
    u, w = (axis.astype(np.float32) for axis in camera.pixels(x, y))
    held = cv2.remap(mask.astype(np.uint8), u, w, cv2.INTER_NEAREST, borderValue=[0.0])
    return np.asarray(held, dtype=bool)


# The picture laid on the Wall: its pixels across; the directions it holds, degrees left, right, up,
# down.
WALL_ACROSS, WALL_DEG = 1200, (-9.0, 9.0, 3.0, -5.0)


@dataclass(frozen=True)
class Plan:
    """The wall as seen from straight before it: *light* (rows from above), over this much of the
    wall, m right and up of the lamp's axis."""

    left: float
    right: float
    up: float
    down: float
    light: NDArray[np.float32]


def plan_frame(distance_m: float) -> tuple[float, float, float, float]:
    """What a plan holds of a wall at *distance_m*: m left, right, up and down of the lamp's axis,
    signed.
    """
    left, right, up, down = (distance_m * math.tan(math.radians(deg)) for deg in WALL_DEG)
    return left, right, up, down


def laid_flat(picture: WallPicture, camera: WallCamera, subject: Subject) -> Plan:
    """A *picture*, seen by *camera*, without its perspective, about *subject*'s axis."""
    left, right, up, down = plan_frame(subject.distance_m)
    rows = round(WALL_ACROSS * (up - down) / (right - left))
    x, y = np.meshgrid(np.linspace(left, right, WALL_ACROSS), np.linspace(up, down, rows))
    light = _seen(picture.light, camera, 100 * x, 100 * (subject.lamp_height_m + y))
    return Plan(left, right, up, down, np.nan_to_num(light).astype(np.float32))
