"""A beam on the road: lux, reach, and glare for an oncoming driver."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from cold_arc.core.beam.derived.spots import peak
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array
from cold_arc.core.car.lamps import Traffic


@dataclass(frozen=True)
class Mounting:
    """Where two like lamps sit: height and half the distance between them, m."""

    height_m: float = 0.65
    half_track_m: float = 0.6


LEVEL_PAIR = Mounting()


def road_lux(
    beam: Beam,
    x_m: Array,
    z_m: Array,
    mounting: Mounting = LEVEL_PAIR,
    target_m: Array | float = 0.0,
) -> Array:
    """Illuminance, lx, at places on the road, *x_m* right of the car's middle and *z_m* ahead (…),
    from two lamps of *beam* mounted as *mounting*, on a small plane facing them, *target_m* up.
    """
    total = np.zeros(np.broadcast(x_m, z_m).shape)
    for side in (-1.0, 1.0):
        across, up = (
            np.asarray(x_m) - side * mounting.half_track_m,
            np.asarray(target_m) - mounting.height_m,
        )
        square = across**2 + up**2 + np.asarray(z_m) ** 2
        h = np.degrees(np.arcsin(across / np.sqrt(square)))
        v = np.degrees(np.arctan2(up, z_m))
        total = total + beam.at(h, v) / square
    return total


# Where reach is looked for, m, and how finely (own).
REACH_FROM_M, REACH_STEP_M, MOST_STEPS = 3.0, 0.5, 4000


def reach_m(
    beam: Beam, threshold_lx: float, mounting: Mounting = LEVEL_PAIR, x_m: float = 0.0
) -> float:
    """The farthest place on the road, m, straight ahead along *x_m* right of the car's middle,
    where two lamps of *beam*, mounted as *mounting*, still give *threshold_lx*; 0 for none.

    Looked for as far as two beams at their peak could reach: √(2·I/E).
    """
    farthest = math.sqrt(2 * max(peak(beam).candela, 0.0) / threshold_lx) + 1.0
    z = np.arange(
        REACH_FROM_M, max(farthest, REACH_FROM_M + 1), max(REACH_STEP_M, farthest / MOST_STEPS)
    )
    lit = z[road_lux(beam, np.full_like(z, x_m), z, mounting) >= threshold_lx]
    return float(lit.max()) if lit.size else 0.0


@dataclass(frozen=True)
class Glare:
    """Discomfort at an oncoming eye: illuminance there, lx, and the de Boer mark (9 unnoticeable, 1
    unbearable).
    """

    lux: float
    de_boer: float


# A driver's eye, m up, one lane over; cd/m² the eye is used to on a dark road (common practice).
EYE_HEIGHT_M, LANE_M = 1.2, 3.5
ADAPTATION_CD_M2 = 1.0
WORST_MARK, BEST_MARK = 1.0, 9.0


def discomfort(lux: float, minutes: float) -> float:
    """One glare source's part of the sum under the logarithm: E / (0.003·(1 + √(L_a/0.04))·φ^0.46),
    E the *lux* at the eye, φ the *minutes* of arc from the line of sight (Schmidt-Clausen &
    Bindels 1974, from memory); L_a 1 cd/m².
    """
    return float(lux / (0.003 * (1 + math.sqrt(ADAPTATION_CD_M2 / 0.04)) * minutes**0.46))


def de_boer(total: float) -> float:
    """The de Boer mark of a sum of discomfort: 5 − 2·log10 of it; the scale ends at 1 and 9."""
    return BEST_MARK if total <= 0 else min(BEST_MARK, max(WORST_MARK, 5 - 2 * math.log10(total)))


def oncoming_glare(
    beam: Beam,
    mounting: Mounting = LEVEL_PAIR,
    distance_m: float = 50.0,
    traffic: Traffic = Traffic.RIGHT,
) -> Glare:
    """Glare of two lamps of *beam*, mounted as *mounting*, for a driver coming towards them in the
    other lane of *traffic*, *distance_m* ahead.

    :func:`discomfort` of each lamp, φ from the line of sight, summed; as :func:`de_boer` marks it.
    """
    x = -LANE_M * traffic.kerb
    total, lux = 0.0, 0.0
    for side in (-1.0, 1.0):
        across, up = x - side * mounting.half_track_m, EYE_HEIGHT_M - mounting.height_m
        square = across**2 + up**2 + distance_m**2
        h = math.degrees(math.asin(across / math.sqrt(square)))
        v = math.degrees(math.atan2(up, distance_m))
        here = float(beam.at(h, v)) / square
        minutes = 60 * math.degrees(math.atan(math.hypot(across, up) / distance_m))
        total += discomfort(here, minutes)
        lux += here
    return Glare(lux, de_boer(total))
