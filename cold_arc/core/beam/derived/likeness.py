"""How much of another beam's pattern a beam keeps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.beam.derived.edge import ABOVE_MARGIN_DEG, share_above
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array

# The least flux that is divided by (own).
LEAST_LM = 1e-9


@dataclass(frozen=True)
class Fidelity:
    """A candidate against the nominal source in the same housing, per lumen past the shield, as
    shares of nominal.

    *kept* is the light that still goes where the nominal's went, *lost* what is missing there,
    *above* the extra light over the line (share of the candidate's beam less the nominal's).
    *zones* compare flux zone by zone.
    """

    kept: float
    lost: float
    above: float
    zones: dict[str, float]


ZONES = {
    "hot spot": ((-4.0, 6.0), (-2.2, 2.0)),
    "foreground": ((-12.0, 12.0), (-8.0, -2.2)),
    "left": ((-40.0, -4.0), (-2.2, 2.0)),
    "right": ((6.0, 40.0), (-2.2, 2.0)),
}


def fidelity(candidate: Beam, nominal: Beam) -> Fidelity:
    """How much of a *nominal* beam's pattern a *candidate* keeps, flux for flux, both of the same
    housing.
    """
    new, old = (beam.flux / max(beam.past_shield_lm, LEAST_LM) for beam in (candidate, nominal))
    if candidate.housing.cut_off.shape == "none":
        under = np.ones_like(old, dtype=bool)
    else:
        line = candidate.housing.cut_off.at(candidate.grid.h) + ABOVE_MARGIN_DEG
        under = candidate.grid.v[:, None] <= line[None, :]
    wanted = float(old[under].sum())
    kept = float(np.minimum(new, old)[under].sum()) / wanted if wanted > 0 else 0.0
    above = (share_above(candidate) or 0.0) - (share_above(nominal) or 0.0)
    return Fidelity(
        kept,
        1 - kept,
        above,
        {name: _zone_ratio(candidate, new, old, under, name) for name in ZONES},
    )


def _zone_ratio(beam: Beam, new: Array, old: Array, under: NDArray[np.bool_], name: str) -> float:
    (left, right), (low, high) = ZONES[name]
    inside = (
        ((beam.grid.h >= left) & (beam.grid.h <= right))[None, :]
        & ((beam.grid.v >= low) & (beam.grid.v <= high))[:, None]
        & under
    )
    return float(new[inside].sum() / max(float(old[inside].sum()), 1e-12))
