"""What a beam means: cut-off, sharpness, hot spots, test points, lux on wall and road, reach,
glare, fidelity.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from cold_arc.core import data
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.sources import Array
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.light import cut_off, photometry

# How far over the design line light counts as above it, degrees: the finish of a good mirror (own).
ABOVE_MARGIN_DEG = 0.15
# Step and place of a scan, degrees, and what counts as a usable edge (UN R112/R149, from memory).
SCAN_STEP_DEG = 0.1
# How finely the line is looked for up a column, degrees.
LINE_STEP_DEG = 0.02
SCAN_OFF_DEG = 2.5
SHARP_RANGE = (0.13, 0.40)
# A hot spot: of at least half the peak, the brightest within 0.8°, after a blur as of the eye; two
# whose saddle is less than 8 % darker are one (own, chosen by looking at walls).
SPOT_SHARE = 0.5
SPOT_RADIUS_DEG = 0.8
SPOT_BLUR_DEG = 0.25
MERGE_DIP = 0.08
MOST_SPOTS = 24
# Least values that divide or are taken the logarithm of: far below anything a meter reads.
LEAST_CD, LEAST_LM = 1e-6, 1e-9


@dataclass(frozen=True)
class Peak:
    """The brightest direction: cd, degrees."""

    candela: float
    h_deg: float
    v_deg: float


def peak(beam: Beam) -> Peak:
    """The beam's brightest node."""
    row, column = np.unravel_index(int(beam.intensity.argmax()), beam.intensity.shape)
    return Peak(
        float(beam.intensity[row, column]), float(beam.grid.h[column]), float(beam.grid.v[row])
    )


def share_above(beam: Beam) -> float | None:
    """Share of the beam's flux more than 0.15° above the line its housing was designed for; None
    for high beam.

    The line moves with the beam's own aim only through the housing; measure with no aim offset.
    """
    if beam.housing.cut_off.shape == "none" or beam.flux_lm == 0:
        return None
    line = beam.housing.cut_off.at(beam.grid.h) + ABOVE_MARGIN_DEG
    return float(beam.flux[beam.grid.v[:, None] > line[None, :]].sum() / beam.flux_lm)


def flat_side_deg(beam: Beam) -> float:
    """Where the flat part of a cut-off is scanned, degrees right: 2.5° off the elbow, on the level
    side.
    """
    return SCAN_OFF_DEG * beam.housing.cut_off.flat_side


def _column(beam: Beam, h_deg: float) -> tuple[Array, Array]:
    """Intensities up one vertical line, at every 0.1°."""
    v = np.arange(-6.0, 4.0 + 1e-9, SCAN_STEP_DEG)
    return v, np.maximum(beam.at(np.full_like(v, h_deg), v), LEAST_CD)


def _drops(intensity: Array) -> Array:
    """log10 E(β) − log10 E(β + 0.1°), G's summand, up a scan."""
    logs = np.log10(intensity)
    return np.asarray(logs[:-1] - logs[1:])


def _lit(beam: Beam, intensity: Array) -> Array:
    """Steps that start from light worth calling beam: a tenth of the scan's peak."""
    return np.asarray(intensity[:-1] >= 0.1 * intensity.max())


def sharpness(beam: Beam, h_deg: float = -SCAN_OFF_DEG) -> float:
    """G = max over β of log10 E(β) − log10 E(β + 0.1°), scanned upward at *h_deg* (UN R112/R149,
    from memory).

    Between 0.13 and 0.40 counts as a usable edge.
    """
    _, intensity = _column(beam, h_deg)
    return float(np.max(np.where(_lit(beam, intensity), _drops(intensity), 0.0)))


def cut_off_height(beam: Beam, h_deg: float = -SCAN_OFF_DEG) -> float:
    """The cut-off's height, degrees, of a *beam* at *h_deg*, as `light.cut_off` defines it."""
    return float(cut_off_line(beam, np.array([h_deg]))[0])


def cut_off_line(beam: Beam, h_deg: Array) -> Array:
    """The cut-off's height, degrees, of a *beam* at each of *h_deg* (n,)."""
    v = np.arange(-6.0, 4.0 + 1e-9, LINE_STEP_DEG)
    across, up = np.meshgrid(np.asarray(h_deg, dtype=np.float64), v)
    light = np.maximum(beam.at(across, up), LEAST_CD)
    return cut_off.heights(light, v, _dark(beam))[0]


def _dark(beam: Beam) -> float:
    """What stands all over the wall, as far as it is looked at: a hazed lens's glow, as a room's
    own light would.
    """
    across, up = np.meshgrid(np.arange(*cut_off.H_SEEN, 0.5), np.arange(*cut_off.V_SEEN, 0.25))
    return float(np.percentile(beam.at(across, up), cut_off.DARK_PERCENTILE))


@dataclass(frozen=True)
class CutOffShape:
    """The straight part's height and slope (degrees), the elbow's place (None where the line does
    not bend up).
    """

    level_deg: float
    slope: float
    elbow_h_deg: float | None
    kerb_slope_deg: float


def cut_off_shape(beam: Beam) -> CutOffShape:
    """Fits the flat side (1.5° to 6° off the middle) and the other (1° to 5°, under its top) with
    straight lines.
    """
    kerb = -beam.housing.cut_off.flat_side
    flat_h, kerb_h = np.arange(-6.0, -1.4, 0.5), np.arange(1.0, 5.1, 0.5)
    slope, level = np.polyfit(flat_h, cut_off_line(beam, flat_h * kerb), 1)
    rise, start = np.polyfit(kerb_h, cut_off_line(beam, kerb_h * kerb), 1)
    bends = rise - slope > math.tan(math.radians(5.0))
    elbow = float(kerb * (level - start) / (rise - slope)) if bends else None
    return CutOffShape(float(level), float(slope), elbow, math.degrees(math.atan(rise)))


# What a beam's roughness is measured by (own): the step between rows, the blur's standard deviation
# (about 1° across at half its height), the least share of the peak that counts, and how far from
# the line's edge, degrees, it is left alone.
ROUGH_STEP_DEG, ROUGH_BLUR_DEG, ROUGH_FROM, ROUGH_EDGE_DEG = 0.2, 0.42, 0.02, 1.3


def roughness(beam: Beam) -> float:
    """What a blur of 1° takes out of the beam, as a share of what is there: the root mean square
    over its lit part.

    The blur's own flattening of a smooth slope is taken off (what is left is blurred once more),
    and the cut-off's edge is left out: it may be sharp.
    """
    rows = max(1, round(ROUGH_STEP_DEG / beam.grid.steps[0]))
    intensity, v = beam.intensity[::rows], beam.grid.v[::rows]
    sigma = [ROUGH_BLUR_DEG / step for step in (v[1] - v[0], beam.grid.steps[1])]
    smooth = ndimage.gaussian_filter(intensity, sigma)
    left = intensity - smooth
    left = left - ndimage.gaussian_filter(left, sigma)
    under = v[:, None] < beam.housing.cut_off.at(beam.grid.h)[None, :] - ROUGH_EDGE_DEG
    lit = (smooth >= ROUGH_FROM * smooth.max()) & under
    return float(np.sqrt(np.mean((left[lit] / smooth[lit]) ** 2))) if lit.any() else 0.0


@dataclass(frozen=True)
class HotSpot:
    """A local maximum of at least half the peak."""

    candela: float
    h_deg: float
    v_deg: float


def hot_spots(beam: Beam) -> tuple[list[HotSpot], float]:
    """Hot spots, brightest first, and how dark it is between the two brightest: 1 − dip / weaker
    spot (0 for one).
    """
    h, v, intensity = beam.grid.h[::2], beam.grid.v[::2], beam.intensity[::2, ::2]
    steps = (v[1] - v[0], h[1] - h[0])
    smooth = ndimage.gaussian_filter(intensity, [SPOT_BLUR_DEG / step for step in steps])
    size = [2 * round(SPOT_RADIUS_DEG / step) + 1 for step in steps]
    tops = (smooth == ndimage.maximum_filter(smooth, size)) & (smooth >= SPOT_SHARE * smooth.max())
    places = _distinct(tops, smooth)
    kept: list[tuple[int, int]] = []
    shadow = 0.0
    for place in places:
        dips = [_dip(smooth, other, place) for other in kept]
        if not dips or min(dips) > MERGE_DIP:
            shadow = dips[0] if len(kept) == 1 else shadow
            kept.append(place)
    spots = [
        HotSpot(float(intensity[row, column]), float(h[column]), float(v[row]))
        for row, column in kept
    ]
    return spots, float(shadow)


def _distinct(tops: NDArray[np.bool_], smooth: Array) -> list[tuple[int, int]]:
    """One place for each top, a plateau counting as one, brightest first; no more than a beam can
    have.
    """
    labels, count = ndimage.label(tops, np.ones((3, 3)))
    places = ndimage.maximum_position(smooth, labels, np.arange(1, count + 1))
    return sorted(
        ((int(row), int(column)) for row, column in places), key=lambda place: -smooth[place]
    )[:MOST_SPOTS]


def _dip(smooth: Array, one: tuple[int, int], other: tuple[int, int]) -> float:
    """How much darker the straight way between two places gets than the weaker of them, as a
    share.
    """
    steps = max(abs(one[0] - other[0]), abs(one[1] - other[1])) + 1
    rows, columns = np.linspace(one[0], other[0], steps), np.linspace(one[1], other[1], steps)
    way = ndimage.map_coordinates(smooth, [rows, columns], order=1)
    weaker = min(smooth[one], smooth[other])
    return float(1 - way.min() / weaker) if weaker > 0 else 0.0


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
    right, up = np.asarray(right_m, dtype=np.float64), -np.asarray(down_m, dtype=np.float64)
    h, v = wall_direction(right, -up, distance_m)
    cosine = distance_m / np.sqrt(right**2 + up**2 + distance_m**2)
    lux: Array = beam.at(h - aim_deg[0], v - aim_deg[1]) * cosine**3 / distance_m**2
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


@dataclass(frozen=True)
class Mounting:
    """Where two like lamps sit: height and half the distance between them, m."""

    height_m: float = 0.65
    half_track_m: float = 0.6


LEVEL_PAIR = Mounting()


def road_lux(
    beam: Beam,
    x_m: Array,
    z_m: Array,
    mounting: Mounting = LEVEL_PAIR,
    target_m: Array | float = 0.0,
) -> Array:
    """Illuminance, lx, at places on the road, *x_m* right of the car's middle and *z_m* ahead (…),
    from two lamps of *beam* mounted as *mounting*, on a small plane facing them, *target_m* up.
    """
    total = np.zeros(np.broadcast(x_m, z_m).shape)
    for side in (-1.0, 1.0):
        across, up = (
            np.asarray(x_m) - side * mounting.half_track_m,
            np.asarray(target_m) - mounting.height_m,
        )
        square = across**2 + up**2 + np.asarray(z_m) ** 2
        h = np.degrees(np.arcsin(across / np.sqrt(square)))
        v = np.degrees(np.arctan2(up, z_m))
        total = total + beam.at(h, v) / square
    return total


# Where reach is looked for, m, and how finely (own).
REACH_FROM_M, REACH_STEP_M, MOST_STEPS = 3.0, 0.5, 4000


def reach_m(
    beam: Beam, threshold_lx: float, mounting: Mounting = LEVEL_PAIR, x_m: float = 0.0
) -> float:
    """The farthest place on the road, m, straight ahead along *x_m* right of the car's middle,
    where two lamps of *beam*, mounted as *mounting*, still give *threshold_lx*; 0 for none.

    Looked for as far as two beams at their peak could reach: √(2·I/E).
    """
    farthest = math.sqrt(2 * max(peak(beam).candela, 0.0) / threshold_lx) + 1.0
    z = np.arange(
        REACH_FROM_M, max(farthest, REACH_FROM_M + 1), max(REACH_STEP_M, farthest / MOST_STEPS)
    )
    lit = z[road_lux(beam, np.full_like(z, x_m), z, mounting) >= threshold_lx]
    return float(lit.max()) if lit.size else 0.0


@dataclass(frozen=True)
class Glare:
    """Discomfort at an oncoming eye: illuminance there, lx, and the de Boer mark (9 unnoticeable, 1
    unbearable).
    """

    lux: float
    de_boer: float


# A driver's eye, m up, one lane over; cd/m² the eye is used to on a dark road (common practice).
EYE_HEIGHT_M, LANE_M = 1.2, 3.5
ADAPTATION_CD_M2 = 1.0
WORST_MARK, BEST_MARK = 1.0, 9.0


def discomfort(lux: float, minutes: float) -> float:
    """One glare source's part of the sum under the logarithm: E / (0.003·(1 + √(L_a/0.04))·φ^0.46),
    E the *lux* at the eye, φ the *minutes* of arc from the line of sight (Schmidt-Clausen &
    Bindels 1974, from memory); L_a 1 cd/m².
    """
    return float(lux / (0.003 * (1 + math.sqrt(ADAPTATION_CD_M2 / 0.04)) * minutes**0.46))


def de_boer(total: float) -> float:
    """The de Boer mark of a sum of discomfort: 5 − 2·log10 of it; the scale ends at 1 and 9."""
    return BEST_MARK if total <= 0 else min(BEST_MARK, max(WORST_MARK, 5 - 2 * math.log10(total)))


def oncoming_glare(
    beam: Beam,
    mounting: Mounting = LEVEL_PAIR,
    distance_m: float = 50.0,
    traffic: Traffic = Traffic.RIGHT,
) -> Glare:
    """Glare of two lamps of *beam*, mounted as *mounting*, for a driver coming towards them in the
    other lane of *traffic*, *distance_m* ahead.

    :func:`discomfort` of each lamp, φ from the line of sight, summed; as :func:`de_boer` marks it.
    """
    x = -LANE_M * traffic.kerb
    total, lux = 0.0, 0.0
    for side in (-1.0, 1.0):
        across, up = x - side * mounting.half_track_m, EYE_HEIGHT_M - mounting.height_m
        square = across**2 + up**2 + distance_m**2
        h = math.degrees(math.asin(across / math.sqrt(square)))
        v = math.degrees(math.atan2(up, distance_m))
        here = float(beam.at(h, v)) / square
        minutes = 60 * math.degrees(math.atan(math.hypot(across, up) / distance_m))
        total += discomfort(here, minutes)
        lux += here
    return Glare(lux, de_boer(total))


@dataclass(frozen=True)
class Fidelity:
    """A candidate against the nominal source in the same housing, per lumen past the shield, as
    shares of nominal.

    *kept* is the light that still goes where the nominal's went, *lost* what is missing there,
    *above* the extra light over the line (share of the candidate's beam less the nominal's).
    *zones* compare flux zone by zone.
    """

    kept: float
    lost: float
    above: float
    zones: dict[str, float]


ZONES = {
    "hot spot": ((-4.0, 6.0), (-2.2, 2.0)),
    "foreground": ((-12.0, 12.0), (-8.0, -2.2)),
    "left": ((-40.0, -4.0), (-2.2, 2.0)),
    "right": ((6.0, 40.0), (-2.2, 2.0)),
}


def fidelity(candidate: Beam, nominal: Beam) -> Fidelity:
    """How much of a *nominal* beam's pattern a *candidate* keeps, flux for flux, both of the same
    housing.
    """
    new, old = (beam.flux / max(beam.past_shield_lm, LEAST_LM) for beam in (candidate, nominal))
    if candidate.housing.cut_off.shape == "none":
        under = np.ones_like(old, dtype=bool)
    else:
        line = candidate.housing.cut_off.at(candidate.grid.h) + ABOVE_MARGIN_DEG
        under = candidate.grid.v[:, None] <= line[None, :]
    wanted = float(old[under].sum())
    kept = float(np.minimum(new, old)[under].sum()) / wanted if wanted > 0 else 0.0
    above = (share_above(candidate) or 0.0) - (share_above(nominal) or 0.0)
    return Fidelity(
        kept,
        1 - kept,
        above,
        {name: _zone_ratio(candidate, new, old, under, name) for name in ZONES},
    )


def _zone_ratio(beam: Beam, new: Array, old: Array, under: NDArray[np.bool_], name: str) -> float:
    (left, right), (low, high) = ZONES[name]
    inside = (
        ((beam.grid.h >= left) & (beam.grid.h <= right))[None, :]
        & ((beam.grid.v >= low) & (beam.grid.v <= high))[:, None]
        & under
    )
    return float(new[inside].sum() / max(float(old[inside].sum()), 1e-12))
