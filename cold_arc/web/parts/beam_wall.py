"""The beam on the Wall: pictures lying in one frame of degrees, the design line, test points, and scales.

One drawing unit is one degree; y runs down, so a direction (h, v) stands at (h, −v).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from cold_arc.core.beam.derived import MeasuredPoint, cut_off_line
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import Points
from cold_arc.core.units import INCH_M, UnitSystem
from cold_arc.formats.picture import H_VIEW, V_VIEW

LINE_STEP_DEG = 0.25
MEASURED_TO_DEG, MEASURED_STEP_DEG, MEASURED_SHARE = 12.0, 0.5, 0.05


@dataclass(frozen=True)
class BeamPoint:
    """A test point as drawn: place, name, value against limits, and whether it holds."""

    x: float
    y: float
    name: str
    words: str
    holds: bool


@dataclass(frozen=True)
class BeamWall:
    """Pictures (warm below, cold above), design line, cut-offs measured before and after, points, scale labels."""

    before: str
    after: str
    line: str
    points: tuple[BeamPoint, ...]
    across: tuple[tuple[float, str], ...]
    upward: tuple[tuple[float, str], ...]
    unit: str
    found: str = ""
    left: str = ""
    h_view: tuple[float, float] = H_VIEW
    v_view: tuple[float, float] = V_VIEW

    @property
    def width(self) -> float:
        """Degrees across."""
        return self.h_view[1] - self.h_view[0]

    @property
    def height(self) -> float:
        """Degrees up."""
        return self.v_view[1] - self.v_view[0]


def build_beam_wall(
    before: str,
    after: str,
    cut_off: CutOff,
    points: tuple[BeamPoint, ...],
    distance_m: float | None,
    system: UnitSystem,
    found: str = "",
    left: str = "",
) -> BeamWall:
    """The wall in degrees, or with scales in cm or in at *distance_m*; *found*, *left*: measured cut-offs as paths."""
    unit = "°" if distance_m is None else ("in" if system is UnitSystem.INCH else "cm")
    return BeamWall(
        before,
        after,
        _line(cut_off),
        points,
        _scale(*H_VIEW, distance_m, system, 5),
        _scale(*V_VIEW, distance_m, system, 2),
        unit,
        found,
        left,
    )


def measured_line(beam: Beam) -> str:
    """The cut-off as measured column by column, where the beam is bright enough to have one; "" for a high beam."""
    if beam.housing.cut_off.shape == "none":
        return ""
    h = np.arange(-MEASURED_TO_DEG, MEASURED_TO_DEG + 1e-9, MEASURED_STEP_DEG)
    up = np.linspace(*V_VIEW, 60)
    bright = (
        np.array([beam.at(np.full_like(up, across), up).max() for across in h]) >= MEASURED_SHARE * beam.intensity.max()
    )
    places = zip(h[bright], cut_off_line(beam, h[bright]), strict=True)
    return "M" + "L".join(f"{x:.2f} {-y:.2f}" for x, y in places) if bright.any() else ""


def _line(cut_off: CutOff) -> str:
    if cut_off.shape == "none":
        return ""
    h = np.arange(H_VIEW[0], H_VIEW[1] + 1e-9, LINE_STEP_DEG)
    return "M" + "L".join(f"{x:.2f} {-y:.2f}" for x, y in zip(h, cut_off.at(h), strict=True))


def _scale(
    low: float, high: float, distance_m: float | None, system: UnitSystem, step: int
) -> tuple[tuple[float, str], ...]:
    """Places (degrees) and labels: every *step* degrees, or round lengths at a distance."""
    if distance_m is None:
        return tuple((float(at), _signed(at)) for at in range(math.ceil(low / step) * step, math.floor(high) + 1, step))
    size = INCH_M if system is UnitSystem.INCH else 0.01
    span = distance_m * math.tan(math.radians(step)) / size
    round_step = max(5, 5 * round(span / 5))
    marks = range(-40, 41)
    places = [(math.degrees(math.atan(mark * round_step * size / distance_m)), mark * round_step) for mark in marks]
    return tuple((place, _signed(value)) for place, value in places if low <= place <= high)


def _signed(value: int) -> str:
    return f"{value:+d}".replace("-", "−") if value else "0"


def yardstick_marks(rows: list[dict[str, Any]], values: Points, flip: float) -> tuple[BeamPoint, ...]:
    """Marks for the yardstick's points (zones have no single place)."""
    marks = []
    for row in rows:
        if isinstance(row.get("h", []), list) or isinstance(row["v"], list):
            continue
        point = values[row["name"]]
        marks.append(BeamPoint(row["h"] * flip, -row["v"], point.name, _against(point), point.holds))
    return tuple(marks)


def _against(point: MeasuredPoint) -> str:
    least, most = point.least, point.most
    limits = [f"at least {least:.0f}" if least is not None else "", f"at most {most:.0f}" if most is not None else ""]
    return f"{point.candela:.0f} cd, {' and '.join(filter(None, limits))}"
