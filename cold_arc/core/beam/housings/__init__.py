"""Housings: mirrors designed from the base's nominal source, shields, lenses; one file a sort, one
registry.

*samples* elements by *source_points* were chosen so that doubling either moves no part of the beam
by more than 2 % of its peak.

Each mirror element's normal is set so that a ray from the focus leaves towards the element's
target: straight ahead for a plain paraboloid, the second focus for a plain ellipsoid, and its own
share of the pattern for a designed one. So the design follows from the nominal source, and any
other source shows what it does to that design.
"""

from __future__ import annotations

from cold_arc.core.beam.housings import lens_optic, projector, reflector
from cold_arc.core.beam.housings.housing import BEAMS_OF, Housing, HousingKind, Sizes
from cold_arc.core.beam.housings.pillows import Pattern
from cold_arc.core.beam.housings.shapes import CutOff, FrontOptic, Mirror, images

_REGISTERED = (*reflector.KINDS, *projector.KINDS, *lens_optic.KINDS)
KINDS: dict[str, HousingKind] = {
    kind.id: kind for kind in sorted(_REGISTERED, key=lambda kind: kind.is_fog)
}


def kind(name: str) -> HousingKind:
    """The kind of housing of an id; ValueError, in words, for one that is not known."""
    if name not in KINDS:
        raise ValueError(f"{name} is not a kind of housing. Known: {', '.join(KINDS)}.")
    return KINDS[name]


__all__ = [
    "BEAMS_OF",
    "KINDS",
    "CutOff",
    "FrontOptic",
    "Housing",
    "HousingKind",
    "Mirror",
    "Pattern",
    "Sizes",
    "images",
    "kind",
]
