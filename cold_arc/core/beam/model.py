"""The beam: a source, seated like this, in this housing: intensity over angles, with every lumen
accounted for.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from threading import Lock
from typing import Any, cast

import numpy as np

from cold_arc.core.beam import compiler, kernel
from cold_arc.core.beam.housings import FrontOptic, Housing, Mirror
from cold_arc.core.beam.sources import Array, Dual, Emitters, PointCloud, Source
from cold_arc.core.beam.spreading import blurred, foreground, lobe

# The grid, degrees: as wide as a road lamp shines, as fine as the sharpness of UN R112 is scanned
# (0.1°, from memory).
H_RANGE_DEG = (-45.0, 45.0)
V_RANGE_DEG = (-20.0, 15.0)
H_STEP_DEG, V_STEP_DEG = 0.2, 0.1
# Shares of the light a lens scatters when clean and, at haze 1, scatters and absorbs, into a lobe
# of this deviation (own, chosen so that grades look on the wall as the trade describes them; no
# published source).
CLEAN_SCATTER, HAZE_SCATTER, HAZE_ABSORB = 0.006, 0.5, 0.25
HAZE_LOBE_DEG = 5.0
# What a strip of the lens does to its share of a low beam: lifts it and spreads it up and across
# (own, chosen for the light above the horizon that signs need: UN R112's sign points, 49 CFR
# 571.108).
SIGN_LIFT_DEG, SIGN_LOBE_DEG = 3.5, (1.8, 5.0)


@dataclass(frozen=True)
class Grid:
    """Directions on which a beam is given: nodes in degrees, h right, v up."""

    h: Array
    v: Array

    @property
    def steps(self) -> tuple[float, float]:
        """Distance between nodes up and across, degrees."""
        return float(self.v[1] - self.v[0]), float(self.h[1] - self.h[0])

    @property
    def solid_angles(self) -> Array:
        """Solid angle of each node's cell, sr, (rows, columns): cos h·dh·dv (h = asin x, v =
        atan2(y, z)).
        """
        dh, dv = math.radians(self.h[1] - self.h[0]), math.radians(self.v[1] - self.v[0])
        row = np.cos(np.radians(self.h)) * dh * dv
        return np.tile(row, (self.v.size, 1))


def _axis(low: float, high: float, step: float) -> Array:
    return np.asarray(low + step * np.arange(round((high - low) / step) + 1), dtype=np.float64)


GRID = Grid(_axis(*H_RANGE_DEG, H_STEP_DEG), _axis(*V_RANGE_DEG, V_STEP_DEG))
# A rough beam: cells twice as wide and as high, every sixth element of the mirror (own).
ROUGH_THINS = 6
ROUGH_GRID = Grid(_axis(*H_RANGE_DEG, 2 * H_STEP_DEG), _axis(*V_RANGE_DEG, 2 * V_STEP_DEG))


@dataclass(frozen=True)
class Beam:
    """A beam: *flux* (rows, columns) lm at the grid's nodes; *losses* lm by name; their sum is
    *emitted_lm*.

    *cct_k*: its colour temperature; *yellow*: whether it is selective yellow instead.
    """

    grid: Grid
    flux: Array
    emitted_lm: float
    losses: dict[str, float]
    housing: Housing
    cct_k: float = 3200.0
    yellow: bool = False

    @cached_property
    def intensity(self) -> Array:
        """Luminous intensity, cd, (rows, columns)."""
        return np.asarray(self.flux / self.grid.solid_angles)

    @property
    def flux_lm(self) -> float:
        """Flux in the beam, lm."""
        return float(self.flux.sum())

    @property
    def past_shield_lm(self) -> float:
        """What leaves the bulb past its dip shield, lm: what two sources are compared by."""
        return self.emitted_lm - self.losses.get("dip shield", 0.0)

    def at(self, h_deg: Array | float, v_deg: Array | float) -> Array:
        """Intensity, cd, towards directions *h_deg*, *v_deg* (…), bilinear; 0 outside the grid."""
        rows = (np.asarray(v_deg, dtype=np.float64) - self.grid.v[0]) / (
            self.grid.v[1] - self.grid.v[0]
        )
        columns = (np.asarray(h_deg, dtype=np.float64) - self.grid.h[0]) / (
            self.grid.h[1] - self.grid.h[0]
        )
        rows, columns = np.broadcast_arrays(rows, columns)
        flat = (np.ascontiguousarray(part, dtype=np.float64).ravel() for part in (rows, columns))
        candela: Array = kernel.between(self.intensity, *flat)
        return candela.reshape(rows.shape)


@dataclass(frozen=True)
class Conditions:
    """What stands between mirror and road: *haze* 0 to 1, *filter_factor* (yellow 0.7), aim offset
    in degrees.

    *source_points*: how finely the source is cut; None for the housing's own number. *gain*,
    *widen*: how much brighter and wider a very housing shines than its kind.
    """

    haze: float = 0.0
    filter_factor: float = 1.0
    aim_v_deg: float = 0.0
    aim_h_deg: float = 0.0
    source_points: int | None = None
    gain: float = 1.0
    widen: float = 1.0


CLEAR = Conditions()


@dataclass
class _Ledger:
    losses: dict[str, float] = field(default_factory=dict)

    def take(self, name: str, lumens: float) -> None:
        self.losses[name] = self.losses.get(name, 0.0) + lumens


# A trace takes every processor there is: two at once would only wait for one another. So would two
# who design the same mirror.
_ONE_AT_A_TIME, _ONE_DESIGNER = Lock(), Lock()
# So many traces are kept, 1.3 MB each on the fine grid: what changes behind the mirror alone (haze,
# brightness, a source's flux, the lens's strip) needs no other.
TRACES_KEPT = 4


# Mirrors kept, 1.4 MB each in single precision: what the loop computes in.
@lru_cache(maxsize=32)
def _mirror(housing: Housing, nominal: Source, thins: int = 0) -> Mirror:
    if thins:
        return _mirror(housing, nominal).thinned(thins)
    single: list[Any] = [part.astype(kernel.F32) for part in housing.mirror(nominal)]
    return Mirror(*single)


# A source's elements at 1 000 lm, asked for by its trace and by what joins it at the lens; up to
# 40 kB each.
@lru_cache(maxsize=16)
def _cloud(source: Source, points: int) -> PointCloud:
    return source.cloud(points)


def _without_strip(housing: Housing) -> Housing:
    """A housing without the strip of its lens for signs: nothing before that depends on it."""
    pattern = housing.pattern
    if pattern is None:
        return housing
    changed: Any = replace(housing, pattern=replace(pattern, sign=0.0))  # type: ignore[type-var]
    return cast(Housing, changed)


def _at_1000_lm(source: Source) -> tuple[Source, float]:
    """A source at 1 000 lm, and how many times as bright it is: a trace is linear in its light."""
    if isinstance(source, Dual):
        return source, 1.0
    return replace(source, flux_lm=1000.0), source.flux_lm / 1000.0


@lru_cache(maxsize=TRACES_KEPT)
def _traced(
    housing: Housing,
    nominal: Source,
    source: Source,
    points: int,
    aim_deg: tuple[float, float],
    thins: int,
) -> tuple[Array, Array]:
    """Flux (rows, columns) off a mirror before it absorbs anything, lm, and what became of all that
    met it (FATES,), lm.

    *points*: how finely the source is cut; *aim_deg*: across and up; *thins*: on the rough grid,
    from every so-many-th element; on the fine one from all where it is 0.
    """
    with _ONE_DESIGNER:
        mirror = _mirror(housing, nominal, thins)
    grid = ROUGH_GRID if thins else GRID
    up, across = grid.steps
    first_h, first_v = float(grid.h[0]) - aim_deg[0], float(grid.v[0]) - aim_deg[1]
    angles = kernel.Angles(first_h, first_v, across, up, grid.v.size, grid.h.size)
    with _ONE_AT_A_TIME:
        return kernel.trace(_cloud(source, points).emitters, mirror, housing.optic(), angles)


def illuminate(
    housing: Housing,
    nominal: Source,
    source: Source,
    conditions: Conditions = CLEAR,
    rough: bool = False,
    thins: int = ROUGH_THINS,
) -> Beam:
    """The beam of *source* in *housing*, which was designed for *nominal*, as *conditions* (haze,
    filter, aim) leave it.

    *rough*: half as fine a grid and every *thins*-th mirror element, for comparing beams where no
    picture is wanted.

    Raises ValueError for haze or filter outside 0 to 1.
    """
    if not 0 <= conditions.haze <= 1 or not 0 < conditions.filter_factor <= 1:
        raise ValueError("Haze must be between 0 and 1, a filter factor above 0 and up to 1.")
    grid = ROUGH_GRID if rough else GRID
    points = conditions.source_points or housing.source_points
    aim_deg = conditions.aim_h_deg, conditions.aim_v_deg
    plain, times = _at_1000_lm(source)
    cloud = _cloud(plain, points)
    emitted_lm = times * cloud.total_lm
    traced = _traced(
        _without_strip(housing), nominal, plain, points, aim_deg, thins if rough else 0
    )
    flux, fates = (times * part for part in traced)
    ledger = _Ledger()
    on_mirror, shielded = float(fates.sum() - fates[kernel.SHIELDED]), float(fates[kernel.SHIELDED])
    if (
        cloud.told_lm is None
    ):  # a shield that is part of the bulb has had its share before the flux was told
        ledger.take("dip shield", shielded)
    ledger.take("missed mirror", emitted_lm - on_mirror - ledger.losses.get("dip shield", 0.0))
    ledger.take("mirror absorbed", on_mirror * (1 - housing.reflectance))
    for name, fate in (
        ("cut-off shield", kernel.CUT),
        ("missed lens", kernel.LENS_MISSED),
        ("outside", kernel.OUTSIDE),
    ):
        ledger.take(name, float(fates[fate]) * housing.reflectance)
    straight = times * _past_the_cap(cloud, housing, conditions, grid)
    ledger.take("missed mirror", -float(straight.sum()))
    flux = _front(flux * housing.reflectance, straight, grid, housing, conditions, ledger)
    return Beam(grid, flux, emitted_lm, ledger.losses, housing)


def added(beams: Sequence[Beam]) -> Beam:
    """The beam of several sources lit at once in one housing: their light adds up, and what each
    loses.
    """
    first, *others = beams
    if not others:
        return first
    losses: dict[str, float] = {}
    for beam in beams:
        for name, lost in beam.losses.items():
            losses[name] = losses.get(name, 0.0) + lost
    return replace(
        first,
        flux=np.sum([beam.flux for beam in beams], axis=0),
        emitted_lm=sum(beam.emitted_lm for beam in beams),
        losses=losses,
    )


@lru_cache(maxsize=8)
def _window(
    rough: bool, aim_h_deg: float, aim_v_deg: float, window_deg: tuple[float, float]
) -> tuple[Any, Array]:
    """Nodes (n,) of a grid, counted through it, between two angles off a lamp's axis, and their
    directions (n, 3).
    """
    grid = ROUGH_GRID if rough else GRID
    h, v = np.radians(grid.h - aim_h_deg)[None, :], np.radians(grid.v - aim_v_deg)[:, None]
    ahead = np.stack(
        [np.sin(h) + 0 * v, np.cos(h) * np.sin(v), np.cos(h) * np.cos(v)], axis=-1
    ).reshape(-1, 3)
    off_axis = np.degrees(np.arccos(ahead[:, 2]))
    opened = np.flatnonzero((off_axis >= window_deg[0]) & (off_axis <= window_deg[1]))
    return opened, ahead[opened]


def _past_the_cap(cloud: PointCloud, housing: Housing, conditions: Conditions, grid: Grid) -> Array:
    """Flux (rows, columns) that leaves a bare source straight through the lens, between the bulb's
    cap and the bezel.

    A Lambertian face of Φ lm has Φ/π·cosθ cd. A face's own half space only; a dip shield keeps its
    side dark.
    """
    flux = np.zeros((grid.v.size, grid.h.size))
    if not cloud.bare or housing.window_deg is None:
        return flux
    opened, ahead = _window(
        grid is ROUGH_GRID, conditions.aim_h_deg, conditions.aim_v_deg, housing.window_deg
    )
    faces, which = np.unique(np.round(cloud.normals, 9), axis=0, return_inverse=True)
    lumens = np.bincount(which.ravel(), cloud.flux)
    candela = np.maximum(ahead @ faces.T, 0.0) @ lumens / math.pi
    if cloud.shield.any():
        candela[np.all(ahead @ cloud.shield.T < 0, axis=-1)] = 0.0
    flux.ravel()[opened] = candela * grid.solid_angles.ravel()[opened]
    return flux


def _front(
    flux: Array,
    straight: Array,
    grid: Grid,
    housing: Housing,
    conditions: Conditions,
    ledger: _Ledger,
) -> Array:
    """The mirror's finish, the lens's strip for signs, lens, filter and haze, each loss named.

    *straight*: what joins the mirror's light at the lens.
    """
    if conditions.widen != 1.0:
        flux = _widened(flux, grid, conditions, ledger)
    if conditions.gain != 1.0:
        ledger.take("this housing against its kind", float(flux.sum()) * (1 - conditions.gain))
        flux = flux * conditions.gain
    across_deg = math.hypot(housing.finish_deg, housing.soft_deg)
    sigma = housing.finish_deg / grid.steps[0], across_deg / grid.steps[1]
    flux = _left(flux, blurred(flux, sigma, 3.0), ledger)
    if housing.pattern and housing.cut_off.shape != "none":
        strip = flux * housing.pattern.sign
        lifted = _left(strip, lobe(strip, grid.steps, SIGN_LOBE_DEG, SIGN_LIFT_DEG), ledger)
        flux = flux - strip + lifted
    if housing.pattern:
        fore = flux * housing.fore_share
        flux = flux - fore + _left(fore, foreground(fore, grid.steps), ledger)
    flux = flux + straight
    arriving, through = float(flux.sum()), housing.lens_transmittance
    ledger.take("lens absorbed", arriving * (1 - through))
    ledger.take("filter", arriving * through * (1 - conditions.filter_factor))
    filtered = flux * (through * conditions.filter_factor)
    return _hazed(filtered, grid, conditions.haze, ledger)


def _widened(flux: Array, grid: Grid, conditions: Conditions, ledger: _Ledger) -> Array:
    """Stretched sideways about where the beam is aimed: the flux up to each direction moves with
    it.
    """
    middle = conditions.aim_h_deg
    nodes = np.append(grid.h - grid.steps[1] / 2, grid.h[-1] + grid.steps[1] / 2)
    up_to = np.pad(np.cumsum(flux, axis=1), ((0, 0), (1, 0)))
    places = (middle + (nodes - middle) / conditions.widen - nodes[0]) / grid.steps[1]
    places = np.clip(places, 0, nodes.size - 1)
    cell = np.minimum(places.astype(int), nodes.size - 2)
    share = places - cell
    stretched = up_to[:, cell] * (1 - share) + up_to[:, cell + 1] * share
    wide = np.diff(stretched, axis=1)
    ledger.take("outside", float(flux.sum() - wide.sum()))
    return np.asarray(wide)


def _hazed(flux: Array, grid: Grid, haze: float, ledger: _Ledger) -> Array:
    """A transmitted part, a scattered lobe, an absorbed part. The cleanest lens scatters a
    little.
    """
    absorbed, scatters = HAZE_ABSORB * haze, CLEAN_SCATTER + (HAZE_SCATTER - CLEAN_SCATTER) * haze
    ledger.take("haze absorbed", float(flux.sum()) * absorbed)
    part = flux * scatters
    scattered = _left(part, lobe(part, grid.steps, (HAZE_LOBE_DEG, HAZE_LOBE_DEG)), ledger)
    return np.asarray(flux * (1 - absorbed) - part + scattered)


def _left(flux: Array, spread: Array, ledger: _Ledger) -> Array:
    """What a beam's *flux* is once it is *spread*; what left the grid counts as outside."""
    ledger.take("outside", float(flux.sum() - spread.sum()))
    return spread


def forget() -> None:
    """Drops the traces that are kept, where what one costs is to be measured."""
    _traced.cache_clear()


def is_warm() -> bool:
    """Whether the compiled kernel is ready, so that a page need not wait for a compiler."""
    return kernel.is_compiled()


def warm() -> None:
    """Compiles the kernel, or loads it from the cache on disk, by a small trace."""
    was_warm = is_warm()
    one, none = np.zeros((1, 3)), np.zeros((2, 3))
    kernel.images(one, one, none, one, one)
    kernel.between(np.zeros((2, 2)), np.zeros(1), np.zeros(1))
    angles = kernel.Angles(-1.0, -1.0, 1.0, 1.0, 3, 3)
    emitters = Emitters(one, one, np.zeros(1), none)
    kernel.each_image(emitters, one, one, np.zeros(3), 1.0, (0.0, 0.0))
    kernel.trace(emitters, Mirror(one, one, np.ones(1)), FrontOptic(), angles)
    if not was_warm:
        compiler.give_back()
