"""The lens-optic lamp: a plain round mirror behind a fluted front glass that makes the pattern."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import Kind, Sizes, resized
from cold_arc.core.beam.housings.shapes import (
    CLEAR_FRONT,
    DESIGN_POINTS,
    CutOff,
    Mirror,
    Optic,
    directions,
    normals_for,
    paraboloid,
)
from cold_arc.core.beam.sources import Source, spiral

# A round mirror has no corners beside its bulb hole: a tenth of it must stay as a rim (chosen, no published source).
ROUND_USED = 0.9


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
    dipped: CutOff | None = None
    has_facets: bool = False

    @property
    def narrowest_mm(self) -> float:
        """A round mirror has no corners beside its bulb hole, so a rim of it must stay."""
        return ROUND_USED * self.diameter_mm

    def mirror(self, nominal: Source) -> Mirror:
        """A paraboloid moved by the screw along the axis against the source, for a low beam aimed *drop_deg* down.

        For a low beam its focus lies at the back end of the nominal filament, so that the upper half throws down.
        """
        high = self.cut_off.shape == "none" and self.dipped is None
        behind = 0.0 if high else np.ptp(nominal.cloud(DESIGN_POINTS).positions[:, 2]) / 2
        u = spiral(self.samples)
        radius = np.sqrt(self.hole_mm**2 + u[:, 0] * ((self.diameter_mm / 2) ** 2 - self.hole_mm**2))
        angle = 2 * math.pi * u[:, 1]
        positions = paraboloid(radius * np.cos(angle), radius * np.sin(angle), self.focal_mm)
        aim = directions(np.zeros(self.samples), np.full(self.samples, 0.0 if high else -self.drop_deg))
        normals = normals_for(positions, aim)
        flat = math.pi * ((self.diameter_mm / 2) ** 2 - self.hole_mm**2) / self.samples
        areas = flat * np.hypot(1.0, radius / (2 * self.focal_mm))
        return Mirror(positions - np.array([0.0, 0.0, behind + self.focus_mm]), normals, areas)

    def optic(self) -> Optic:
        """Nothing to trace: the flutes are applied to the finished grid."""
        return CLEAR_FRONT

    def resized(self, sizes: Sizes) -> Self:
        """Another focal length, opening, hole or focus screw."""
        return resized(self, focal_mm=sizes.focal, diameter_mm=sizes.opening, hole_mm=sizes.hole, focus_mm=sizes.focus)

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same mirror's figures for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)


def _ordinary(traffic: str, high: bool) -> LensOptic:
    """Flutes half as wide for high beam, where the mirror is aimed straight ahead."""
    if high:
        return LensOptic(cut_off=CutOff("none", traffic=traffic), flute_deg=7.0)
    return LensOptic(cut_off=CutOff("flat", traffic=traffic), flute_deg=16.0)


KINDS = (Kind("lens-optic", "Lens-optic", _ordinary, one_mirror=True),)
