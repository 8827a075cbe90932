"""A beam on a wall square to its axis, and what a meter reads there."""

from __future__ import annotations

import math

import numpy as np

from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array
from cold_arc.core.light import photometry


def wall_lux(
    beam: Beam,
    right_m: Array,
    down_m: Array,
    distance_m: float,
    aim_deg: tuple[float, float] = (0.0, 0.0),
) -> Array:
    """Illuminance, lx, of a wall square to the axis and *distance_m* away, at places *right_m* and
    *down_m* (…) of the lamp: E = I·cos³θ/d².

    *aim_deg*: how far right and up the whole beam is turned, by the screws.
    """
    right, down = np.asarray(right_m), np.asarray(down_m)
    h, v = wall_direction(right, down, distance_m)
    cosine = distance_m / np.sqrt(right * right + down * down + distance_m**2)
    lux: Array = beam.at(h - aim_deg[0], v - aim_deg[1]) * (cosine * cosine * cosine)
    lux /= distance_m**2
    return lux


# Places on a meter's head that a reading is the mean of (own).
HEAD_SAMPLES = 61


def meter_lux(
    beam: Beam,
    right_m: float,
    down_m: float,
    distance_m: float,
    head_mm: float = photometry.HEAD_MM,
) -> float:
    """What a cosine-corrected meter reads held flat on a wall *distance_m* away, *right_m* and
    *down_m* of the lamp: the mean, lx, over its round head, *head_mm* across.
    """
    index = np.arange(HEAD_SAMPLES) + 0.5
    radius, angle = (
        np.sqrt(index / HEAD_SAMPLES) * head_mm / 2000,
        index * math.pi * (3 - math.sqrt(5)),
    )
    lux = wall_lux(
        beam, right_m + radius * np.cos(angle), down_m + radius * np.sin(angle), distance_m
    )
    return float(lux.mean())


def meter_candela(
    beam: Beam, h_deg: float, v_deg: float, distance_m: float, head_mm: float = photometry.HEAD_MM
) -> float:
    """The intensity, cd, one works out from a meter held on a wall *distance_m* away in the
    direction *h_deg*, *v_deg*: its head, *head_mm* across, blurs what it reads.
    """
    right, down = wall_place(h_deg, v_deg, distance_m)
    return photometry.candela(
        meter_lux(beam, right, down, distance_m, head_mm), distance_m, right, down
    )


def wall_direction(
    right_m: Array | float, down_m: Array | float, distance_m: float
) -> tuple[Array, Array]:
    """The grid's directions h, v, degrees, of places *right_m* and *down_m* (…) of the lamp on a
    wall square to the axis, *distance_m* away.
    """
    h = np.degrees(np.arctan2(right_m, np.hypot(down_m, distance_m)))
    return np.asarray(h), np.asarray(-np.degrees(np.arctan2(down_m, distance_m)))


def wall_place(h_deg: float, v_deg: float, distance_m: float) -> tuple[float, float]:
    """Where the grid's direction *h_deg*, *v_deg* meets a wall square to the axis, *distance_m*
    away: m right and down of the lamp.
    """
    h, v = math.radians(h_deg), math.radians(v_deg)
    return distance_m * math.tan(h) / math.cos(v), -distance_m * math.tan(v)
