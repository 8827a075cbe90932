"""The reflector: a mirror behind a clear lens makes the pattern."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Self

import numpy as np

from cold_arc.core.beam.housings.housing import (
    BEAMS_OF,
    NO_FOG,
    NO_LAMP,
    NO_MIRROR,
    HousingKind,
    Sizes,
    resized,
)
from cold_arc.core.beam.housings.pillows import (
    FOG_PATTERN,
    USUAL_PATTERN,
    Design,
    Pattern,
    pillowed,
)
from cold_arc.core.beam.housings.shapes import (
    CAP_TO_BEZEL_DEG,
    CLEAR_FRONT,
    FOG_LINE,
    VOL,
    VOR,
    CutOff,
    FrontOptic,
    Mirror,
    paraboloid,
)
from cold_arc.core.beam.sources import Array, Source, lattice

# Corners of the mirror are round: |2x/width|^n + |2y/height|^n stays under 1 (own).
CORNER = 5.0


@dataclass(frozen=True)
class Reflector:
    """A paraboloid bent element by element. Lengths mm, angles degrees; *finish_deg*: scatter of
    the mirror, *soft_deg* how far its elements spread sideways besides.

    *dipped*: the line of the low beam that shares the mirror, where this is the high beam of a dual
    bulb.
    """

    focal_mm: float = 26.0
    width_mm: float = 134.0
    height_mm: float = 98.0
    hole_mm: float = 15.0
    samples: int = 49152
    source_points: int = 256
    pattern: Pattern | None = USUAL_PATTERN
    cut_off: CutOff = CutOff()
    reflectance: float = 0.86
    finish_deg: float = 0.13
    fore_share: float = 0.08
    soft_deg: float = 0.5
    window_deg: tuple[float, float] | None = CAP_TO_BEZEL_DEG
    dipped: CutOff | None = None
    lens_transmittance: float = 0.90
    has_facets: bool = True

    @property
    def narrowest_mm(self) -> float:
        """The lesser of its width and its height."""
        return min(self.width_mm, self.height_mm)

    def mirror(self, nominal: Source) -> Mirror:
        """The mirror designed for *nominal*; for the low beam of a dual bulb where this is the high
        beam of it.
        """
        return _designed(
            replace(self, cut_off=self.dipped, dipped=None) if self.dipped else self, nominal
        )

    def optic(self) -> FrontOptic:
        """A clear front: nothing to trace."""
        return CLEAR_FRONT

    def resized(self, sizes: Sizes) -> Self:
        """Another focal length, opening or hole."""
        return resized(
            self,
            focal_mm=sizes.focal,
            width_mm=sizes.opening,
            height_mm=sizes.opening_up,
            hole_mm=sizes.hole,
        )

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The same mirror's figures for another line."""
        return replace(self, cut_off=cut_off, dipped=dipped)

    def elements(self) -> tuple[Array, Array]:
        """Elements inside the outline and outside the hole: positions (n, 3), areas (n,)."""
        x, y = ((lattice(self.samples) - 0.5) * (self.width_mm, self.height_mm)).T
        held = (
            np.abs(2 * x / self.width_mm) ** CORNER + np.abs(2 * y / self.height_mm) ** CORNER <= 1
        )
        held &= np.hypot(x, y) >= self.hole_mm
        x, y = x[held], y[held]
        flat = self.width_mm * self.height_mm / self.samples
        return paraboloid(x, y, self.focal_mm), flat * np.hypot(
            1.0, np.hypot(x, y) / (2 * self.focal_mm)
        )


@lru_cache(maxsize=8)
def _designed(shape: Reflector, nominal: Source) -> Mirror:
    """Its elements with the normals its pattern gives them."""
    bowl = replace(shape, pattern=None, cut_off=CutOff("none"))
    return pillowed(bowl, Design(nominal, shape.pattern, shape.cut_off, shape.finish_deg))


def _ordinary(cut_off: CutOff, pattern: Pattern) -> Reflector:
    """The usual size of a headlamp's mirror."""
    return Reflector(cut_off=cut_off, pattern=pattern)


def _fog(cut_off: CutOff, pattern: Pattern) -> Reflector:
    """A small wide mirror."""
    return Reflector(
        16.0, 92.0, 66.0, 12.0, cut_off=cut_off, pattern=pattern, finish_deg=0.2, soft_deg=1.4
    )


# A bulb of fog lamps alone.
NO_US = (*NO_LAMP, *BEAMS_OF, "H16")
KINDS = (
    HousingKind(
        "reflector", "Reflector", _ordinary, one_mirror=True, without=(*NO_LAMP, *NO_MIRROR)
    ),
    HousingKind(
        "vol-reflector",
        "US reflector, aimed by its left (VOL)",
        _ordinary,
        VOL,
        law="us",
        one_mirror=True,
        without=NO_US,
    ),
    HousingKind(
        "vor-reflector",
        "US reflector, aimed by its right (VOR)",
        _ordinary,
        VOR,
        law="us",
        one_mirror=True,
        without=NO_US,
    ),
    HousingKind(
        "fog-reflector", "Fog reflector", _fog, FOG_LINE, FOG_PATTERN, law="fog", without=NO_FOG
    ),
)
