"""The compiled inner loops: every source element by every mirror element, into an angular grid.

A path carries flux·cosθ_source·cosθ_mirror·dA / (π·r²): Lambertian exchange between two surface
elements. Directions: v = atan2(y, z) about the lateral axis, h = asin(x): then a cut-off straight
and level on a wall square to the axis is one row of the grid. Each path goes to the nearest column,
shared between the two nearest rows: the edge needs the finer place.

The trace takes the source in bundles of elements that look one way, and leaves out those of which
none sees a mirror element. The rest goes in steps, each for a bundle at once, without a branch and
in single precision, so that the processor's vector units do it; only the adding to the grid is one
by one.

All that is compiled stands in this file, and what one entry needs is written into it: what is kept
on disk goes by the file's date, and what is compiled apart comes out otherwise by a rounding where
it is loaded.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from cold_arc.core.beam.slices import SLICES, each_slice

# A source's elements are taken so many at a time: a bundle of which none sees a mirror element is
# left out (own, chosen by timing).
BUNDLE = 32
# What single precision may be wrong by in a product of a place and a normal, by the place's size.
ROUNDING = 1e-5
# Where a path ends, in the order of the ledger that `trace` returns.
REACHED, SHIELDED, CUT, LENS_MISSED, OUTSIDE = range(5)
FATES = 5
# In place of a column: why a path reaches no cell.
_NO_COLUMN, _NO_LENS, _BEHIND_SHIELD, _SHADED = map(np.float32, (-1.0, -2.0, -3.0, -4.0))
_ZERO, _HALF, _ONE, _TWO, _TO_DEGREES = map(np.float32, (0.0, 0.5, 1.0, 2.0, 180 / math.pi))
# A right angle, and what counts as straight ahead at least where a ray turns back.
_RIGHT, _LEAST = np.float32(math.pi / 2), np.float32(1e-6)
F32 = np.float32


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _atan(t):
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
def _angle(side, ahead):
    """Degrees whose tangent is *side* / *ahead* (any one unit, scalars), held between −45° and
    45°.
    """
    t = side / ahead
    t = t if t < _ONE else _ONE
    t = t if t > -_ONE else -_ONE
    return _atan(t) * _TO_DEGREES


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _off(dx, dy, dz, sx, sy, sz, nx, ny, nz):
    """One source element's light off one mirror element, without a branch: the product of the way's
    parts along both normals, mm², 0 where the mirror's is unlit; the way's square, mm²; and the ray
    that leaves, mm.

    *dx*, *dy*, *dz*: the way from source to mirror element, mm; *sx*, *sy*, *sz*: the source
    element's normal; *nx*, *ny*, *nz*: the mirror's; unit vectors.
    """
    leaving = dx * sx + dy * sy + dz * sz
    meeting = dx * nx + dy * ny + dz * nz
    leaving = leaving if leaving > _ZERO else _ZERO
    meeting = meeting if meeting < _ZERO else _ZERO
    square, twice = dx * dx + dy * dy + dz * dz, _TWO * meeting
    return -leaving * meeting, square, dx - twice * nx, dy - twice * ny, dz - twice * nz


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _edges(shield):
    """The normals of a dip *shield*'s edges (2, 3) as six numbers, which a loop keeps at hand."""
    return shield[0, 0], shield[0, 1], shield[0, 2], shield[1, 0], shield[1, 1], shield[1, 2]


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _blocked(edges, dx, dy, dz):
    """Whether a dip shield, by the normals of its *edges*, stops a ray along *dx*, *dy*, *dz*, mm:
    it leaves on the wrong side of both.
    """
    ax, ay, az, bx, by, bz = edges
    return (dx * ax + dy * ay + dz * az < _ZERO) & (dx * bx + dy * by + dz * bz < _ZERO)


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _bounce(sources, shield, guarded, place, normal, optic, scale, weights, columns, rows):
    """A source's elements off one mirror element: weights, and where each lands in the grid.

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
    edges = _edges(shield)
    for j in range(sources.shape[1]):
        dx, dy, dz = mx - sources[0, j], my - sources[1, j], mz - sources[2, j]
        sx, sy, sz = sources[3, j], sources[4, j], sources[5, j]
        lit, square, rx, ry, rz = _off(dx, dy, dz, sx, sy, sz, nx, ny, nz)
        weights[j] = lit * sources[6, j] / (square * square)
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
            column = _BEHIND_SHIELD if _blocked(edges, dx, dy, dz) else column
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


def _bundled(emitters: Any) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """A source in bundles of elements that look one way: their places, mm, unit normals and flux,
    lm (k, 7, BUNDLE), dark ones after the last; and of each bundle (k, 5) the mean normal, how far
    from it a normal stands at most, and the least product of a place and its normal, mm.

    No element of a bundle sees a place of which the product with the mean normal, and that much of
    its distance besides, is no more than this least.
    """
    places, normals, flux = emitters.positions, emitters.normals, emitters.flux
    axis = int(np.argmin((normals**2).sum(axis=0)))
    round_it = np.round(np.arctan2(normals[:, axis - 1], normals[:, axis - 2]), 9)
    order = np.argsort(round_it, kind="stable")
    elements = np.concatenate((places, normals, flux[:, None]), axis=1)[order]
    parts = [elements[first : first + BUNDLE] for first in range(0, len(elements), BUNDLE)]
    bundles = np.zeros((len(parts), 7, BUNDLE), dtype=F32)
    looks = np.empty((len(parts), 5), dtype=F32)
    for bundle, look, part in zip(bundles, looks, parts, strict=True):
        bundle[:, : len(part)] = part.T
        ways = part[:, 3:6]
        look[:3] = ways.mean(axis=0)
        look[3] = np.linalg.norm(ways - look[:3], axis=1).max() + ROUNDING
        look[4] = (part[:, :3] * ways).sum(axis=1).min()
    return bundles, looks


def trace(
    emitters: Any, mirror: Any, optic: Any, angles: Angles
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Flux grid (rows, columns), lm, and ledger (FATES,), lm.

    *emitters* and *mirror* are surface elements with named arrays, *optic* what stands before them
    (lengths in mm), *angles* the :class:`Angles` to fill.
    """
    source, shield = _bundled(emitters), emitters.shield.astype(F32)
    places, normals = np.asarray(mirror.positions, F32), np.asarray(mirror.normals, F32)
    patches = (mirror.areas / math.pi).astype(F32)
    front = (
        bool(optic.has_lens),
        F32(optic.shield_at_mm),
        F32(optic.focal_mm),
        F32(optic.radius_mm**2),
    )
    scale = tuple(map(F32, (angles.first_h, angles.first_v, 1 / angles.step_h, 1 / angles.step_v)))
    line = np.full(angles.columns, np.inf, dtype=F32)
    if optic.stands:
        edge_h = np.linspace(-optic.half_deg, optic.half_deg, optic.edge_deg.size)
        h_deg = angles.first_h + angles.step_h * np.arange(angles.columns)
        line = ((np.interp(h_deg, edge_h, optic.edge_deg) - angles.first_v) / angles.step_v).astype(
            F32
        )
    cells, size = angles.rows * angles.columns, (F32(angles.rows - 1), F32(angles.columns - 1))
    # and a row above, with one cell more: there goes what reaches no cell
    grids = np.zeros((SLICES, cells + angles.columns + 1), dtype=F32)
    ledgers = np.zeros((SLICES, FATES))

    def trace_slice(part: int, cut: slice) -> None:
        lit = (source, shield, places[cut], normals[cut], patches[cut])
        _trace(*lit, front, bool(optic.stands), line, scale, size, grids[part], ledgers[part])

    each_slice(trace_slice, len(places))
    flux = grids[:, :cells].sum(axis=0, dtype=np.float64)
    return flux.reshape(angles.rows, angles.columns), ledgers.sum(axis=0)


@njit(cache=True, nogil=True, error_model="numpy")
def between(grid, rows, columns):
    """Values (n,) of a *grid* (rows, columns) at places *rows*, *columns* (n,), in cells, by
    straight lines between its nodes; 0 outside it.
    """
    values = np.zeros(rows.size)
    last_row, last_column = grid.shape[0] - 1, grid.shape[1] - 1
    for place in range(rows.size):
        row, column = rows[place], columns[place]
        if not (0.0 <= row <= last_row and 0.0 <= column <= last_column):
            continue
        r, c = min(int(row), last_row - 1), min(int(column), last_column - 1)
        up, across = row - r, column - c
        low = grid[r, c] + across * (grid[r, c + 1] - grid[r, c])
        high = grid[r + 1, c] + across * (grid[r + 1, c + 1] - grid[r + 1, c])
        values[place] = low + up * (high - low)
    return values


def is_compiled() -> bool:
    """Whether the trace is ready to run."""
    return bool(_trace.signatures)


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _shaded(columns, rows, line, last_column):
    """What a projector's shield stops: marked in *columns* (n,) where *rows* (n,) are above its
    *line* (columns,), in rows.
    """
    for j in range(BUNDLE):
        column = columns[j]
        inside = (column >= _ZERO) & (column < last_column)
        edge = line[np.uintp(np.int32((column if inside else _ZERO) + _HALF))]
        columns[j] = _SHADED if (column >= _ZERO) & (rows[j] > edge) else column


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _placed(ledger, size, patch, weights, columns, rows):
    """From what `_bounce` fills to cells of a flat grid, in place: *weights* (n,), lm, by the
    mirror element's *patch*; *columns* become cells, the one past the grid for what reaches none;
    *rows* the part, lm, that goes to the cell above. Adds to the *ledger* (FATES,), lm.

    *size* (2,): the grid's last row and column.
    """
    last_row, last_column = size
    many = last_column + _ONE
    nowhere = many * (last_row + _ONE)
    every, reached, shielded, missed, cut = _ZERO, _ZERO, _ZERO, _ZERO, _ZERO
    for j in range(BUNDLE):
        weight, column, row = weights[j] * patch, columns[j], rows[j]
        every += weight
        shielded += weight if column == _BEHIND_SHIELD else _ZERO
        missed += weight if column == _NO_LENS else _ZERO
        cut += weight if column == _SHADED else _ZERO
        inside = (column >= _ZERO) & (column < last_column) & (row >= _ZERO) & (row < last_row)
        reached += weight if inside else _ZERO
        low = np.floor(row)
        cell = low * many + np.floor(column + _HALF)
        weights[j] = weight
        columns[j] = cell if inside else nowhere
        rows[j] = weight * (row - low)
    ledger[REACHED] += reached
    ledger[SHIELDED] += shielded
    ledger[CUT] += cut
    ledger[LENS_MISSED] += missed
    ledger[OUTSIDE] += every - reached - shielded - cut - missed


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _land(grid, columns, weights, higher, cells):
    """Adds what a bundle throws, *weights* (n,), lm, to the *cells* (n,) of a flat *grid* with
    *columns* of them in a row, the part *higher* (n,) to the cells above.
    """
    for j in range(BUNDLE):
        low = np.uintp(np.int32(cells[j]))
        grid[low] += weights[j] - higher[j]
        grid[low + columns] += higher[j]


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def _trace(
    source, shield, places, normals, patches, front, stands, line, scale, size, grid, ledger
):
    """Fills a flat *grid* of flux, lm, and a *ledger* (FATES,), lm, by a slice of a mirror.

    *source*: its bundles, as `_bundled` makes them; *shield* (2, 3): the dip shield, mm, zeros for
    none; *places*, *normals* (m, 3): the mirror's elements, mm; *patches* (m,): their sizes;
    *front*: what stands before the mirror, as `_bounce` takes it; *stands*: whether a projector's
    shield is up; *line* (columns,): its edge, in rows; *scale*: first column and row, cells a
    degree; *size*: the grid's last row and column.
    """
    bundles, looks = source
    guarded = np.any(shield != _ZERO)
    weights = np.empty(BUNDLE, dtype=F32)
    across, up = np.empty(BUNDLE, dtype=F32), np.empty(BUNDLE, dtype=F32)
    for i in range(places.shape[0]):
        x, y, z = places[i]
        far = math.sqrt(x * x + y * y + z * z)
        for j in range(looks.shape[0]):
            nx, ny, nz, spread, least = looks[j]
            if nx * x + ny * y + nz * z + spread * far > least:
                lit = bundles[j]
                _bounce(
                    lit, shield, guarded, places[i], normals[i], front, scale, weights, across, up
                )
                if stands:
                    _shaded(across, up, line, size[1])
                _placed(ledger, size, patches[i], weights, across, up)
                _land(grid, np.uintp(line.size), weights, up, across)


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def images(sources, source_normals, shield, mirror, mirror_normals):
    """Directions h, v (degrees) and weights, each (lit paths,), of source elements seen by mirror
    elements.

    *sources*, *source_normals* (n, 3): places, mm, and unit normals of the source's elements;
    *shield* (2, 3): the dip shield, zeros for none; *mirror*, *mirror_normals* (m, 3): likewise of
    the mirror's.
    """
    count = mirror.shape[0] * sources.shape[0]
    h, v, weights = np.empty(count), np.empty(count), np.empty(count)
    guarded, edges = np.any(shield != 0.0), _edges(shield)
    lit = 0
    for i in range(mirror.shape[0]):
        mx, my, mz = mirror[i]
        nx, ny, nz = mirror_normals[i]
        for j in range(sources.shape[0]):
            dx, dy, dz = mx - sources[j, 0], my - sources[j, 1], mz - sources[j, 2]
            sx, sy, sz = source_normals[j]
            caught, square, rx, ry, rz = _off(dx, dy, dz, sx, sy, sz, nx, ny, nz)
            if caught == 0.0 or (guarded and _blocked(edges, dx, dy, dz)):
                continue
            h[lit] = math.degrees(math.atan2(rx, math.sqrt(ry * ry + rz * rz)))
            v[lit] = math.degrees(math.atan2(ry, rz))
            weights[lit] = caught / (square * square)
            lit += 1
    return h[:lit], v[:lit], weights[:lit]


# What `each_image` tells of the image that a mirror element makes: light past a dip shield and
# without one, the least room under the line, the middle across and up, and the standard deviation
# of its height, degrees.
PAST, BARE, ROOM, MEAN_H, MEAN_V, HEIGHT = range(6)
FACTS = 6


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _any_angle(side, ahead):
    """Radians from *ahead*, above 0, to *side* (any one unit, scalars), between −90° and 90°."""
    size = abs(side)
    steep = size > ahead
    angle = _atan((ahead if steep else size) / (size if steep else ahead))
    angle = _RIGHT - angle if steep else angle
    return angle if side >= _ZERO else -angle


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _imaged(sources, shield, guarded, place, normal, lens, weights, bare, across, up):
    """The image that one mirror element makes of a source: where each element's light goes.

    *sources* (6, n): places, mm, and unit normals of its elements; *shield* (2, 3): the dip
    shield's edges, mm, which counts where *guarded*; *place*, *normal* (3,): of the mirror's
    element, mm and unit; *lens*: plane and focal length, mm, of a lens where that is above 0.

    Fills *weights*, past the shield, and *bare*, without it (n,), shares of the light; *across* and
    *up* (n,), degrees.
    """
    mx, my, mz = place[0], place[1], place[2]
    nx, ny, nz = normal[0], normal[1], normal[2]
    plane, focal = lens
    through = focal > _ZERO
    edges = _edges(shield)
    for j in range(sources.shape[1]):
        dx, dy, dz = mx - sources[0, j], my - sources[1, j], mz - sources[2, j]
        sx, sy, sz = sources[3, j], sources[4, j], sources[5, j]
        lit, square, rx, ry, rz = _off(dx, dy, dz, sx, sy, sz, nx, ny, nz)
        weight = lit / (square * square)
        bare[j] = weight
        if guarded:
            weight = _ZERO if _blocked(edges, dx, dy, dz) else weight
        weights[j] = weight
        rz = rz if rz > _LEAST else _LEAST
        if through:
            run = (plane - mz) / rz
            rx, ry, rz = -mx - run * rx, -my - run * ry, focal
        across[j] = _any_angle(rx, math.sqrt(ry * ry + rz * rz)) * _TO_DEGREES
        up[j] = _any_angle(ry, rz) * _TO_DEGREES


@njit(cache=True, fastmath=True, inline="always", error_model="numpy")
def _summed(facts, weights, bare, across, up, line, half_deg):
    """Fills the *facts* (FACTS,) of an image: its *weights*, *bare*, *across*, *up* (n,) as
    `_imaged` fills them, under a *line* (columns,) of heights, degrees, over ± *half_deg*.
    """
    past, all_of_it, h, v, squares, room = 0.0, 0.0, 0.0, 0.0, 0.0, 90.0
    last = line.size - 1
    for j in range(weights.size):
        weight = weights[j]
        all_of_it += bare[j]
        if weight <= _ZERO:
            continue
        place = min(max((across[j] / half_deg + 1.0) * 0.5 * last, 0.0), last - 0.001)
        cell = int(place)
        room = min(room, line[cell] + (place - cell) * (line[cell + 1] - line[cell]) - up[j])
        past += weight
        h += weight * across[j]
        v += weight * up[j]
        squares += weight * up[j] * up[j]
    facts[PAST], facts[BARE], facts[ROOM] = past, all_of_it, room
    if past > 0.0:
        facts[MEAN_H], facts[MEAN_V] = h / past, v / past
        facts[HEIGHT] = math.sqrt(max(0.0, squares / past - (v / past) ** 2))


@njit(cache=True, fastmath=True, nogil=True, error_model="numpy")
def _each_image(sources, shield, places, normals, line, half_deg, lens, facts):
    """Fills *facts* (m, FACTS) of the image each mirror element makes: see `each_image`."""
    points = sources.shape[1]
    guarded = np.any(shield != _ZERO)
    weights, bare = np.empty(points, dtype=F32), np.empty(points, dtype=F32)
    across, up = np.empty(points, dtype=F32), np.empty(points, dtype=F32)
    for i in range(places.shape[0]):
        _imaged(sources, shield, guarded, places[i], normals[i], lens, weights, bare, across, up)
        _summed(facts[i], weights, bare, across, up, line, half_deg)


def each_image(
    emitters: Any, places: Any, normals: Any, line: Any, half_deg: float, lens: tuple[float, float]
) -> NDArray[np.float64]:
    """Facts (m, FACTS) of the image each mirror element makes of a source.

    *emitters*: the source's elements with named arrays; *places*, *normals* (m, 3): of the
    mirror's, mm and unit; *line* (columns,): a line's heights, degrees, at columns evenly spaced
    over ± *half_deg*. Seen through a *lens*: the plane, mm, that it throws, and its focal length,
    mm; 0 for none.
    """
    sources = np.ascontiguousarray(np.concatenate(emitters[:2], axis=1).astype(F32).T)
    shield, places, normals = emitters.shield.astype(F32), places.astype(F32), normals.astype(F32)
    seen_by = F32(lens[0]), F32(lens[1])
    facts = np.zeros((len(places), FACTS))

    def image_slice(_: int, cut: slice) -> None:
        _each_image(sources, shield, places[cut], normals[cut], line, half_deg, seen_by, facts[cut])

    each_slice(image_slice, len(places))
    return facts
