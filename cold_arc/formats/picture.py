"""A beam as the eye sees it on a wall: tinted, exposed, no rainbow."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.light import colour

Array = NDArray[np.float64]
H_VIEW, V_VIEW = (-25.0, 25.0), (-10.0, 6.0)
PIXELS_PER_DEGREE = 12
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


def sampled(beam: Beam, scale: int = PIXELS_PER_DEGREE) -> Array:
    """Candela on the picture's pixels, top row first."""
    h = np.arange(H_VIEW[0] + 0.5 / scale, H_VIEW[1], 1 / scale)
    v = np.arange(V_VIEW[1] - 0.5 / scale, V_VIEW[0], -1 / scale)
    return beam.on(h, v)


def render(beam: Beam, rgb: Array, exposure: float = 0.0, log: bool = False, contours: bool = False) -> bytes:
    """PNG bytes. *exposure* in stops; *log* shows three decades evenly; *contours* draws lines of equal candela."""
    candela = sampled(beam)
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
