"""One photograph of one lamp's beam, measured in degrees from the lamp's axis, with what each figure is worth.

Uncertainties are at 95 %, the root of the sum of squares of: the fit's own scatter; marks placed to MARK_PX, carried
through the perspective by moving each; a lens left untold by fewer than six marks; what the method itself leaves (own,
found on rendered photographs, docs/accuracy.md). JCGM 100 for the adding, recalled from memory.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from cold_arc.core.wallphoto.camera import MARKS_FOR_LENS, Mark, WallCamera, find_camera, seen_through
from cold_arc.core.wallphoto.lines import CutOff, Edge, find_edge, fit_cut_off
from cold_arc.core.wallphoto.picture import PhotoUnusableError, Pixels, WallPicture, light_of

Array = NDArray[np.float64]
# What is looked at of the beam, degrees, and in what steps.
H_SEEN, V_SEEN, H_STEP, V_STEP = (-10.0, 10.0), (-7.0, 4.0), 0.1, 0.02
# A mark's place, pixels a 1500-pixel-wide picture; a usual lens's bend where it is not fitted; coverage factor; what
# the method leaves in the cut-off, elbow and hot spot, degrees (own).
MARK_PX, LENS_K1, COVER = 0.4, 0.02, 2.0
METHOD_DEG = {
    "cutoff_v_deg": 0.0135,
    "roll_deg": 0.08,
    "elbow_h_deg": 0.023,
    "elbow_v_deg": 0.0135,
    "hot_spot_h_deg": 0.04,
    "hot_spot_v_deg": 0.0155,
}
# A hot spot is the middle of all light from this share of the brightest on, blurred so far, degrees (own).
HOT_SHARE, HOT_BLUR_DEG = 0.85, 0.25
SHARP_AT_DEG = 2.5
# What a usual telephone's lens and its pixels blur, pixels; how far columns lend to their neighbours, degrees (own).
BLUR_PX, ACROSS_DEG = 0.8, 0.2


@dataclass(frozen=True)
class Spot:
    """A direction from the lamp's axis, degrees right and up."""

    h_deg: float
    v_deg: float


@dataclass(frozen=True)
class Measured:
    """What a photograph says; *uncertainty* at 95 % by figure, *warnings* in sentences.

    *cutoff_v_deg*: the straight part's line read on the lamp's centre line; *roll_deg* its tilt, anticlockwise seen
    from the car positive.
    """

    cutoff_v_deg: float | None
    roll_deg: float | None
    elbow: Spot | None
    hot_spot: Spot
    sharpness_g: float | None
    uncertainty: dict[str, float]
    warnings: tuple[str, ...]
    peak_cd: float | None = None

    @property
    def cutoff_slope_pct(self) -> float | None:
        """The cut-off's height as a slope from the lamp, per cent, up positive."""
        return None if self.cutoff_v_deg is None else 100 * math.tan(math.radians(self.cutoff_v_deg))


@dataclass(frozen=True)
class Setting:
    """What the photograph was taken of: the wall's distance, the lamp's height, m; *function* and *traffic*."""

    distance_m: float
    lamp_height_m: float
    function: str = "low"
    traffic: str = "right"


@dataclass(frozen=True)
class LuxReading:
    """One reading of a meter, lx, at a place on the wall, cm right of the lamp's centre line and up from the floor."""

    lux: float
    wall_cm: tuple[float, float]


def measure(pixels: Pixels, marks: Sequence[Mark], setting: Setting, lux: LuxReading | None = None) -> Measured:
    """Measures a photograph (rows, columns, 3; RGB, 8 bits); PhotoUnusableError, with the reason, where it can't."""
    down, across = pixels.shape[:2]
    camera = find_camera(marks, (across, down))
    picture = light_of(pixels)
    found = _found(picture, camera, setting)
    doubt = _doubts(picture, marks, setting, camera, found)
    warnings = [*found.warnings, *_lens_words(marks)]
    return replace(found, uncertainty=doubt, warnings=tuple(warnings), peak_cd=_peak_cd(picture, camera, setting, lux))


@dataclass(frozen=True)
class _Wall:
    """The light in directions from the lamp: rows up along *v*, columns along *h*; nan outside the picture."""

    h: Array
    v: Array
    light: Array
    clipped: NDArray[np.bool_]

    @property
    def dark(self) -> float:
        """What the unlit wall shows: the least of it."""
        return float(np.percentile(self.light[np.isfinite(self.light)], 1))


def _places(setting: Setting, h: Array, v: Array) -> tuple[Array, Array]:
    """Where directions meet the wall: cm right of the lamp's centre line, up from the floor."""
    across, up = np.radians(h), np.radians(v)
    x = setting.distance_m * np.tan(across) / np.cos(up)
    y = setting.lamp_height_m + setting.distance_m * np.tan(up)
    return 100 * x, 100 * y


def _wall(picture: WallPicture, camera: WallCamera, setting: Setting, coarse: int = 1) -> _Wall:
    h = np.arange(H_SEEN[0], H_SEEN[1] + 1e-9, H_STEP * coarse)
    v = np.arange(V_SEEN[0], V_SEEN[1] + 1e-9, V_STEP * coarse)
    x, y = _places(setting, *np.meshgrid(h, v))
    u, w = (it.astype(np.float32) for it in camera.pixels(x, y))
    light = cv2.remap(picture.light, u, w, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=[math.nan])
    clipped = cv2.remap(picture.clipped.astype(np.uint8), u, w, cv2.INTER_NEAREST, borderValue=[0.0])
    return _Wall(h, v, _without_perspective(np.asarray(light), setting, h, v), np.asarray(clipped, dtype=bool))


def _without_perspective(light: NDArray[Any], setting: Setting, h: Array, v: Array) -> Array:
    """Intensity from what lights a flat wall: E goes with cos³ of the angle to the axis."""
    across, up = np.meshgrid(np.radians(h), np.radians(v))
    cosine = np.cos(across) * np.cos(up)
    return np.asarray(light / cosine**3, dtype=np.float64)


def _a_degree_px(camera: WallCamera, setting: Setting) -> float:
    """How many pixels a degree up the wall takes, about the lamp's axis."""
    u, v = camera.pixels(*_places(setting, np.zeros(2), np.array([-1.0, 0.0])))
    return float(np.hypot(u[1] - u[0], v[1] - v[0]))


def _sharpened(light: Array, px_deg: float) -> Array:
    """Light up the wall as it was before a usual lens and the pixels themselves blurred it: one step of the heat
    equation back, E − σ²/2·E″."""
    if not math.isfinite(px_deg):
        return light
    sigma = BLUR_PX * px_deg / V_STEP
    smooth = ndimage.gaussian_filter1d(light, 0.6 * sigma, axis=0)
    return np.asarray(
        smooth - (sigma**2 * (1 + 0.6**2) / 2) * ndimage.gaussian_filter1d(light, 0.8 * sigma, axis=0, order=2)
    )


def _found(picture: WallPicture, camera: WallCamera, setting: Setting) -> Measured:
    wall = _wall(picture, camera, setting)
    seen = np.isfinite(wall.light)
    if seen.mean() < 0.15:
        raise PhotoUnusableError("The picture shows too little of the wall about the lamp's axis.")
    hot, clipped = _hot_spot(wall)
    warnings = ["The brightest zone is clipped: its middle is told, its light is not."] if clipped else []
    if setting.function == "high":
        return Measured(None, None, None, hot, None, {}, tuple(warnings))
    light = ndimage.gaussian_filter1d(np.where(seen, wall.light, 0.0), ACROSS_DEG / H_STEP, axis=1)
    light = _sharpened(light, 1 / _a_degree_px(camera, setting))
    edge = find_edge(np.where(seen, light, 0.0), wall.h, wall.v, wall.dark)
    columns = seen.mean(axis=0)[np.searchsorted(wall.h, edge.h)] > 0.5
    edge = Edge(edge.h[columns], edge.v[columns], edge.g[columns])
    cut = fit_cut_off(edge, setting.traffic, bends=setting.function == "low")
    warnings += _edge_words(wall, edge, cut)
    return Measured(
        cut.level_deg,
        math.degrees(math.atan(cut.slope)),
        Spot(*cut.elbow) if cut.elbow else None,
        hot,
        _sharpness(edge, setting),
        _own_doubts(cut),
        tuple(warnings),
    )


def _hot_spot(wall: _Wall) -> tuple[Spot, bool]:
    """The middle of the brightest light, and whether it is clipped there."""
    light = np.where(np.isfinite(wall.light), wall.light, 0.0)
    blurred = ndimage.gaussian_filter(light, (HOT_BLUR_DEG / V_STEP, HOT_BLUR_DEG / H_STEP))
    bright = blurred >= HOT_SHARE * blurred.max()
    labels, _ = ndimage.label(bright)
    mine = labels == labels[np.unravel_index(int(blurred.argmax()), blurred.shape)]
    weight = np.where(mine, blurred - HOT_SHARE * blurred.max() + 1e-9, 0.0)
    total = weight.sum()
    h, v = float((weight.sum(axis=0) @ wall.h) / total), float((weight.sum(axis=1) @ wall.v) / total)
    return Spot(h, v), bool(wall.clipped[mine].mean() > 0.05)


def _edge_words(wall: _Wall, edge: Edge, cut: CutOff) -> list[str]:
    """What to mind of a cut-off as seen."""
    told = []
    row = np.searchsorted(wall.v, cut.level_deg - 0.1)
    if wall.clipped[np.clip(row, 0, len(wall.v) - 1)].mean() > 0.2:
        told.append("The light is clipped up to the cut-off: it stands a little higher than told. Expose it less.")
    if float(np.median(edge.g)) < 0.08:
        told.append("The cut-off is soft: the picture may be blurred, or the lens hazed.")
    return told


def _lens_words(marks: Sequence[Mark]) -> list[str]:
    return [] if len(marks) >= MARKS_FOR_LENS else ["With fewer than six marks a lens's distortion is not seen."]


def _sharpness(edge: Edge, setting: Setting) -> float | None:
    """G on the flat side, 2.5° off the middle."""
    at = -SHARP_AT_DEG if setting.traffic == "right" else SHARP_AT_DEG
    near = np.abs(edge.h - at) < 0.6
    return float(np.median(edge.g[near])) if near.any() else None


def _own_doubts(cut: CutOff) -> dict[str, float]:
    """Standard errors of the fit, by figure."""
    own = {"cutoff_v_deg": cut.level_se, "roll_deg": math.degrees(cut.slope_se)}
    return own | ({"elbow_h_deg": cut.elbow_se[0], "elbow_v_deg": cut.elbow_se[1]} if cut.elbow else {})


def _doubts(
    picture: WallPicture, marks: Sequence[Mark], setting: Setting, camera: WallCamera, found: Measured
) -> dict[str, float]:
    """What each figure is worth at 95 %."""
    at = _figures(found)
    squares = {name: found.uncertainty.get(name, 0.0) ** 2 + METHOD_DEG[name] ** 2 for name in at}
    for other in _moved(marks, camera, picture.size):
        for name, shift in _shifts(camera, other, setting, at).items():
            squares[name] += shift**2
    return {name: COVER * math.sqrt(total) for name, total in squares.items()}


def _figures(found: Measured) -> dict[str, tuple[float, float]]:
    """Where on the beam each figure is read: degrees right and up."""
    spots = {"hot_spot": found.hot_spot} | ({"elbow": found.elbow} if found.elbow else {})
    told = {f"{name}_{axis}_deg": (it.h_deg, it.v_deg) for name, it in spots.items() for axis in "hv"}
    if found.cutoff_v_deg is not None:
        told |= dict.fromkeys(("cutoff_v_deg", "roll_deg"), (0.0, found.cutoff_v_deg))
    return told


def _moved(marks: Sequence[Mark], camera: WallCamera, size: tuple[int, int]) -> list[WallCamera]:
    """The camera as it would be with each mark a little off, across and down; and with a usual lens untold."""
    by = MARK_PX * max(size[0] / 1500, 1.0)
    cameras = []
    for number, mark in enumerate(marks):
        for du, dv in ((by, 0.0), (0.0, by)):
            told = list(marks)
            told[number] = replace(mark, px=(mark.px[0] + du, mark.px[1] + dv))
            cameras.append(seen_through(told, camera))
    if len(marks) < MARKS_FOR_LENS:
        cameras.append(seen_through(marks, replace(camera, k1=LENS_K1)))
    return cameras


def _shifts(
    camera: WallCamera, other: WallCamera, setting: Setting, at: dict[str, tuple[float, float]]
) -> dict[str, float]:
    """By how much each figure moves when the same pixel is seen by another camera, degrees."""
    moved: dict[tuple[float, float], tuple[float, float]] = {}

    def shift(h: float, v: float) -> tuple[float, float]:
        if (h, v) not in moved:
            moved[h, v] = _shift(camera, other, setting, h, v)
        return moved[h, v]

    told = {}
    for name, (h, v) in at.items():
        if name == "roll_deg":
            left, right = shift(-5.0, v), shift(0.0, v)
            told[name] = math.degrees(math.atan((right[1] - left[1]) / 5.0))
        else:
            told[name] = shift(h, v)[0 if "_h_" in name else 1]
    return told


def _shift(camera: WallCamera, other: WallCamera, setting: Setting, h: float, v: float) -> tuple[float, float]:
    """How far off a direction is told where the other camera is the true one: to first order."""
    near = 0.05
    hs, vs = np.array([h, h + near, h]), np.array([v, v, v + near])
    x, y = _places(setting, hs, vs)
    u, w = camera.pixels(x, y)
    gone_u, gone_w = other.pixels(x[:1], y[:1])
    slope = np.array([[u[1] - u[0], u[2] - u[0]], [w[1] - w[0], w[2] - w[0]]]) / near
    dh, dv = np.linalg.solve(slope, [gone_u[0] - u[0], gone_w[0] - w[0]])
    return float(dh), float(dv)


def _peak_cd(picture: WallPicture, camera: WallCamera, setting: Setting, lux: LuxReading | None) -> float | None:
    """The brightest light, cd, by one reading of a meter; None without one, or where either place is clipped."""
    if lux is None:
        return None
    u, v = camera.pixels(np.array([lux.wall_cm[0]]), np.array([lux.wall_cm[1]]))
    column, row = round(float(u[0])), round(float(v[0]))
    if not (0 <= column < picture.size[0] and 0 <= row < picture.size[1]) or picture.clipped[row, column]:
        return None
    wall = _wall(picture, camera, setting, coarse=4)
    if (wall.clipped & (wall.light >= np.nanmax(wall.light) * 0.95)).any():
        return None
    light = float(picture.light[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2].mean())
    return float(np.nanmax(wall.light) / light * lux.lux * setting.distance_m**2)
