"""A beam as the eye sees it on a wall: tinted, exposed, no rainbow."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.light import colour

Array = NDArray[np.float64]
# What is shown of one lamp's beam: degrees across and up, on a wall at 10 m.
H_VIEW, V_VIEW = (-25.0, 25.0), (-10.0, 6.0)
VIEW_DISTANCE_M = 10.0
PIXELS_ACROSS = 640
WHITE_CD = 24000.0
LOG_DECADES = 3.2
HALOGEN_K, HID_K, LED_K = 3200.0, 4300.0, 6000.0
YELLOW_RGB = (1.0, 0.86, 0.30)
CONTOURS_CD = (125.0, 350.0, 625.0, 1700.0, 5100.0, 10100.0, 20000.0, 40000.0)
WALL = np.array([9.0, 11.0, 13.0])
# CIE 1931 XYZ to linear sRGB (IEC 61966-2-1).
XYZ_TO_RGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])


def tint(cct_k: float, white_k: float = 4600.0) -> Array:
    """Linear RGB (3,) of a light of *cct_k* to an eye adapted to *white_k*, brightest channel 1."""
    rgb = _linear(cct_k) / _linear(white_k)
    return np.asarray(np.clip(rgb / rgb.max(), 0, 1))


def _linear(cct_k: float) -> Array:
    x, y = colour.chromaticity(cct_k)
    return np.asarray(np.clip(XYZ_TO_RGB @ np.array([x / y, 1.0, (1 - x - y) / y]), 1e-3, None))


class Frame(NamedTuple):
    """A part of a wall, m right and down of some point of it: its edges."""

    left: float
    top: float
    right: float
    bottom: float


class Lamp(NamedTuple):
    """Where a lamp's axis meets the wall, m right and down, and how far its beam is turned, degrees right and up."""

    right: float = 0.0
    down: float = 0.0
    aim_right: float = 0.0
    aim_up: float = 0.0


ONE_LAMP = (Lamp(),)


def view_frame(distance_m: float = VIEW_DISTANCE_M) -> Frame:
    """The frame of one lamp's usual view, on a wall at *distance_m*, about where its axis meets it."""
    across, up = (np.tan(np.radians(view)) * distance_m for view in (H_VIEW, V_VIEW))
    return Frame(float(across[0]), -float(up[1]), float(across[1]), -float(up[0]))


def on_wall(beam: Beam, lamps: Sequence[Lamp], frame: Frame, distance_m: float) -> Array:
    """What *lamps* with this beam light of a wall, lx, on the pixels of a picture of *frame*, top row first."""
    step = (frame.right - frame.left) / PIXELS_ACROSS
    rows = max(1, round((frame.bottom - frame.top) / step))
    x = frame.left + (np.arange(PIXELS_ACROSS) + 0.5) * step
    y = frame.top + (np.arange(rows) + 0.5) * step
    right, down = np.meshgrid(x, y)
    lux = np.zeros(right.shape)
    for lamp in lamps:
        turned = (lamp.aim_right, lamp.aim_up)
        lux += derived.wall_lux(beam, right - lamp.right, down - lamp.down, distance_m, turned)
    return lux


def render(
    beam: Beam,
    rgb: Array,
    exposure: float = 0.0,
    log: bool = False,
    contours: bool = False,
    lamps: Sequence[Lamp] = ONE_LAMP,
    frame: Frame | None = None,
    distance_m: float = VIEW_DISTANCE_M,
) -> bytes:
    """PNG bytes of a wall: *frame* of it, one lamp's usual view by default.

    *exposure* in stops; *log* shows three decades evenly; *contours* draws lines of equal candela (lx times d²).
    """
    candela = on_wall(beam, lamps, frame or view_frame(distance_m), distance_m) * distance_m**2
    level = _toned(candela * 2.0**exposure / WHITE_CD, log)
    lightness = (level ** (1 / 2.2)).astype(np.float32)
    span = ((255 - WALL) * rgb ** (1 / 2.2)).astype(np.float32)
    pixels = (WALL.astype(np.float32) + lightness[..., None] * span).astype(np.uint8)
    if contours:
        pixels[_lines(candela)] = (140, 150, 160)
    return _png(pixels)


def _toned(light: Array, log: bool) -> Array:
    """Light relative to white as 0 to 1: a soft shoulder, or a logarithmic scale."""
    if log:
        return np.asarray(np.clip(1 + np.log10(np.maximum(light, 1e-9)) / LOG_DECADES, 0, 1))
    return np.asarray(1 - np.exp(-1.6 * light))


def _lines(candela: Array) -> NDArray[np.bool_]:
    """Pixels where a contour value lies between neighbours."""
    band = np.searchsorted(CONTOURS_CD, candela)
    edge = np.zeros(candela.shape, dtype=bool)
    edge[:, 1:] |= band[:, 1:] != band[:, :-1]
    edge[1:, :] |= band[1:, :] != band[:-1, :]
    return edge


def _png(pixels: NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    info = PngInfo()
    info.add_text("Software", "Cold Arc")
    Image.fromarray(pixels).save(out, "PNG", pnginfo=info, compress_level=1)
    return out.getvalue()


def from_beam(beam: Beam, title: str) -> bytes:
    """A beam's picture with its usual exposure."""
    return render(beam, tint(LED_K))


ROAD_X, ROAD_Z = (-15.0, 15.0), (4.0, 124.0)
ROAD_PIXELS = 6
ROAD_INK = {1.0: (110, 120, 130), 3.0: (170, 180, 190), 10.0: (235, 240, 245)}


def render_road(beam: Beam, rgb: Array) -> bytes:
    """PNG bytes: the road from above, both lamps, near end at the bottom, with lines of 1, 3 and 10 lx."""
    x = np.arange(ROAD_X[0], ROAD_X[1], 1 / ROAD_PIXELS)
    z = np.arange(ROAD_Z[1], ROAD_Z[0], -1 / (ROAD_PIXELS / 2))
    lux = derived.road_lux(beam, *np.meshgrid(x, z))
    level = np.clip(np.log10(np.maximum(lux, 1e-3) / 0.3) / 2.6, 0, 1)
    pixels = np.clip(WALL + (200 - WALL) * level[..., None] * rgb ** (1 / 2.2), 0, 255).astype(np.uint8)
    for threshold, ink in ROAD_INK.items():
        lit = lux >= threshold
        edge = np.zeros_like(lit)
        edge[:, 1:] |= lit[:, 1:] != lit[:, :-1]
        edge[1:, :] |= lit[1:, :] != lit[:-1, :]
        pixels[edge] = ink
    return _png(pixels)
