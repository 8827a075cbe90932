"""What a housing is made of: the line light stays under, a mirror of surface elements, what stands
in front of it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from cold_arc.core.beam import kernel
from cold_arc.core.beam.sources import Array, PointCloud
from cold_arc.core.car.lamps import Traffic

# UN R112's cut-off: 15° up from the elbow, to 1.7° over the level part at most (chosen, so that it
# stays under zone III at 1.5U); a step as one practice has it, 0.57° = 1 %. From memory.
ELBOW_SLOPE = math.tan(math.radians(15.0))
ELBOW_TOP_DEG = 1.7
STEP_DEG = 0.57
# Where a fog lamp's flat line lies: 2 % under the horizon, UN R48's setting for class F3 (from
# memory).
FOG_LEVEL_DEG = -1.1
# What the cap before a bulb, as wide as it must be for its own filament, and the bezel leave open
# (own).
CAP_TO_BEZEL_DEG = (33.0, 36.0)
# Elements of the nominal source that a mirror is designed from: own.
DESIGN_POINTS = 48
# How many standard deviations of the mirror's finish its images stay under the line (own, chosen
# for the sharpness of edge that UN R112 asks for).
FINISH_MARGIN = 1.0


@dataclass(frozen=True)
class CutOff:
    """The line light must stay under, degrees: level at *level_deg*, then by *shape* on the kerb
    side.

    Shapes: "elbow" rises 15° from the vertical line, up to *top_deg* above the level part; "step"
    is one step up of 0.57°; "drop" is level on the kerb's side instead and steps down by 0.57° on
    the other; "flat" stays level; "none" has no line (high beam).
    """

    shape: str = "elbow"
    level_deg: float = -0.57
    traffic: Traffic = Traffic.RIGHT
    top_deg: float = ELBOW_TOP_DEG

    @property
    def kerb(self) -> float:
        """+1 when the kerb is on the right, −1 on the left."""
        return self.traffic.kerb

    @property
    def flat_side(self) -> float:
        """+1 where its level part lies on the right, −1 on the left."""
        return self.kerb if self.shape == "drop" else -self.kerb

    def at(self, h_deg: Array) -> Array:
        """The line's height at horizontal angles, degrees; +90 everywhere for "none"."""
        across = np.asarray(h_deg, dtype=np.float64) * self.kerb
        if self.shape == "none":
            return np.full_like(across, 90.0)
        rise = np.zeros_like(across)
        if self.shape == "elbow":
            rise = np.clip(across * ELBOW_SLOPE, 0.0, self.top_deg)
        elif self.shape == "step":
            rise = np.where(across > 0, STEP_DEG, 0.0)
        elif self.shape == "drop":
            rise = np.where(across > 0, 0.0, -STEP_DEG)
        line: Array = self.level_deg + rise
        return line


# Of a fog lamp; of US lamps aimed by the left part of their line, 0.4° under the horizon, or by the
# right, level with it (49 CFR 571.108, from memory; that a VOL line rises by 1.2° at most is own,
# so that it stays under 1.5U).
FOG_LINE = CutOff("flat", FOG_LEVEL_DEG)
VOL, VOR = CutOff("elbow", -0.40, top_deg=1.2), CutOff("drop", 0.0)


class Mirror(NamedTuple):
    """Surface elements: positions (n, 3) mm, unit normals towards the source (n, 3), areas (n,)
    mm².
    """

    positions: Array
    normals: Array
    areas: Array

    def thinned(self, by: int) -> Mirror:
        """Every so-manieth element, standing for all; laid out afresh, so that no compiler is asked
        for a second kernel."""
        kept = self.areas[::by].copy()
        return Mirror(
            self.positions[::by].copy(),
            self.normals[::by].copy(),
            kept * (self.areas.sum() / kept.sum()),
        )


class FrontOptic(NamedTuple):
    """What stands in front of a mirror: nothing, or a projector's shield and lens. Lengths mm, from
    the source's focus.

    *shield_at_mm* is the shield's plane ahead of the focus, *stands* whether it is up; *edge_deg*
    its edge as the lens throws it on the wall: heights (n,) at directions evenly spaced over ±
    *half_deg*. *focal_mm* and *radius_mm* are the lens's.
    """

    has_lens: bool = False
    shield_at_mm: float = 0.0
    focal_mm: float = 0.0
    radius_mm: float = 0.0
    stands: bool = False
    half_deg: float = 0.0
    edge_deg: Array = np.zeros(2)


CLEAR_FRONT = FrontOptic()


def paraboloid(x: Array, y: Array, focal_mm: float) -> Array:
    """Points (…, 3), mm, of the paraboloid with its focus at the origin, opening forward.

    *x*, *y* (…): right and up of the axis, mm; *focal_mm*: its focal length.
    """
    return np.stack([x, y, (x * x + y * y) / (4 * focal_mm) - focal_mm], axis=1)


def directions(h_deg: Array, v_deg: Array) -> Array:
    """Unit vectors (…, 3) of the grid's directions *h_deg*, *v_deg* (…): h = asin(x),
    v = atan2(y, z).
    """
    h, v = np.radians(h_deg), np.radians(v_deg)
    return np.stack([np.sin(h), np.cos(h) * np.sin(v), np.cos(h) * np.cos(v)], axis=1)


def towards(positions: Array, h_deg: Array, v_deg: Array, optic: FrontOptic) -> Array:
    """Unit vectors (n, 3) along which rays leave *positions* (n, 3), mm, to come out of an *optic*
    in directions *h_deg*, *v_deg* (n,).
    """
    ahead = directions(h_deg, v_deg)
    if not optic.has_lens:
        return ahead
    target = -ahead[:, :2] / ahead[:, 2:] * optic.focal_mm
    leaving = np.column_stack([target, np.full(len(positions), optic.shield_at_mm)]) - positions
    return np.asarray(leaving / np.linalg.norm(leaving, axis=1)[:, None])


def normals_for(positions: Array, leaving: Array) -> Array:
    """Normals that send a ray from the origin, met at *positions*, off along *leaving*."""
    arriving = positions / np.linalg.norm(positions, axis=1)[:, None]
    normals = leaving - arriving
    length: Array = np.linalg.norm(normals, axis=1)[:, None]
    return np.asarray(normals / length, dtype=np.float64)


# Over how many degrees either way a line is given as a table, and its columns a degree (own).
LINE_HALF_DEG, LINE_COLUMNS = 60.0, 10


def line_table(cut_off: CutOff) -> Array:
    """A line's heights, degrees, at columns evenly spaced over ± LINE_HALF_DEG."""
    columns = np.linspace(
        -LINE_HALF_DEG, LINE_HALF_DEG, round(2 * LINE_HALF_DEG * LINE_COLUMNS) + 1
    )
    return cut_off.at(columns)


def each_image(
    cloud: PointCloud, positions: Array, normals: Array, cut_off: CutOff, optic: FrontOptic
) -> Array:
    """Facts (n, kernel.FACTS) of the image that each mirror element makes of a *cloud* of source
    elements, under the line of *cut_off*, past an *optic*.

    *positions*, *normals* (n, 3): of the mirror's elements, mm and unit.
    """
    lens = float(optic.shield_at_mm), float(optic.focal_mm)
    line = line_table(cut_off)
    return kernel.each_image(cloud.emitters, positions, normals, line, LINE_HALF_DEG, lens)


def images(cloud: PointCloud, positions: Array, normals: Array) -> tuple[Array, Array, Array]:
    """Directions h, v (degrees) and weights (lit paths,) of every lit path of a *cloud* of source
    elements by some mirror elements: *positions*, *normals* (n, 3), mm and unit.
    """
    whole = (cloud.positions, cloud.normals, cloud.shield, positions, normals)
    h, v, weight = kernel.images(
        *map(np.ascontiguousarray, whole)
    )  # one memory layout: it is compiled but once
    return h, v, weight
