"""A simulated camera before the wall: renders a photograph of a modelled beam with marks, as a
telephone would take it.

Perspective, a lens's bend, exposure, vignetting, noise, JPEG; what it was is known, so that what is
measured in its pictures can be held against it.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.car.lamps import Side
from cold_arc.core.wallphoto.camera import PhotoMark, bent
from cold_arc.core.wallphoto.picture import as_shown
from cold_arc.core.wallphoto.wall_target import MARKER_CM, Marker, markers

Array = NDArray[np.floating[Any]]
GREY_MARK, MARK_CM, INK = 0.55, 3.0, 0.06
# Steps that undo a lens's bend (own).
UNBENT_BY = 12


@dataclass(frozen=True)
class Pose:
    """Where the camera stands and looks: m right of the lamp's centre line, above the floor, before
    the wall; degrees right, up and about its axis; *focal* in picture widths; *k1* the lens's
    bend."""

    x_m: float = 0.4
    y_m: float = 1.5
    z_m: float = 6.0
    pan_deg: float = 0.0
    tilt_deg: float = -6.0
    roll_deg: float = 0.0
    focal: float = 0.85
    k1: float = 0.0


@dataclass(frozen=True)
class Shot:
    """How a photograph is taken: *exposure* in stops from the brightest at white, *noise* as a
    share of white, *blur* in pixels, *vignette* lost at the corners, JPEG *quality*."""

    across: int = 1600
    down: int = 1200
    exposure: float = -0.3
    noise: float = 0.004
    blur: float = 0.8
    vignette: float = 0.15
    quality: int = 90
    ambient: float = 0.004
    seed: int = 1


def before_the_wall(distance_m: float, lamp_height_m: float) -> Pose:
    """A camera on a stand beside the lamp, before a wall at *distance_m*, looking at where its beam
    falls.
    """
    back, tall, aside = 0.62 * distance_m, 1.3, 0.5
    tilt = -math.degrees(math.atan2(tall - lamp_height_m + 0.1, back))
    return Pose(aside, tall, back, -math.degrees(math.atan2(aside, back)), tilt, 0.4)


@dataclass(frozen=True)
class Photograph:
    """A picture (rows, columns, 3; RGB), and where its marks are in it."""

    pixels: NDArray[np.uint8]
    marks: tuple[PhotoMark, ...]

    def jpeg(self, quality: int = 90) -> bytes:
        """As a file."""
        out = io.BytesIO()
        Image.fromarray(self.pixels).save(out, "JPEG", quality=quality)
        return out.getvalue()


def wall_to_px(pose: Pose, size: tuple[int, int]) -> Array:
    """The homography from wall cm (right of the lamp, up from the floor) to ideal pixels."""
    pan, tilt, roll = (
        math.radians(angle_deg) for angle_deg in (pose.pan_deg, pose.tilt_deg, pose.roll_deg)
    )
    turn_y = np.array(
        [[math.cos(pan), 0, -math.sin(pan)], [0, 1, 0], [math.sin(pan), 0, math.cos(pan)]]
    )
    turn_x = np.array(
        [[1, 0, 0], [0, math.cos(tilt), -math.sin(tilt)], [0, math.sin(tilt), math.cos(tilt)]]
    )
    turn_z = np.array(
        [[math.cos(roll), math.sin(roll), 0], [-math.sin(roll), math.cos(roll), 0], [0, 0, 1]]
    )
    rotation = turn_z @ turn_x @ turn_y
    flip = np.diag([1.0, -1.0, 1.0])  # camera: right, down, ahead; wall: right, up
    focal = pose.focal * size[0]
    inner = np.array([[focal, 0, (size[0] - 1) / 2], [0, focal, (size[1] - 1) / 2], [0, 0, 1]])
    seen = flip @ rotation
    place = np.array([[0.01, 0, -pose.x_m], [0, 0.01, -pose.y_m], [0, 0, pose.z_m]])
    return np.asarray(inner @ seen @ place)


def photograph(
    beam: Beam,
    pose: Pose,
    shot: Shot,
    marks_cm: Sequence[tuple[float, float]],
    distance_m: float,
    lamp_height_m: float,
    aim_deg: tuple[float, float] = (0.0, 0.0),
    target: Side | None = None,
) -> Photograph:
    """A photograph of a beam turned by *aim_deg* (right, up) on a wall at *distance_m*, tape
    crosses at *marks_cm*; *target*: the printed target of that lamp hangs there."""
    size = (shot.across, shot.down)
    to_px = wall_to_px(pose, size)
    x, y = _wall_places(to_px, pose.k1, size)
    lux = derived.wall_lux(beam, x / 100, lamp_height_m - y / 100, distance_m, aim_deg)
    light = lux / lux.max() * np.float32(2.0**shot.exposure) + np.float32(shot.ambient)
    for at in marks_cm:
        seen = _round(to_px, pose.k1, size, at, MARK_CM)
        off = np.abs(x[seen] - at[0]), np.abs(y[seen] - at[1])
        cross = (np.maximum(*off) < MARK_CM) & (np.minimum(*off) < MARK_CM / 8)
        light[seen][cross] *= GREY_MARK
    for marker in markers(target) if target else ():
        at = marker.x, marker.y + 100 * lamp_height_m
        seen = _round(to_px, pose.k1, size, at, MARKER_CM)
        light[seen][_black(marker, x[seen], y[seen] - 100 * lamp_height_m)] *= INK
    return Photograph(_taken(light, beam, shot), marks_of(pose, size, marks_cm))


def _round(
    to_px: Array, k1: float, size: tuple[int, int], at: tuple[float, float], reach_cm: float
) -> tuple[slice, slice]:
    """The rows and columns of a picture in which all lies within *reach_cm*, across and up, of a
    place on the wall, cm.
    """
    corners = [(at[0] + x, at[1] + y) for x in (-reach_cm, reach_cm) for y in (-reach_cm, reach_cm)]
    seen = np.array([_mark(to_px, k1, size, corner).px for corner in corners])
    low = np.clip(np.floor(seen.min(axis=0)).astype(int), 0, size)
    high = np.clip(np.ceil(seen.max(axis=0)).astype(int) + 1, 0, size)
    return slice(low[1], high[1]), slice(low[0], high[0])


def _black(marker: Marker, x: Array, y: Array) -> NDArray[np.bool_]:
    """Where a coded mark is black: places in cm from the lamp's axis."""
    size = MARKER_CM / len(marker.cells)
    column = np.floor((x - marker.x + MARKER_CM / 2) / size).astype(int)
    row = np.floor((marker.y + MARKER_CM / 2 - y) / size).astype(int)
    last = len(marker.cells) - 1
    inside = (column >= 0) & (column <= last) & (row >= 0) & (row <= last)
    return np.asarray(inside & marker.cells[np.clip(row, 0, last), np.clip(column, 0, last)])


def marks_of(
    pose: Pose, size: tuple[int, int], marks_cm: Sequence[tuple[float, float]]
) -> tuple[PhotoMark, ...]:
    """Where marks on the wall are in the picture."""
    to_px = wall_to_px(pose, size)
    return tuple(_mark(to_px, pose.k1, size, at) for at in marks_cm)


class LiveCamera:
    """A camera on a stand before one lamp's wall, its target hung up, that takes picture after
    picture while the beam is turned."""

    LOOKS = Shot(across=960, down=720, exposure=-0.2)
    THINNED = 2

    def __init__(self, beam: Beam, distance_m: float, lamp_height_m: float, side: Side) -> None:
        self.beam, self.distance_m = beam, distance_m
        pose = replace(before_the_wall(distance_m, lamp_height_m), focal=1.5)
        size = (self.LOOKS.across, self.LOOKS.down)
        x, y = _wall_places(wall_to_px(pose, size), 0.0, size)
        self.right, self.down = x / 100, lamp_height_m - y / 100
        self.ink = np.ones(x.shape)
        for marker in markers(side):
            self.ink[_black(marker, x, -100 * self.down)] = INK

    def frame(self, aim_deg: tuple[float, float]) -> bytes:
        """One picture, JPEG, of the beam turned by *aim_deg* (right, up)."""
        thin = slice(None, None, self.THINNED)
        lux = derived.wall_lux(
            self.beam, self.right[thin, thin], self.down[thin, thin], self.distance_m, aim_deg
        )
        light = cv2.resize(
            lux / float(lux.max()), self.ink.shape[::-1], interpolation=cv2.INTER_LINEAR
        )
        shown = (light * 2.0**self.LOOKS.exposure + self.LOOKS.ambient) * self.ink
        return Photograph(_taken(shown, self.beam, self.LOOKS), ()).jpeg()


def _wall_places(to_px: Array, k1: float, size: tuple[int, int]) -> tuple[Array, Array]:
    """Which place on the wall, cm, each pixel sees."""
    u, v = np.meshgrid(*(np.arange(count, dtype=np.float32) for count in size))
    straight_u: Array = u
    straight_v: Array = v
    for _ in range(UNBENT_BY if k1 else 0):
        bent_u, bent_v = bent(straight_u, straight_v, k1, size)
        straight_u, straight_v = straight_u + u - bent_u, straight_v + v - bent_v
    back = np.linalg.inv(to_px).astype(np.float32)
    x, y, w = (row[0] * straight_u + row[1] * straight_v + row[2] for row in back)
    return x / w, y / w


def _mark(to_px: Array, k1: float, size: tuple[int, int], at: tuple[float, float]) -> PhotoMark:
    u, v, w = to_px @ [*at, 1.0]
    bent_u, bent_v = bent(np.array([u / w]), np.array([v / w]), k1, size)
    return PhotoMark((float(bent_u[0]), float(bent_v[0])), at)


def _taken(light: Array, beam: Beam, shot: Shot) -> NDArray[np.uint8]:
    """The light as a camera takes it: blurred, darker in the corners, in colours that fill, noisy,
    as JPEG.
    """
    random = np.random.default_rng(shot.seed)
    down, across = light.shape
    if shot.blur:
        light = np.asarray(cv2.GaussianBlur(light, (0, 0), shot.blur), dtype=light.dtype)
    u, v = (np.linspace(-1, 1, count, dtype=np.float32) for count in (across, down))
    light = light * (1 - np.float32(shot.vignette / 2) * (u * u + (v * v)[:, None]))
    tint = np.array([1.0, 0.92, 0.75] if not beam.yellow else [1.0, 0.72, 0.1], dtype=np.float32)
    colours = random.standard_normal((*light.shape, 3), dtype=np.float32)
    colours *= (np.float32(shot.noise) * np.sqrt(np.clip(light, 0.02, 1)))[..., None]
    colours += light[..., None] * tint
    out = io.BytesIO()
    Image.fromarray(as_shown(colours)).save(out, "JPEG", quality=shot.quality)
    return np.asarray(Image.open(io.BytesIO(out.getvalue())).convert("RGB"))
