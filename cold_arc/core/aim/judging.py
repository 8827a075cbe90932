"""What a rule says of where a beam stands, of two lamps beside one another."""

from __future__ import annotations

from typing import Any

from cold_arc.core.aim.rules import AimRule, Target, steeper_target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE, Sources
from cold_arc.core.units import UnitSystem, say_offset, say_slope, worded

_EPSILON = 1e-9


def mark_used(mark: float | None, sources: Sources) -> list[Finding]:
    """A word where the maker's own mark is what a lamp is set to."""
    if mark is None:
        return []
    return [
        Finding(
            "own-mark",
            Level.NOTE,
            worded("Set to the maker's own mark on the lamp, {mark:percent 1}.", mark=mark),
            sources,
        )
    ]


def simulated_words(simulated: bool) -> list[Finding]:
    """A word where a simulated camera was read."""
    if not simulated:
        return []
    text = "Read by a simulated camera, to practise: it looked at no lamp."
    return [
        Finding(
            "camera-simulated",
            Level.CAUTION,
            text,
            PRACTICE,
            advice="Aim the lamp and read it before the car leaves.",
        )
    ]


# How near to where a rule changes a height is worth measuring again, m (own: a tape's doubt on a
# lamp's edge).
NEAR_M = 0.005


def height_words(rule: AimRule, height_m: float, mark: float | None) -> list[Finding]:
    """What to mind of a lamp's height by a rule: it sits where the rule changes, or leaves its
    maker a choice.
    """
    parts = []
    edges = [band.upto_m for band in rule.bands if abs(band.upto_m - height_m) <= NEAR_M + _EPSILON]
    if edges:
        text = worded(
            "The height sits where the rule changes, {edge_m:.2f} m: measure it again.",
            edge_m=edges[0],
        )
        parts.append(
            Finding(
                "height-at-edge",
                Level.NOTE,
                text,
                rule.sources,
                worded("{height_m:.3f} m", height_m=height_m),
            )
        )
    steeper = steeper_target(rule, height_m)
    if steeper and mark is None:
        text = worded(
            "At this height the maker may have chosen the steeper setting, {setting}.",
            setting=steeper.set.words,
        )
        parts.append(
            Finding(
                "steeper-setting",
                Level.NOTE,
                text,
                rule.sources,
                advice="Look for the slope marked on the lamp.",
            )
        )
    return parts


# How far two lamps of one car may stand apart in height before it is worth a word, slope (own: a
# fifth of R48's band).
APART_SLOPE = 0.004


def parallel(left: float, right: float, distance_m: float, system: UnitSystem) -> Finding:
    """Left against right: both lamps of a car are to stand alike; slopes of their cut-offs, up
    positive.
    """
    apart = left - right
    number = worded(
        "{offset}, {slope:percent 2}",
        offset=say_offset(abs(apart) * distance_m, system),
        slope=abs(apart),
    )
    if abs(apart) <= APART_SLOPE:
        return Finding("sides-alike", Level.OK, "Left and right stand alike.", PRACTICE, number)
    higher = "left" if apart > 0 else "right"
    return Finding(
        "sides-apart",
        Level.CAUTION,
        worded("The {higher} lamp stands higher than the other.", higher=higher),
        PRACTICE,
        number,
    )


def judge(target: Target, slope: float, distance_m: float, system: UnitSystem) -> Finding:
    """Whether a cut-off at *slope* is in, and by how much it is out, on a wall at *distance_m*."""
    number = say_slope(slope, distance_m, system)
    limit = worded("keep {keep}", keep=target.keep.words)
    if excess := target.keep.excess(slope):
        return Finding(
            "aim-out",
            Level.STOP,
            worded("Out: {off}, {excess:percent 2}, {way}.", **_by(excess, distance_m, system)),
            target.sources,
            number,
            limit,
            _correction(target, slope, distance_m, system),
        )
    excess = target.set.excess(slope)
    if excess and not target.set.is_line:
        return Finding(
            "aim-beyond-setting",
            Level.CAUTION,
            worded(
                "In, but {off}, {excess:percent 2}, {way} for an initial setting.",
                **_by(excess, distance_m, system),
            ),
            target.sources,
            number,
            worded("set {set}", set=target.set.words),
            _correction(target, slope, distance_m, system),
        )
    return Finding("aim-in", Level.OK, "In.", target.sources, number, limit)


def _by(excess: float, distance_m: float, system: UnitSystem) -> dict[str, Any]:
    """By how much it is out, and which way: what the sentences of it are made from."""
    return {
        "off": say_offset(abs(excess) * distance_m, system),
        "excess": abs(excess),
        "way": "too high" if excess > 0 else "too low",
    }


def _correction(target: Target, slope: float, distance_m: float, system: UnitSystem) -> str:
    move = target.nominal - slope
    way = "up" if move > 0 else "down"
    offset = say_offset(abs(move) * distance_m, system)
    return worded("Move it {move} {turn} to stand mid-band.", move=offset, turn=way)


def judge_sideways(target: Target, slope: float, distance_m: float, system: UnitSystem) -> Finding:
    """Whether an elbow or hot spot stands near enough to its lamp's centre line; right positive."""
    side = "right" if slope > 0 else "left"
    number = worded(
        "{offset} {side} of the lamp's centre line",
        offset=say_offset(abs(slope) * distance_m, system),
        side=side,
    )
    if target.fixed:
        text = "Such a lamp has no sideways adjuster: it stands where the car was built."
        return Finding(
            "sideways-fixed",
            Level.NOTE,
            text,
            target.sources,
            number,
            advice="Well aside: look at mounts and bodywork.",
        )
    if target.sideways is None:
        return Finding(
            "sideways-free",
            Level.NOTE,
            "This rule gives no sideways limit.",
            target.sources,
            number,
        )
    limit = " to ".join(
        _say_side(edge, distance_m, system) for edge in (target.sideways.low, target.sideways.high)
    )
    if excess := target.sideways.excess(slope):
        way = "right" if excess > 0 else "left"
        advice = worded(
            "Turn the sideways adjuster: {excess} at least.",
            excess=say_offset(abs(excess) * distance_m, system),
        )
        return Finding(
            "sideways-out",
            Level.STOP,
            worded("Out: too far {way}.", way=way),
            target.sources,
            number,
            limit,
            advice,
        )
    return Finding("sideways-in", Level.OK, "In, sideways.", target.sources, number, limit)


def _say_side(slope: float, distance_m: float, system: UnitSystem) -> str:
    """A sideways limit in words."""
    side = "right" if slope > 0 else "left"
    return f"{say_offset(abs(slope) * distance_m, system)} {side}" if slope else "the centre line"
