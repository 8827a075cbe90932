"""The faceted reflector: each facet aims and spreads by its place, then hangs the nominal image under the line."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import Kind, Sizes, resized
from cold_arc.core.beam.housings.shapes import (
    CLEAR_FRONT,
    DESIGN_POINTS,
    FINISH_MARGIN,
    FOG_LEVEL_DEG,
    CutOff,
    Mirror,
    Optic,
    directions,
    images,
    normals_for,
    paraboloid,
)
from cold_arc.core.beam.sources import Array, Dual, PointCloud, Source, lattice

# Share of a facet's nominal image that may stand over the line (own).
HANG_QUANTILE = 0.006
# Facets within ±18° of the kerb's 15° aim 3.6° to the kerb and spread ±1.8°: they draw the rise (own, chosen by looking
# at its slope on the wall).
KERB_WINDOW_DEG, KERB_AIM_DEG, KERB_HALF_DEG = 18.0, 3.6, 1.8
# How a facet's spread grows outward over the mirror, as shares of its half spread (own, chosen by looking).
SPREAD_INNER, SPREAD_GROWS = 0.35, 0.85
# Facets of a dual bulb's mirror that serve its high beam alone: half their spread, and how little of the low beam's
# light reaches them past the shield (chosen, no published source).
HIGH_HALF_DEG, SHADED_SHARE = 3.0, 0.2


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
    dipped: CutOff | None = None
    lens_transmittance: float = 0.91
    flute_deg: float = 0.0
    has_facets: bool = True

    @property
    def narrowest_mm(self) -> float:
        """The lesser of its width and its height."""
        return min(self.width_mm, self.height_mm)

    def mirror(self, nominal: Source) -> Mirror:
        """The mirror designed for *nominal*; for the low beam of a dual bulb where this is the high beam of it."""
        return _designed(self._as_dipped(), nominal)

    def _as_dipped(self) -> Reflector:
        """The housing with the line its mirror is designed for."""
        return replace(self, cut_off=self.dipped, dipped=None) if self.dipped else self

    def optic(self) -> Optic:
        """A clear front: nothing to trace."""
        return CLEAR_FRONT

    def resized(self, sizes: Sizes) -> Self:
        """Another focal length, opening or hole."""
        return resized(
            self, focal_mm=sizes.focal, width_mm=sizes.opening, height_mm=sizes.opening_up, hole_mm=sizes.hole
        )

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same mirror's figures for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)


@lru_cache(maxsize=64)
def _designed(shape: Reflector, nominal: Source) -> Mirror:
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
    positions = paraboloid(x, y, shape.focal_mm)
    middle, half = _facet_aim(shape, *centre)
    source, line = cloud, shape
    if high is not None and _is_shaded(cloud, positions):
        middle, half = 0.0, HIGH_HALF_DEG
        source, line = high, replace(shape, cut_off=CutOff("none"))
    h_deg = middle + half * across
    tilt = 0.0
    for _ in range(2):
        normals = normals_for(positions, directions(h_deg, np.full_like(h_deg, tilt)))
        tilt += _tilt_under(line, source, positions, normals)
    return positions, normals_for(positions, directions(h_deg, np.full_like(h_deg, tilt)))


def _is_shaded(cloud: PointCloud, positions: Array) -> bool:
    """Whether a dip shield keeps most of a cloud's light from some mirror elements."""
    bare = replace(cloud, shield=np.zeros_like(cloud.shield))
    straight = normals_for(positions, directions(np.zeros(len(positions)), np.zeros(len(positions))))
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


def _ordinary(traffic: str, high: bool) -> Reflector:
    """A low beam's mirror; for high beam narrower facets and no line."""
    if high:
        return Reflector(cut_off=CutOff("none", traffic=traffic), narrow_deg=2.5, wide_deg=6.0)
    return Reflector(cut_off=CutOff(traffic=traffic))


def _fog(traffic: str, high: bool) -> Reflector:
    """A small wide mirror under a flat line."""
    flat = CutOff("flat", FOG_LEVEL_DEG, traffic)
    return Reflector(14.0, 92.0, 66.0, 10.0, narrow_deg=11.0, wide_deg=24.0, cut_off=flat)


KINDS = (
    Kind("reflector", "Reflector", _ordinary, one_mirror=True),
    Kind("fog-reflector", "Fog reflector", _fog, is_fog=True),
)
