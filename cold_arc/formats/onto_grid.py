"""A photometric file's intensities as a beam on the model's grid, so that it can be measured like a
computed one.
"""

from __future__ import annotations

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from cold_arc.core.beam.given import given_beam
from cold_arc.core.beam.model import GRID, Beam
from cold_arc.core.car.lamps import Traffic
from cold_arc.formats.photometric import Array, Photometry

MOST_CANDELA = 1e8


def to_beam(photometry: Photometry, traffic: Traffic = Traffic.RIGHT, high: bool = False) -> Beam:
    """The beam of a file, bilinear between its angles, dark outside them; judged against an
    ordinary low beam's line.

    Type B: h, v as in a beam's grid. Type C: planes about the optical axis, C0 to the right, C90
    up. ValueError for intensities no lamp has.
    """
    h, v = np.meshgrid(GRID.h, GRID.v)
    candela = _type_b(photometry, h, v) if photometry.kind == "B" else _type_c(photometry, h, v)
    if not 0 <= float(candela.min()) <= float(candela.max()) <= MOST_CANDELA:
        raise ValueError(
            f"The file tells of intensities no lamp has: below 0 or above {MOST_CANDELA:g} cd."
        )
    return given_beam(candela, traffic, high)


def _type_b(photometry: Photometry, h: Array, v: Array) -> Array:
    """A file that begins at 0 across holds one half, the other being its mirror."""
    across = np.abs(h) if photometry.horizontal[0] == 0 else h
    return _between(photometry.horizontal, photometry.vertical, photometry.candela, across, v)


def _type_c(photometry: Photometry, h: Array, v: Array) -> Array:
    right = np.sin(np.radians(h))
    up, ahead = (
        np.cos(np.radians(h)) * np.sin(np.radians(v)),
        np.cos(np.radians(h)) * np.cos(np.radians(v)),
    )
    gamma = np.degrees(np.arccos(np.clip(ahead, -1, 1)))
    plane = np.degrees(np.arctan2(up, right)) % 360
    planes, candela = _all_round(photometry.horizontal, photometry.candela)
    return _between(planes, photometry.vertical, candela, plane, gamma)


def _all_round(planes: Array, candela: Array) -> tuple[Array, Array]:
    """Planes from 0 to 360: one alone turned round, a quarter or a half mirrored into the rest it
    stands for.
    """
    if planes.size == 1:
        return np.array([0.0, 360.0]), np.repeat(candela, 2, axis=0)
    if planes[-1] == 90:
        planes, candela = _mirrored(planes, candela)
    if planes[-1] == 180:
        return _mirrored(planes, candela)
    if planes[-1] < 360:
        planes, candela = np.append(planes, 360.0), np.concatenate([candela, candela[:1]])
    return planes, candela


def _mirrored(planes: Array, candela: Array) -> tuple[Array, Array]:
    """The planes once more, mirrored beyond the last."""
    beyond = 2 * planes[-1] - planes[-2::-1]
    return np.concatenate([planes, beyond]), np.concatenate([candela, candela[-2::-1]])


def _between(
    first: Array, second: Array, candela: Array, at_first: Array, at_second: Array
) -> Array:
    if min(first.size, second.size) < 2:
        return np.zeros(at_first.shape)
    interpolated = RegularGridInterpolator(
        (first, second), candela, bounds_error=False, fill_value=0.0
    )
    return np.asarray(interpolated(np.stack([at_first, at_second], axis=-1)))
