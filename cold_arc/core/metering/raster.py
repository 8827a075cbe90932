"""Many readings of one wall as a picture of the beam: candela between the places read, its
brightest point, its flux."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import LinearNDInterpolator
from scipy.spatial import QhullError

from cold_arc.core.beam.derived import wall_direction
from cold_arc.core.beam.given import given_beam
from cold_arc.core.beam.model import GRID, Beam
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.errors import ColdArcError
from cold_arc.core.metering.readings import WallReading

Array = NDArray[np.float64]
LEAST_PLACES, MOST_PLACES = 9, 20_000
# Rasters remembered: a page shows the same ones again and again.
MOST_KNOWN = 8
# A direction farther than this from every place read is not told, degrees (own).
FARTHEST_DEG = 1.5


class RasterError(ColdArcError, ValueError):
    """Readings that make no raster, in words."""


@dataclass(frozen=True, eq=False)
class Raster:
    """Places read: degrees right and up of the lamp's axis, and their candela."""

    h_deg: Array
    v_deg: Array
    candela: Array

    @property
    def count(self) -> int:
        """How many places."""
        return int(self.candela.size)

    @property
    def peak(self) -> tuple[float, float, float]:
        """The brightest place read: cd, degrees right, up."""
        top = int(self.candela.argmax())
        return float(self.candela[top]), float(self.h_deg[top]), float(self.v_deg[top])

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """What it covers: left, right, lowest, highest, degrees."""
        h, v = self.h_deg, self.v_deg
        return float(h.min()), float(h.max()), float(v.min()), float(v.max())

    def holds(self, h_deg: float, v_deg: float) -> bool:
        """Whether a direction lies near enough to a place read."""
        return bool(np.hypot(self.h_deg - h_deg, self.v_deg - v_deg).min() <= FARTHEST_DEG)

    def nearest(self, h_deg: float, v_deg: float) -> tuple[float, float]:
        """The candela of the place read nearest to a direction, and how far off it is, degrees."""
        apart = np.hypot(self.h_deg - h_deg, self.v_deg - v_deg)
        at = int(apart.argmin())
        return float(self.candela[at]), float(apart[at])

    @lru_cache(maxsize=MOST_KNOWN)  # noqa: B019 (few, and they are wanted again)
    def beam(self, traffic: Traffic = Traffic.RIGHT, high: bool = False) -> Beam:
        """The beam between the places read, dark outside: what a file and the yardsticks take;
        remembered.
        """
        h, v = np.meshgrid(GRID.h, GRID.v)
        candela = np.zeros(h.shape)
        left, right, low, high_v = self.frame
        inside = (h >= left) & (h <= right) & (v >= low) & (v <= high_v)
        candela[inside] = np.maximum(self._between()(h[inside], v[inside]), 0.0)
        return given_beam(candela, traffic, high)

    def _between(self) -> LinearNDInterpolator:
        try:
            return LinearNDInterpolator(
                np.column_stack([self.h_deg, self.v_deg]), self.candela, fill_value=0.0
            )
        except QhullError as error:
            raise RasterError("The places lie in one line: a raster covers an area.") from error


@lru_cache(maxsize=MOST_KNOWN)
def raster(readings: tuple[WallReading, ...]) -> Raster:
    """The raster of readings of one wall, remembered; RasterError for fewer than nine places, or
    too many.
    """
    if len(readings) < LEAST_PLACES:
        raise RasterError(
            f"A raster needs {LEAST_PLACES} places or more; these are {len(readings)}."
        )
    if len(readings) > MOST_PLACES:
        raise RasterError(
            f"A raster of {len(readings)} places is too large: {MOST_PLACES} at most."
        )
    right, down, distance = (
        np.array([getattr(reading, name) for reading in readings], dtype=float)
        for name in ("across_m", "drop_m", "distance_m")
    )
    h, v = wall_direction(right / distance, down / distance, 1.0)
    return Raster(h, v, np.array([reading.candela for reading in readings]))
