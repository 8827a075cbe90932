"""The projector: a deformed ellipsoid, a shield at its second focus, a lens that turns the picture upside down."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import Kind, Sizes, resized
from cold_arc.core.beam.housings.shapes import (
    DESIGN_POINTS,
    FINISH_MARGIN,
    FOG_LEVEL_DEG,
    CutOff,
    Mirror,
    Optic,
    normals_for,
)
from cold_arc.core.beam.sources import Array, Source, spiral

# Columns the shield's edge is given at: a tenth of a degree or so between two in the middle (own).
EDGE_COLUMNS = 401


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
    dipped: CutOff | None = None
    flute_deg: float = 0.0
    has_facets: bool = False
    hole_mm: float = 0.0
    narrowest_mm: float = math.inf

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
        normals = normals_for(positions, leaving)
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
        radius, focal = float(self.lens_radius_mm), float(self.lens_focal_mm)
        half = 2 * radius
        across = np.linspace(-half, half, EDGE_COLUMNS)
        h_deg = np.degrees(np.arctan(-across / focal))
        line = np.minimum(self.cut_off.at(h_deg), 45.0) - FINISH_MARGIN * self.finish_deg
        edge = -focal * np.tan(np.radians(line))
        stands = not self.flap and self.cut_off.shape != "none"
        return Optic(True, self.second_focus_mm, focal, radius, stands, half, edge)

    def resized(self, sizes: Sizes) -> Self:
        """Another lens: its focal length and its opening."""
        radius = sizes.opening / 2 if sizes.opening else None
        return resized(self, lens_focal_mm=sizes.focal, lens_radius_mm=radius)

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same figures behind a shield for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)


def _ordinary(traffic: str, high: bool) -> Projector:
    """A shield with an elbow; none for high beam."""
    return Projector(cut_off=CutOff("none" if high else "elbow", traffic=traffic))


def _fog(traffic: str, high: bool) -> Projector:
    """A small wide one with a level edge."""
    flat = CutOff("flat", FOG_LEVEL_DEG, traffic)
    return Projector(
        vertex_mm=12.0, second_focus_mm=38.0, lens_focal_mm=34.0, lens_radius_mm=27.0, spread_mm=24.0, cut_off=flat
    )


KINDS = (
    Kind("projector", "Projector", _ordinary, images_source=True),
    Kind("fog-projector", "Fog projector", _fog, is_fog=True, images_source=True),
)
