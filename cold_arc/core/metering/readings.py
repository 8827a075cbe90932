"""One reading of a lamp on the wall: where it is taken, how, and what is doubtful about it.

Common practice, no published source, unless a finding names one: same place, distance, meter, range
and voltage; compare candela, not lux.
"""

from __future__ import annotations

import math
import re
import statistics
from collections.abc import Sequence
from dataclasses import dataclass, replace

from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light import photometry
from cold_arc.core.metering.meters import MeterClass, meter
from cold_arc.core.references import PRACTICE, Sources, cite
from cold_arc.core.units import worded

POINTS = {
    "peak": "Brightest point",
    "edge": "Just under the cut-off",
    "below": "Further down",
    "left": "To the left",
    "right": "To the right",
    "stray": "Above the cut-off, stray",
}
# High beams have no cut-off: their names for two of the places.
HIGH_POINTS = {"edge": "Straight ahead", "stray": "Well above"}
FREE = re.compile(r"free-[1-9]\d{0,4}")
# Where to hold the meter, degrees right and up of the lamp's axis, driving on the right, by beam;
# the peak is searched for. Low after UN R112 (50V, 25 line, 50L and its mirror, B50L), high after
# its HV and H-2.6, fog after UN R19 (lines 2.5D and 1U), all from memory; the rest common practice.
PLACES: dict[str, dict[str, tuple[float, float]]] = {
    "low": {
        "edge": (0.0, -0.86),
        "below": (0.0, -1.72),
        "left": (-3.43, -0.86),
        "right": (3.43, -0.86),
        "stray": (-3.43, 0.57),
    },
    "high": {
        "edge": (0.0, 0.0),
        "below": (0.0, -1.0),
        "left": (-2.6, 0.0),
        "right": (2.6, 0.0),
        "stray": (0.0, 2.0),
    },
    "fog": {
        "edge": (0.0, -2.5),
        "below": (0.0, -4.0),
        "left": (-5.0, -2.5),
        "right": (5.0, -2.5),
        "stray": (0.0, 1.0),
    },
}


@dataclass(frozen=True)
class Yardstick:
    """What stray light above a beam's cut-off is held against, cd, and where that is asked."""

    candela: float
    where: str
    sources: Sources


def least_stray_cd(reading: WallReading) -> float:
    """A stray reading without the most that the meter's head may add so near the wall, cd."""
    return reading.candela / photometry.head_excess(reading.distance_m, reading.meter_class.head_mm)


# By function: of a passing beam zone III, of a fog lamp the line 1° up.
YARDSTICKS = {
    "low": Yardstick(625.0, "in zone III", cite("un-r112 class B, as a yardstick")),
    "fog": Yardstick(360.0, "1° up", cite("un-r19 class F3, as a yardstick")),
}
NEEDED_POINTS = ("peak", "edge", "stray")
RANGE_FACTORS = (1, 10, 100)
AS_FOUND, RESTORED = "found", "restored"
LENSES = {AS_FOUND: "As found", "cleaned": "Washed", RESTORED: "Polished or renewed"}
CLOSE_WALL_M = 3.0
AMBIENT_SHARE = 0.1
HEAD_NOTED = 1.05


@dataclass(frozen=True)
class WallReading:
    """One meter reading of one lamp: what the display meant, lx, and how it was taken.

    *across_m* and *drop_m* say where on the wall, from the lamp's axis; *settled* whether it was
    warm. *meter*: its class ("": not told); *wall*, *height_m* of the lamp, *lens* (of
    :data:`LENSES`), *other_lamp*: whether another lamp shone on the wall. *repeats* readings joined
    to one, *spread* their standard deviation as a share.
    """

    point: str
    lux: float
    distance_m: float
    volts: float
    ambient_lx: float = 0.0
    range_factor: float = 1.0
    across_m: float = 0.0
    drop_m: float = 0.0
    settled: bool = True
    meter: str = ""
    wall: str = ""
    height_m: float | None = None
    lens: str = "found"
    other_lamp: bool = False
    repeats: int = 1
    spread: float | None = None

    @property
    def net_lux(self) -> float:
        """The reading less the ambient light; never below zero."""
        return max(self.lux - self.ambient_lx, 0.0)

    @property
    def candela(self) -> float:
        """Luminous intensity, cd, towards the point."""
        return photometry.candela(self.net_lux, self.distance_m, self.across_m, self.drop_m)

    @property
    def meter_class(self) -> MeterClass:
        """The class of the meter it was read with."""
        return meter(self.meter)

    @property
    def is_simulated(self) -> bool:
        """Whether no lamp was measured at all."""
        return self.meter == "simulated"

    def candela_at(self, volts: float, follows_supply: bool) -> float:
        """The intensity, cd, it would have shown at *volts*, if its light follows the supply at
        all.
        """
        if not follows_supply:
            return self.candela
        return self.candela * photometry.filament_factor(volts, self.volts)


def points(function: Function = Function.LOW) -> dict[str, str]:
    """The places of a beam and their words."""
    return POINTS | (HIGH_POINTS if function == "high" else {})


def needed(function: Function = Function.LOW) -> tuple[str, ...]:
    """The places a verdict on a beam needs: a high beam's has no stray light to judge."""
    return NEEDED_POINTS[:2] if function == "high" else NEEDED_POINTS


def is_point(name: str) -> bool:
    """Whether a place has such a name: one of the usual, or a free one, "free-1" to
    "free-99999".
    """
    return name in POINTS or bool(FREE.fullmatch(name))


def words(name: str, function: Function = Function.LOW) -> str:
    """A place in words."""
    return points(function).get(name) or name.replace("-", " ").capitalize()


def direction(
    point: str, traffic: Traffic = Traffic.RIGHT, function: Function = Function.LOW
) -> tuple[float, float]:
    """Where a named place is looked for, degrees right and up of the lamp's axis; (0, 0) for any
    other.
    """
    right_deg, up_deg = PLACES.get(function, PLACES["low"]).get(point, (0.0, 0.0))
    return (-right_deg if traffic == Traffic.LEFT and point == "stray" else right_deg), up_deg


def place(
    point: str,
    distance_m: float,
    traffic: Traffic = Traffic.RIGHT,
    function: Function = Function.LOW,
) -> tuple[float, float]:
    """Where on the wall to hold the meter: metres right and down from the lamp's axis; (0, 0) for
    the peak.

    >>> [round(offset, 3) for offset in place("edge", 10.0)]
    [0.0, 0.15]
    """
    right_deg, up_deg = direction(point, traffic, function)
    right = distance_m * math.tan(math.radians(right_deg))
    return right, -distance_m * math.tan(math.radians(up_deg)) + 0.0


# Where a brightest point nobody read yet is looked for, degrees down of the lamp's axis (common
# practice): under the line of a low or fog beam, straight ahead of a high beam.
UNREAD_PEAK_DOWN_DEG = {"low": 1.3, "high": 0.0, "fog": 3.0}


def unread_place(point: str, distance_m: float, function: Function) -> tuple[float, float]:
    """Where on the wall a place is marked whose own was not told: metres right and down."""
    down_deg = UNREAD_PEAK_DOWN_DEG.get(function, 0.0) if point == "peak" else 0.0
    return 0.0, distance_m * math.tan(math.radians(down_deg))


def held_at(reading: WallReading, distance_m: float, function: Function) -> tuple[float, float]:
    """Where a reading's place is on a wall at *distance_m*: m right and down of its lamp; a
    brightest point nobody placed stands where it is looked for.
    """
    if reading.point == "peak" and not (reading.across_m or reading.drop_m):
        return unread_place("peak", distance_m, function)
    scale = distance_m / reading.distance_m
    return reading.across_m * scale, reading.drop_m * scale


def joined(taken: Sequence[WallReading]) -> WallReading:
    """Repeated readings of one place as one: their mean, how many, and their spread (JCGM 100 4.2,
    from memory).

    Of readings taken differently the newest alone counts.
    """
    last = taken[-1]
    alike = [reading for reading in taken if replace(reading, lux=last.lux) == last]
    lux = [reading.lux for reading in alike]
    mean = statistics.fmean(lux)
    if len(lux) < 2 or mean <= 0:
        return last
    return replace(last, lux=mean, repeats=len(lux), spread=statistics.stdev(lux) / mean)


def reading_findings(reading: WallReading) -> list[Finding]:
    """What is doubtful about one reading."""
    collected = []
    if reading.ambient_lx > AMBIENT_SHARE * reading.lux:
        collected.append(
            Finding(
                "ambient-large",
                Level.CAUTION,
                worded(
                    "{point}: the room's own light is a large part of it.",
                    point=words(reading.point),
                ),
                PRACTICE,
                worded(
                    "{ambient_lx:lux} of {lux:lux}", ambient_lx=reading.ambient_lx, lux=reading.lux
                ),
                worded("{ambient_share:percent}", ambient_share=AMBIENT_SHARE),
                "Darken the bay and read again.",
            )
        )
    if reading.distance_m < CLOSE_WALL_M:
        collected.append(
            Finding(
                "wall-close",
                Level.CAUTION,
                "The wall is close: the inverse-square law is only just good.",
                cite("handbook five-times rule"),
                worded("{distance_m:number} m", distance_m=reading.distance_m),
                worded("{close_wall_m:number} m or more", close_wall_m=CLOSE_WALL_M),
            )
        )
    head_mm = reading.meter_class.head_mm
    most = photometry.head_excess(reading.distance_m, head_mm)
    if reading.point == "stray" and most > HEAD_NOTED:
        collected.append(
            Finding(
                "head-takes-edge",
                Level.NOTE,
                (
                    "So near the wall the meter's head takes in light from below the edge: stray "
                    "reads too high."
                ),
                cite("beam-model fall-off above an edge, averaged over the head"),
                (
                    worded(
                        "a {head_mm:g} mm head covers {head_deg:degrees 2}",
                        head_mm=head_mm,
                        head_deg=photometry.head_deg(reading.distance_m, head_mm),
                    )
                ),
                worded("up to {most:percent} too high", most=most - 1),
                "Stand further from the wall, or mask the head.",
            )
        )
    return collected
