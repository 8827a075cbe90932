"""Aim: which rule, where its lines stand on the wall, and whether a reading is in.

A slope is rise over run from the lamp to the line on the wall, up positive. Rules are data
(``data/aim.toml``) with their source; published figures there are from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car.lamps import Function
from cold_arc.core.errors import ColdArcError
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.references import Sources, read
from cold_arc.core.units import FOOT_M, INCH_M, say_percent

TWENTY_FIVE_FEET_M = 25 * FOOT_M
OPEN_BAND_DROP = 0.005
# How closely a maker marks the slope, and a lamp is set to it (UN R48 6.2.6.1.1, from memory: to
# 0.1 %).
MARK_WITHIN = 0.001
_EPSILON = 1e-9


class OutsideRuleError(ColdArcError, ValueError):
    """The rule has no band for the height given."""


@dataclass(frozen=True)
class SlopeBand:
    """A closed range of slopes, low ≤ high; down is negative."""

    low: float
    high: float

    @property
    def middle(self) -> float:
        """The middle; half a per cent under the top where there is no lower limit."""
        return self.high - OPEN_BAND_DROP if math.isinf(self.low) else (self.low + self.high) / 2

    @property
    def is_line(self) -> bool:
        """Whether it is one slope alone."""
        return self.high - self.low < _EPSILON

    @property
    def words(self) -> str:
        """The band as people say it: "−2.50 % to −0.50 %", "−1.50 % or lower"."""
        if math.isinf(self.low):
            return f"{say_percent(self.high, 2)} or lower"
        if self.is_line:
            return say_percent(self.high, 2)
        return f"{say_percent(self.low, 2)} to {say_percent(self.high, 2)}"

    def excess(self, slope: float) -> float:
        """How far *slope* is outside: positive above, negative below, 0 inside (limits count as
        inside).
        """
        if slope > self.high + _EPSILON:
            return slope - self.high
        if slope < self.low - _EPSILON:
            return slope - self.low
        return 0.0


@dataclass(frozen=True)
class Target:
    """What a rule asks of one lamp: stay within *keep*, be left within *set*; slopes.

    *sideways* is where the elbow or hot spot may stand sideways, right positive; None where the
    rule gives no limit, *fixed* where it can't: the lamp has no sideways adjuster.
    """

    keep: SlopeBand
    set: SlopeBand
    sideways: SlopeBand | None
    sources: Sources
    fixed: bool = False

    @property
    def nominal(self) -> float:
        """The slope to aim for: the middle of the setting band."""
        return self.set.middle

    def sideways_excess(self, slope: float) -> float:
        """How far a sideways slope is outside what the rule allows; 0 inside or where it gives no
        limit.
        """
        return abs(self.sideways.excess(slope)) if self.sideways else 0.0


@dataclass(frozen=True)
class HeightBand:
    """A target that holds for lamp heights (m) above *above_m* up to and including *upto_m*.

    With *upto_inclusive* False, the upper height itself belongs to the next band.
    """

    from_m: float
    upto_m: float
    upto_inclusive: bool
    target: Target

    def holds(self, height_m: float) -> bool:
        """Whether *height_m* is in this band; the first band that holds in a rule is the one
        used.
        """
        top = (
            height_m <= self.upto_m + _EPSILON
            if self.upto_inclusive
            else height_m < self.upto_m - _EPSILON
        )
        return height_m >= self.from_m - _EPSILON and top


@dataclass(frozen=True)
class AimRule:
    """One rule: for which markets and lamps, and its bands by height; *steeper*: the one a maker
    may mark instead; *line*: what of the beam it goes by.
    """

    id: str
    name: str
    markets: tuple[str, ...]
    functions: tuple[Function, ...]
    height_of: str
    sources: Sources
    bands: tuple[HeightBand, ...]
    steeper: str = ""
    line: LineRead = LineRead.FLAT

    def target(self, height_m: float) -> Target:
        """The target for a lamp *height_m* above the floor; raises OutsideRuleError where the rule
        has none.
        """
        for band in self.bands:
            if band.holds(height_m):
                return band.target
        raise OutsideRuleError(f"{self.name} has no figure for a lamp {height_m:.2f} m high.")


def _inches_at_25_ft(inches: float) -> float:
    return inches * INCH_M / TWENTY_FIVE_FEET_M


def _aim_slope(row: dict[str, Any]) -> float:
    if "aim_deg" in row:
        return math.tan(math.radians(row["aim_deg"]))
    return _inches_at_25_ft(row["aim_inches_at_25_ft"])


def _target(row: dict[str, Any], rule: dict[str, Any]) -> Target:
    sideways, sources, fixed = (
        _sideways(rule),
        read(rule["source"]),
        rule.get("no_sideways_adjuster", False),
    )
    if "keep" in row:
        keep, setting = (SlopeBand(row[key][0] / 100, row[key][1] / 100) for key in ("keep", "set"))
        return Target(keep, setting, sideways, sources, fixed)
    aim, tolerance = _aim_slope(row), _inches_at_25_ft(row["keep_inches_at_25_ft"])
    return Target(
        SlopeBand(aim - tolerance, aim + tolerance), SlopeBand(aim, aim), sideways, sources, fixed
    )


def _sideways(rule: dict[str, Any]) -> SlopeBand | None:
    """Where a rule lets the elbow or hot spot stand sideways, left negative."""
    if "sideways" in rule:
        return SlopeBand(rule["sideways"][0] / 100, rule["sideways"][1] / 100)
    if "sideways_inches_at_25_ft" in rule:
        low, high = map(_inches_at_25_ft, rule["sideways_inches_at_25_ft"])
        return SlopeBand(low, high)
    return None


def _height_band(row: dict[str, Any], rule: dict[str, Any]) -> HeightBand:
    start = row.get("from", row.get("from_inches", 0.0) * INCH_M)
    stop = row.get("to", row.get("to_inches", math.inf) * INCH_M)
    return HeightBand(start, stop, not row.get("to_exclusive", False), _target(row, rule))


def _rule(row: dict[str, Any]) -> AimRule:
    return AimRule(
        id=row["id"],
        name=row["name"],
        markets=tuple(row["markets"]),
        functions=tuple(Function(name) for name in row["functions"]),
        height_of=row["height_of"],
        sources=read(row["source"]),
        bands=tuple(_height_band(band, row) for band in row["bands"]),
        steeper=row.get("steeper", ""),
        line=LineRead(row.get("line", "flat")),
    )


@cache
def built_in() -> dict[str, AimRule]:
    """The rules that come with the program by id, in the data file's order."""
    return {row["id"]: _rule(row) for row in data.load("aim")["rule"]}


def rules_for(market: str, function: Function) -> list[AimRule]:
    """The rules that apply to a lamp in a market, the usual one first."""
    return [
        rule
        for rule in built_in().values()
        if market in rule.markets and function in rule.functions
    ]


def target_for(rule: AimRule, height_m: float, mark: float | None = None) -> Target:
    """The target for a lamp *height_m* high, set to the slope its maker marks on it (*mark*) where
    that is known.

    A mark beyond the rule's own setting calls for the steeper one where the height leaves the
    choice. Raises OutsideRuleError where the rule has no figure for the height, or no lamp may be
    marked so.
    """
    usual = rule.target(height_m)
    if mark is None:
        return usual
    allowed = [
        target
        for target in (usual, steeper_target(rule, height_m))
        if target and not target.set.excess(mark)
    ]
    if not allowed:
        raise OutsideRuleError(
            f"{rule.name} lets no maker mark {say_percent(mark, 1)} for a lamp {height_m:.2f} "
            "m high."
        )
    return replace(allowed[0], set=SlopeBand(mark - MARK_WITHIN, mark + MARK_WITHIN))


def steeper_target(rule: AimRule, height_m: float) -> Target | None:
    """What a maker may mark instead at a height; None where the rule leaves no choice."""
    try:
        return built_in()[rule.steeper].target(height_m) if rule.steeper else None
    except OutsideRuleError:
        return None
