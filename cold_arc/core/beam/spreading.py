"""How glass and air spread a beam's light: through bells, and down before the car."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import cv2
import numpy as np

from cold_arc.core.beam.sources import Array

# How mirror and glass spread their share of the light down before the car: by an exponential of
# this mean, and across by this deviation (own, chosen so that a low beam thins out to 10 to 15°
# down as market lamps do: some 900 cd at 8° and 150 cd at 12°, from memory, rough).
FORE_MEAN_DEG, FORE_ACROSS_DEG = 3.0, 6.0
# Cells the lobe is worked out on, degrees up and across: a tenth and a fifth of its deviation
# (own).
LOBE_CELL_DEG = (0.5, 1.0)


def blurred(values: Array, sigma: tuple[float, float], truncate: float = 4.0) -> Array:
    """*values* (rows, columns) through a bell of standard deviations *sigma* up and across, in
    cells, cut off at *truncate* of them; nothing lies outside.
    """
    up, across = (_bell(deviation, truncate) for deviation in sigma)
    spread: Any = cv2.sepFilter2D(values, -1, across, up, borderType=cv2.BORDER_CONSTANT)
    return np.asarray(spread)


def _bell(sigma: float, truncate: float) -> Array:
    """Weights of a bell of standard deviation *sigma*, in cells; one where it is 0."""
    reach = int(truncate * sigma + 0.5)
    weights = np.exp(-0.5 * (np.arange(-reach, reach + 1) / max(sigma, 1e-9)) ** 2)
    return np.asarray(weights / weights.sum())


def lobe(
    flux: Array,
    steps: tuple[float, float],
    deviations: tuple[float, float],
    lift_deg: float = 0.0,
) -> Array:
    """*flux* (rows, columns), on nodes *steps* degrees apart up and across, through a wide lobe of
    standard *deviations* up and across, degrees, lifted as a whole.
    """

    def lifted(coarse: Array, cell: tuple[float, float]) -> Array:
        cells = round(lift_deg / cell[0])
        raised = np.pad(coarse, ((cells, 0), (0, 0)))[: coarse.shape[0]]
        return blurred(raised, (deviations[0] / cell[0], deviations[1] / cell[1]))

    return _on_cells(flux, steps, lifted)


def foreground(flux: Array, steps: tuple[float, float]) -> Array:
    """*flux* (rows, columns), on nodes *steps* degrees apart up and across, spread down, never up,
    by an exponential, and across by a bell.
    """

    def lowered(coarse: Array, cell: tuple[float, float]) -> Array:
        fallen = _falling(coarse.shape[0], cell[0]) @ coarse
        return blurred(fallen, (0.0, FORE_ACROSS_DEG / cell[1]))

    return _on_cells(flux, steps, lowered)


def _on_cells(
    flux: Array, steps: tuple[float, float], blur: Callable[[Array, tuple[float, float]], Array]
) -> Array:
    """What a wide *blur* makes of a beam, worked out on cells of 1° by 0.5°: it has no finer
    detail.
    """
    up, across = (
        max(1, round(cell / step)) for cell, step in zip(LOBE_CELL_DEG, steps, strict=True)
    )
    rows, columns = -(-flux.shape[0] // up), -(-flux.shape[1] // across)
    padded = np.zeros((rows * up, columns * across))
    padded[: flux.shape[0], : flux.shape[1]] = flux
    mean: Any = cv2.resize(padded, (columns, rows), interpolation=cv2.INTER_AREA)
    # a cell's light is its mean times its nodes, and is shared out again by as many
    spread = blur(np.asarray(mean), (steps[0] * up, steps[1] * across))
    fine: Any = cv2.resize(spread, padded.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(fine[: flux.shape[0], : flux.shape[1]])


@cache
def _falling(rows: int, step_deg: float) -> Array:
    """The share of each row's light (columns) that falls to a row as low or lower; rows go up by
    *step_deg*.
    """
    below = np.arange(rows) - np.arange(rows)[:, None]
    shares = np.exp(-step_deg * np.arange(rows) / FORE_MEAN_DEG)
    return np.where(below >= 0, shares[np.abs(below)], 0.0) / float(shares.sum())
