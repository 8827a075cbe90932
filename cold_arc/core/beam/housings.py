"""Housings: mirrors designed from the base's nominal source, shields, lenses.

*samples* elements (for each facet of a reflector) by *source_points* were chosen so that doubling either moves no
part of the beam by more than 2 % of its peak.

A mirror is a set of surface elements. Each element's normal is set so that a ray from the focus leaves towards
the element's target: straight ahead for a plain paraboloid, the second focus for a plain ellipsoid, and the facet's
share of tilt and spread for a designed one. So the design follows from the nominal source, and any other source shows
what it does to that design.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import TypeVar

import numpy as np

from cold_arc.core.beam import kernel
from cold_arc.core.beam.sources import Array, Dual, PointCloud, Source, lattice, spiral

ELBOW_SLOPE = math.tan(math.radians(15.0))
ELBOW_TOP_DEG = 1.6
STEP_DEG = 0.57
EDGE_COLUMNS = 401
HANG_QUANTILE = 0.006
DESIGN_POINTS = 96
KERB_WINDOW_DEG, KERB_AIM_DEG, KERB_HALF_DEG = 18.0, 3.6, 1.8
FINISH_MARGIN = 1.0
SPREAD_INNER, SPREAD_GROWS = 0.35, 0.85
# Facets of a dual bulb's mirror that serve its high beam alone: half their spread, and how little of the low beam's
# light reaches them past the shield (chosen, no published source).
HIGH_HALF_DEG, SHADED_SHARE = 3.0, 0.2


@dataclass(frozen=True)
class CutOff:
    """The line light must stay under, degrees: level at *level_deg*, then by *shape* on the kerb side.

    Shapes: "elbow" rises 15° from the vertical line, up to 1.6° above the level part; "step" is one step up of
    0.57°; "flat" stays level; "none" has no line (high beam).
    """

    shape: str = "elbow"
    level_deg: float = -0.57
    traffic: str = "right"

    @property
    def kerb(self) -> float:
        """+1 when the kerb is on the right, −1 on the left."""
        return 1.0 if self.traffic == "right" else -1.0

    def at(self, h_deg: Array) -> Array:
        """The line's height at horizontal angles, degrees; +90 everywhere for "none"."""
        across = np.asarray(h_deg, dtype=np.float64) * self.kerb
        if self.shape == "none":
            return np.full_like(across, 90.0)
        rise = np.zeros_like(across)
        if self.shape == "elbow":
            rise = np.clip(across * ELBOW_SLOPE, 0.0, ELBOW_TOP_DEG)
        elif self.shape == "step":
            rise = np.where(across > 0, STEP_DEG, 0.0)
        line: Array = self.level_deg + rise
        return line


@dataclass(frozen=True)
class Mirror:
    """Surface elements: positions (n, 3) mm, unit normals towards the source (n, 3), areas (n,) mm²."""

    positions: Array
    normals: Array
    areas: Array

    def thinned(self) -> Mirror:
        """Every second element, standing for two."""
        kept = self.areas[::2]
        return Mirror(self.positions[::2], self.normals[::2], kept * (self.areas.sum() / kept.sum()))


@dataclass(frozen=True)
class Optic:
    """What stands in front of the mirror: nothing (empty *numbers*), or a projector's shield and lens."""

    numbers: Array = field(default_factory=lambda: np.zeros(0))
    edge: Array = field(default_factory=lambda: np.zeros(2))


@dataclass(frozen=True)
class Reflector:
    """A faceted paraboloid. Lengths mm, angles degrees, *reflectance* and *finish_deg* (scatter of the mirror).

    *narrow_deg* and *wide_deg* are the half spreads of facets beside the bulb, and above and below it. *dipped*: the
    line of the low beam that shares the mirror, where this is the high beam of a dual bulb.
    """

    focal_mm: float = 18.0
    width_mm: float = 140.0
    height_mm: float = 116.0
    hole_mm: float = 15.0
    columns: int = 12
    rows: int = 8
    samples: int = 96
    source_points: int = 750
    narrow_deg: float = 5.0
    wide_deg: float = 16.0
    cut_off: CutOff = CutOff()
    reflectance: float = 0.86
    finish_deg: float = 0.15
    kind: str = "reflector"
    dipped: CutOff | None = None

    lens_transmittance: float = 0.91
    flute_deg: float = 0.0

    def mirror(self, nominal: Source) -> Mirror:
        """The mirror designed for *nominal*; for the low beam of a dual bulb where this is the high beam of it."""
        return _designed_reflector(_as_dipped(self), nominal)

    def optic(self) -> Optic:
        """A clear front: nothing to trace."""
        return Optic()


@dataclass(frozen=True)
class LensOptic:
    """A plain round paraboloid with a fluted front glass that spreads sideways; *focus_mm* is the focus screw."""

    focal_mm: float = 25.0
    diameter_mm: float = 165.0
    hole_mm: float = 16.0
    samples: int = 3072
    source_points: int = 1600
    flute_deg: float = 11.0
    drop_deg: float = 1.2
    focus_mm: float = 0.0
    cut_off: CutOff = CutOff("flat", -0.57)
    reflectance: float = 0.80
    lens_transmittance: float = 0.85
    finish_deg: float = 0.35
    kind: str = "lens-optic"
    dipped: CutOff | None = None

    def mirror(self, nominal: Source) -> Mirror:
        """A paraboloid moved by the screw along the axis against the source, for a low beam aimed *drop_deg* down.

        For a low beam its focus lies at the back end of the nominal filament, so that the upper half throws down.
        """
        high = self.cut_off.shape == "none" and self.dipped is None
        behind = 0.0 if high else np.ptp(nominal.cloud(DESIGN_POINTS).positions[:, 2]) / 2
        u = spiral(self.samples)
        radius = np.sqrt(self.hole_mm**2 + u[:, 0] * ((self.diameter_mm / 2) ** 2 - self.hole_mm**2))
        angle = 2 * math.pi * u[:, 1]
        positions = _paraboloid(radius * np.cos(angle), radius * np.sin(angle), self.focal_mm)
        aim = _directions(np.zeros(self.samples), np.full(self.samples, 0.0 if high else -self.drop_deg))
        normals = _normals(positions, aim)
        flat = math.pi * ((self.diameter_mm / 2) ** 2 - self.hole_mm**2) / self.samples
        areas = flat * np.hypot(1.0, radius / (2 * self.focal_mm))
        return Mirror(positions - np.array([0.0, 0.0, behind + self.focus_mm]), normals, areas)

    def optic(self) -> Optic:
        """The flutes are applied to the finished grid."""
        return Optic()


@dataclass(frozen=True)
class Projector:
    """A deformed ellipsoid, a shield at its second focus, a lens that turns the picture upside down. Lengths mm.

    *spread_mm* is how far the sides of the mirror aim off the axis in the shield plane, *gather* how strongly the
    rest keeps to the middle; *hang* the share of the nominal image's half height kept above the edge. *flap* folds
    the shield away for high beam.
    """

    vertex_mm: float = 16.0
    second_focus_mm: float = 52.0
    forward_deg: float = 60.0
    hole_deg: float = 138.0
    samples: int = 3072
    source_points: int = 1600
    lens_focal_mm: float = 48.0
    lens_radius_mm: float = 36.0
    spread_mm: float = 22.0
    hang: float = 0.2
    gather: float = 4.0
    cut_off: CutOff = CutOff()
    flap: bool = False
    reflectance: float = 0.86
    lens_transmittance: float = 0.88
    finish_deg: float = 0.16
    kind: str = "projector"
    flute_deg: float = 0.0

    @property
    def half_axis_mm(self) -> float:
        """Semi-major axis of the ellipse."""
        return self.second_focus_mm / 2 + self.vertex_mm

    def bowl(self) -> tuple[Array, Array]:
        """The plain ellipsoid's elements: positions (n, 3) and solid angles seen from the source (n,)."""
        u = spiral(self.samples)
        low, high = math.cos(math.radians(self.hole_deg)), math.cos(math.radians(self.forward_deg))
        cosine = low + u[:, 0] * (high - low)
        sine, around = np.sqrt(1 - cosine**2), 2 * math.pi * u[:, 1]
        rays = np.stack([sine * np.cos(around), sine * np.sin(around), cosine], axis=1)
        a, c = self.half_axis_mm, self.second_focus_mm / 2
        distance = (a * a - c * c) / (a - c * cosine)
        solid = np.full(self.samples, 2 * math.pi * (high - low) / self.samples)
        return rays * distance[:, None], solid

    def mirror(self, nominal: Source) -> Mirror:
        """The mirror designed so that the nominal image hangs just under the cut-off, spread to the sides."""
        positions, solid = self.bowl()
        targets = self._targets(positions, nominal)
        leaving = targets - positions
        leaving /= np.linalg.norm(leaving, axis=1)[:, None]
        normals = _normals(positions, leaving)
        distance = np.linalg.norm(positions, axis=1)
        slant = -np.einsum("ij,ij->i", positions, normals) / distance
        return Mirror(positions, normals, solid * distance**2 / slant)

    def _targets(self, positions: Array, nominal: Source) -> Array:
        """Where in the shield plane each element sends the focus."""
        extent = np.ptp(nominal.cloud(DESIGN_POINTS).positions, axis=0)
        distance = np.linalg.norm(positions, axis=1)
        magnified = (2 * self.half_axis_mm - distance) / distance
        sideways = np.hypot(positions[:, 0], positions[:, 1])
        up = np.abs(positions[:, 1]) / sideways
        half_height = 0.5 * magnified * (extent[2] * sideways / distance * up + extent[1])
        reach = np.abs(positions[:, 0]).max()
        share = positions[:, 0] / reach
        targets = np.zeros_like(positions)
        targets[:, 0] = self.spread_mm * np.sign(share) * np.abs(share) ** self.gather
        level = -self.lens_focal_mm * math.tan(math.radians(self.cut_off.level_deg))
        targets[:, 1] = self.hang * half_height + (0.0 if self.cut_off.shape == "none" else level)
        targets[:, 2] = self.second_focus_mm
        return targets

    def optic(self) -> Optic:
        """Shield plane, lens, and the shield's edge as heights over the plane's width."""
        stands = 0.0 if self.flap or self.cut_off.shape == "none" else 1.0
        half = 2.0 * self.lens_radius_mm
        across = np.linspace(-half, half, EDGE_COLUMNS)
        h_deg = np.degrees(np.arctan(-across / self.lens_focal_mm))
        line = np.minimum(self.cut_off.at(h_deg), 45.0) - FINISH_MARGIN * self.finish_deg
        edge = -self.lens_focal_mm * np.tan(np.radians(line))
        numbers = np.array([self.second_focus_mm, self.lens_focal_mm, self.lens_radius_mm, stands, half])
        return Optic(numbers, edge)


Housing = Reflector | LensOptic | Projector


Mirrored = TypeVar("Mirrored", Reflector, LensOptic)


def _as_dipped(housing: Mirrored) -> Mirrored:
    """The housing with the line its mirror is designed for."""
    return replace(housing, cut_off=housing.dipped, dipped=None) if housing.dipped else housing


def _paraboloid(x: Array, y: Array, focal_mm: float) -> Array:
    """Points of the paraboloid with its focus at the origin, opening forward."""
    return np.stack([x, y, (x * x + y * y) / (4 * focal_mm) - focal_mm], axis=1)


def _directions(h_deg: Array, v_deg: Array) -> Array:
    """Unit vectors of the grid's directions: h = asin(x), v = atan2(y, z)."""
    h, v = np.radians(h_deg), np.radians(v_deg)
    return np.stack([np.sin(h), np.cos(h) * np.sin(v), np.cos(h) * np.cos(v)], axis=1)


def _normals(positions: Array, leaving: Array) -> Array:
    """Normals that send a ray from the origin, met at *positions*, off along *leaving*."""
    arriving = positions / np.linalg.norm(positions, axis=1)[:, None]
    normals = leaving - arriving
    length: Array = np.linalg.norm(normals, axis=1)[:, None]
    return np.asarray(normals / length, dtype=np.float64)


@lru_cache(maxsize=64)
def _designed_reflector(shape: Reflector, nominal: Source) -> Mirror:
    """Facet by facet: aim and spread sideways by place, then tilt so that the nominal image hangs under the line."""
    u = lattice(shape.samples)
    cloud = nominal.cloud(DESIGN_POINTS)
    high = nominal.high.cloud(DESIGN_POINTS) if isinstance(nominal, Dual) else None
    parts = []
    step_x, step_y = shape.width_mm / shape.columns, shape.height_mm / shape.rows
    for column in range(shape.columns):
        for row in range(shape.rows):
            x = (column + u[:, 0]) * step_x - shape.width_mm / 2
            y = (row + u[:, 1]) * step_y - shape.height_mm / 2
            centre = ((column + 0.5) * step_x - shape.width_mm / 2, (row + 0.5) * step_y - shape.height_mm / 2)
            parts.append(_facet(shape, cloud, high, x, y, centre, 2 * u[:, 0] - 1))
    positions, normals = np.concatenate([part[0] for part in parts]), np.concatenate([part[1] for part in parts])
    flat = step_x * step_y / shape.samples
    areas = flat * np.hypot(1.0, np.hypot(positions[:, 0], positions[:, 1]) / (2 * shape.focal_mm))
    outside = np.hypot(positions[:, 0], positions[:, 1]) >= shape.hole_mm
    return Mirror(positions[outside], normals[outside], areas[outside])


def _facet(
    shape: Reflector,
    cloud: PointCloud,
    high: PointCloud | None,
    x: Array,
    y: Array,
    centre: tuple[float, float],
    across: Array,
) -> tuple[Array, Array]:
    """One facet's elements, bent by its spread and tilted under the cut-off; or, where a dip shield keeps the low beam
    off, pointed ahead for the high beam of the bulb."""
    positions = _paraboloid(x, y, shape.focal_mm)
    middle, half = _facet_aim(shape, *centre)
    source, line = cloud, shape
    if high is not None and _is_shaded(cloud, positions):
        middle, half = 0.0, HIGH_HALF_DEG
        source, line = high, replace(shape, cut_off=CutOff("none"))
    h_deg = middle + half * across
    tilt = 0.0
    for _ in range(2):
        normals = _normals(positions, _directions(h_deg, np.full_like(h_deg, tilt)))
        tilt += _tilt_under(line, source, positions, normals)
    return positions, _normals(positions, _directions(h_deg, np.full_like(h_deg, tilt)))


def _is_shaded(cloud: PointCloud, positions: Array) -> bool:
    """Whether a dip shield keeps most of a cloud's light from some mirror elements."""
    bare = replace(cloud, shield=np.zeros_like(cloud.shield))
    straight = _normals(positions, _directions(np.zeros(len(positions)), np.zeros(len(positions))))
    past, whole = (images(it, positions, straight)[2].sum() for it in (cloud, bare))
    return bool(past < SHADED_SHARE * whole)


def _facet_aim(shape: Reflector, x: float, y: float) -> tuple[float, float]:
    """Where a facet aims sideways and its half spread, degrees, by its place around the bulb."""
    kerb = shape.cut_off.kerb
    above = y * y / (x * x + y * y)
    outward = math.hypot(x / shape.width_mm, y / shape.height_mm) * 2
    half = (shape.narrow_deg + (shape.wide_deg - shape.narrow_deg) * above**0.7) * (
        SPREAD_INNER + SPREAD_GROWS * outward
    )
    if shape.cut_off.shape != "elbow":
        return 0.0, half
    azimuth = math.degrees(math.atan2(y, x * kerb)) % 180.0
    if abs(azimuth - 15.0) < KERB_WINDOW_DEG:
        return KERB_AIM_DEG * kerb, KERB_HALF_DEG
    return 1.4 * kerb * (1 - above), half


def _tilt_under(shape: Reflector, cloud: PointCloud, positions: Array, normals: Array) -> float:
    """How far, degrees, this facet's image may rise until its top, softened by the finish, meets the line."""
    h, v, weight = images(cloud, positions, normals)
    if weight.sum() <= 0:
        return 0.0
    if shape.cut_off.shape == "none":
        return -float(np.average(v, weights=weight))
    room = shape.cut_off.at(h) - FINISH_MARGIN * shape.finish_deg - v
    order = np.argsort(room)
    reached = np.cumsum(weight[order]) / weight.sum()
    return float(room[order][np.searchsorted(reached, HANG_QUANTILE)])


def images(cloud: PointCloud, positions: Array, normals: Array) -> tuple[Array, Array, Array]:
    """Directions h, v (degrees) and weights of every lit path of a cloud by some mirror elements, flattened."""
    whole = (cloud.positions, cloud.normals, cloud.shield, positions, normals)
    h, v, weight = kernel.images(*map(np.ascontiguousarray, whole))  # one memory layout: it is compiled but once
    return h, v, weight
