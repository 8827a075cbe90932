"""A map of a beam's light: candela in cells of directions from the lamp, which of them are known,
and how well. One type for a photograph, a file and the model.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from cold_arc.core.beam import kernel
from cold_arc.core.beam.derived import wall_direction
from cold_arc.core.beam.model import GRID, ROUGH_GRID, Array, Beam, Grid
from cold_arc.core.wallphoto.camera import PhotoMark, find_camera
from cold_arc.core.wallphoto.directions import Subject, in_directions
from cold_arc.core.wallphoto.isolux import LuxReading, lux_a_light
from cold_arc.core.wallphoto.picture import PhotoUnusableError, WallPicture

# The cells: from where to where, and how wide and high, degrees: what a wall at 7.6 m shows of a
# lamp, as coarse as its mirror's own texture (own).
H_FROM, H_TO, H_CELL = -24.0, 24.0, 1.0
V_FROM, V_TO, V_CELL = -8.0, 5.0, 0.5
# What a cell is worth: a share of its light, and of the brightest cell's (own: a telephone's tone
# and its corners; a mirror's texture).
DOUBT_SHARE, DOUBT_OF_PEAK = 0.06, 0.006
# A cell counts as known where so much of it was seen; a map tells a beam with so many cells.
SEEN_SHARE, LEAST_CELLS = 0.6, 60


@dataclass(frozen=True)
class LightMap:
    """*h*, *v*: the cells' middles, degrees right (columns) and up (rows); *candela* (rows,
    columns), of relative light where it is not *absolute*; *known*: which cells were seen, and not
    lost in white.
    """

    h: Array
    v: Array
    candela: Array
    known: NDArray[np.bool_]
    absolute: bool = True

    @property
    def peak(self) -> float:
        """The brightest known cell."""
        return float(self.candela[self.known].max())

    @property
    def doubt(self) -> Array:
        """The standard uncertainty of every cell, in the unit of its candela."""
        return np.hypot(DOUBT_SHARE * self.candela, DOUBT_OF_PEAK * self.peak)

    def as_bright_as(self, other: LightMap) -> LightMap:
        """The same light, as much in all as another in the cells that both know; itself where both
        are absolute.
        """
        both = self.known & other.known
        if other.absolute or not both.any():
            return self
        factor = float(other.candela[both].sum() / self.candela[both].sum())
        return replace(self, candela=self.candela * factor, absolute=False)

    def mirrored(self) -> LightMap:
        """The same light with left and right exchanged."""
        return LightMap(self.h, self.v, self.candela[:, ::-1], self.known[:, ::-1], self.absolute)


def cells() -> tuple[Array, Array]:
    """The middles of the cells across and up."""
    h = np.arange(H_FROM + H_CELL / 2, H_TO, H_CELL)
    return h, np.arange(V_FROM + V_CELL / 2, V_TO, V_CELL)


def binned(h: Array, v: Array, values: Array, seen: NDArray[np.bool_]) -> tuple[Array, Array]:
    """The mean of the *values* that were *seen* (both (rows along *v*, columns along *h*), degrees)
    in each cell, and how much of each was seen, 0 to 1.
    """
    columns, rows = (axis.size for axis in cells())
    across = _sorted_into(np.floor((h - H_FROM) / H_CELL + 1e-9), columns)
    up = _sorted_into(np.floor((v - V_FROM) / V_CELL + 1e-9), rows)
    total = up @ np.where(seen, values, 0.0) @ across.T
    count = up @ seen.astype(float) @ across.T
    every = up.sum(axis=1) @ across.sum(axis=1).T
    return total / np.maximum(count, 1.0), count / np.maximum(np.asarray(every), 1.0)


def _sorted_into(places: Array, cell_count: int) -> csr_matrix:
    """Ones (cells, places) where a place belongs to a cell."""
    inside = np.flatnonzero((places >= 0) & (places < cell_count))
    return csr_matrix(
        (np.ones(inside.size), (places[inside].astype(int), inside)),
        shape=(cell_count, places.size),
    )


# Of the brightest cell's light: what is fainter tells no texture; and how many times the model's
# light, or its inverse, a texture holds at most (own).
FAINT, MOST_TIMES = 0.02, 2.0


@dataclass(frozen=True)
class Texture:
    """What a lamp shows besides its model, a mirror's waves or a dull place: how many times as much
    light (*times*: rows, columns of `cells`) while it was aimed *aim_v* up and *aim_h* right,
    degrees.
    """

    times: tuple[tuple[float, ...], ...]
    aim_v: float
    aim_h: float

    def over(self, light: LightMap, aim_v: float, aim_h: float) -> LightMap:
        """The model's *light* with it, the lamp now aimed *aim_v* up and *aim_h* right, degrees."""
        rows = np.arange(light.v.size) - (aim_v - self.aim_v) / V_CELL
        columns = np.arange(light.h.size) - (aim_h - self.aim_h) / H_CELL
        places = (each.ravel() for each in np.meshgrid(rows, columns, indexing="ij"))
        more = kernel.between(np.array(self.times) - 1.0, *places).reshape(light.candela.shape)
        return replace(light, candela=light.candela * (1.0 + more))


def is_a_texture(times: tuple[tuple[float, ...], ...]) -> bool:
    """Whether numbers may be a texture's: as many as there are cells, within its bounds."""
    h, v = cells()
    full = len(times) == v.size and all(len(row) == h.size for row in times)
    return full and all(1 / MOST_TIMES <= each <= MOST_TIMES for row in times for each in row)


def texture_of(seen: LightMap, modelled: LightMap, aim_v: float, aim_h: float) -> Texture:
    """The texture of a lamp, aimed *aim_v* up and *aim_h* right, degrees, that was *seen* where its
    model has *modelled*.
    """
    both = seen.known & modelled.known
    faint = FAINT * modelled.peak
    times = np.where(both, (seen.candela + faint) / (modelled.candela + faint), 1.0)
    held = np.round(np.clip(times, 1 / MOST_TIMES, MOST_TIMES), 3)
    return Texture(tuple(tuple(map(float, row)) for row in held), aim_v, aim_h)


# From how many standard deviations on two maps differ beyond doubt; what a model is off by in a
# cell (own).
BEYOND, MODEL_SHARE = 2.0, 0.08


def beyond_doubt(seen: LightMap, foretold: LightMap) -> Array:
    """How much more light (a share of what was *foretold*; less where negative) was *seen* in each
    cell (rows, columns) where the two differ beyond doubt; 0 in every other.
    """
    doubt = np.hypot(seen.doubt, MODEL_SHARE * foretold.candela)
    apart = seen.candela - foretold.candela
    is_beyond = seen.known & foretold.known & (np.abs(apart) > BEYOND * doubt)
    return np.where(is_beyond, apart / np.maximum(foretold.candela, doubt), 0.0)


def of_beam(beam: Beam) -> LightMap:
    """The map of a beam over the model's grid; what lies outside it is not known."""
    return _of_light(beam.grid, beam.intensity)


def _of_light(grid: Grid, candela: Array) -> LightMap:
    """The map of light (rows, columns) on a model's *grid*."""
    mean, share = binned(grid.h, grid.v, candela, np.ones(candela.shape, dtype=bool))
    h, v = cells()
    return LightMap(h, v, mean, share > SEEN_SHARE)


@dataclass(frozen=True)
class LampBeside:
    """The other lamp of a pair, lit too before one wall: *right_m* of the lamp that is read
    (negative: left of it), before a wall *distance_m* away.
    """

    right_m: float
    distance_m: float


def of_pair(
    beam: Beam, beside: LampBeside, brighter: float, up_deg: float, right_deg: float
) -> LightMap:
    """The map of two lamps of one beam as it is taken of the wall, in directions from the first.

    The other is *brighter* by that factor, and aimed *up_deg* and *right_deg* of the first.
    """
    h, v, weakened = _seen_beside(beam.grid is ROUGH_GRID, beside)
    other = beam.at(h - right_deg, v - up_deg) * weakened
    return _of_light(beam.grid, beam.intensity + brighter * other)


@lru_cache(maxsize=4)
def _seen_beside(rough: bool, beside: LampBeside) -> tuple[Array, Array, Array]:
    """For each node of a grid of directions from one lamp: the directions h, v (rows, columns),
    degrees, in which the other lamp sees the same place of the wall, and how many candela of the
    first give what one of the other gives there: E on a flat wall goes with cos³.
    """
    grid = ROUGH_GRID if rough else GRID
    across, up = np.radians(grid.h)[None, :], np.radians(grid.v)[:, None]
    right = beside.distance_m * np.tan(across) / np.cos(up)
    down = -beside.distance_m * np.tan(up)
    h, v = wall_direction(right - beside.right_m, down, beside.distance_m)
    h, v = np.broadcast_arrays(h, v)
    own = np.cos(across) * np.cos(up)
    other = np.cos(np.radians(h)) * np.cos(np.radians(v))
    return h, v, np.asarray((other / own) ** 3)


def of_picture(
    picture: WallPicture,
    marks: list[PhotoMark],
    subject: Subject,
    reading: LuxReading | None = None,
) -> LightMap:
    """The map of a photograph of the wall, absolute with one *reading* of a meter: *picture* in
    light, *marks* in its pixels, *subject* what it shows and from where.

    PhotoUnusableError where it shows too little of the beam.
    """
    camera = find_camera(marks, picture.size)
    wall = in_directions(picture, camera, subject, 5, ((H_FROM, H_TO), (V_FROM, V_TO)))
    seen = np.isfinite(wall.light) & ~wall.lost
    light = np.maximum(wall.known - wall.dark, 0.0)
    mean, share = binned(wall.h, wall.v, light, seen)
    scale = lux_a_light(picture, camera, reading)
    if reading is not None and scale is None:
        raise PhotoUnusableError(
            "The meter's reading lies outside the picture, or where it is plain white."
        )
    factor = scale * subject.distance_m**2 if scale else 1.0
    h, v = cells()
    light_map = LightMap(h, v, mean * factor, share > SEEN_SHARE, scale is not None)
    if int(light_map.known.sum()) < LEAST_CELLS or light_map.peak <= 0:
        raise PhotoUnusableError("The picture shows too little of the beam to tell a housing.")
    return light_map
