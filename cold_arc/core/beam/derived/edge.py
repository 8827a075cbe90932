"""Where a beam ends: the cut-off's height and shape, its sharpness, what lies above it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array
from cold_arc.core.light import cut_off

# How far over the design line light counts as above it, degrees: the finish of a good mirror (own).
ABOVE_MARGIN_DEG = 0.15
# Step and place of a scan, degrees, and what counts as a usable edge (UN R112/R149, from memory).
SCAN_STEP_DEG = 0.1
# How finely the line is looked for up a column, degrees.
LINE_STEP_DEG = 0.02
SCAN_OFF_DEG = 2.5
SHARP_RANGE = (0.13, 0.40)
# The least that is taken the logarithm of: far below anything a meter reads.
LEAST_CD = 1e-6


def share_above(beam: Beam) -> float | None:
    """Share of the beam's flux more than 0.15° above the line its housing was designed for; None
    for high beam.

    The line moves with the beam's own aim only through the housing; measure with no aim offset.
    """
    if beam.housing.cut_off.shape == "none" or beam.flux_lm == 0:
        return None
    line = beam.housing.cut_off.at(beam.grid.h) + ABOVE_MARGIN_DEG
    return float(beam.flux[beam.grid.v[:, None] > line[None, :]].sum() / beam.flux_lm)


def flat_side_deg(beam: Beam) -> float:
    """Where the flat part of a cut-off is scanned, degrees right: 2.5° off the elbow, on the level
    side.
    """
    return SCAN_OFF_DEG * beam.housing.cut_off.flat_side


def _column(beam: Beam, h_deg: float) -> tuple[Array, Array]:
    """Intensities up one vertical line, at every 0.1°."""
    v = np.arange(-6.0, 4.0 + 1e-9, SCAN_STEP_DEG)
    return v, np.maximum(beam.at(np.full_like(v, h_deg), v), LEAST_CD)


def _drops(intensity: Array) -> Array:
    """log10 E(β) − log10 E(β + 0.1°), G's summand, up a scan."""
    logs = np.log10(intensity)
    return np.asarray(logs[:-1] - logs[1:])


def _lit(beam: Beam, intensity: Array) -> Array:
    """Steps that start from light worth calling beam: a tenth of the scan's peak."""
    return np.asarray(intensity[:-1] >= 0.1 * intensity.max())


def sharpness(beam: Beam, h_deg: float = -SCAN_OFF_DEG) -> float:
    """G = max over β of log10 E(β) − log10 E(β + 0.1°), scanned upward at *h_deg* (UN R112/R149,
    from memory).

    Between 0.13 and 0.40 counts as a usable edge.
    """
    _, intensity = _column(beam, h_deg)
    return float(np.max(np.where(_lit(beam, intensity), _drops(intensity), 0.0)))


def cut_off_height(beam: Beam, h_deg: float = -SCAN_OFF_DEG) -> float:
    """The cut-off's height, degrees, of a *beam* at *h_deg*, as `light.cut_off` defines it."""
    return float(cut_off_line(beam, np.array([h_deg]))[0])


def cut_off_line(beam: Beam, h_deg: Array) -> Array:
    """The cut-off's height, degrees, of a *beam* at each of *h_deg* (n,)."""
    v = np.arange(-6.0, 4.0 + 1e-9, LINE_STEP_DEG)
    across, up = np.meshgrid(np.asarray(h_deg, dtype=np.float64), v)
    light = np.maximum(beam.at(across, up), LEAST_CD)
    return cut_off.heights(light, v, _dark(beam))[0]


def _dark(beam: Beam) -> float:
    """What stands all over the wall, as far as it is looked at: a hazed lens's glow, as a room's
    own light would.
    """
    across, up = np.meshgrid(np.arange(*cut_off.H_SEEN, 0.5), np.arange(*cut_off.V_SEEN, 0.25))
    return float(np.percentile(beam.at(across, up), cut_off.DARK_PERCENTILE))


@dataclass(frozen=True)
class CutOffShape:
    """The straight part's height and slope (degrees), the elbow's place (None where the line does
    not bend up).
    """

    level_deg: float
    slope: float
    elbow_h_deg: float | None
    kerb_slope_deg: float


def cut_off_shape(beam: Beam) -> CutOffShape:
    """Fits the flat side (1.5° to 6° off the middle) and the other (1° to 5°, under its top) with
    straight lines.
    """
    kerb = -beam.housing.cut_off.flat_side
    flat_h, kerb_h = np.arange(-6.0, -1.4, 0.5), np.arange(1.0, 5.1, 0.5)
    slope, level = np.polyfit(flat_h, cut_off_line(beam, flat_h * kerb), 1)
    rise, start = np.polyfit(kerb_h, cut_off_line(beam, kerb_h * kerb), 1)
    bends = rise - slope > math.tan(math.radians(5.0))
    elbow = float(kerb * (level - start) / (rise - slope)) if bends else None
    return CutOffShape(float(level), float(slope), elbow, math.degrees(math.atan(rise)))
