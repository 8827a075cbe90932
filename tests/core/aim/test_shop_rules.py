"""A shop's own aim rules, the maker's mark, two lamps beside one another. Rules from memory of the
sources named.
"""

import math

import pytest

from cold_arc.core.aim.judging import height_words, parallel
from cold_arc.core.aim.rules import OutsideRuleError, built_in, target_for
from cold_arc.core.aim.shop_rules import ShopBand, ShopRule, ShopRuleError, copy_of
from cold_arc.core.findings import Level
from cold_arc.core.references import say
from cold_arc.core.units import UnitSystem

BAND = ShopBand(-0.005, -0.015, -0.010, -0.025)


@pytest.mark.parametrize("rule", built_in().values(), ids=built_in().keys())
def test_a_copy_asks_what_its_rule_asks(rule):
    copied = copy_of(rule)
    copied.check()
    for height in (0.56, 0.7, 0.8, 0.9, 0.95, 1.0, 1.1, 1.3):
        if height < rule.bands[0].from_m or height > rule.bands[-1].upto_m:
            continue
        if any(abs(height - band.upto_m) < 1e-6 and not band.upto_inclusive for band in rule.bands):
            continue  # a copy's bands hold up to and with their height
        mine, theirs = copied.as_rule().target(height), rule.target(height)
        assert (mine.keep, mine.sideways, mine.fixed) == (
            theirs.keep,
            theirs.sideways,
            theirs.fixed,
        )
        assert mine.set.high == theirs.set.high
    assert "the shop's own rule" in say(copied.as_rule().sources)


def test_a_shops_rule_has_its_own_bands():
    low, high = ShopBand(-0.005, -0.012, -0.010, -0.02, 0.85), ShopBand(-0.012, -0.02, -0.015)
    rule = ShopRule("Ours", "un-r48-low", (low, high), (-0.01, 0.01)).as_rule("own-1")
    assert rule.target(0.85).keep.high == -0.005
    assert rule.target(0.86).keep.high == -0.012
    assert math.isinf(rule.target(2.0).keep.low)
    assert rule.target(0.7).sideways.low == -0.01
    assert rule.markets == ("un",)


@pytest.mark.parametrize(
    ("bands", "said"),
    [
        ((), "one to 6 bands"),
        ((ShopBand(-0.005, -0.010, -0.015, -0.025),), "From low to high"),
        ((ShopBand(-0.005, -0.015, -0.010, -0.012),), "From low to high"),
        ((ShopBand(0.2, -0.015, -0.010),), "more than 10 %"),
        ((BAND, BAND), "Heights go up"),
        (
            (
                ShopBand(-0.005, -0.015, -0.010, None, 0.8),
                ShopBand(-0.005, -0.015, -0.010, None, 0.7),
            ),
            "Heights go up",
        ),
    ],
)
def test_a_rule_that_can_not_be_is_refused(bands, said):
    with pytest.raises(ShopRuleError, match=said):
        ShopRule("Ours", "un-r48-low", bands).check()
    with pytest.raises(ShopRuleError, match="a copy of"):
        ShopRule("Ours", "none", (BAND,)).check()


@pytest.mark.parametrize(
    ("height", "mark", "keep"),
    [
        (0.65, -0.012, (-0.025, -0.005)),
        (0.80, -0.010, (-0.025, -0.005)),
        (
            0.80,
            -0.018,
            (-0.030, -0.010),
        ),  # the maker chose the steeper setting, as the height lets him
        (0.95, -0.015, (-0.025, -0.005)),
        (1.10, -0.018, (-0.030, -0.010)),
    ],
)
def test_a_makers_mark_is_what_a_lamp_is_set_to(height, mark, keep):
    """UN R48 6.2.6.1.1, from memory: marked to 0.1 %; at 0.8 to 1.0 m the maker chooses between two
    bands.
    """
    target = target_for(built_in()["un-r48-low"], height, mark)
    assert target.nominal == pytest.approx(mark)
    assert target.set.high - target.set.low == pytest.approx(0.002)
    assert (target.keep.low, target.keep.high) == keep


@pytest.mark.parametrize(
    ("height", "mark"), [(0.65, -0.018), (1.1, -0.012), (0.9, -0.025), (0.7, 0.01)]
)
def test_a_mark_no_maker_may_choose_is_asked_back(height, mark):
    with pytest.raises(OutsideRuleError, match="lets no maker mark"):
        target_for(built_in()["un-r48-low"], height, mark)


@pytest.mark.parametrize(
    ("rule", "height", "mark", "said"),
    [
        ("un-r48-low", 0.65, None, []),
        ("un-r48-low", 0.796, None, ["height-at-edge"]),
        (
            "un-r48-low",
            0.80,
            None,
            ["height-at-edge", "steeper-setting"],
        ),
        ("un-r48-low", 0.90, None, ["steeper-setting"]),
        ("un-r48-low", 0.90, -0.018, []),
        ("uk-inspection-low", 0.854, None, ["height-at-edge"]),
        ("uk-inspection-low", 0.856, None, []),
    ],
)
def test_a_height_on_a_boundary_is_said(rule, height, mark, said):
    findings = height_words(built_in()[rule], height, mark)
    assert [finding.id for finding in findings] == said


@pytest.mark.parametrize(
    ("left", "right", "level", "higher"),
    [
        (-0.012, -0.012, Level.OK, None),
        (-0.010, -0.014, Level.OK, None),
        (-0.010, -0.0141, Level.CAUTION, "left"),
        (-0.020, -0.010, Level.CAUTION, "right"),
    ],
)
def test_two_lamps_of_a_car_stand_alike(left, right, level, higher):
    found = parallel(left, right, 10.0, UnitSystem.METRIC)
    assert (found.level, found.values.get("higher")) == (level, higher)
