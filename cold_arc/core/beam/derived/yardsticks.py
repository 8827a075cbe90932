"""A beam at the points and zones of a regulation."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from cold_arc.core import data
from cold_arc.core.beam.derived.spots import peak
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array
from cold_arc.core.car.lamps import Traffic


@dataclass(frozen=True)
class MeasuredPoint:
    """One point or zone of a yardstick, what the beam has there, and its limits, cd."""

    name: str
    candela: float
    least: float | None
    most: float | None

    @property
    def holds(self) -> bool:
        """Whether it is within its limits."""
        return (self.least is None or self.candela >= self.least) and (
            self.most is None or self.candela <= self.most
        )


@cache
def yardsticks() -> dict[str, dict[str, Any]]:
    """The yardsticks by id, as in ``data/beam_points.toml``."""
    return dict(data.load("beam_points"))


def mirrored(table: Mapping[str, Any], traffic: Traffic) -> float:
    """What the horizontal angles of a yardstick's *table* are multiplied by: -1 where it is written
    for the other side of the road than *traffic* keeps to.
    """
    return -1.0 if table["mirrored"] and traffic == Traffic.LEFT else 1.0


def least_of(row: Mapping[str, Any], top_cd: float) -> float | None:
    """The least a point of a yardstick asks for, cd, some as a share of the brightest, *top_cd*;
    None where its *row* asks for none.
    """
    return row["min_of_peak"] * top_cd if "min_of_peak" in row else row.get("min")


def at_yardstick(
    beam: Beam, yardstick: str, traffic: Traffic = Traffic.RIGHT
) -> list[MeasuredPoint]:
    """The *beam* at the points and zones of a *yardstick*, by its id, mirrored to *traffic*.

    Raises:
        KeyError: there is no such yardstick.
    """
    table = yardsticks()[yardstick]
    flip = mirrored(table, traffic)
    top = peak(beam).candela
    rows = {row["name"]: row for row in table["points"]}
    return [_test_point(beam, row, rows, flip, top) for row in rows.values()]


def _test_point(
    beam: Beam, row: dict[str, Any], rows: dict[str, dict[str, Any]], flip: float, top: float
) -> MeasuredPoint:
    least = least_of(row, top)
    most = row.get("max")
    if "max_of" in row:
        most = row["max_of"]["times"] * float(_values(beam, rows[row["max_of"]["point"]], flip)[0])
    values = _values(beam, row, flip)
    if "sum" in row:
        candela = float(values.sum())
    else:
        greatest = row.get("greatest") or least is None
        candela = float(values.max() if greatest else values.min()) if values.size else 0.0
    return MeasuredPoint(row["name"], candela, least, most)


def _values(beam: Beam, row: dict[str, Any], flip: float) -> Array:
    """Intensities over a point, several or a zone, of which only what lies "above" a line may
    count.
    """
    if "sum" in row:
        places = np.array(row["sum"], dtype=np.float64)
        return beam.at(places[:, 0] * flip, places[:, 1])
    h, v = (_span(row[key]) for key in ("h", "v"))
    grid_h, grid_v = np.meshgrid(h * flip, v)
    values = beam.at(grid_h, grid_v)
    if "above" in row:
        across, up = np.array(row["above"], dtype=np.float64).T
        return np.asarray(values[grid_v >= np.interp(grid_h * flip, across, up)])
    return values.ravel()


def _span(value: float | list[float]) -> Array:
    if isinstance(value, list):
        return np.linspace(value[0], value[1], max(2, round((value[1] - value[0]) / 0.2) + 1))
    return np.array([float(value)])
