"""The compiled inner loop: every source element by every mirror element, into an angular grid.

A path carries flux·cosθ_source·cosθ_mirror·dA / (π·r²): Lambertian exchange between two surface elements.
Directions: v = atan2(y, z) about the lateral axis, h = asin(x): then a cut-off straight and level on a wall square
to the axis is one row of the grid. Each path is shared among the four nearest cells.

Work is cut into a fixed number of slices whatever the number of processors, so the same inputs give the same bytes.
"""

from __future__ import annotations

import math

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


@njit(cache=True, fastmath=True, parallel=True, nogil=True)
def trace(sources, source_normals, flux, shield, mirror, mirror_normals, area, optic, edge, grid_spec, shape):  # type: ignore[no-untyped-def]
    """Flux grid (rows, columns), lm, and ledger (FATES,), lm.

    *optic* is empty for a reflector; for a projector it holds shield plane z, lens focal length, lens
    radius (mm), whether the shield stands (1) or is folded away (0). *edge* is the shield's top edge: heights (n,) mm
    at columns evenly spaced over ±edge_half (optic[4]). *grid_spec*: first h, first v, step h, step v, in degrees.
    """
    rows, columns = shape
    grids = np.zeros((SLICES, rows, columns))
    ledgers = np.zeros((SLICES, FATES))
    count, points = mirror.shape[0], sources.shape[0]
    projector = optic.shape[0] > 0
    guarded = np.any(shield != 0.0)
    to_degrees = 180.0 / math.pi
    for part in prange(SLICES):
        grid = grids[part]
        ledger = ledgers[part]
        for i in range(part * count // SLICES, (part + 1) * count // SLICES):
            mx, my, mz = mirror[i, 0], mirror[i, 1], mirror[i, 2]
            nx, ny, nz = mirror_normals[i, 0], mirror_normals[i, 1], mirror_normals[i, 2]
            patch = area[i] / math.pi
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
                if projector:
                    if rz <= 0.0:
                        ledger[LENS_MISSED] += weight
                        continue
                    run = (optic[0] - mz) / rz
                    px, py = mx + run * rx, my + run * ry
                    if optic[3] > 0.5:
                        place = (px / optic[4] + 1.0) * 0.5 * (edge.shape[0] - 1)
                        place = min(max(place, 0.0), edge.shape[0] - 1.001)
                        cell = int(place)
                        top = edge[cell] + (place - cell) * (edge[cell + 1] - edge[cell])
                        if py < top:
                            ledger[CUT] += weight
                            continue
                    to_lens = optic[1] / rz
                    lx, ly = px + to_lens * rx, py + to_lens * ry
                    if lx * lx + ly * ly > optic[2] * optic[2]:
                        ledger[LENS_MISSED] += weight
                        continue
                    rx, ry, rz = -px, -py, optic[1]
                depth = math.sqrt(ry * ry + rz * rz)
                if rz <= 0.0 or abs(ry) > rz or abs(rx) > depth:
                    ledger[OUTSIDE] += weight
                    continue
                column = (_atan(rx / depth) * to_degrees - grid_spec[0]) / grid_spec[2]
                row = (_atan(ry / rz) * to_degrees - grid_spec[1]) / grid_spec[3]
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
