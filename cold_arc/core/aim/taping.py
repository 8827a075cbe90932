"""Where to tape the wall: heights from the floor and places from the car's centre line, on a floor level or measured.

A lamp is aimed against the plane its car stands on. On a floor that slopes that plane is the line through the floor
under the axles, carried on to the wall; the wall's own floor may lie off it. Geometry, worked out here.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from cold_arc.core.aim.rules import Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.units import UnitSystem, say_offset, say_percent

# Before anything is aimed (common practice, no published source).
CHECKS = {
    "tyres": "Tyres at their pressure",
    "load": "Empty but for the driver's weight, tank half full or as the rule has it",
    "levelling": "Levelling wheel at 0, self-levelling settled, air springs at ride height",
    "springs": "Bounced at each corner, so that the springs stand free",
    "lens": "Lens clean, lamps cool to the touch or warmed up alike",
    "wall": "Wall square to the car: both front wheels the same distance from it",
}


# A floor steeper than this is a ramp, or a slip of hand (own).
MOST_PITCH = 0.05


class FloorError(ValueError):
    """A floor that can't be: *field* names what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Floor:
    """Heights of the floor by water level or laser, m, up positive, against any one level: under the rear axle, under
    the front axle, at the wall. *wheelbase_m* between the axles; *overhang_m* from the front axle to the lamps."""

    rear_m: float = 0.0
    front_m: float = 0.0
    wall_m: float = 0.0
    wheelbase_m: float = 2.6
    overhang_m: float = 0.8

    def __post_init__(self) -> None:
        """Refuses a floor no car is aimed on."""
        if self.wheelbase_m <= 0:
            raise FloorError("wheelbase", "A wheelbase is above nothing.")
        if abs(self.pitch) > MOST_PITCH:
            raise FloorError("front", f"That is a slope of {say_percent(self.pitch, 1)}: look at the heights again.")

    @property
    def pitch(self) -> float:
        """The slope of the plane the car stands on, nose up positive."""
        return (self.front_m - self.rear_m) / self.wheelbase_m


LEVEL = Floor()


def height_on_wall_m(lamp_height_m: float, slope: float, distance_m: float, floor: Floor = LEVEL) -> float:
    """How high above the floor at the wall a line of *slope* from the lamp stands, m.

    *lamp_height_m* is measured from the floor at the lamp, which lies on the car's plane.

    >>> round(height_on_wall_m(0.72, -0.012, 10.0), 3)
    0.6
    >>> round(height_on_wall_m(0.72, -0.012, 10.0, Floor(front_m=0.026)), 3)  # nose up 1 %
    0.734
    """
    lamp_m = floor.front_m + floor.pitch * floor.overhang_m + lamp_height_m
    return lamp_m + (floor.pitch + slope) * distance_m - floor.wall_m


@dataclass(frozen=True)
class Tape:
    """One line or mark: what it is, and in tape-measure words where."""

    what: str
    words: str


@dataclass(frozen=True)
class Lamp:
    """A lamp before the wall: its height above the floor it stands on, m, and what its rule asks at that height."""

    height_m: float
    target: Target


def taping(
    lamps: Mapping[Side, Lamp], spacing_m: float | None, distance_m: float, system: UnitSystem, floor: Floor = LEVEL
) -> Iterator[Tape]:
    """What to tape, in order: the car's centre line, each lamp's, the lamps' height, the lines of the rule.

    Lamps that stand alike are told at once.
    """
    yield Tape("The car's centre line", "upright, from floor to above the lamps' height")
    for side in lamps if spacing_m else ():
        away = say_offset((spacing_m or 0.0) / 2, system)
        yield Tape(f"{side.value.capitalize()} lamp's centre line", f"from the car's centre line {away} {side.value}")
    alike = len(set(lamps.values())) == 1
    for side, lamp in list(lamps.items())[: 1 if alike else None]:
        for what, slope in _lines(lamp.target):
            place = say_offset(height_on_wall_m(lamp.height_m, slope, distance_m, floor), system)
            yield Tape(what if alike else f"{side.value.capitalize()} lamp: {what.lower()}", f"from the floor {place}")


def _lines(target: Target) -> Iterator[tuple[str, float]]:
    """What is taped of one lamp, each at its slope."""
    yield "Lamp height, level with the car", 0.0
    yield "Line to set to", target.nominal
    for what, band in (("Set", target.set), ("Keep", target.keep)):
        for word, slope in (("no higher than", band.high), ("no lower than", band.low)):
            if not math.isinf(slope) and band.high != band.low:
                yield f"{what}, {word}", slope
