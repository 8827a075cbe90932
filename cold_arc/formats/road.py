"""The road at night under both lamps: from above, and as the driver sees it."""

from __future__ import annotations

from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.car.lamps import Traffic
from cold_arc.formats.picture import WALL, Array, borders, colour_of, exposed, png

# Seen from above: m across and ahead, pixels a metre across (half as many along), lines of equal
# lux.
ABOVE_X, ABOVE_Z = (-15.0, 15.0), (4.0, 124.0)
ABOVE_PIXELS = 6
ABOVE_INK = {1.0: (110, 120, 130), 3.0: (170, 180, 190), 10.0: (235, 240, 245)}


def from_above(beam: Beam) -> bytes:
    """PNG bytes: the road from above, near end at the bottom, with lines of 1, 3 and 10 lx."""
    x = np.arange(ABOVE_X[0], ABOVE_X[1], 1 / ABOVE_PIXELS)
    z = np.arange(ABOVE_Z[1], ABOVE_Z[0], -2 / ABOVE_PIXELS)
    lux = derived.road_lux(beam, *np.meshgrid(x, z))
    level = np.clip(np.log10(np.maximum(lux, 1e-3) / 0.3) / 2.6, 0, 1)
    rgb = np.array(colour_of(beam)) ** (1 / 2.2)
    pixels = np.clip(WALL + (200 - WALL) * level[..., None] * rgb, 0, 255).astype(np.uint8)
    for threshold, ink in ABOVE_INK.items():
        pixels[borders(lux >= threshold)] = ink
    return png(pixels)


# The driver's view: degrees across and up; pixels; the eye's height and place, m (the lamps at z =
# 0, the car's middle at x = 0; the eye sits away from the kerb).
SEEN_H, SEEN_V = (-21.0, 21.0), (-9.0, 5.0)
SEEN_PIXELS = 720
EYE = (-0.35, 1.2, -1.6)
# The road, m from the car's middle towards the kerb: middle line, kerb line, as of a lane of 3.5 m
# each (common practice).
MIDDLE_M, KERB_M, FAR_KERB_M, LINE_M = -1.75, 1.75, -5.25, 0.12
DASH_M, GAP_M = 6.0, 6.0
# How much light each gives back, cd/m² for a lux on a plane that faces the lamps (own, after a
# lighting handbook's order of magnitude: asphalt seen at a grazing angle, painted lines and
# sheeting that sends light back).
ASPHALT, PAINTED, VERGE, SHEETING, BODY = 0.010, 0.10, 0.006, 6.0, 0.05
# cd/m² that fills the exposure, and how far the eye lifts what is dim on a dark road (own).
FULL_CD_M2, LIFTED = 2.4, 0.6
AHEAD_M = 400.0


class RoadPanel(NamedTuple):
    """An upright plane across the road: m ahead, edges towards the kerb and up, and what it gives
    back.
    """

    ahead: float
    left: float
    right: float
    low: float
    high: float
    gives: float


# A sign by the kerb, posts with reflectors every 50 m, and an oncoming car at 50 m: its body, and
# its two dipped lamps.
SIGN = RoadPanel(60.0, 2.8, 3.7, 1.7, 2.6, SHEETING)
POSTS = tuple(
    RoadPanel(z, KERB_M + 0.7, KERB_M + 0.82, 0.0, 0.9, 0.15) for z in (25.0, 75.0, 125.0)
)
ONCOMING = (
    RoadPanel(50.0, -4.35, -2.65, 0.35, 0.95, BODY),
    RoadPanel(50.2, -4.15, -2.85, 0.95, 1.4, BODY / 3),
)
ONCOMING_LAMPS, ONCOMING_CD_M2, LAMP_M = ((-4.1, 0.65), (-2.9, 0.65)), 4.0, 0.09


def from_the_seat(beam: Beam, traffic: Traffic = Traffic.RIGHT) -> bytes:
    """PNG bytes of the driver's view: road, verges, a sign, posts, an oncoming car 50 m ahead, lit
    by both lamps.

    Drawn for traffic on the right and mirrored for the left, the beam with it.
    """
    kerb = traffic.kerb
    scene = _scene()
    lit = scene.gives > 0
    luminance = np.zeros(lit.shape)
    lux = derived.road_lux(beam, kerb * scene.x[lit], scene.z[lit], target_m=scene.y[lit])
    luminance[lit] = scene.gives[lit] * lux
    luminance[scene.lamps] = ONCOMING_CD_M2
    drawn = exposed((luminance / FULL_CD_M2).astype(np.float32), colour_of(beam), lifted=LIFTED)
    shades = drawn.shades if kerb > 0 else drawn.shades[:, ::-1]
    return png(np.ascontiguousarray(shades), drawn.palette)


class Scene(NamedTuple):
    """What each pixel (rows, columns) shows: where it is, m right, up and ahead, what it gives back
    (0: nothing), and whether it is one of the oncoming car's own lamps."""

    x: Array
    y: Array
    z: Array
    gives: Array
    lamps: NDArray[np.bool_]


@cache
def _scene() -> Scene:
    """The road and what stands on it: the same for every beam."""
    h, v = _directions()
    z, x, y, gives = _ground(h, v)
    for board in (*POSTS, SIGN, *reversed(ONCOMING)):
        z, x, y, gives = _before(board, h, v, z, x, y, gives)
    run, lamps = ONCOMING[0].ahead - EYE[2], np.zeros(h.shape, dtype=bool)
    for across, up in ONCOMING_LAMPS:
        lamps |= np.hypot(run * np.tan(h) + EYE[0] - across, run * np.tan(v) + EYE[1] - up) < LAMP_M
    return Scene(x, y, z, gives, lamps)


def _directions() -> tuple[Array, Array]:
    """The pixels' directions from the eye, radians right and up, top row first."""
    rows = round(SEEN_PIXELS * (SEEN_V[1] - SEEN_V[0]) / (SEEN_H[1] - SEEN_H[0]))
    across = np.linspace(SEEN_H[0], SEEN_H[1], SEEN_PIXELS)
    up = np.linspace(SEEN_V[1], SEEN_V[0], rows)
    h, v = np.meshgrid(np.radians(across), np.radians(up))
    return h, v


def _ground(h: Array, v: Array) -> tuple[Array, Array, Array, Array]:
    """Where each pixel meets the ground: z, x, y, m, and what it gives back there; 0 above the
    horizon.
    """
    down = np.minimum(np.tan(v), -1e-6)
    run = np.minimum(-EYE[1] / down, AHEAD_M)
    z, x = EYE[2] + run, EYE[0] + run * np.tan(h)
    gives = np.where((x > FAR_KERB_M) & (x < KERB_M), ASPHALT, VERGE)
    dashed = (np.abs(x - MIDDLE_M) < LINE_M / 2 + z * 0.0006) & (z % (DASH_M + GAP_M) < DASH_M)
    edges = (
        np.minimum(np.abs(x - KERB_M + 0.2), np.abs(x - FAR_KERB_M - 0.2)) < LINE_M / 2 + z * 0.0006
    )
    gives = np.where(dashed | edges, PAINTED, gives)
    return z, x, np.zeros_like(x), np.where((v < 0) & (z > 0.5) & (run < AHEAD_M), gives, 0.0)


def _before(
    board: RoadPanel, h: Array, v: Array, z: Array, x: Array, y: Array, gives: Array
) -> tuple[Array, Array, Array, Array]:
    """The scene with a board standing before what lies behind it."""
    run = board.ahead - EYE[2]
    across, up = EYE[0] + run * np.tan(h), EYE[1] + run * np.tan(v)
    hit = (across > board.left) & (across < board.right) & (up > board.low) & (up < board.high)
    hit &= (z > board.ahead) | (gives == 0)
    return (
        np.where(hit, board.ahead, z),
        np.where(hit, across, x),
        np.where(hit, up, y),
        np.where(hit, board.gives, gives),
    )
