"""A beam as an eye or a telephone's camera sees it on a wall: in its source's colour, exposed, with
a soft glow.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import lru_cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo
from scipy import ndimage

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.light import colour

Array = NDArray[np.float64]
Pixels = NDArray[np.float32]
# What is shown of one lamp's beam: degrees across and up, on a wall at 10 m.
H_VIEW, V_VIEW = (-25.0, 25.0), (-10.0, 6.0)
VIEW_DISTANCE_M = 10.0
PIXELS_ACROSS = 640
# Candela that fills the exposure, and how far an eye lifts what is dim beside it (own, chosen by
# looking).
WHITE_CD, LIFTED = 15000.0, 0.9
LOG_DECADES = 3.2
# What an eye takes for white in a dark workshop, K; selective yellow as linear RGB (own).
WHITE_K, YELLOW_RGB = 4600.0, (1.0, 0.72, 0.08)
CONTOURS_CD = (125.0, 350.0, 625.0, 1700.0, 5100.0, 10100.0, 20000.0, 40000.0)
# The wall unlit, 0 to 255; how rough its paint is; the share of light that glows in the eye and how
# far, in pixels (own).
WALL = np.array([9.0, 11.0, 13.0], dtype=np.float32)
ROUGH_PAINT, PAINT_PIXELS = 0.05, 1.2
GLOW_SHARE, GLOW_PIXELS, MOST_GLOWS = 0.03, 14.0, 3.0
# How fast light fills a colour; the table of tones: its steps, and the root of the most light it
# tells apart; the shades a picture has, the last of them for lines, and their colour (own).
FILLS, TONE_STEPS, TONE_TO = 1.9, 8192, 4.0
SHADES, LINE_RGB = 256, (140, 150, 160)
# CIE 1931 XYZ to linear sRGB (IEC 61966-2-1).
XYZ_TO_RGB = np.array(
    [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
)


@lru_cache(maxsize=64)
def tint(cct_k: float) -> tuple[float, float, float]:
    """Linear RGB of a light of *cct_k* to an eye adapted to WHITE_K, brightest channel 1."""
    rgb = _linear(cct_k) / _linear(WHITE_K)
    red, green, blue = (float(channel) for channel in np.clip(rgb / rgb.max(), 0, 1))
    return red, green, blue


def _linear(cct_k: float) -> Array:
    x, y = colour.chromaticity(cct_k)
    return np.asarray(np.clip(XYZ_TO_RGB @ np.array([x / y, 1.0, (1 - x - y) / y]), 1e-3, None))


def colour_of(beam: Beam) -> tuple[float, float, float]:
    """Linear RGB of a beam's light."""
    return YELLOW_RGB if beam.yellow else tint(beam.cct_k)


class Shaded(NamedTuple):
    """A picture: the *shades* of its pixels (rows, columns), and their *palette* (SHADES, 3), which
    takes a third of what three colours a pixel take to be written.
    """

    shades: NDArray[np.uint8]
    palette: NDArray[np.uint8]

    @property
    def pixels(self) -> NDArray[np.uint8]:
        """Pixels (rows, columns, 3)."""
        return np.asarray(self.palette[self.shades])


class Frame(NamedTuple):
    """A part of a wall, m right and down of some point of it: its edges."""

    left: float
    top: float
    right: float
    bottom: float


class LampAxis(NamedTuple):
    """Where a lamp's axis meets the wall, m right and down, and how far its beam is turned, degrees
    right and up.
    """

    right: float = 0.0
    down: float = 0.0
    aim_right: float = 0.0
    aim_up: float = 0.0


ONE_LAMP = (LampAxis(),)


def view_frame(distance_m: float = VIEW_DISTANCE_M) -> Frame:
    """The frame of one lamp's usual view, on a wall at *distance_m*, about where its axis meets
    it.
    """
    across, up = (np.tan(np.radians(view)) * distance_m for view in (H_VIEW, V_VIEW))
    return Frame(float(across[0]), -float(up[1]), float(across[1]), -float(up[0]))


def on_wall(
    beam: Beam,
    lamps: Sequence[LampAxis],
    frame: Frame,
    distance_m: float,
    across: int = PIXELS_ACROSS,
) -> Array:
    """What *lamps* with this beam light of a wall, lx, on the pixels of a picture of *frame*, top
    row first.
    """
    step = (frame.right - frame.left) / across
    rows = max(1, round((frame.bottom - frame.top) / step))
    x = frame.left + (np.arange(across, dtype=float) + 0.5) * step
    y = frame.top + (np.arange(rows, dtype=float) + 0.5) * step
    right, down = np.meshgrid(x, y, sparse=True)
    lux = np.zeros((rows, across))
    for lamp in lamps:
        turned = (lamp.aim_right, lamp.aim_up)
        lux += derived.wall_lux(beam, right - lamp.right, down - lamp.down, distance_m, turned)
    return lux


def render(
    beam: Beam,
    exposure: float = 0.0,
    log: bool = False,
    contours: bool = False,
    lamps: Sequence[LampAxis] = ONE_LAMP,
    frame: Frame | None = None,
    distance_m: float = VIEW_DISTANCE_M,
    across: int = PIXELS_ACROSS,
) -> bytes:
    """PNG bytes of a wall: *frame* of it, one lamp's usual view by default, *across* pixels wide.

    *exposure* in stops; *log* shows three decades evenly; *contours* draws lines of equal candela
    (lx times d²).
    """
    candela = (
        on_wall(beam, lamps, frame or view_frame(distance_m), distance_m, across) * distance_m**2
    )
    light = (candela * (2.0**exposure / WHITE_CD)).astype(np.float32)
    drawn = exposed(light * _paint(light.shape), colour_of(beam), log)
    if contours:
        drawn.shades[_lines(candela)] = SHADES - 1
    return png(drawn.shades, drawn.palette)


@lru_cache(maxsize=8)
def _paint(shape: tuple[int, int]) -> Pixels:
    """How a painted wall's roughness takes the light, about 1; the same every time."""
    grain = ndimage.gaussian_filter(
        np.random.default_rng(1).standard_normal(shape, dtype=np.float32), PAINT_PIXELS
    )
    return np.asarray(1 + ROUGH_PAINT * grain / grain.std() / 3, dtype=np.float32)


def exposed(
    light: Pixels, rgb: tuple[float, float, float], log: bool = False, lifted: float = LIFTED
) -> Shaded:
    """A picture of light relative to white: each colour fills by itself, so that what is brightest
    goes white.

    A little of it glows about; *lifted* is the power by which an eye lifts what is dim. On a
    logarithmic scale three decades are shown evenly, without a glow.
    """
    if log:
        level = np.clip(1 + np.log10(np.maximum(light, 1e-9)) / LOG_DECADES, 0, 1)
        even = np.linspace(0, 1, SHADES - 1)[:, None] * (255 - WALL) * np.array(rgb) ** (1 / 2.2)
        return Shaded(np.round(level * (SHADES - 2)).astype(np.uint8), _palette(WALL + even))
    light = np.maximum(light + GLOW_SHARE * _glow(np.minimum(light, MOST_GLOWS)), 0)
    step = np.minimum(np.sqrt(light) * np.float32(TONE_STEPS / TONE_TO), TONE_STEPS - 1).astype(
        np.uint16
    )
    shades, palette = _tones(rgb, lifted)
    return Shaded(shades[step], palette)


@lru_cache(maxsize=32)
def _tones(rgb: tuple[float, float, float], lifted: float) -> Shaded:
    """The shade (TONE_STEPS,) of even steps of the root of the light; from one to the next the
    colour that changes most changes alike.
    """
    light = (np.arange(TONE_STEPS) * TONE_TO / TONE_STEPS) ** 2
    filled = 1 - np.exp(-FILLS * light[:, None] ** lifted * np.array(rgb))
    tones = WALL + (255 - WALL) * filled ** (1 / 2.2)
    gone = np.append(0.0, np.cumsum(np.abs(np.diff(tones, axis=0)).max(axis=1)))
    shades = np.round(gone / gone[-1] * (SHADES - 2)).astype(np.uint8)
    every = np.arange(SHADES - 1)
    middle = np.searchsorted(shades, every) + np.searchsorted(shades, every, "right") - 1
    return Shaded(shades, _palette(tones[middle // 2]))


def _palette(tones: Array) -> NDArray[np.uint8]:
    """The palette of all shades but the last, which is a line's."""
    return np.asarray(np.vstack([tones, LINE_RGB]), dtype=np.uint8)


def _glow(light: Pixels) -> Pixels:
    """The light spread far, worked out on a quarter of the pixels: it has no detail."""
    small = cv2.GaussianBlur(
        np.ascontiguousarray(light[::4, ::4]),
        (0, 0),
        GLOW_PIXELS / 4,
        borderType=cv2.BORDER_REPLICATE,
    )
    return np.asarray(cv2.resize(small, light.shape[::-1]), dtype=np.float32)


def _lines(candela: Array) -> NDArray[np.bool_]:
    """Pixels where a contour value lies between neighbours."""
    return borders(np.searchsorted(CONTOURS_CD, candela))


def borders(areas: NDArray[Any]) -> NDArray[np.bool_]:
    """Pixels that differ from the one to their left or above."""
    edge = np.zeros(areas.shape, dtype=bool)
    edge[:, 1:] |= areas[:, 1:] != areas[:, :-1]
    edge[1:, :] |= areas[1:, :] != areas[:-1, :]
    return edge


def png(pixels: NDArray[np.uint8], palette: NDArray[np.uint8] | None = None) -> bytes:
    """PNG bytes of pixels (rows, columns, 3), or of shades (rows, columns) of a *palette*."""
    out, image = io.BytesIO(), Image.fromarray(pixels)
    if palette is not None:
        image.putpalette(palette.tobytes())
    info = PngInfo()
    info.add_text("Software", "Cold Arc")
    image.save(out, "PNG", pnginfo=info, compress_level=1)
    return out.getvalue()


def from_beam(beam: Beam, title: str) -> bytes:
    """A beam's picture with its usual exposure."""
    return render(beam)
