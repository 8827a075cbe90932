"""Wall: the lamps' lines, bands and readings on a wall, to scale. One drawing unit is one centimetre.

The wall is seen from the car: left is left. Zero is the middle between the lamps, at the floor; up is up.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from cold_arc.core.aim import SlopeBand, Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.units import INCH_M, UnitSystem

ASSUMED_SPACING_M = 1.2
# Whatever is told, a wall has an end.
LEAST_SPACING_M, MOST_SPACING_M, DEEPEST_CM = 0.3, 3.0, 400.0
MARGIN_CM = 70.0
ABOVE_CM, LEAST_BELOW_CM = 24.0, 38.0
ELBOW_DEG = 15.0
LONGEST_ARM_CM, LAMP_GAP_CM, FLAT_TOP_CM = 62.0, 3.0, 12.0


@dataclass(frozen=True)
class WallLamp:
    """One lamp before the wall: side, height, as found and as left slopes (vertical, sideways), where known."""

    side: Side
    height_m: float
    found: float | None = None
    left: float | None = None
    found_sideways: float = 0.0
    left_sideways: float = 0.0
    target: Target | None = None


@dataclass(frozen=True)
class WallPoint:
    """A place to hold the meter, or where it was held: metres right and down of one lamp; what it showed."""

    side: Side
    label: str
    right_m: float
    down_m: float
    before: str = ""
    after: str = ""


@dataclass(frozen=True)
class Box:
    """A rectangle in drawing units, y down."""

    x: float
    y: float
    width: float
    height: float
    words: str = ""


@dataclass(frozen=True)
class Mark:
    """A line or a path in drawing units with its label."""

    path: str
    words: str
    x: float
    y: float


@dataclass
class Wall:
    """Everything drawn: frame, grid, lamp lines, bands, cut-offs, points. Drawing units are cm, y down."""

    width: float
    top: float
    bottom: float
    distance_m: float
    unit: str
    vertical: list[tuple[float, str]] = field(default_factory=list)
    horizontal: list[tuple[float, str]] = field(default_factory=list)
    lamps: list[tuple[float, float, str]] = field(default_factory=list)
    keep: list[Box] = field(default_factory=list)
    setting: list[Box] = field(default_factory=list)
    found: list[Mark] = field(default_factory=list)
    left: list[Mark] = field(default_factory=list)
    points: list[tuple[float, float, WallPoint]] = field(default_factory=list)
    arm: float = LONGEST_ARM_CM

    @property
    def view_box(self) -> str:
        """The SVG viewBox: a border for the scales all round."""
        return f"{-self.width / 2 - 14:.1f} {self.top - 6:.1f} {self.width + 20:.1f} {self.bottom - self.top + 16:.1f}"


def build_wall(
    lamps: Sequence[WallLamp],
    distance_m: float,
    system: UnitSystem,
    spacing_m: float | None = None,
    traffic: str = "right",
    elbow: bool = True,
    points: Sequence[WallPoint] = (),
) -> Wall:
    """Draws *lamps* at *distance_m*. *elbow*: the cut-off rises 15° on the kerb side (mirrored for left traffic)."""
    spacing = min(max(spacing_m or ASSUMED_SPACING_M, LEAST_SPACING_M), MOST_SPACING_M)
    heights = [lamp.height_m * 100 for lamp in lamps]
    width = spacing * 100 + 2 * MARGIN_CM
    lows = [_lowest_cm(lamp, distance_m) for lamp in lamps] + [point.down_m * 100 + 15 for point in points]
    wall = Wall(
        width=width,
        top=-max(heights) - ABOVE_CM,
        bottom=min(0.0, -min(heights) + min(max(LEAST_BELOW_CM, *lows), DEEPEST_CM)),
        distance_m=distance_m,
        arm=min(LONGEST_ARM_CM, spacing * 50 - LAMP_GAP_CM),
        unit="in" if system is UnitSystem.INCH else "cm",
    )
    _grid(wall, heights[0], INCH_M * 100 if system is UnitSystem.INCH else 1.0)
    centres = {}
    for lamp in lamps:
        centre = spacing * 50 * (-1 if lamp.side is Side.LEFT else 1)
        centres[lamp.side] = (centre, -lamp.height_m * 100)
        wall.lamps.append((centre, -lamp.height_m * 100, lamp.side.value))
        _bands(wall, lamp, centre)
        _cut_offs(wall, lamp, centre, traffic, elbow)
    for point in points:
        x, y = centres[point.side]
        wall.points.append((x + point.right_m * 100, y + point.down_m * 100, point))
    return wall


def _lowest_cm(lamp: WallLamp, distance_m: float) -> float:
    """How far below the lamp something is drawn."""
    slopes = [slope for slope in (lamp.found, lamp.left) if slope is not None]
    if lamp.target:
        slopes.append(_drawn(lamp.target.keep).low)
    return max((-slope * distance_m * 100 + 12 for slope in slopes), default=0.0)


def _drawn(band: SlopeBand) -> SlopeBand:
    """A band with no lower limit is drawn two per cent deep."""
    return SlopeBand(band.high - 0.02, band.high) if math.isinf(band.low) else band


def _grid(wall: Wall, lamp_height_cm: float, unit_cm: float) -> None:
    """Lines every 10 cm or 5 in: across from the car's centre, up and down from the lamp's height."""
    step = 10 if unit_cm == 1 else 5
    size = step * unit_cm
    for count in range(-int(wall.width / 2 // size), int(wall.width / 2 // size) + 1):
        wall.vertical.append((count * size, f"{abs(count) * step}" if count % 2 == 0 else ""))
    first = math.ceil((wall.top + lamp_height_cm) / size)
    last = math.floor((wall.bottom + lamp_height_cm) / size)
    for count in range(first, last + 1):
        label = "0" if count == 0 else f"{'−' if count > 0 else '+'}{abs(count) * step}"
        wall.horizontal.append((count * size - lamp_height_cm, label))


def _bands(wall: Wall, lamp: WallLamp, centre: float) -> None:
    if lamp.target is None:
        return
    for band, boxes in ((lamp.target.keep, wall.keep), (lamp.target.set, wall.setting)):
        drawn = _drawn(band)
        top = -lamp.height_m * 100 - drawn.high * wall.distance_m * 100
        boxes.append(
            Box(
                centre - wall.arm,
                top,
                2 * wall.arm,
                (drawn.high - drawn.low) * wall.distance_m * 100,
                band.words,
            )
        )


def _cut_offs(wall: Wall, lamp: WallLamp, centre: float, traffic: str, elbow: bool) -> None:
    """The lamp's lines as found and as left; each named at the flat side of its elbow."""
    kerb = 1 if traffic == "right" else -1
    for slope, sideways, marks, words in (
        (lamp.found, lamp.found_sideways, wall.found, "as found"),
        (lamp.left, lamp.left_sideways, wall.left, "as left"),
    ):
        if slope is None:
            continue
        x = centre + sideways * wall.distance_m * 100
        y = -lamp.height_m * 100 - slope * wall.distance_m * 100
        name_x = x - wall.arm + 2 if kerb > 0 else x + 6
        marks.append(Mark(_cut_off_path(x, y, wall.arm, kerb, elbow), words, name_x, y))


def _cut_off_path(x: float, y: float, arm: float, kerb: int, elbow: bool) -> str:
    if not elbow:
        return f"M{x - arm:.1f} {y:.1f}H{x + arm:.1f}"
    run = kerb * (arm - FLAT_TOP_CM)
    rise = abs(run) * math.tan(math.radians(ELBOW_DEG))
    return f"M{x - kerb * arm:.1f} {y:.1f}L{x:.1f} {y:.1f}L{x + run:.1f} {y - rise:.1f}"
