"""The compiled inner loops: every source element by every mirror element, into an angular grid.

A path carries flux·cosθ_source·cosθ_mirror·dA / (π·r²): Lambertian exchange between two surface
elements. Directions: v = atan2(y, z) about the lateral axis, h = asin(x): then a cut-off straight
and level on a wall square to the axis is one row of the grid. Each path goes to the nearest column,
shared between the two nearest rows: the edge needs the finer place.

The trace works in two steps for each mirror element: all source elements at once, without a branch,
in single precision, so that the processor's vector units do it; then the shares of the lit ones are
added to the grid one by one. Work is cut into a fixed number of slices whatever the number of
processors, so the same inputs give the same bytes.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

SLICES = 4
# Where a path ends, in the order of the ledger that `trace` returns.
REACHED, SHIELDED, CUT, LENS_MISSED, OUTSIDE = range(5)
FATES = 5
# In place of a column: why a path reaches none.
_NO_COLUMN, _NO_LENS, _BEHIND_SHIELD = np.float32(-1.0), np.float32(-2.0), np.float32(-3.0)
_ZERO, _HALF, _ONE, _TWO, _TO_DEGREES = map(np.float32, (0.0, 0.5, 1.0, 2.0, 180 / math.pi))
F32 = np.float32


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _atan(t):  # type: ignore[no-untyped-def]
    """Arc tangent on [-1, 1] to 6e-9 rad before rounding: odd minimax polynomial, fitted for this
    kernel.
    """
    s = t * t
    p = F32(0.0024566829478751065)
    p = p * s - F32(0.014401182595057687)
    p = p * s + F32(0.03978092000358333)
    p = p * s - F32(0.07234829525023544)
    p = p * s + F32(0.10498931562945536)
    p = p * s - F32(0.14161224912880108)
    p = p * s + F32(0.1998590609885808)
    p = p * s - F32(0.333325969816047)
    p = p * s + F32(0.9999998863735875)
    return t * p


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _angle(side, ahead):  # type: ignore[no-untyped-def]
    """Degrees whose tangent is *side* / *ahead* (any one unit, scalars), held between −45° and
    45°.
    """
    t = side / ahead
    t = t if t < _ONE else _ONE
    t = t if t > -_ONE else -_ONE
    return _atan(t) * _TO_DEGREES


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def _bounce(sources, shield, guarded, place, normal, optic, scale, weights, columns, rows):  # type: ignore[no-untyped-def]
    """All of a source's elements off one mirror element: weights, and where each lands in the grid.

    *sources* (7, n): place (mm), normal (unit) and flux (lm) of each element; *shield* (2, 3): the
    dip shield's edges, mm, which counts where *guarded*; *place*, *normal* (3,): of the mirror
    element, mm and unit; *optic* (4,): has a lens, shield's plane, lens's focal length, mm, square
    of its radius, mm²; *scale* (4,): first column and row, and cells a degree across and up.

    Fills *weights* (n,), lm, *columns* and *rows* (n,), in cells.
    """
    mx, my, mz = place[0], place[1], place[2]
    nx, ny, nz = normal[0], normal[1], normal[2]
    has_lens, shield_at, focal, square_radius = optic
    first_column, first_row, across, up = scale
    s00, s01, s02 = shield[0, 0], shield[0, 1], shield[0, 2]
    s10, s11, s12 = shield[1, 0], shield[1, 1], shield[1, 2]
    for j in range(sources.shape[1]):
        dx, dy, dz = mx - sources[0, j], my - sources[1, j], mz - sources[2, j]
        leaving = dx * sources[3, j] + dy * sources[4, j] + dz * sources[5, j]
        meeting = dx * nx + dy * ny + dz * nz
        square = dx * dx + dy * dy + dz * dz
        leaving = leaving if leaving > _ZERO else _ZERO
        meeting = meeting if meeting < _ZERO else _ZERO
        weights[j] = -leaving * meeting * sources[6, j] / (square * square)
        twice = _TWO * meeting
        rx, ry, rz = dx - twice * nx, dy - twice * ny, dz - twice * nz
        ahead = rz > _ZERO
        caught = True
        if has_lens:
            run = (shield_at - mz) / rz
            px, py = mx + run * rx, my + run * ry
            to_lens = focal / rz
            lx, ly = px + to_lens * rx, py + to_lens * ry
            caught = ahead & (lx * lx + ly * ly <= square_radius)
            ahead = True
            rx, ry, rz = -px, -py, focal
        depth = math.sqrt(ry * ry + rz * rz)
        column = (_angle(rx, depth) - first_column) * across
        row = (_angle(ry, rz) - first_row) * up
        inside = ahead & (abs(ry) <= rz) & (abs(rx) <= depth) & (column >= _ZERO)
        column = column if inside else _NO_COLUMN
        column = column if caught else _NO_LENS
        if guarded:
            first = dx * s00 + dy * s01 + dz * s02
            second = dx * s10 + dy * s11 + dz * s12
            column = _BEHIND_SHIELD if (first < _ZERO) & (second < _ZERO) else column
        columns[j] = column
        rows[j] = row


class Angles(NamedTuple):
    """The grid a trace fills: first node and step across and up, degrees; how many rows and
    columns.
    """

    first_h: float
    first_v: float
    step_h: float
    step_v: float
    rows: int
    columns: int


def trace(
    emitters: Any, mirror: Any, optic: Any, angles: Angles
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Flux grid (rows, columns), lm, and ledger (FATES,), lm.

    *emitters* and *mirror* are surface elements with named arrays, *optic* what stands before them
    (lengths in mm), *angles* the :class:`Angles` to fill.
    """
    single = [
        np.asarray(part, dtype=F32)
        for part in (*emitters[:2], emitters.flux[:, None], emitters.shield)
    ]
    sources = np.ascontiguousarray(np.concatenate(single[:3], axis=1).T)
    places, normals = mirror.positions.astype(F32), mirror.normals.astype(F32)
    patches = (mirror.areas / math.pi).astype(F32)
    front = (
        bool(optic.has_lens),
        F32(optic.shield_at_mm),
        F32(optic.focal_mm),
        F32(optic.radius_mm**2),
    )
    scale = tuple(map(F32, (angles.first_h, angles.first_v, 1 / angles.step_h, 1 / angles.step_v)))
    line = np.full(angles.columns + 1, np.inf, dtype=F32)
    if optic.stands:
        edge_h = np.linspace(-optic.half_deg, optic.half_deg, optic.edge_deg.size)
        h_deg = angles.first_h + angles.step_h * np.arange(angles.columns + 1)
        line = ((np.interp(h_deg, edge_h, optic.edge_deg) - angles.first_v) / angles.step_v).astype(
            F32
        )
    lit = (sources, single[3], places, normals, patches)
    grid, ledger = _trace(*lit, front, bool(optic.stands), line, scale, angles.rows, angles.columns)
    return grid.sum(axis=0, dtype=np.float64), ledger.sum(axis=0)


def is_compiled() -> bool:
    """Whether the trace is ready to run."""
    return bool(_trace.signatures)


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def _land(grid, ledger, weights, across, up, patch, line, stands):  # type: ignore[no-untyped-def]
    """Adds what one mirror element throws to a *grid* (rows, columns) and its *ledger* (FATES), lm.

    *weights*, *across*, *up* (n,): each ray's share, and its column and row in cells, or what
    became of it; *patch*: the element's size; *line* (columns,): the shield's edge, in rows.
    """
    last_row, last_column = F32(grid.shape[0] - 1), F32(grid.shape[1] - 1)
    every, reached, shielded, missed, cut = _ZERO, _ZERO, _ZERO, _ZERO, _ZERO
    for j in range(weights.size):
        weight, column, row = weights[j] * patch, across[j], up[j]
        if weight <= _ZERO:
            continue
        every += weight
        if column < _ZERO:
            shielded += weight if column == _BEHIND_SHIELD else _ZERO
            missed += weight if column == _NO_LENS else _ZERO
        elif column < last_column:
            c = int(column + _HALF)
            if stands and row > line[c]:
                cut += weight
            elif _ZERO <= row < last_row:
                r = int(row)
                higher = weight * (row - F32(r))
                grid[r, c] += weight - higher
                grid[r + 1, c] += higher
                reached += weight
    ledger[REACHED] += reached
    ledger[SHIELDED] += shielded
    ledger[CUT] += cut
    ledger[LENS_MISSED] += missed
    ledger[OUTSIDE] += every - reached - shielded - cut - missed


@njit(cache=True, fastmath=True, parallel=True, nogil=True, error_model="numpy")
def _trace(sources, shield, places, normals, patches, front, stands, line, scale, rows, columns):  # type: ignore[no-untyped-def]
    """Flux grids (SLICES, rows, columns) and ledgers (SLICES, FATES), lm.

    *sources* (7, n): the source's elements; *shield* (2, 3): the dip shield, mm, zeros for none;
    *places*, *normals* (m, 3): the mirror's elements, mm; *patches* (m,): their sizes; *front*:
    what stands before the mirror, as `_bounce` takes it; *stands*: whether a projector's shield is
    up; *line* (columns,): its edge, in rows; *scale*: first column and row, cells a degree.
    """
    grids = np.zeros((SLICES, rows, columns), dtype=F32)
    ledgers = np.zeros((SLICES, FATES))
    count, points = places.shape[0], sources.shape[1]
    guarded = np.any(shield != _ZERO)
    for part in prange(SLICES):
        weights = np.empty(points, dtype=F32)
        across, up = np.empty(points, dtype=F32), np.empty(points, dtype=F32)
        for i in range(part * count // SLICES, (part + 1) * count // SLICES):
            _bounce(
                sources, shield, guarded, places[i], normals[i], front, scale, weights, across, up
            )
            _land(grids[part], ledgers[part], weights, across, up, patches[i], line, stands)
    return grids, ledgers


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _exchange(dx, dy, dz, sx, sy, sz, nx, ny, nz):  # type: ignore[no-untyped-def]
    """Share of a source element's flux caught by π mm² of mirror, and the ray (mm) along the
    mirror's normal, below 0.

    *dx*, *dy*, *dz*: the way from source to mirror element, mm; *sx*, *sy*, *sz*: the source
    element's normal; *nx*, *ny*, *nz*: the mirror's; unit vectors. Both are 0 where the mirror
    element is unlit.
    """
    leaving = dx * sx + dy * sy + dz * sz
    meeting = dx * nx + dy * ny + dz * nz
    if leaving <= 0.0 or meeting >= 0.0:
        return 0.0, 0.0
    square = dx * dx + dy * dy + dz * dz
    return -leaving * meeting / (square * square), meeting


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _blocked(shield, dx, dy, dz):  # type: ignore[no-untyped-def]
    """Whether a dip *shield* (2, 3), the normals of its edges, stops a ray along *dx*, *dy*, *dz*,
    mm: it leaves on the wrong side of both.
    """
    first = dx * shield[0, 0] + dy * shield[0, 1] + dz * shield[0, 2]
    second = dx * shield[1, 0] + dy * shield[1, 1] + dz * shield[1, 2]
    return first < 0.0 and second < 0.0


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def images(sources, source_normals, shield, mirror, mirror_normals):  # type: ignore[no-untyped-def]
    """Directions h, v (degrees) and weights, each (lit paths,), of source elements seen by mirror
    elements.

    *sources*, *source_normals* (n, 3): places, mm, and unit normals of the source's elements;
    *shield* (2, 3): the dip shield, zeros for none; *mirror*, *mirror_normals* (m, 3): likewise of
    the mirror's.
    """
    count = mirror.shape[0] * sources.shape[0]
    h, v, weights = np.empty(count), np.empty(count), np.empty(count)
    guarded = np.any(shield != 0.0)
    lit = 0
    for i in range(mirror.shape[0]):
        nx, ny, nz = mirror_normals[i, 0], mirror_normals[i, 1], mirror_normals[i, 2]
        for j in range(sources.shape[0]):
            dx, dy, dz = (
                mirror[i, 0] - sources[j, 0],
                mirror[i, 1] - sources[j, 1],
                mirror[i, 2] - sources[j, 2],
            )
            weight, meeting = _exchange(
                dx,
                dy,
                dz,
                source_normals[j, 0],
                source_normals[j, 1],
                source_normals[j, 2],
                nx,
                ny,
                nz,
            )
            if weight == 0.0 or (guarded and _blocked(shield, dx, dy, dz)):
                continue
            rx, ry, rz = dx - 2.0 * meeting * nx, dy - 2.0 * meeting * ny, dz - 2.0 * meeting * nz
            h[lit] = math.degrees(math.atan2(rx, math.sqrt(ry * ry + rz * rz)))
            v[lit] = math.degrees(math.atan2(ry, rz))
            weights[lit] = weight
            lit += 1
    return h[:lit], v[:lit], weights[:lit]


# What `each_image` tells of the image that a mirror element makes: light past a dip shield and
# without one, the least room under the line, the middle across and up, and the standard deviation
# of its height, degrees.
PAST, BARE, ROOM, MEAN_H, MEAN_V, HEIGHT = range(6)
FACTS = 6


@njit(cache=True, fastmath=True, parallel=True, nogil=True, error_model="numpy")
def each_image(  # type: ignore[no-untyped-def]
    sources, source_normals, shield, mirror, mirror_normals, line, half_deg, plane, focal
):
    """Facts (m, FACTS) of the image each mirror element makes of a source.

    *sources*, *source_normals* (n, 3): places, mm, and unit normals of its elements; *shield*
    (2, 3): the dip shield, zeros for none; *mirror*, *mirror_normals* (m, 3): likewise of the
    mirror's; *line* (columns,): a line's heights, degrees, at columns evenly spaced over
    ± *half_deg*. Seen through a lens of *focal* mm, behind which the *plane*, mm, lies that it
    throws, where *focal* is above 0.
    """
    facts = np.zeros((mirror.shape[0], FACTS))
    guarded = np.any(shield != 0.0)
    last = line.size - 1
    for i in prange(mirror.shape[0]):
        nx, ny, nz = mirror_normals[i, 0], mirror_normals[i, 1], mirror_normals[i, 2]
        past, bare, room, across, total, squares = 0.0, 0.0, 90.0, 0.0, 0.0, 0.0
        for j in range(sources.shape[0]):
            dx, dy, dz = (
                mirror[i, 0] - sources[j, 0],
                mirror[i, 1] - sources[j, 1],
                mirror[i, 2] - sources[j, 2],
            )
            weight, meeting = _exchange(
                dx,
                dy,
                dz,
                source_normals[j, 0],
                source_normals[j, 1],
                source_normals[j, 2],
                nx,
                ny,
                nz,
            )
            bare += weight
            if weight == 0.0 or (guarded and _blocked(shield, dx, dy, dz)):
                continue
            rx, ry, rz = dx - 2.0 * meeting * nx, dy - 2.0 * meeting * ny, dz - 2.0 * meeting * nz
            if focal > 0.0:
                run = (plane - mirror[i, 2]) / rz
                rx, ry, rz = -mirror[i, 0] - run * rx, -mirror[i, 1] - run * ry, focal
            h = math.degrees(math.atan2(rx, math.sqrt(ry * ry + rz * rz)))
            v = math.degrees(math.atan2(ry, rz))
            place = min(max((h / half_deg + 1.0) * 0.5 * last, 0.0), last - 0.001)
            cell = int(place)
            room = min(room, line[cell] + (place - cell) * (line[cell + 1] - line[cell]) - v)
            past += weight
            across += weight * h
            total += weight * v
            squares += weight * v * v
        facts[i, PAST], facts[i, BARE], facts[i, ROOM] = past, bare, room
        if past > 0.0:
            facts[i, MEAN_H], facts[i, MEAN_V] = across / past, total / past
            facts[i, HEIGHT] = math.sqrt(max(0.0, squares / past - (total / past) ** 2))
    return facts
