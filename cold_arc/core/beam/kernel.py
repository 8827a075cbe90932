"""The compiled inner loop: every source element by every mirror element, into an angular grid.

A path carries flux·cosθ_source·cosθ_mirror·dA / (π·r²): Lambertian exchange between two surface elements.
Directions: v = atan2(y, z) about the lateral axis, h = asin(x): then a cut-off straight and level on a wall square
to the axis is one row of the grid. Each path is shared among the four nearest cells.

Work is cut into a fixed number of slices whatever the number of processors, so the same inputs give the same bytes.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numba import njit, prange

SLICES = 4
# Where a path ends, in the order of the ledger that `trace` returns.
REACHED, SHIELDED, CUT, LENS_MISSED, OUTSIDE = range(5)
FATES = 5


@njit(cache=True, fastmath=True, inline="always")
def _atan(t):  # type: ignore[no-untyped-def]
    """Arc tangent on [-1, 1] to 6e-9 rad: odd minimax polynomial, fitted for this kernel."""
    s = t * t
    p = 0.0024566829478751065
    p = p * s - 0.014401182595057687
    p = p * s + 0.03978092000358333
    p = p * s - 0.07234829525023544
    p = p * s + 0.10498931562945536
    p = p * s - 0.14161224912880108
    p = p * s + 0.1998590609885808
    p = p * s - 0.333325969816047
    p = p * s + 0.9999998863735875
    return t * p


@njit(cache=True, fastmath=True, inline="always")
def _exchange(dx, dy, dz, sx, sy, sz, nx, ny, nz):  # type: ignore[no-untyped-def]
    """Share of a source element's flux caught by π mm² of mirror, and the ray (mm) along the mirror's normal, below 0.

    Both are 0 where the mirror element is unlit.
    """
    leaving = dx * sx + dy * sy + dz * sz
    meeting = dx * nx + dy * ny + dz * nz
    if leaving <= 0.0 or meeting >= 0.0:
        return 0.0, 0.0
    square = dx * dx + dy * dy + dz * dz
    return -leaving * meeting / (square * square), meeting


@njit(cache=True, fastmath=True, inline="always")
def _blocked(shield, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Whether a dip shield stops a ray: it leaves on the wrong side of both its edges."""
    first = dx * shield[0, 0] + dy * shield[0, 1] + dz * shield[0, 2]
    second = dx * shield[1, 0] + dy * shield[1, 1] + dz * shield[1, 2]
    return first < 0.0 and second < 0.0


@njit(cache=True, fastmath=True, nogil=True)
def images(sources, source_normals, shield, mirror, mirror_normals):  # type: ignore[no-untyped-def]
    """Directions h, v (degrees) and weights, each (lit paths,), of source elements seen by mirror elements."""
    count = mirror.shape[0] * sources.shape[0]
    h, v, weights = np.empty(count), np.empty(count), np.empty(count)
    guarded = np.any(shield != 0.0)
    lit = 0
    for i in range(mirror.shape[0]):
        nx, ny, nz = mirror_normals[i, 0], mirror_normals[i, 1], mirror_normals[i, 2]
        for j in range(sources.shape[0]):
            dx, dy, dz = mirror[i, 0] - sources[j, 0], mirror[i, 1] - sources[j, 1], mirror[i, 2] - sources[j, 2]
            weight, meeting = _exchange(
                dx, dy, dz, source_normals[j, 0], source_normals[j, 1], source_normals[j, 2], nx, ny, nz
            )
            if weight == 0.0 or (guarded and _blocked(shield, dx, dy, dz)):
                continue
            rx, ry, rz = dx - 2.0 * meeting * nx, dy - 2.0 * meeting * ny, dz - 2.0 * meeting * nz
            h[lit] = math.degrees(math.atan2(rx, math.sqrt(ry * ry + rz * rz)))
            v[lit] = math.degrees(math.atan2(ry, rz))
            weights[lit] = weight
            lit += 1
    return h[:lit], v[:lit], weights[:lit]


class Angles(NamedTuple):
    """The grid a trace fills: first node and step across and up, degrees; how many rows and columns."""

    first_h: float
    first_v: float
    step_h: float
    step_v: float
    rows: int
    columns: int


@njit(cache=True, fastmath=True, parallel=True, nogil=True)
def trace(emitters, mirror, optic, angles):  # type: ignore[no-untyped-def]
    """Flux grid (rows, columns), lm, and ledger (FATES,), lm.

    *emitters* and *mirror* are surface elements with named arrays, *optic* what stands before them (lengths in mm),
    *angles* the :class:`Angles` to fill.
    """
    sources, source_normals, flux, shield = emitters.positions, emitters.normals, emitters.flux, emitters.shield
    places, normals, areas = mirror.positions, mirror.normals, mirror.areas
    edge, has_lens, stands = optic.edge, optic.has_lens, optic.stands
    shield_at, focal, radius, edge_half = optic.shield_at_mm, optic.focal_mm, optic.radius_mm, optic.half_mm
    first_h, first_v, step_h, step_v = angles.first_h, angles.first_v, angles.step_h, angles.step_v
    rows, columns = angles.rows, angles.columns
    grids = np.zeros((SLICES, rows, columns))
    ledgers = np.zeros((SLICES, FATES))
    count, points = places.shape[0], sources.shape[0]
    guarded = np.any(shield != 0.0)
    to_degrees = 180.0 / math.pi
    for part in prange(SLICES):
        grid = grids[part]
        ledger = ledgers[part]
        for i in range(part * count // SLICES, (part + 1) * count // SLICES):
            mx, my, mz = places[i, 0], places[i, 1], places[i, 2]
            nx, ny, nz = normals[i, 0], normals[i, 1], normals[i, 2]
            patch = areas[i] / math.pi
            for j in range(points):
                dx, dy, dz = mx - sources[j, 0], my - sources[j, 1], mz - sources[j, 2]
                caught, meeting = _exchange(
                    dx, dy, dz, source_normals[j, 0], source_normals[j, 1], source_normals[j, 2], nx, ny, nz
                )
                if caught == 0.0:
                    continue
                weight = flux[j] * patch * caught
                if guarded and _blocked(shield, dx, dy, dz):
                    ledger[SHIELDED] += weight
                    continue
                twice = 2.0 * meeting
                rx, ry, rz = dx - twice * nx, dy - twice * ny, dz - twice * nz
                if has_lens:
                    if rz <= 0.0:
                        ledger[LENS_MISSED] += weight
                        continue
                    run = (shield_at - mz) / rz
                    px, py = mx + run * rx, my + run * ry
                    if stands:
                        place = (px / edge_half + 1.0) * 0.5 * (edge.shape[0] - 1)
                        place = min(max(place, 0.0), edge.shape[0] - 1.001)
                        cell = int(place)
                        top = edge[cell] + (place - cell) * (edge[cell + 1] - edge[cell])
                        if py < top:
                            ledger[CUT] += weight
                            continue
                    to_lens = focal / rz
                    lx, ly = px + to_lens * rx, py + to_lens * ry
                    if lx * lx + ly * ly > radius * radius:
                        ledger[LENS_MISSED] += weight
                        continue
                    rx, ry, rz = -px, -py, focal
                depth = math.sqrt(ry * ry + rz * rz)
                if rz <= 0.0 or abs(ry) > rz or abs(rx) > depth:
                    ledger[OUTSIDE] += weight
                    continue
                column = (_atan(rx / depth) * to_degrees - first_h) / step_h
                row = (_atan(ry / rz) * to_degrees - first_v) / step_v
                if column < 0.0 or row < 0.0 or column >= columns - 1 or row >= rows - 1:
                    ledger[OUTSIDE] += weight
                    continue
                c, r = int(column), int(row)
                fc, fr = column - c, row - r
                grid[r, c] += weight * (1.0 - fc) * (1.0 - fr)
                grid[r, c + 1] += weight * fc * (1.0 - fr)
                grid[r + 1, c] += weight * (1.0 - fc) * fr
                grid[r + 1, c + 1] += weight * fc * fr
                ledger[REACHED] += weight
    return grids.sum(axis=0), ledgers.sum(axis=0)
