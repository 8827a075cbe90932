"""What a prediction may be off by, and which candidates can't be told apart. Quadrature after the
GUM, from memory.
"""

import math
from dataclasses import replace

import pytest

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.match import doubt, judge
from cold_arc.core.match.prediction import predict
from cold_arc.core.match.ranking import Judged, rank
from cold_arc.demo.shelf import SHELF
from tests.core.match.lamps import REFLECTOR

SLIM = SHELF["Sableline H7 slim"]


def test_doubts_add_in_quadrature():
    assert doubt.of_source(SLIM) == pytest.approx(math.hypot(doubt.CLAIM, doubt.ROUGH_BEAM))
    assert doubt.of_prediction(SLIM, None) == pytest.approx(
        math.sqrt(doubt.CLAIM**2 + doubt.ROUGH_BEAM**2 + doubt.TYPICAL_HOUSING**2)
    )


def test_each_doubt_is_a_share_of_the_whole():
    """Own figures: a kind's lamps by 30 %, a claim by 15, one cut down by 25, a rough beam by 5."""
    figures = (doubt.TYPICAL_HOUSING, doubt.CLAIM, doubt.CUT_CLAIM, doubt.ROUGH_BEAM)
    assert all(0 < share < 0.5 for share in figures)
    assert doubt.ROUGH_BEAM < doubt.CLAIM < doubt.CUT_CLAIM < doubt.TYPICAL_HOUSING
    assert doubt.of_source(None) == doubt.ROUGH_BEAM
    assert doubt.of_source(SLIM, measured=0.02) == 0.02


def test_a_claim_its_watts_cannot_carry_is_doubted_more():
    assert doubt.of_source(replace(SLIM, claimed_lm=20000.0)) > doubt.of_source(SLIM)


def test_a_range_lies_about_its_value_as_a_ratio():
    told = doubt.spread(10000.0, 0.25)
    assert (told.low, told.high) == pytest.approx((8000, 12500))


def test_more_light_raises_candela_and_reach_and_lowers_the_glare_mark():
    once = predict(SetUp(source="led"))
    twice = doubt.brighter(once, 2.0)
    assert twice.peak_cd == pytest.approx(2 * once.peak_cd)
    assert twice.de_boer == pytest.approx(once.de_boer - 2 * math.log10(2))
    assert twice.above == once.above
    real = predict(SetUp(source="led", flux=2700.0))
    assert real.peak_cd == pytest.approx(twice.peak_cd, rel=1e-3)
    assert real.de_boer == pytest.approx(twice.de_boer, abs=0.02)


def ranked(*sources):
    own = predict(SetUp())
    judged = [
        Judged(judge(source, REFLECTOR), predict(setup), None, own, 100.0)
        for source, setup in sources
    ]
    return {it.judged.match.source.name: it for it in rank(judged)}


def test_two_alike_cannot_be_told_apart_and_two_unlike_can():
    good, same = SetUp(source="led"), SetUp(source="led", flux=1400.0)
    bad = SetUp(source="led", faces=4, gap=6.0, width=2.0)
    twin, thick = replace(SLIM, name="Twin"), replace(SLIM, name="Thick")
    found = ranked((SLIM, good), (twin, same), (thick, bad))
    assert (
        sum(bool(it.like) for it in found.values() if it.judged.match.source.name != "Thick") == 1
    )
    assert found["Thick"].like == ""
    assert all(it.doubt > 0 for it in found.values())
