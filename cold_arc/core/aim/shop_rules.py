"""A shop's own copy of an aim rule: its bands by height, and where the elbow may stand sideways.

What is recorded by such a rule holds the copy itself: changed later, it changes no verdict passed.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from cold_arc.core.aim.rules import AimRule, HeightBand, SlopeBand, Target, built_in
from cold_arc.core.errors import ColdArcError
from cold_arc.core.references import cite

MOST_BANDS, STEEPEST = 6, 0.10
SHOPS_OWN = cite("shop-rule")


class ShopRuleError(ColdArcError, ValueError):
    """A rule that can't be: *band* is the row that is wrong, None for the whole."""

    def __init__(self, message: str, band: int | None = None) -> None:
        super().__init__(message)
        self.band = band


@dataclass(frozen=True)
class ShopBand:
    """What is asked of lamps up to *upto_m* high (None: of all above the band before), slopes, down
    negative; *keep_low* None where it may stand as low as it likes."""

    keep_high: float
    set_low: float
    set_high: float
    keep_low: float | None = None
    upto_m: float | None = None


@dataclass(frozen=True)
class ShopRule:
    """A copy of the rule *based_on*, named by the shop."""

    name: str
    based_on: str
    bands: tuple[ShopBand, ...]
    sideways: tuple[float, float] | None = None

    def check(self) -> None:
        """Raises ShopRuleError for a rule no lamp can be aimed by."""
        if not self.name.strip() or self.based_on not in built_in():
            raise ShopRuleError("A rule has a name, and one it is a copy of.")
        if not 0 < len(self.bands) <= MOST_BANDS:
            raise ShopRuleError(f"A rule has one to {MOST_BANDS} bands.")
        last = 0.0
        for number, band in enumerate(self.bands):
            _check_band(band, number)
            upto = math.inf if band.upto_m is None else band.upto_m
            if upto <= last:
                raise ShopRuleError("Heights go up from band to band.", number)
            last = upto
        if self.sideways and self.sideways[0] > self.sideways[1]:
            raise ShopRuleError("Sideways goes from left to right.")

    def as_rule(self, rule_id: str = "") -> AimRule:
        """It as a rule like any other, for the lamps and markets of the one it is a copy of."""
        base = built_in()[self.based_on]
        sideways = SlopeBand(*self.sideways) if self.sideways else None
        sources = (*SHOPS_OWN, *base.sources)
        fixed = next(iter(base.bands)).target.fixed
        bands, start = [], 0.0
        for band in self.bands:
            keep = SlopeBand(-math.inf if band.keep_low is None else band.keep_low, band.keep_high)
            target = Target(keep, SlopeBand(band.set_low, band.set_high), sideways, sources, fixed)
            upto = math.inf if band.upto_m is None else band.upto_m
            bands.append(HeightBand(start, upto, True, target))
            start = upto
        return replace(
            base,
            id=rule_id or self.based_on,
            name=self.name,
            sources=sources,
            bands=tuple(bands),
            steeper="",
        )


def _check_band(band: ShopBand, number: int) -> None:
    low = -math.inf if band.keep_low is None else band.keep_low
    if not low <= band.set_low <= band.set_high <= band.keep_high:
        raise ShopRuleError("From low to high: keep from, set from, set to, keep to.", number)
    if (
        max(
            abs(share)
            for share in (band.set_low, band.set_high, band.keep_high, band.keep_low or 0.0)
        )
        > STEEPEST
    ):
        raise ShopRuleError("A slope of more than 10 % is none of a lamp's.", number)


def copy_of(rule: AimRule) -> ShopRule:
    """A copy of a rule to start from."""
    bands = tuple(
        ShopBand(
            target.keep.high,
            max(target.set.low, -STEEPEST),
            target.set.high,
            None if math.isinf(target.keep.low) else target.keep.low,
            None if math.isinf(band.upto_m) else band.upto_m,
        )
        for band in rule.bands
        for target in (band.target,)
    )
    side = rule.bands[0].target.sideways
    return ShopRule(
        f"{rule.name}, our own"[:80], rule.id, bands, (side.low, side.high) if side else None
    )
