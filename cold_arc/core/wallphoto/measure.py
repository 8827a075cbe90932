"""One photograph of one lamp's beam, measured in degrees from the lamp's axis, with what each
figure is worth.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from cold_arc.core.light.cut_off import Edge, LineRead, Schools, find_edge
from cold_arc.core.light.hot_spot import blurred_as_seen
from cold_arc.core.light.hot_spot import hot_spot as middle_of_hot_spot
from cold_arc.core.wallphoto.camera import PhotoMark, WallCamera, find_camera, tell_lens
from cold_arc.core.wallphoto.directions import (
    H_STEP,
    V_STEP,
    Array,
    Directions,
    Subject,
    in_directions,
    places,
)
from cold_arc.core.wallphoto.doubts import doubts
from cold_arc.core.wallphoto.focus import WIDEST_DEG, Profile, profile, sharp_by
from cold_arc.core.wallphoto.isolux import LuxReading, lux_a_light, peak_cd
from cold_arc.core.wallphoto.lines import LEAST_RISE, StraightPart, fit_cut_off, rises
from cold_arc.core.wallphoto.picture import PhotoUnusableError, WallPicture

SHARP_AT_DEG = 2.5
# What a usual telephone's lens and its pixels blur, pixels; how far columns lend to their
# neighbours, degrees (own).
BLUR_PX, ACROSS_DEG = 0.8, 0.2
# By how much a soft edge widens each figure, of how far the schools read it apart: heights in full;
# tilt and elbow as drawn photographs left them (own; docs/accuracy.md).
SOFTENED = {"cutoff_v_deg": 1.0, "elbow_v_deg": 1.0, "roll_deg": 1.8, "elbow_h_deg": 0.55}
# Where stray light is looked for: degrees above the cut-off and off the middle on the flat side
# (own; B50L is in it).
STRAY_ABOVE_DEG, STRAY_AT_DEG = (0.5, 2.0), (1.0, 5.0)
# From how much there on it is asked whether the other lamp is lit, per cent of the hot spot (own:
# drawn photographs of one lamp show less, hazed ones too).
BESIDE_PCT = 15.0
# From which lean on it is asked too, degrees (own: two lamps 1.2 m apart, their lines 0.1° unlike,
# lean by about 1° at 10 m).
LEANS_DEG = 0.8


@dataclass(frozen=True)
class Spot:
    """A direction from the lamp's axis, degrees right and up."""

    h_deg: float
    v_deg: float


@dataclass(frozen=True)
class MeasuredPhoto:
    """What a photograph says; *uncertainty* at 95 % by figure, *warnings* in
    sentences, *shape* where the picture shows another one than the rule expects.

    *cutoff_v_deg*: the straight part a rule goes by (*line*), read on the lamp's centre line, and
    how far from it other *schools* read it; *roll_deg* its tilt,
    anticlockwise seen from the car positive; *stray_pct*: the brightest above the cut-off on the
    flat side, of the hot spot's light.
    """

    cutoff_v_deg: float | None
    roll_deg: float | None
    elbow: Spot | None
    hot_spot: Spot
    sharpness_g: float | None
    uncertainty: dict[str, float]
    warnings: tuple[str, ...]
    peak_cd: float | None = None
    stray_pct: float | None = None
    line: str = LineRead.FLAT.value
    schools: Schools | None = None
    shape: tuple[str, ...] = ()

    @property
    def cutoff_slope_pct(self) -> float | None:
        """The cut-off's height as a slope from the lamp, per cent, up positive."""
        return (
            None if self.cutoff_v_deg is None else 100 * math.tan(math.radians(self.cutoff_v_deg))
        )

    @property
    def aim_deg(self) -> tuple[float, float | None]:
        """Where the beam is aimed, degrees up and right: its cut-off and elbow; of a beam without
        one its hot spot.
        """
        if self.cutoff_v_deg is None:
            return self.hot_spot.v_deg, self.hot_spot.h_deg
        return self.cutoff_v_deg, self.elbow.h_deg if self.elbow else None

    @property
    def aim_slopes(self) -> tuple[float, float | None]:
        """The same as slopes from the lamp, up and right."""
        return _slopes(*self.aim_deg)


def measure(
    picture: WallPicture,
    marks: Sequence[PhotoMark],
    subject: Subject,
    lux: LuxReading | None = None,
    camera: WallCamera | None = None,
) -> MeasuredPhoto:
    """Measures a photograph's light: *picture* in light, *marks* in its pixels, *subject* what it
    shows and from where, one reading of a meter, *lux*, if any; by the *camera* of its marks,
    looked for where it is not told.

    PhotoUnusableError, with the reason, where it can't.
    """
    camera = camera or find_camera(marks, picture.size)
    wall = in_directions(picture, camera, subject)
    measured, own, cut = _found(wall, camera, subject)
    worth = doubts(own, _figures(measured), marks, subject, camera)
    soft = profile(wall, cut, read_side(subject)) if cut else None
    warnings = (*measured.warnings, *_lens_words(marks, camera))
    if soft:
        if not sharp_by(picture, marks, soft.steep_deg * _a_degree_px(camera, subject)):
            warnings = (_blur_words(soft), *warnings)
        apart_deg = soft.schools.spread_deg
        worth |= {
            name: math.hypot(worth[name], share * apart_deg)
            for name, share in SOFTENED.items()
            if name in worth
        }
        measured = replace(measured, schools=soft.schools)
    brightest = peak_cd(wall, subject, lux_a_light(picture, camera, lux))
    return replace(measured, uncertainty=worth, warnings=warnings, peak_cd=brightest)


def read_side(subject: Subject) -> float:
    """The side of the beam its rule goes by: +1 right, −1 left."""
    kerb = subject.traffic.kerb
    return kerb if subject.reads is LineRead.KERB else -kerb


def follow(
    picture: WallPicture, camera: WallCamera, subject: Subject
) -> tuple[float, float | None]:
    """Where the beam of *subject* is aimed, slopes up and right, in a *picture* seen by *camera*,
    without what that is worth: while a screw is turned.
    """
    wall = in_directions(picture, camera, subject)
    if subject.reads is LineRead.SPOT:
        spot, _ = hot_spot(wall)
        return _slopes(spot.v_deg, spot.h_deg)
    _, cut = _cut_off(wall, camera, subject)
    level_deg = cut.read(subject.reads).level_deg
    return _slopes(level_deg, cut.elbow[0] if cut.elbow else None)


def _slopes(up_deg: float, right_deg: float | None) -> tuple[float, float | None]:
    return math.tan(math.radians(up_deg)), None if right_deg is None else math.tan(
        math.radians(right_deg)
    )


def _a_degree_px(camera: WallCamera, subject: Subject) -> float:
    """How many pixels a degree up the wall takes, about the lamp's axis."""
    u, v = camera.pixels(*places(subject, np.zeros(2), np.array([-1.0, 0.0])))
    return float(np.hypot(u[1] - u[0], v[1] - v[0]))


def sharpened(light: Array, px_deg: float) -> Array:
    """*light* (rows, columns) up the wall, *px_deg* a pixel, as it was before a usual lens and the
    pixels themselves blurred it: one step of the heat equation back, E − σ²/2·E″.
    """
    if not math.isfinite(px_deg):
        return light
    sigma = BLUR_PX * px_deg / V_STEP
    smooth = ndimage.gaussian_filter1d(light, 0.6 * sigma, axis=0)
    return np.asarray(
        smooth
        - (sigma**2 * (1 + 0.6**2) / 2)
        * ndimage.gaussian_filter1d(light, 0.8 * sigma, axis=0, order=2)
    )


def _blur_words(soft: Profile) -> str:
    """What to mind where nothing sharp is seen; PhotoUnusableError where the cut-off is too soft to
    be one.
    """
    if soft.width_deg > WIDEST_DEG:
        raise PhotoUnusableError(
            "The picture is blurred: nothing sharp is seen in it, and no cut-off can be made out."
        )
    return (
        "Nothing sharp is seen in the picture: it may be out of focus, and the cut-off then "
        "reads up to "
        f"{max(0.0, -soft.schools.half_deg):.2f}° too high."
    )


def _found(
    wall: Directions, camera: WallCamera, subject: Subject
) -> tuple[MeasuredPhoto, dict[str, float], StraightPart | None]:
    """What the wall says, the standard errors of its fit, and its lines."""
    hot, clipped = hot_spot(wall)
    warnings = (
        ["The brightest zone is clipped: its middle is told, its light is not."] if clipped else []
    )
    if subject.reads is LineRead.SPOT:
        return MeasuredPhoto(None, None, None, hot, None, {}, tuple(warnings)), {}, None
    edge, cut = _cut_off(wall, camera, subject)
    line = cut.read(subject.reads)
    warnings += _edge_words(wall, edge, line)
    stray_pct = _stray(wall, cut, subject)
    measured = MeasuredPhoto(
        line.level_deg,
        math.degrees(math.atan(line.slope)),
        Spot(*cut.elbow) if cut.elbow else None,
        hot,
        _sharpness(edge, subject),
        {},
        tuple(warnings),
        stray_pct=stray_pct,
        line=subject.reads.value,
        shape=tuple(_shape_words(edge, cut, subject) or _beside_words(line, stray_pct)),
    )
    return measured, _own_doubts(cut, line), cut


def _cut_off(wall: Directions, camera: WallCamera, subject: Subject) -> tuple[Edge, StraightPart]:
    """The cut-off column by column, and its lines.

    Columns lend to their neighbours, so the light is looked at twice: as it stands, then along the
    lines found, for a slope blurred across is blurred up and down too.
    """
    px_deg, bends = 1 / _a_degree_px(camera, subject), subject.reads is not LineRead.LEVEL
    edge = _edge(wall, np.zeros(len(wall.h)), px_deg)
    try:
        cut = fit_cut_off(edge, subject.traffic, bends)
    except PhotoUnusableError:
        if not bends and (words := _level_words(edge)):
            raise PhotoUnusableError(" ".join(words)) from None
        raise
    edge = _edge(wall, cut.heights(wall.h), px_deg)
    return edge, fit_cut_off(edge, subject.traffic, bends, near=cut)


def _edge(wall: Directions, along: Array, px_deg: float) -> Edge:
    """The cut-off column by column, columns lending to their neighbours *along* such heights,
    degrees.
    """
    level = along - np.median(along)
    light, seen = (
        _shifted(layer, level / V_STEP)
        for layer in (wall.known, np.isfinite(wall.light).astype(float))
    )
    light = sharpened(ndimage.gaussian_filter1d(light, ACROSS_DEG / H_STEP, axis=1), px_deg)
    edge = find_edge(np.where(seen > 0.5, light, 0.0), wall.h, wall.v, wall.dark)
    columns = np.searchsorted(wall.h, edge.h)
    enough = seen.mean(axis=0)[columns] > 0.5
    return Edge(edge.h[enough], (edge.v + level[columns])[enough], edge.g[enough])


def _shifted(values: Array, rows: Array) -> Array:
    """Each column of *values* moved down by so many *rows*."""
    if not rows.any():
        return values
    number, column = np.meshgrid(np.arange(len(values)), np.arange(values.shape[1]), indexing="ij")
    return np.asarray(
        ndimage.map_coordinates(values, [number + rows, column], order=1, mode="nearest")
    )


def _stray(wall: Directions, cut: StraightPart, subject: Subject) -> float | None:
    """The brightest above the cut-off on the flat side, without what an unlit wall shows, per cent
    of the hot spot.
    """
    side = -subject.traffic.kerb * wall.h
    above = wall.v[:, None] - (cut.level_deg + cut.slope * wall.h)
    zone = (above > STRAY_ABOVE_DEG[0]) & (above < STRAY_ABOVE_DEG[1])
    zone &= (side > STRAY_AT_DEG[0]) & (side < STRAY_AT_DEG[1]) & np.isfinite(wall.light)
    if not zone.any():
        return None
    steady = blurred_as_seen(wall.h, wall.v, wall.known) - wall.dark
    return 100 * max(0.0, float(steady[zone].max() / steady.max()))


def hot_spot(wall: Directions) -> tuple[Spot, bool]:
    """The middle of the brightest light, and whether it is clipped there."""
    h, v, mine = middle_of_hot_spot(wall.h, wall.v, wall.known)
    return Spot(h, v), bool(wall.clipped[mine].mean() > 0.05)


def _edge_words(wall: Directions, edge: Edge, cut: StraightPart) -> list[str]:
    """What to mind of a cut-off as seen."""
    words = []
    row = np.searchsorted(wall.v, cut.level_deg - 0.1)
    if wall.clipped[np.clip(row, 0, len(wall.v) - 1)].mean() > 0.2:
        words.append(
            "The light is clipped up to the cut-off: it stands a little higher than told. "
            "Expose it less."
        )
    if float(np.median(edge.g)) < 0.08:
        words.append("The cut-off is soft: the picture may be blurred, or the lens hazed.")
    return words


def _shape_words(edge: Edge, cut: StraightPart, subject: Subject) -> list[str]:
    """Where the picture shows another shape than the rule expects."""
    kerb, other = subject.traffic.value, subject.traffic.other.value
    if subject.reads is LineRead.LEVEL:
        return _level_words(edge)
    if subject.reads is LineRead.KERB:
        return []
    if abs(cut.slope) >= LEAST_RISE or (not cut.elbow and other in rises(edge)):
        return [
            f"The line rises on the {other}: a lamp for traffic on the {other}, or is the other "
            f"lamp lit too? The rule in use expects it level there and rising on the {kerb}."
        ]
    if cut.elbow:
        return []
    return [
        f"No elbow is seen: by this rule the line rises or steps up on the {kerb}. Is it a fog "
        "lamp, is the other lamp lit too, or is that side not in the picture?"
    ]


def _beside_words(line: StraightPart, stray_pct: float | None) -> list[str]:
    """Where another lamp's light may be among this one's: much of it above the line, or a line that
    leans as two side by side at unlike heights do.
    """
    words = []
    if stray_pct is not None and stray_pct > BESIDE_PCT:
        words.append(
            f"Light of {stray_pct:.0f} % of the hot spot's stands above the line: is the other "
            "lamp lit too? If this one alone is, it dazzles."
        )
    if abs(line.slope) > math.tan(math.radians(LEANS_DEG)):
        words.append(
            f"The line leans by {math.degrees(math.atan(abs(line.slope))):.1f}°: does the lamp "
            "sit askew, or is the other lamp lit too?"
        )
    return words


def _level_words(edge: Edge) -> list[str]:
    """Where a line that should be level across rises."""
    return [
        f"The line rises on the {side}: this rule's lamp (a fog lamp) has one level across. "
        "Is low beam lit, or a low beam photographed?"
        for side in rises(edge)
    ]


def _lens_words(marks: Sequence[PhotoMark], camera: WallCamera) -> list[str]:
    if tell_lens(marks, camera.size):
        return []
    return [
        "A lens's distortion is not seen: that takes six marks or more, spread over the picture."
    ]


def _sharpness(edge: Edge, subject: Subject) -> float | None:
    """G on the side read, 2.5° off the middle."""
    at = SHARP_AT_DEG * read_side(subject)
    near = np.abs(edge.h - at) < 0.6
    return float(np.median(edge.g[near])) if near.any() else None


def _own_doubts(cut: StraightPart, line: StraightPart) -> dict[str, float]:
    """Standard errors of the fit, by figure."""
    own = {"cutoff_v_deg": line.level_se, "roll_deg": math.degrees(line.slope_se)}
    return own | (
        {"elbow_h_deg": cut.elbow_se[0], "elbow_v_deg": cut.elbow_se[1]} if cut.elbow else {}
    )


def _figures(measured: MeasuredPhoto) -> Mapping[str, tuple[float, float]]:
    """Where on the beam each figure is read: degrees right and up."""
    spots = {"hot_spot": measured.hot_spot} | ({"elbow": measured.elbow} if measured.elbow else {})
    figures = {
        f"{name}_{axis}_deg": (spot.h_deg, spot.v_deg)
        for name, spot in spots.items()
        for axis in "hv"
    }
    if measured.cutoff_v_deg is not None:
        figures |= dict.fromkeys(("cutoff_v_deg", "roll_deg"), (0.0, measured.cutoff_v_deg))
    return figures
