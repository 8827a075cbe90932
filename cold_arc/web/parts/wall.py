"""The Wall: one for every stage and the bench. Lamps, light, lines, bands and points on a wall, to
scale, from the car.

One drawing unit is one centimetre on the wall; x runs right from the car's centre (of one lamp
alone: from its axis), y down from the lamps' height.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from cold_arc.core.aim.rules import SlopeBand, Target
from cold_arc.core.car.lamps import Side, Traffic
from cold_arc.core.units import INCH_M, UnitSystem
from cold_arc.formats.picture import Frame
from cold_arc.web.parts.labels import Label, Rect, Wanted, settle

ASSUMED_SPACING_M = 1.2
# Whatever is told, a wall has an end.
LEAST_SPACING_M, MOST_SPACING_M, DEEPEST_CM = 0.3, 3.0, 400.0
MARGIN_CM = 70.0
ABOVE_CM, LEAST_BELOW_CM = 26.0, 44.0
ELBOW_DEG = 15.0
LONGEST_ARM_CM, LAMP_GAP_CM, FLAT_TOP_CM = 62.0, 3.0, 12.0
# Sizes on a screen of a Wall 960 px wide: text, a point's cross, the border that carries the
# scales; px.
DRAWN_PX, TEXT_PX, CROSS_PX, SCALES_PX = 960, 13.5, 6, 40
# Half of what a scale's longest label takes, px.
LABEL_PX = 16
MOST_TICKS = 16
ROUND_LENGTHS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)
ROUND_DEGREES = (0.5, 1, 2, 5, 10)


@dataclass(frozen=True)
class View:
    """How a Wall's scales are written: lengths in a unit system, or degrees."""

    system: UnitSystem
    degrees: bool = False

    @property
    def unit(self) -> str:
        """The unit of the scales."""
        if self.degrees:
            return "°"
        return "in" if self.system is UnitSystem.INCH else "cm"


@dataclass(frozen=True)
class WallLamp:
    """One lamp before the wall: side, height, as found and as left slopes (vertical, sideways),
    where known.
    """

    side: Side
    height_m: float
    found: float | None = None
    left: float | None = None
    found_sideways: float = 0.0
    left_sideways: float = 0.0
    target: Target | None = None


@dataclass(frozen=True)
class WallPoint:
    """A place to hold the meter, or of a yardstick: metres right and down of its lamp; what was
    read, before and after.

    *href* picks it; *here*: it is the one in hand. *holds*: a yardstick's verdict, None where there
    is none.
    """

    side: Side | None
    label: str
    right_m: float
    down_m: float
    before: str = ""
    after: str = ""
    href: str = ""
    here: bool = False
    holds: bool | None = None
    words: str = ""


@dataclass(frozen=True)
class WallLine:
    """A line as a path in drawing units, with its words and where they belong."""

    path: str
    words: str
    x: float
    y: float


@dataclass(frozen=True)
class DragLine:
    """A cut-off to be dragged: its path about (0, 0), where it stands now, and from where it is
    measured.
    """

    path: str
    x: float
    y: float
    lamp_x: float
    lamp_y: float


@dataclass(frozen=True)
class Head:
    """A meter's head on the wall, to be dragged: where it is held, and its lamp's centre."""

    x: float
    y: float
    lamp_x: float
    lamp_y: float


@dataclass(frozen=True)
class Placed:
    """A point as drawn."""

    x: float
    y: float
    point: WallPoint


@dataclass
class Wall:
    """Everything drawn. *before* and *after*: addresses of pictures that fill the frame; paths in
    drawing units.
    """

    frame: Rect
    distance_m: float
    view: View
    lamps: list[tuple[float, float, str]] = field(default_factory=list)
    before: str = ""
    after: str = ""
    keep: list[Rect] = field(default_factory=list)
    apart: list[Rect] = field(default_factory=list)
    setting: list[Rect] = field(default_factory=list)
    found: list[WallLine] = field(default_factory=list)
    left: list[WallLine] = field(default_factory=list)
    found_line: str = ""
    left_line: str = ""
    design_line: str = ""
    isolux: list[WallLine] = field(default_factory=list)
    points: list[Placed] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)
    across: list[tuple[float, str]] = field(default_factory=list)
    upward: list[tuple[float, str]] = field(default_factory=list)
    drag: DragLine | None = None
    live: DragLine | None = None
    head: Head | None = None
    arm: float = LONGEST_ARM_CM
    drawn_px: float = DRAWN_PX

    @property
    def scale_words(self) -> str:
        """What its scales are in."""
        unit = self.view.unit
        return "degrees" if self.view.degrees else {"in": "inches"}.get(unit, unit)

    @property
    def px(self) -> float:
        """Centimetres to a pixel of a Wall as wide as it is meant to be drawn."""
        return self.frame.width / self.drawn_px

    @property
    def view_box(self) -> str:
        """The SVG's viewBox: a border for the scales left and below."""
        border, frame = SCALES_PX * self.px, self.frame
        return (
            f"{frame.x - border:.1f} {frame.y:.1f} {frame.width + border:.1f} "
            f"{frame.height + border * 0.6:.1f}"
        )

    def anchor(self, x: float) -> str:
        """How a label of the scale below stands at *x*: within the frame at either edge."""
        room = LABEL_PX * self.px
        if x < self.frame.x + room:
            return "start"
        return "end" if x > self.frame.x + self.frame.width - room else "middle"

    @property
    def metres(self) -> Frame:
        """The frame as a picture takes it."""
        frame = self.frame
        edges = (frame.x, frame.y, frame.x + frame.width, frame.y + frame.height)
        return Frame(*(edge / 100 for edge in edges))

    def finished(self) -> Wall:
        """The Wall with scales and labels, once everything else is on it."""
        self.across = _ticks(self.frame.x, self.frame.width, self.distance_m, self.view)
        self.upward = [
            (-at, label)
            for at, label in _ticks(
                -self.frame.y - self.frame.height,
                self.frame.height,
                self.distance_m,
                self.view,
                signed=True,
                like=self.frame.width,
            )
        ]
        cross, size = CROSS_PX * self.px, TEXT_PX * self.px
        taken = [
            Rect(point.x - cross, point.y - cross, 2 * cross, 2 * cross) for point in self.points
        ]
        taken += [Rect(x - cross, y - cross, 2 * cross, 2 * cross) for x, y, _ in self.lamps]
        self.labels = settle(list(self._wanted(1.6 * cross)), size, self.frame, taken)
        return self

    def _wanted(self, gap: float) -> Iterable[Wanted]:
        """The labels wanted, what matters most first."""
        for point in sorted(self.points, key=lambda point: not point.point.here):
            labels = (
                (point.point.label, "point-name"),
                (point.point.before, "found"),
                (point.point.after, "left"),
            )
            yield Wanted(point.x, point.y, tuple(line for line in labels if line[0]), gap)
        for marks, css in ((self.found, "found"), (self.left, "left"), (self.isolux, "lux")):
            yield from (
                Wanted(mark.x, mark.y, ((mark.words, css),), gap / 2)
                for mark in marks
                if mark.words
            )
        for x, _, words in self.lamps:
            if words:
                yield Wanted(x, self.frame.y + 2 * gap, ((words, "lamp-name"),), gap / 2)


def pair_wall(
    lamps: Sequence[WallLamp],
    distance_m: float,
    view: View,
    spacing_m: float | None = None,
    traffic: Traffic = Traffic.RIGHT,
    elbow: bool = True,
    points: Sequence[WallPoint] = (),
) -> Wall:
    """Both lamps at *distance_m*. *elbow*: the cut-off rises 15° on the kerb side (mirrored for
    left traffic).

    Scales and labels come with :meth:`Wall.finished`.
    """
    spacing = min(max(spacing_m or ASSUMED_SPACING_M, LEAST_SPACING_M), MOST_SPACING_M)
    level_m = lamps[0].height_m
    lows = [_lowest_cm(lamp, distance_m) for lamp in lamps] + [
        point.down_m * 100 + 15 for point in points
    ]
    width = spacing * 100 + 2 * MARGIN_CM
    below = min(max(LEAST_BELOW_CM, *lows), DEEPEST_CM, max(100 * level_m, LEAST_BELOW_CM))
    wall = Wall(Rect(-width / 2, -ABOVE_CM, width, ABOVE_CM + below), distance_m, view)
    wall.arm = min(LONGEST_ARM_CM, spacing * 50 - LAMP_GAP_CM)
    centres: dict[Side | None, tuple[float, float]] = {}
    for lamp in lamps:
        x, y = spacing * 50 * (-1 if lamp.side is Side.LEFT else 1), 100 * (level_m - lamp.height_m)
        centres[lamp.side] = (x, y)
        wall.lamps.append((x, y, f"{lamp.side.value} lamp"))
        if lamp.target:
            add_bands(wall, lamp.target, x, y)
        _cut_offs(wall, lamp, x, y, traffic, elbow)
    for point in points:
        x, y = centres[point.side]
        wall.points.append(Placed(x + point.right_m * 100, y + point.down_m * 100, point))
    return wall


def lamp_wall(
    frame: Frame,
    distance_m: float,
    view: View,
    points: Sequence[WallPoint] = (),
    drawn_px: float = DRAWN_PX,
) -> Wall:
    """One lamp alone, about its axis, to be drawn *drawn_px* wide. Scales and labels come with
    :meth:`Wall.finished`."""
    width, height = frame.right - frame.left, frame.bottom - frame.top
    box = Rect(100 * frame.left, 100 * frame.top, 100 * width, 100 * height)
    wall = Wall(box, distance_m, view, drawn_px=drawn_px)
    wall.points = [Placed(point.right_m * 100, point.down_m * 100, point) for point in points]
    return wall


def draggable(
    wall: Wall, side: Side, slope: float, sideways: float, traffic: Traffic, elbow: bool
) -> DragLine:
    """The cut-off of one lamp, to be dragged: where it stands by its slopes."""
    index = next(
        number for number, (_, _, words) in enumerate(wall.lamps) if words.startswith(side.value)
    )
    x, y, _ = wall.lamps[index]
    return drag_line(wall, (x, y), (slope, sideways), traffic, elbow)


def drag_line(
    wall: Wall,
    lamp: tuple[float, float],
    stands: tuple[float, float],
    traffic: Traffic,
    elbow: bool = True,
) -> DragLine:
    """A cut-off to be dragged about a *lamp*'s centre, cm: where it *stands*, slopes up and
    right.
    """
    path = cut_off_path(0.0, 0.0, wall.arm, traffic.kerb, elbow)
    reach, (x, y) = 100 * wall.distance_m, lamp
    return DragLine(path, x + stands[1] * reach, y - stands[0] * reach, x, y)


def path_of(places: Iterable[tuple[float, float]]) -> str:
    """A path through places given in metres right and down; "" for none."""
    steps = [f"{right * 100:.1f} {down * 100:.1f}" for right, down in places]
    return "M" + "L".join(steps) if steps else ""


def _lowest_cm(lamp: WallLamp, distance_m: float) -> float:
    """How far below the lamp something is drawn."""
    slopes = [slope for slope in (lamp.found, lamp.left) if slope is not None]
    if lamp.target:
        slopes.append(_drawn(lamp.target.keep).low)
    return max((-slope * distance_m * 100 + 12 for slope in slopes), default=0.0)


def _drawn(band: SlopeBand) -> SlopeBand:
    """A band with no lower limit is drawn two per cent deep."""
    return SlopeBand(band.high - 0.02, band.high) if math.isinf(band.low) else band


def _ticks(
    start: float,
    length: float,
    distance_m: float,
    view: View,
    signed: bool = False,
    like: float = 0.0,
) -> list[tuple[float, str]]:
    """Places (cm) and labels of a scale from *start*: round lengths, or round degrees; as close as
    over *like*.
    """
    if not view.degrees:
        unit_cm = 100 * INCH_M if view.system is UnitSystem.INCH else 1.0
        step = _round_step(ROUND_LENGTHS, (like or length) / unit_cm)
        steps = _steps(start / unit_cm, (start + length) / unit_cm, step)
        return [(at * unit_cm, _said(at, signed)) for at in steps]
    reach = 100 * distance_m
    low, high = (math.degrees(math.atan(at / reach)) for at in (start, start + length))
    span = 2 * math.degrees(math.atan((like or length) / 2 / reach))
    steps = _steps(low, high, _round_step(ROUND_DEGREES, span))
    return [(reach * math.tan(math.radians(at)), _said(at, signed)) for at in steps]


def _round_step(steps: Sequence[float], span: float) -> float:
    """The closest step that makes no more ticks over a span than there is room for."""
    return next((step for step in steps if span / step <= MOST_TICKS), steps[-1])


def _steps(low: float, high: float, step: float) -> list[float]:
    """The multiples of a step from *low* to *high*."""
    return [mark * step for mark in range(math.ceil(low / step), math.floor(high / step) + 1)]


def _said(value: float, signed: bool) -> str:
    if not value:
        return "0"
    return f"{value:+g}".replace("-", "−") if signed else f"{abs(value):g}"


def add_bands(wall: Wall, target: Target, x: float, y: float) -> None:
    """Where a rule lets a cut-off stand, about a lamp's axis at (*x*, *y*)."""
    reach = 100 * wall.distance_m
    for band, boxes in ((target.keep, wall.keep), (target.set, wall.setting)):
        drawn = _drawn(band)
        top, height = y - drawn.high * reach, (drawn.high - drawn.low) * reach
        boxes.append(Rect(x - wall.arm, top, 2 * wall.arm, height, band.words))


def _cut_offs(
    wall: Wall, lamp: WallLamp, x: float, y: float, traffic: Traffic, elbow: bool
) -> None:
    """The lamp's lines as found and as left; each named at the flat side of its elbow."""
    kerb, reach = traffic.kerb, 100 * wall.distance_m
    for slope, sideways, marks, words in (
        (lamp.found, lamp.found_sideways, wall.found, "as found"),
        (lamp.left, lamp.left_sideways, wall.left, "as left"),
    ):
        if slope is not None:
            at_x, at_y = x + sideways * reach, y - slope * reach
            path = cut_off_path(at_x, at_y, wall.arm, kerb, elbow)
            marks.append(
                WallLine(path, words, at_x - kerb * wall.arm * 0.75, at_y - TEXT_PX * wall.px)
            )


def cut_off_path(x: float, y: float, arm: float, kerb: float, elbow: bool) -> str:
    """A cut-off's path, its elbow at (x, y), *arm* to each side; *kerb*: 1 where it rises to the
    right.
    """
    if not elbow:
        return f"M{x - arm:.1f} {y:.1f}H{x + arm:.1f}"
    run = kerb * (arm - FLAT_TOP_CM)
    rise = abs(run) * math.tan(math.radians(ELBOW_DEG))
    return f"M{x - kerb * arm:.1f} {y:.1f}L{x:.1f} {y:.1f}L{x + run:.1f} {y - rise:.1f}"
