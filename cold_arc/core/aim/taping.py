"""Where to tape the wall: heights from the floor and places from the car's centre line, on a floor
level or measured.

A lamp is aimed against the plane its car stands on. On a floor that slopes that is the plane
nearest the floor under the four wheels, carried on to the wall; the wall's own floor may lie off
it. Geometry, worked out here.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from cold_arc.core.aim.rules import Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.errors import ColdArcError
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import UnitSystem, say_offset, say_percent, worded

# Before anything is aimed (common practice, no published source).
CHECKS = {
    "tyres": "Tyres at their pressure",
    "load": "Empty but for the driver's weight, tank half full or as the rule has it",
    "levelling": "Levelling wheel at 0, self-levelling settled, air springs at ride height",
    "springs": "Bounced at each corner, so that the springs stand free",
    "lens": "Lens clean, lamps cool to the touch or warmed up alike",
    "wall": "Wall square to the car: both front wheels the same distance from it",
}


# A floor steeper than this is a ramp, or a slip of hand; a wheel farther than this off the plane of
# the other three, m, lets the springs tilt the car (own).
MOST_SLOPE, MOST_TWIST_M = 0.05, 0.010
# What tape shows: lines that lean less are taped level, m a metre.
LEAST_LEAN = 0.0005


class FloorError(ColdArcError, ValueError):
    """A floor that can't be: *field* names what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Floor:
    """Heights of the floor by water level or laser, m, up positive, against any one level: under
    the rear wheels, under the front wheels, at the wall below the lamps; on the left, and on the
    right where it is not as on the left.

    *wheelbase_m* between the axles; *overhang_m* from the front axle to the lamps; *track_m* from
    wheel to wheel.
    """

    rear_m: float = 0.0
    front_m: float = 0.0
    wall_m: float = 0.0
    wheelbase_m: float = 2.6
    overhang_m: float = 0.8
    rear_right_m: float | None = None
    front_right_m: float | None = None
    wall_right_m: float | None = None
    track_m: float = 1.5

    def __post_init__(self) -> None:
        """Refuses a floor no car is aimed on."""
        for name in ("wheelbase", "track"):
            if getattr(self, f"{name}_m") <= 0:
                raise FloorError(name, f"A {name} is above nothing.")
        for name, slope in (("front", self.pitch), ("front_right", self.lean)):
            if abs(slope) > MOST_SLOPE:
                raise FloorError(
                    name, f"That is a slope of {say_percent(slope, 1)}: look at the heights again."
                )

    @property
    def _rear(self) -> tuple[float, float]:
        return _both(self.rear_m, self.rear_right_m)

    @property
    def _front(self) -> tuple[float, float]:
        return _both(self.front_m, self.front_right_m)

    @property
    def pitch(self) -> float:
        """The slope of the plane the car stands on, nose up positive."""
        return (sum(self._front) - sum(self._rear)) / 2 / self.wheelbase_m

    @property
    def lean(self) -> float:
        """Its slope across, right side up positive."""
        return (_rise(self._front) + _rise(self._rear)) / 2 / self.track_m

    @property
    def twist_m(self) -> float:
        """How far one wheel stands off the plane of the other three."""
        return abs(_rise(self._front) - _rise(self._rear))

    @property
    def level(self) -> bool:
        """Whether every height is alike."""
        return len({*self._rear, *self._front, *_both(self.wall_m, self.wall_right_m)}) == 1

    @property
    def by_side(self) -> bool:
        """Whether it is another floor for the left lamp than for the right one."""
        return self.lean != 0 or _rise(_both(self.wall_m, self.wall_right_m)) != 0

    def at_lamp_m(self, right_m: float) -> float:
        """How high the car's plane lies below a lamp so far right of the car's middle."""
        return sum(self._front) / 2 + self.pitch * self.overhang_m + self.lean * right_m

    def at_wall_m(self, right_m: float) -> float:
        """How high the floor lies at the wall on the side of such a lamp; the middle between both
        for one amidst.
        """
        left, right = _both(self.wall_m, self.wall_right_m)
        return (left + right) / 2 if not right_m else (left if right_m < 0 else right)


def _both(left_m: float, right_m: float | None) -> tuple[float, float]:
    return left_m, left_m if right_m is None else right_m


def _rise(sides: tuple[float, float]) -> float:
    return sides[1] - sides[0]


LEVEL = Floor()


def height_on_wall_m(
    lamp_height_m: float,
    slope: float,
    distance_m: float,
    floor: Floor = LEVEL,
    right_m: float = 0.0,
) -> float:
    """How high above the floor at the wall a line of *slope* from the lamp stands straight before
    it, m.

    *lamp_height_m* is measured from the floor at the lamp, which lies on the car's plane, *right_m*
    of its middle.

    >>> round(height_on_wall_m(0.72, -0.012, 10.0), 3)
    0.6
    >>> round(height_on_wall_m(0.72, -0.012, 10.0, Floor(front_m=0.026)), 3)  # nose up 1 %
    0.734
    """
    lamp_m = floor.at_lamp_m(right_m) + lamp_height_m
    return lamp_m + (floor.pitch + slope) * distance_m - floor.at_wall_m(right_m)


# How far apart a car's two lamps of one kind may stand, m (own).
NEAREST_APART_M, FARTHEST_APART_M = 0.3, 2.5


def lamp_right_m(side: Side, spacing_m: float | None) -> float:
    """How far right of the car's middle a lamp sits; 0 where the spacing is not known."""
    return (1 if side is Side.RIGHT else -1) * (spacing_m or 0.0) / 2


def floor_findings(floor: Floor) -> Iterator[Finding]:
    """What to mind of a floor."""
    if floor.twist_m > MOST_TWIST_M:
        text = (
            "One wheel stands off the plane of the other three, so the springs tilt the car. "
            "Choose another place."
        )
        yield Finding(
            "floor-twisted",
            Level.CAUTION,
            text,
            PRACTICE,
            worded("{twist_mm:.0f} mm", twist_mm=1000 * floor.twist_m),
        )


@dataclass(frozen=True)
class Tape:
    """One line or mark: what it is, and in tape-measure words where."""

    what: str
    words: str


@dataclass(frozen=True)
class TapedLamp:
    """A lamp before the wall: its height above the floor it stands on, m, and what its rule asks at
    that height.
    """

    height_m: float
    target: Target


def taping(
    lamps: Mapping[Side, TapedLamp],
    spacing_m: float | None,
    distance_m: float,
    system: UnitSystem,
    floor: Floor = LEVEL,
) -> Iterator[Tape]:
    """What to tape, in order: the car's centre line, each lamp's, the lamps' height, the lines of
    the rule, their lean.

    Lamps whose lines stand alike are told at once.
    """
    yield Tape("The car's centre line", "upright, from floor to above the lamps' height")
    for side in lamps if spacing_m else ():
        away = say_offset((spacing_m or 0.0) / 2, system)
        yield Tape(
            f"{side.value.capitalize()} lamp's centre line",
            f"from the car's centre line {away} {side.value}",
        )
    by_side = {
        side: list(_heights(lamp, lamp_right_m(side, spacing_m), distance_m, floor))
        for side, lamp in lamps.items()
    }
    yield from _level_lines(by_side, system)
    if abs(floor.lean) >= LEAST_LEAN:
        way = "right" if floor.lean > 0 else "left"
        yield Tape(
            "Every level line",
            f"leans with the car: {1000 * abs(floor.lean):.1f} mm a metre, up to the {way}",
        )


def _heights(
    lamp: TapedLamp, right_m: float, distance_m: float, floor: Floor
) -> Iterator[tuple[str, float]]:
    """What is taped of one lamp, each at its height on the wall, m."""
    for what, slope in _lines(lamp.target):
        yield what, height_on_wall_m(lamp.height_m, slope, distance_m, floor, right_m)


def _level_lines(
    by_side: Mapping[Side, list[tuple[str, float]]], system: UnitSystem
) -> Iterator[Tape]:
    """The level lines of each lamp, m above the floor; of both at once where they stand alike."""
    alike = all(lines == next(iter(by_side.values())) for lines in by_side.values())
    for side, lines in list(by_side.items())[: 1 if alike else None]:
        for what, height_m in lines:
            place = f"from the floor {say_offset(height_m, system)}"
            yield Tape(what if alike else f"{side.value.capitalize()} lamp: {what.lower()}", place)


def _lines(target: Target) -> Iterator[tuple[str, float]]:
    """What is taped of one lamp, each at its slope."""
    yield "Lamp height, level with the car", 0.0
    yield "Line to set to", target.nominal
    for what, band in (("Set", target.set), ("Keep", target.keep)):
        for word, slope in (("no higher than", band.high), ("no lower than", band.low)):
            if not math.isinf(slope) and not band.is_line:
                yield f"{what}, {word}", slope
