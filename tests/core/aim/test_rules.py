"""Aim rules against UN R48, the UK inspection, and SAE J599 / 49 CFR 571.108, all from memory."""

import math

import pytest

from cold_arc.core.aim.judging import judge, judge_sideways
from cold_arc.core.aim.rules import TWENTY_FIVE_FEET_M, OutsideRuleError, built_in, rules_for
from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Level
from cold_arc.core.units import INCH_M, UnitSystem

METRIC = UnitSystem.METRIC


def target(rule, height_m):
    return built_in()[rule].target(height_m)


@pytest.mark.parametrize(
    ("rule", "height_m", "keep", "setting"),
    [
        ("un-r48-low", 0.60, (-2.5, -0.5), (-1.5, -1.0)),  # UN R48 6.2.6.1
        ("un-r48-low", 0.79, (-2.5, -0.5), (-1.5, -1.0)),
        ("un-r48-low", 0.80, (-2.5, -0.5), (-1.5, -1.0)),
        ("un-r48-low", 1.00, (-2.5, -0.5), (-1.5, -1.0)),
        ("un-r48-low", 1.01, (-3.0, -1.0), (-2.0, -1.5)),
        ("un-r48-low-steep", 0.80, (-3.0, -1.0), (-2.0, -1.5)),
        ("un-r48-low-steep", 1.00, (-3.0, -1.0), (-2.0, -1.5)),
        ("un-r48-fog-f3", 0.80, (-3.0, -1.0), (-2.0, -1.5)),  # UN R48 6.3.6
        ("un-r48-fog-f3", 0.81, (-3.5, -1.5), (-2.5, -2.0)),
        ("uk-inspection-low", 0.85, (-2.0, -0.5), (-1.5, -1.0)),  # UK roadworthiness inspection
        ("uk-inspection-low", 0.86, (-2.75, -1.25), (-2.0, -1.5)),
    ],
)
def test_bands_by_height_with_their_limits(rule, height_m, keep, setting):
    found = target(rule, height_m)
    assert (found.keep.low * 100, found.keep.high * 100) == pytest.approx(keep)
    assert (found.set.low * 100, found.set.high * 100) == pytest.approx(setting)


@pytest.mark.parametrize(
    ("inches_high", "inches_down"),
    [(22, 0), (30, 0), (36, 0), (36.1, 2), (39, 2), (39.1, 2.5), (48, 2.5), (48.1, 4), (54, 4)],
)
def test_sae_j599_drop_at_25_feet_by_height(inches_high, inches_down):
    found = target("us-j599-low", inches_high * INCH_M)
    drop_inches = -found.nominal * TWENTY_FIVE_FEET_M / INCH_M
    assert drop_inches == pytest.approx(inches_down)
    assert (found.keep.high - found.nominal) * TWENTY_FIVE_FEET_M / INCH_M == pytest.approx(4)


def test_vol_hangs_0_4_degrees_which_is_2_1_inches_at_25_feet():
    found = target("us-vol", 0.7)
    assert math.degrees(math.atan(found.nominal)) == pytest.approx(-0.4)
    assert -found.nominal * TWENTY_FIVE_FEET_M / INCH_M == pytest.approx(2.1, abs=0.05)


def test_vor_is_level():
    assert target("us-vor", 0.7).nominal == 0


@pytest.mark.parametrize(
    ("distance_m", "drop_cm"),
    [(3.0, 3.75), (5.0, 6.25), (7.62, 9.525), (10.0, 12.5), (12.2, 15.25)],
)
def test_mid_band_drop_at_the_distances_in_use(distance_m, drop_cm):
    """UN R48 initial band −1.0 to −1.5 %: its middle hangs 1.25 % of the distance."""
    assert -target("un-r48-low", 0.65).nominal * distance_m * 100 == pytest.approx(drop_cm)


@pytest.mark.parametrize("height_m", [0.50, 1.40])
def test_a_height_outside_the_table_is_said(height_m):
    with pytest.raises(OutsideRuleError, match="no figure"):
        target("us-j599-low", height_m)


@pytest.mark.parametrize(
    ("slope", "level"),
    [
        (-0.005, Level.CAUTION),  # on the limit counts as in, but is no initial setting
        (-0.025, Level.CAUTION),
        (-0.010, Level.OK),
        (-0.015, Level.OK),
        (-0.0049, Level.STOP),
        (-0.0251, Level.STOP),
        (0.0, Level.STOP),
    ],
)
def test_in_or_out_with_limits_counted_in(slope, level):
    assert judge(target("un-r48-low", 0.65), slope, 10.0, METRIC).level is level


def test_out_says_by_how_much_and_which_way():
    finding = judge(target("un-r48-low", 0.65), -0.002, 10.0, METRIC)
    assert finding.text == "Out: 3.0\u00a0cm, 0.30\u00a0%, too high."
    assert (finding.values["excess"], finding.values["way"]) == (pytest.approx(0.003), "too high")
    assert (finding.values["move"], finding.values["turn"]) == ("10.5\u00a0cm", "down")
    low = judge(target("un-r48-low", 0.65), -0.03, 10.0, UnitSystem.INCH)
    assert (low.values["off"], low.values["way"]) == ("2.0\u00a0in", "too low")


def test_fog_class_b_has_no_lower_limit():
    """UN R48 6.3.6: −1.5 % or lower."""
    found = target("un-r48-fog-b", 0.4)
    assert judge(found, -0.09, 10.0, METRIC).level is Level.OK
    assert judge(found, -0.014, 10.0, METRIC).level is Level.STOP
    assert found.nominal == pytest.approx(-0.02)
    assert "or lower" in found.keep.words


@pytest.mark.parametrize(
    ("rule", "slope", "level"),
    [
        ("us-j599-low", 4 * INCH_M / TWENTY_FIVE_FEET_M, Level.OK),  # SAE J599: ±4 in at 25 ft
        ("us-j599-low", -4.04 * INCH_M / TWENTY_FIVE_FEET_M, Level.STOP),
        ("uk-inspection-low", 0.0, Level.OK),  # UK inspection: kink 0 to 2 % to the left
        ("uk-inspection-low", -0.02, Level.OK),
        ("uk-inspection-low", -0.021, Level.STOP),
        ("uk-inspection-low", 0.001, Level.STOP),
        ("un-r48-low", 0.1, Level.NOTE),  # UN R48 gives no sideways limit
        ("us-vol", 0.1, Level.NOTE),  # 49 CFR 571.108: no sideways adjuster
        ("us-vor", 0.1, Level.NOTE),
    ],
)
def test_sideways(rule, slope, level):
    assert judge_sideways(target(rule, 0.7), slope, 7.62, METRIC).level is level


def test_a_lamp_without_a_sideways_adjuster_is_told_so():
    fixed = judge_sideways(target("us-vol", 0.7), 0.1, 7.62, METRIC)
    assert fixed.id == "sideways-fixed"
    out = judge_sideways(target("uk-inspection-low", 0.7), 0.01, 10.0, METRIC)
    assert out.limit == "20.0\u00a0cm left to the centre line"
    assert out.values["excess"] == "10.0\u00a0cm"


def test_every_market_has_a_rule_for_every_beam():
    for market in ("un", "uk", "us"):
        for function in (Function.LOW, Function.HIGH, Function.FOG):
            assert rules_for(market, function), (market, function)


def test_every_rule_names_its_source():
    for rule in built_in().values():
        assert all(source.recalled or source.id == "practice" for source in rule.sources)


def test_sideways_is_told_in_what_can_be_measured_on_the_wall():
    """By hand: 1 % at 7.62 m is 7.6 cm."""
    told = judge_sideways(target("uk-inspection-low", 0.7), -0.01, 7.62, METRIC)
    assert (told.values["offset"], told.values["side"]) == ("7.6\u00a0cm", "left")


def test_a_bounds_words_keep_the_rules_two_decimals():
    assert "−1.50" in target("un-r48-fog-b", 0.4).keep.words
