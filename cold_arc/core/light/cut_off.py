"""Where a cut-off stands: one definition, for photographs, modelled beams and the simulated camera.

Its height is where log10 E(β) − log10 E(β + 0.1°) is greatest (UN R112/R149, from memory), to a
fraction of a step, over a floor of a share of each column's brightest (own), so that neither stray
light above it nor a camera's flare is taken for it. Other schools read an edge at half its height,
or at the steepest logarithm without a floor: of a sharp edge all say the same, of a soft one they
part (`Schools`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import ndimage
from scipy.special import ndtr

Array = NDArray[np.float64]
WINDOW_DEG = 0.1
# What is looked at of a beam, degrees from the lamp's axis: right and up; the dark is this
# percentile of it, which a photograph can't tell from the room's own light (own).
H_SEEN, V_SEEN, DARK_PERCENTILE = (-10.0, 10.0), (-7.0, 4.0), 1
# A floor for the line's place and one for its sharpness, shares of the brightest; how far a
# column's fall is smoothed, degrees (own).
PLACE_FLOOR, SHARP_FLOOR, STEADY_DEG = 0.08, 0.015, 0.1
# Below this G there is no cut-off to speak of; what is beam at all, of a column's brightest.
LEAST_G, BEAM_SHARE = 0.05, 0.05


class LineRead(StrEnum):
    """What of a beam a rule goes by: the straight part away from the kerb; that on the kerb's side
    (VOR); a line level all across (fog lamps); the hot spot (high beam)."""

    FLAT = "flat"
    KERB = "kerb"
    LEVEL = "level"
    SPOT = "spot"


@dataclass(frozen=True)
class Edge:
    """The cut-off column by column: degrees right, its height there, its sharpness G."""

    h: Array
    v: Array
    g: Array


def heights(light: Array, v: Array, dark: float = 0.0) -> tuple[Array, Array]:
    """The cut-off's height and G in every column of *light* (rows up along *v*, degrees), *dark*
    what an unlit wall shows.
    """
    step = float(v[1] - v[0])
    window = max(1, round(WINDOW_DEG / step))
    own = np.maximum(light - dark, 0.0)
    brightest = np.maximum(own.max(axis=0), 1e-3 * own.max())
    logs, sharp = (
        np.log10(np.maximum(own + share * brightest, 1e-30)) for share in (PLACE_FLOOR, SHARP_FLOOR)
    )
    drops = logs[:-window] - logs[window:]
    bright = own[:-window] >= BEAM_SHARE * own.max(axis=0)
    broad = ndimage.gaussian_filter1d(drops, STEADY_DEG / step, axis=0)
    scored = np.where(bright, broad, -1.0)
    top = np.clip(scored.argmax(axis=0), 1, len(scored) - 2)
    columns = np.arange(light.shape[1])
    before, at, after = (scored[top + offset, columns] for offset in (-1, 0, 1))
    bend = before - 2 * at + after
    shift = np.where(bend < 0, 0.5 * (before - after) / np.where(bend < 0, bend, 1.0), 0.0)
    sharpest = np.where(bright, sharp[:-window] - sharp[window:], 0.0).max(axis=0)
    return np.asarray(v[top] + (np.clip(shift, -1, 1) + window / 2) * step), np.asarray(sharpest)


def find_edge(light: Array, h: Array, v: Array, dark: float = 0.0) -> Edge:
    """The cut-off of light (rows up along *v*, columns along *h*), in columns that show one."""
    place, sharpest = heights(light, v, dark)
    good = sharpest > LEAST_G
    return Edge(h[good], place[good], sharpest[good])


@dataclass(frozen=True)
class Schools:
    """How far above the line read here other schools read it, degrees: at half the edge's height,
    and at the steepest logarithm without a floor.
    """

    half_deg: float
    steepest_deg: float

    @property
    def spread_deg(self) -> float:
        """How far the farther one is."""
        return max(abs(self.half_deg), abs(self.steepest_deg))


# How far about a line its edge is looked at, degrees; down to what share of the light the steepest
# logarithm is looked for, how far it is smoothed, degrees: as deep and fine as a photograph tells
# (own).
LOOKED_DEG, DEEPEST, FINE_DEG = 0.8, 0.002, 0.04
# Of a fitted edge: its place off the line, ln σ, light at it and how that grows downward a degree,
# the dark above: where the fit starts, at least, at most (own).
START = (0.0, math.log(0.1), 0.8, 0.3, 0.01)
AT_LEAST = (-0.7, math.log(0.01), 0.0, -1.0, 0.0)
AT_MOST = (0.5, math.log(0.6), 3.0, 4.0, 0.3)


def schools(profile: Array, v: Array, place: float) -> Schools:
    """Where others read one *profile* of light up the wall along *v*, degrees, whose line stands at
    *place*.

    The half height is that of an edge of the error function on light that grows evenly downward,
    fitted to the profile (least squares), so that how the beam goes on below is no part of it.
    """
    near = np.abs(v - place) <= LOOKED_DEG
    up, own = v[near] - place, profile[near] / profile[near].max()

    def off(edge: Array) -> Array:
        at, ln_sigma, light, grows, dark = edge
        slope = np.maximum(light - grows * (up - at), 0.0)
        return np.asarray(slope * ndtr((at - up) / math.exp(ln_sigma)) + dark - own)

    fitted = scipy.optimize.least_squares(off, START, bounds=(AT_LEAST, AT_MOST))
    own = own - own.min()
    logs = np.log10(own + DEEPEST)
    step = float(v[1] - v[0])
    window = max(1, round(WINDOW_DEG / step))
    drops = np.where(own[:-window] >= BEAM_SHARE, logs[:-window] - logs[window:], 0.0)
    steadied = ndimage.gaussian_filter1d(drops, FINE_DEG / step)
    steepest = float(up[int(steadied.argmax())]) + WINDOW_DEG / 2
    return Schools(float(fitted.x[0]), steepest)
