"""A housing fitted to what a meter read of it: the lamp in hand instead of a typical one of its
kind.

Brightness, width, aim and haze of the modelled housing with its nominal source are turned until it
gives the readings, by least squares on the logarithms of candela. Each holds to what is usual as
firmly as lamps of a kind resemble each other, so that few readings can't bend it far.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import scipy

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import rough_of
from cold_arc.core.beam.setup import LIMITS, SetUp
from cold_arc.core.beam.sources import Array
from cold_arc.core.units import say_count

# Readings of one beam that a fit needs at least.
LEAST_READINGS = 5
# Standard deviations: of a reading (a share, and cd), of what lamps of a kind differ by: brightness
# and width (shares), aim as found and where its cut-off was measured (degrees), haze about its
# grade (own).
READING_SHARE, READING_CD = 0.08, 20.0
BRIGHTNESS, WIDTH, AIM_DEG, AIM_MEASURED_DEG, HAZE = 0.4, 0.25, 0.6, 0.15, 0.12
TURNED = ("gain", "widen", "aim_v", "aim_h", "haze")
# Readings that tell how bright a beam is, of its brightest (own).
BRIGHT_ENOUGH = 0.1
# Source elements to fit with; a log ratio that stands for "no light at all" (own).
FIT_POINTS, MOST_RATIO = 96, 6.0


@dataclass(frozen=True)
class BeamReading:
    """One reading of a beam: its *name*, cd, and where, degrees right and up of the lamp's axis;
    None: the brightest point, wherever it is."""

    name: str
    candela: float
    h_deg: float | None
    v_deg: float | None


@dataclass(frozen=True)
class HousingFit:
    """*setup*: the lamp's own set-up, fitted. *pairs*: (name, cd read, cd modelled). *left_over*:
    the root mean square of what the fit leaves, as a share. *by*: where it was read otherwise than
    by a meter, in words; *is_own*: it was read of this very lamp; *drawn*: the same set-up in lamps
    that agree as well with what was read.
    """

    setup: SetUp
    pairs: tuple[tuple[str, float, float], ...]
    left_over: float
    by: str = ""
    is_own: bool = True
    drawn: tuple[SetUp, ...] = ()

    @property
    def words(self) -> str:
        """By what it was fitted."""
        return self.by or f"fitted to {say_count(len(self.pairs), 'reading')}"


def fit_housing(
    setup: SetUp, readings: tuple[BeamReading, ...], cut_off_deg: float | None = None
) -> HousingFit | None:
    """The nominal set-up of a lamp fitted to *readings* in named directions, cd; None for fewer
    than five.

    *setup*: with its supply as it was read and its haze as graded; *cut_off_deg*: the height of its
    cut-off's level part as measured, degrees. Takes about a third of a second.
    """
    if len(readings) < LEAST_READINGS:
        return None
    usual = setup.built_housing().cut_off.level_deg
    aim, held = (
        (0.0, AIM_DEG)
        if cut_off_deg is None or setup.high
        else (cut_off_deg - usual, AIM_MEASURED_DEG)
    )
    low, high = np.array([(LIMITS[name].low, LIMITS[name].high) for name in TURNED]).T
    low[:2], high[:2] = np.log(low[:2]), np.log(high[:2])
    expected = np.array([0.0, 0.0, aim, 0.0, setup.haze])
    holds = np.array([BRIGHTNESS, WIDTH, held, AIM_DEG, HAZE])

    def wrong(x: Array) -> Array:
        modelled = _at(rough_of(_turned(setup, x), FIT_POINTS), readings)
        return np.concatenate([_ratios(readings, modelled), (x - expected) / holds])

    # The scale keeps every figure near 1, whatever its unit, so that one step serves all.
    start = (np.clip(expected, low, high) - expected) / holds + 1.0
    limits = ((low - expected) / holds + 1.0 - 1e-9, (high - expected) / holds + 1.0 + 1e-9)
    solved = scipy.optimize.least_squares(
        lambda z: wrong(np.clip(expected + (z - 1.0) * holds, low, high)),
        start,
        bounds=limits,
        diff_step=0.05,
        max_nfev=12,
        ftol=1e-3,
    )
    fitted = _turned(setup, np.round(np.clip(expected + (solved.x - 1.0) * holds, low, high), 3))
    modelled = _at(rough_of(fitted, FIT_POINTS), readings)
    pairs = tuple(
        (reading.name, reading.candela, float(cd))
        for reading, cd in zip(readings, modelled, strict=True)
    )
    left = [math.log(max(cd, 1.0) / max(read, 1.0)) for _, read, cd in pairs]
    return HousingFit(
        fitted,
        pairs,
        math.expm1(
            min(MOST_RATIO, math.sqrt(sum(residual * residual for residual in left) / len(left)))
        ),
    )


def _turned(setup: SetUp, x: Array) -> SetUp:
    gain, widen = (float(factor) for factor in np.exp(x[:2]))
    return replace(
        setup,
        gain=gain,
        widen=widen,
        aim_v=float(x[2]),
        aim_h=float(x[3]),
        haze=float(np.clip(x[4], 0, 1)),
    )


def _at(beam: Beam, readings: tuple[BeamReading, ...]) -> Array:
    top = derived.peak(beam).candela
    return np.array(
        [
            top if reading.h_deg is None else float(beam.at(reading.h_deg, reading.v_deg or 0.0))
            for reading in readings
        ]
    )


def brightness(beam: Beam, readings: tuple[BeamReading, ...]) -> tuple[float, int]:
    """How many times as bright as a *beam* its *readings*, cd, are, by those that are BRIGHT_ENOUGH
    of the brightest (the dark ones tell its stray), and how many those are.
    """
    read = np.array([reading.candela for reading in readings])
    modelled, most = _at(beam, readings), float(read.max())
    counts = (read >= BRIGHT_ENOUGH * most) & (modelled > 0)
    if not counts.any():
        return 1.0, 0
    return float(np.exp(np.mean(np.log(read[counts] / modelled[counts])))), int(counts.sum())


def _ratios(readings: tuple[BeamReading, ...], modelled: Array) -> Array:
    """How far modelled and read lie apart, in standard deviations of a reading."""
    read = np.array([max(reading.candela, 1.0) for reading in readings])
    doubt = np.hypot(READING_SHARE, READING_CD / read)
    apart = np.clip(np.log(np.maximum(modelled, 1.0) / read), -MOST_RATIO, MOST_RATIO)
    return np.asarray(apart / doubt)
