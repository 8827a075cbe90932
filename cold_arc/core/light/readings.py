"""Readings on the wall, made comparable, and what before and after say of each other.

Common practice, no published source, unless a finding names one: same place, distance, meter, range and
voltage; compare candela, not lux.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level, worst, worst_first
from cold_arc.core.light import photometry
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import say_candela, say_degrees, say_lux, say_number, say_percent, say_volts

POINTS = {
    "peak": "Brightest point",
    "edge": "Just under the cut-off",
    "below": "Further down",
    "left": "To the left",
    "right": "To the right",
    "stray": "Above the cut-off, stray",
}
# Where to hold the meter, degrees right and up of the lamp's axis, driving on the right; the peak is searched for.
YARDSTICK = cite("un-r112 class B, as a yardstick")
# Places after UN R112 (50V, 25 line, 50L and its mirror, B50L), from memory.
PLACES = {
    "edge": (0.0, -0.86),
    "below": (0.0, -1.72),
    "left": (-3.43, -0.86),
    "right": (3.43, -0.86),
    "stray": (-3.43, 0.57),
}
NEEDED_POINTS = ("peak", "edge", "stray")
RANGE_FACTORS = (1, 10, 100)
SAME_DISTANCE_M = 0.05
SAME_VOLTS = 0.1
BALANCE_GOOD, BALANCE_TOLERABLE = 0.15, 0.30
STRAY_GROWTH = 1.25
STRAY_YARDSTICK_CD = 625.0
CLOSE_WALL_M = 3.0
AMBIENT_SHARE = 0.1
HEAD_NOTED = 1.05


@dataclass(frozen=True)
class WallReading:
    """One meter reading of one lamp: what the display meant, lx, and how it was taken.

    *across_m* and *drop_m* say where on the wall, from the lamp's axis; *settled* whether it was warm.
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

    @property
    def net_lux(self) -> float:
        """The reading less the ambient light; never below zero."""
        return max(self.lux - self.ambient_lx, 0.0)

    @property
    def candela(self) -> float:
        """Luminous intensity, cd, towards the point."""
        return photometry.candela(self.net_lux, self.distance_m, self.across_m, self.drop_m)

    def candela_at(self, volts: float, follows_supply: bool) -> float:
        """The intensity, cd, it would have shown at *volts*, if its light follows the supply at all."""
        if not follows_supply:
            return self.candela
        return self.candela * photometry.filament_factor(volts, self.volts)


def place(point: str, distance_m: float, traffic: str = "right") -> tuple[float, float]:
    """Where on the wall to hold the meter: metres right and down from the lamp's axis; (0, 0) for the peak.

    >>> [round(offset, 3) for offset in place("edge", 10.0)]
    [0.0, 0.15]
    """
    right_deg, up_deg = PLACES.get(point, (0.0, 0.0))
    if traffic == "left" and point == "stray":
        right_deg = -right_deg
    right = distance_m * math.tan(math.radians(right_deg))
    return right, -distance_m * math.tan(math.radians(up_deg)) + 0.0


def reading_findings(reading: WallReading) -> list[Finding]:
    """What is doubtful about one reading."""
    found = []
    if reading.ambient_lx > AMBIENT_SHARE * reading.lux:
        found.append(
            Finding(
                Level.CAUTION,
                f"{POINTS[reading.point]}: the room's own light is a large part of it.",
                PRACTICE,
                f"{say_lux(reading.ambient_lx)} of {say_lux(reading.lux)}",
                say_percent(AMBIENT_SHARE),
                "Darken the bay and read again.",
            )
        )
    if reading.distance_m < CLOSE_WALL_M:
        found.append(
            Finding(
                Level.CAUTION,
                "The wall is close: the inverse-square law is only just good.",
                cite("handbook five-times rule"),
                f"{say_number(reading.distance_m)} m",
                f"{say_number(CLOSE_WALL_M)} m or more",
            )
        )
    most = photometry.head_excess(reading.distance_m)
    if reading.point == "stray" and most > HEAD_NOTED:
        found.append(
            Finding(
                Level.NOTE,
                "So near the wall the meter's head takes in light from below the edge: stray reads too high.",
                cite("beam-model fall-off above an edge, averaged over the head"),
                f"a {photometry.HEAD_MM:g} mm head covers {say_degrees(photometry.head_deg(reading.distance_m), 2)}",
                f"up to {say_percent(most - 1)} too high",
                "Stand further from the wall, or mask the head.",
            )
        )
    return found


@dataclass(frozen=True)
class Gain:
    """One point before and after, cd, both at the after reading's supply voltage.

    *before_read_cd*: as it was read, where it was brought to another voltage for that; *correction* says why, in words.
    """

    point: str
    before_cd: float
    after_cd: float
    before_read_cd: float | None = None
    correction: str = ""

    @property
    def relative(self) -> float | None:
        """1.0 is +100 %; None where there was no light before."""
        return photometry.gain(self.before_cd, self.after_cd) if self.before_cd > 0 else None

    @property
    def ratio(self) -> float | None:
        """After over before; None where there was no light before."""
        return self.after_cd / self.before_cd if self.before_cd > 0 else None


def gain(before: WallReading, after: WallReading, before_follows: bool) -> Gain:
    """Before against after at one point; the before reading is brought to the after's supply voltage."""
    brought = before.candela_at(after.volts, before_follows)
    if not before_follows or abs(before.volts - after.volts) <= SAME_VOLTS:
        return Gain(after.point, brought, after.candela)
    why = (
        f"read at {say_volts(before.volts)}, brought to {say_volts(after.volts)}: a filament's light follows its supply"
    )
    return Gain(after.point, brought, after.candela, before.candela, why)


@dataclass(frozen=True)
class Comparison:
    """A lamp before and after: gains point by point, and findings, worst first."""

    gains: Mapping[str, Gain]
    findings: tuple[Finding, ...]

    @property
    def verdict(self) -> str:
        """The verdict in words; none before every point it needs was read both times."""
        unread = [point for point in NEEDED_POINTS if point not in self.gains]
        if unread:
            return f"No verdict yet: {' and '.join(unread)} to read before and after" if self.gains else "Not measured"
        peak = self.gains["peak"]
        if peak.after_cd <= peak.before_cd:
            return "Not brighter"
        return "Better where it matters" if worst(self.findings) < Level.CAUTION else "Brighter, with cautions"


def compare(before: Mapping[str, WallReading], after: Mapping[str, WallReading], before_follows: bool) -> Comparison:
    """Compares the points measured both times; *before_follows*: the old source was a filament."""
    gains = {
        point: gain(before[point], after[point], before_follows)
        for point in POINTS
        if point in before and point in after
    }
    found = [
        *_set_up_differences(before, after, before_follows),
        *_gain_findings(gains),
        *_stray_findings(gains, after.get("stray")),
        *_cold_findings(after),
    ]
    return Comparison(gains, tuple(worst_first(found)))


def _set_up_differences(
    before: Mapping[str, WallReading], after: Mapping[str, WallReading], before_follows: bool
) -> Iterator[Finding]:
    pairs = [(before[point], after[point]) for point in POINTS if point in before and point in after]
    for was, now in pairs:
        if abs(was.distance_m - now.distance_m) > SAME_DISTANCE_M:
            factor = (now.distance_m / was.distance_m) ** 2
            yield Finding(
                Level.NOTE,
                "Distance differs: raw lux can't be compared; candela can.",
                cite("handbook inverse-square law"),
                f"{say_number(was.distance_m)} m before, {say_number(now.distance_m)} m after",
                advice=f"Correction used: {say_number(factor)} times on lux.",
            )
            break
    for was, now in pairs:
        if was.range_factor != now.range_factor:
            yield Finding(
                Level.NOTE,
                "Meter range differs between before and after.",
                PRACTICE,
                f"x{say_number(was.range_factor)} before, x{say_number(now.range_factor)} after",
                advice="No correction: check that both displays were read with their factor.",
            )
            break
    for was, now in pairs:
        if abs(was.volts - now.volts) > SAME_VOLTS:
            yield _voltage_difference(was, now, before_follows)
            break


def _voltage_difference(was: WallReading, now: WallReading, before_follows: bool) -> Finding:
    number = f"{say_volts(was.volts)} before, {say_volts(now.volts)} after"
    if not before_follows:
        return Finding(
            Level.NOTE,
            "Supply voltage differs.",
            PRACTICE,
            number,
            advice="No correction: the old source was regulated.",
        )
    factor = photometry.filament_factor(now.volts, was.volts)
    return Finding(
        Level.NOTE,
        "Supply voltage differs: a filament's light follows it.",
        cite("handbook flux ∝ V^3.4"),
        number,
        advice=f"Correction used: before readings times {say_number(factor)}.",
    )


def _gain_findings(gains: Mapping[str, Gain]) -> Iterator[Finding]:
    for point in ("peak", "edge", "below"):
        change = gains.get(point)
        if change is None or change.relative is None:
            continue
        rise = say_percent(change.relative, signed=True)
        number = f"{say_candela(change.before_cd)} to {say_candela(change.after_cd)}, {rise}"
        if change.relative > 0:
            yield Finding(Level.OK, f"{POINTS[point]}: brighter.", PRACTICE, number)
        else:
            advice = "Check depth, clocking and aim before blaming the bulb."
            yield Finding(Level.CAUTION, f"{POINTS[point]}: not brighter.", PRACTICE, number, advice=advice)


def _stray_findings(gains: Mapping[str, Gain], read: WallReading | None) -> Iterator[Finding]:
    stray, peak = gains.get("stray"), gains.get("peak")
    if stray is None or read is None:
        return
    number = f"{say_candela(stray.before_cd)} to {say_candela(stray.after_cd)}"
    least = stray.after_cd / photometry.head_excess(read.distance_m)
    if least <= STRAY_YARDSTICK_CD < stray.after_cd:
        yield Finding(
            Level.NOTE,
            "Stray light stands at the yardstick, within what the meter's head adds so near the wall.",
            YARDSTICK,
            f"{number}; {say_candela(least)} or more without it",
            f"{say_candela(STRAY_YARDSTICK_CD)} in zone III",
            "Read it again from further off.",
        )
    elif stray.after_cd > STRAY_YARDSTICK_CD:
        yield Finding(
            Level.CAUTION,
            "Stray light is above the yardstick: it dazzles.",
            YARDSTICK,
            number,
            f"{say_candela(STRAY_YARDSTICK_CD)} in zone III",
            "Check depth, clocking and aim; look at the wall above the cut-off.",
        )
    if peak and peak.ratio and stray.ratio and stray.ratio > peak.ratio * STRAY_GROWTH:
        yield Finding(
            Level.CAUTION,
            "Stray light grew more than the beam did: the pattern changed.",
            PRACTICE,
            f"stray ×{say_number(stray.ratio)}, peak ×{say_number(peak.ratio)}",
            advice="Read depth and clocking again.",
        )
    elif stray.after_cd <= STRAY_YARDSTICK_CD:
        yield Finding(Level.OK, "Stray light stays low.", PRACTICE, number)


def _cold_findings(after: Mapping[str, WallReading]) -> Iterator[Finding]:
    if any(not reading.settled for reading in after.values()):
        yield Finding(
            Level.CAUTION,
            "Some readings after were taken cold. LEDs fade as they heat.",
            PRACTICE,
            advice="Let it run until the reading settles and read again.",
        )


def balance(left: WallReading, right: WallReading) -> Finding:
    """Left against right at one point, after: they should be equal."""
    top = max(left.candela, right.candela)
    off = round(abs(left.candela - right.candela) / top, 6) if top else 0.0
    number = f"left {say_candela(left.candela)}, right {say_candela(right.candela)}, {say_percent(off)} apart"
    limit = say_percent(BALANCE_GOOD)
    if off <= BALANCE_GOOD:
        return Finding(Level.OK, f"{POINTS[left.point]}: left equals right.", PRACTICE, number, limit)
    level = Level.CAUTION if off <= BALANCE_TOLERABLE else Level.STOP
    weaker = "left" if left.candela < right.candela else "right"
    return Finding(
        level,
        f"{POINTS[left.point]}: {weaker} is weaker.",
        PRACTICE,
        number,
        limit,
        f"Look at the {weaker} lamp's seat and lens.",
    )
