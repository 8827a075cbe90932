"""The projector: a deformed ellipsoid, a shield at its second focus, a lens that turns the picture
upside down.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import (
    NO_FOG,
    NO_LAMP,
    NO_LENS,
    HousingKind,
    Sizes,
    resized,
)
from cold_arc.core.beam.housings.pillows import FOG_PATTERN, Design, Pattern, pillowed
from cold_arc.core.beam.housings.shapes import (
    FINISH_MARGIN,
    FOG_LINE,
    LINE_HALF_DEG,
    CutOff,
    FrontOptic,
    Mirror,
    line_table,
)
from cold_arc.core.beam.sources import Array, Source, spiral

# Its images stand over the shield, which cuts them (own).
LOW_PATTERN = Pattern(
    aim=1.5, narrow=2.5, wide=17.0, grows=1.3, shallow=0.03, deep=2.0, sign=0.03, over=0.8
)


@dataclass(frozen=True)
class Projector:
    """A deformed ellipsoid, a shield at its second focus, a lens that turns the picture upside
    down. Lengths mm.

    *pattern*: how the bowl shares its light out; *sided* how closely (0 to 1) a side of the bowl
    keeps to its own side of the beam; *flap* folds the shield away for high beam.
    """

    vertex_mm: float = 24.0
    second_focus_mm: float = 74.0
    forward_deg: float = 76.0
    hole_deg: float = 138.0
    samples: int = 24576
    source_points: int = 512
    lens_focal_mm: float = 54.0
    lens_radius_mm: float = 52.0
    pattern: Pattern | None = LOW_PATTERN
    cut_off: CutOff = CutOff()
    flap: bool = False
    sided: float = 0.85
    reflectance: float = 0.86
    lens_transmittance: float = 0.88
    finish_deg: float = 0.17
    fore_share: float = 0.04
    soft_deg: float = 0.32
    window_deg: tuple[float, float] | None = None
    dipped: CutOff | None = None
    has_facets: bool = False
    hole_mm: float = 0.0
    narrowest_mm: float = math.inf

    @property
    def half_axis_mm(self) -> float:
        """Semi-major axis of the ellipse."""
        return self.second_focus_mm / 2 + self.vertex_mm

    def elements(self) -> tuple[Array, Array]:
        """The plain ellipsoid's elements: positions (n, 3), mm, and areas square to the rays from
        the source (n,), mm².
        """
        u = spiral(self.samples)
        low, high = math.cos(math.radians(self.hole_deg)), math.cos(math.radians(self.forward_deg))
        cosine = low + u[:, 0] * (high - low)
        sine, around = np.sqrt(1 - cosine**2), 2 * math.pi * u[:, 1]
        rays = np.stack([sine * np.cos(around), sine * np.sin(around), cosine], axis=1)
        a, c = self.half_axis_mm, self.second_focus_mm / 2
        distance = (a * a - c * c) / (a - c * cosine)
        return rays * distance[:, None], 2 * math.pi * (high - low) / self.samples * distance**2

    def mirror(self, nominal: Source) -> Mirror:
        """The bowl bent so that the nominal images spread under the line and stand a little over
        the shield's edge.
        """
        design = Design(
            nominal, self.pattern, self.cut_off, self.finish_deg, self.optic(), self.sided
        )
        plain = replace(self, pattern=None, cut_off=CutOff("none"), dipped=None)
        mirror = pillowed(plain, design)
        slant = -np.einsum("ij,ij->i", mirror.positions, mirror.normals) / np.linalg.norm(
            mirror.positions, axis=1
        )
        return mirror._replace(areas=mirror.areas / slant)

    def optic(self) -> FrontOptic:
        """Shield plane, lens, and the shield's edge as the lens throws it."""
        stands = not self.flap and self.cut_off.shape != "none"
        edge = line_table(self.cut_off) - FINISH_MARGIN * self.finish_deg
        return FrontOptic(
            True,
            self.second_focus_mm,
            self.lens_focal_mm,
            self.lens_radius_mm,
            stands,
            LINE_HALF_DEG,
            edge,
        )

    def resized(self, sizes: Sizes) -> Self:
        """Another lens: its focal length and its opening."""
        radius = sizes.opening / 2 if sizes.opening else None
        return resized(self, lens_focal_mm=sizes.focal, lens_radius_mm=radius)

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same figures behind a shield for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)


def _ordinary(cut_off: CutOff, pattern: Pattern) -> Projector:
    """Behind a shield; without one for high beam."""
    return Projector(cut_off=cut_off, pattern=pattern)


def _fog(cut_off: CutOff, pattern: Pattern) -> Projector:
    """A small wide one."""
    small = Projector(20.0, 60.0, lens_focal_mm=46.0, lens_radius_mm=46.0, sided=-0.6, soft_deg=1.4)
    return replace(small, cut_off=cut_off, pattern=pattern)


# Too little light, or a coil too broad, for a lens to throw a low beam from (common practice).
NO_PROJECTOR = (*NO_LAMP, *NO_LENS, "H4", "H8", "H16")
KINDS = (
    HousingKind(
        "projector",
        "Projector",
        _ordinary,
        low=LOW_PATTERN,
        images_source=True,
        without=NO_PROJECTOR,
    ),
    HousingKind(
        "fog-projector",
        "Fog projector",
        _fog,
        FOG_LINE,
        replace(FOG_PATTERN, over=0.8),
        law="fog",
        images_source=True,
        without=(*NO_FOG, *NO_LENS, "H16"),
    ),
)
