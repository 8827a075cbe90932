"""The lens-optic lamp: a plain round mirror behind a front glass whose prisms and flutes make the
pattern.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import BEAMS_OF, NO_LAMP, HousingKind, Sizes, resized
from cold_arc.core.beam.housings.pillows import USUAL_PATTERN, Design, Pattern, pillowed
from cold_arc.core.beam.housings.shapes import (
    CAP_TO_BEZEL_DEG,
    CLEAR_FRONT,
    CutOff,
    FrontOptic,
    Mirror,
    paraboloid,
)
from cold_arc.core.beam.sources import Array, Source, spiral

# A round mirror has no corners beside its bulb hole: a tenth of it must stay as a rim (chosen, no
# published source).
ROUND_USED = 0.9


@dataclass(frozen=True)
class LensOptic:
    """A plain round paraboloid behind blocks of glass, each a prism and a flute; *focus_mm* is the
    focus screw.

    A block turns and spreads the light of the patch of mirror behind it, as if that patch were
    turned and bent: so it is computed.
    """

    focal_mm: float = 27.0
    diameter_mm: float = 165.0
    hole_mm: float = 18.0
    samples: int = 49152
    source_points: int = 256
    pattern: Pattern | None = USUAL_PATTERN
    focus_mm: float = 0.0
    cut_off: CutOff = CutOff()
    reflectance: float = 0.80
    lens_transmittance: float = 0.88
    finish_deg: float = 0.15
    fore_share: float = 0.08
    soft_deg: float = 0.55
    window_deg: tuple[float, float] | None = CAP_TO_BEZEL_DEG
    dipped: CutOff | None = None
    has_facets: bool = False

    @property
    def narrowest_mm(self) -> float:
        """A round mirror has no corners beside its bulb hole, so a rim of it must stay."""
        return ROUND_USED * self.diameter_mm

    def mirror(self, nominal: Source) -> Mirror:
        """The mirror as its glass lets it work, moved by the screw along the axis against the
        source.
        """
        made = _designed(
            replace(self, cut_off=self.dipped or self.cut_off, dipped=None, focus_mm=0.0), nominal
        )
        return made._replace(positions=made.positions - np.array([0.0, 0.0, self.focus_mm]))

    def elements(self) -> tuple[Array, Array]:
        """The plain paraboloid's elements: positions (n, 3), mm, and areas (n,), mm²."""
        u = spiral(self.samples)
        outer, inner = (self.diameter_mm / 2) ** 2, self.hole_mm**2
        radius = np.sqrt(inner + u[:, 0] * (outer - inner))
        angle = 2 * math.pi * u[:, 1]
        positions = paraboloid(radius * np.cos(angle), radius * np.sin(angle), self.focal_mm)
        flat = math.pi * (outer - inner) / self.samples
        return positions, flat * np.hypot(1.0, radius / (2 * self.focal_mm))

    def optic(self) -> FrontOptic:
        """Nothing more to trace: the blocks are in the mirror's normals."""
        return CLEAR_FRONT

    def resized(self, sizes: Sizes) -> Self:
        """Another focal length, opening, hole or focus screw."""
        return resized(
            self,
            focal_mm=sizes.focal,
            diameter_mm=sizes.opening,
            hole_mm=sizes.hole,
            focus_mm=sizes.focus,
        )

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same mirror's figures for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)


@lru_cache(maxsize=8)
def _designed(shape: LensOptic, nominal: Source) -> Mirror:
    """Its elements with the normals that do what its glass does."""
    bowl = replace(shape, pattern=None, cut_off=CutOff("none"))
    return pillowed(bowl, Design(nominal, shape.pattern, shape.cut_off, shape.finish_deg))


def _ordinary(cut_off: CutOff, pattern: Pattern) -> LensOptic:
    return LensOptic(cut_off=cut_off, pattern=pattern)


KINDS = (
    HousingKind(
        "lens-optic", "Lens-optic", _ordinary, one_mirror=True, without=(*NO_LAMP, *BEAMS_OF)
    ),
)
