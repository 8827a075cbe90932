"""What a rule says of where a beam stands, of two lamps beside one another."""

from __future__ import annotations

from cold_arc.core.aim.rules import AimRule, Target, steeper_target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE, Sources
from cold_arc.core.units import UnitSystem, say_offset, say_percent, say_slope

_EPSILON = 1e-9


def mark_used(mark: float | None, sources: Sources) -> list[Finding]:
    """A word where the maker's own mark is what a lamp is set to."""
    if mark is None:
        return []
    return [
        Finding(
            Level.NOTE, f"Set to the maker's own mark on the lamp, {say_percent(mark, 1)}.", sources
        )
    ]


def simulated_words(simulated: bool) -> list[Finding]:
    """A word where a simulated camera was read."""
    if not simulated:
        return []
    text = "Read by a simulated camera, to practise: it looked at no lamp."
    return [
        Finding(
            Level.CAUTION, text, PRACTICE, advice="Aim the lamp and read it before the car leaves."
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
        text = f"The height sits where the rule changes, {edges[0]:.2f} m: measure it again."
        parts.append(Finding(Level.NOTE, text, rule.sources, f"{height_m:.3f} m"))
    steeper = steeper_target(rule, height_m)
    if steeper and mark is None:
        text = f"At this height the maker may have chosen the steeper setting, {steeper.set.words}."
        parts.append(
            Finding(Level.NOTE, text, rule.sources, advice="Look for the slope marked on the lamp.")
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
    number = f"{say_offset(abs(apart) * distance_m, system)}, {say_percent(abs(apart), 2)}"
    if abs(apart) <= APART_SLOPE:
        return Finding(Level.OK, "Left and right stand alike.", PRACTICE, number)
    higher = "left" if apart > 0 else "right"
    return Finding(
        Level.CAUTION, f"The {higher} lamp stands higher than the other.", PRACTICE, number
    )


def judge(target: Target, slope: float, distance_m: float, system: UnitSystem) -> Finding:
    """Whether a cut-off at *slope* is in, and by how much it is out, on a wall at *distance_m*."""
    number = say_slope(slope, distance_m, system)
    limit = f"keep {target.keep.words}"
    if excess := target.keep.excess(slope):
        return Finding(
            Level.STOP,
            f"Out: {_by(excess, distance_m, system)}.",
            target.sources,
            number,
            limit,
            _correction(target, slope, distance_m, system),
        )
    excess = target.set.excess(slope)
    if excess and not target.set.is_line:
        return Finding(
            Level.CAUTION,
            f"In, but {_by(excess, distance_m, system)} for an initial setting.",
            target.sources,
            number,
            f"set {target.set.words}",
            _correction(target, slope, distance_m, system),
        )
    return Finding(Level.OK, "In.", target.sources, number, limit)


def _by(excess: float, distance_m: float, system: UnitSystem) -> str:
    high_or_low = "too high" if excess > 0 else "too low"
    return (
        f"{say_offset(abs(excess) * distance_m, system)}, {say_percent(abs(excess), 2)}, "
        f"{high_or_low}"
    )


def _correction(target: Target, slope: float, distance_m: float, system: UnitSystem) -> str:
    move = target.nominal - slope
    way = "up" if move > 0 else "down"
    return f"Move it {say_offset(abs(move) * distance_m, system)} {way} to stand mid-band."


def judge_sideways(target: Target, slope: float, distance_m: float, system: UnitSystem) -> Finding:
    """Whether an elbow or hot spot stands near enough to its lamp's centre line; right positive."""
    side = "right" if slope > 0 else "left"
    number = f"{say_offset(abs(slope) * distance_m, system)} {side} of the lamp's centre line"
    if target.fixed:
        text = "Such a lamp has no sideways adjuster: it stands where the car was built."
        return Finding(
            Level.NOTE,
            text,
            target.sources,
            number,
            advice="Well aside: look at mounts and bodywork.",
        )
    if target.sideways is None:
        return Finding(Level.NOTE, "This rule gives no sideways limit.", target.sources, number)
    limit = " to ".join(
        _say_side(edge, distance_m, system) for edge in (target.sideways.low, target.sideways.high)
    )
    if excess := target.sideways.excess(slope):
        way = "right" if excess > 0 else "left"
        advice = (
            f"Turn the sideways adjuster: {say_offset(abs(excess) * distance_m, system)} at least."
        )
        return Finding(Level.STOP, f"Out: too far {way}.", target.sources, number, limit, advice)
    return Finding(Level.OK, "In, sideways.", target.sources, number, limit)


def _say_side(slope: float, distance_m: float, system: UnitSystem) -> str:
    """A sideways limit in words."""
    side = "right" if slope > 0 else "left"
    return f"{say_offset(abs(slope) * distance_m, system)} {side}" if slope else "the centre line"
