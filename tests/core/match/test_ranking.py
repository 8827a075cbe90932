"""The weighing: marks by hand, and an order that follows the stated rules."""

from dataclasses import replace

import pytest

from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Holds, Optic, Present
from cold_arc.core.findings import Level
from cold_arc.core.match import judge
from cold_arc.core.match.choice import cautions_of
from cold_arc.core.match.options import compare, kinds
from cold_arc.core.match.prediction import Prediction, Sensitivity, Try
from cold_arc.core.match.ranking import CRITERIA, USUAL_WEIGHTS, Judged, rank, score
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp

OWN = Prediction(40000, 12000, 30, 400, 0.005, 0.0, 7.0, 0.02, None, 70)
SEAT = Sensitivity(
    (Try(-1, 0, 0.8, 0.05), Try(1, 0, 0.9, 0.02), Try(0, -10, 1.0, 0.01), Try(0, 10, 0.95, 0.01))
)


def judged(source=GOOD, number=0, **seen):
    prediction = replace(OWN, **({"peak_cd": 80000, "edge_cd": 24000, "kept": 0.9} | seen))
    return Judged(
        judge(source, REFLECTOR), prediction, SEAT if source.is_bulb else None, OWN, 300, number
    )


def test_marks_by_hand():
    """Each mark worked out from its stated rule.

    Twice the hot spot: (log2 2 + 1)/3 = 2/3. As little above as signs need: 1. Mark 7 and 90 %
    kept: 1. Loss 20 %, stray 5 %, of which 2 % for signs: 1 − 0.2/0.5 − 0.03/0.1/2 = 0.45. Price 50
    of 300: 5/6.
    """
    _, marks = score(judged(), USUAL_WEIGHTS)
    assert marks["peak"] == pytest.approx(2 / 3)
    assert marks["edge"] == pytest.approx(2 / 3)
    assert marks["spread"] == pytest.approx(0.5)
    assert marks["stray"] == pytest.approx(1.0)
    assert marks["glare"] == pytest.approx(1.0)
    assert marks["true"] == pytest.approx(1.0)
    assert marks["forgiving"] == pytest.approx(0.45)
    assert marks["price"] == pytest.approx(5 / 6)


def test_the_score_is_the_weighted_mean():
    only_price = dict.fromkeys(USUAL_WEIGHTS, 0) | {"price": 3}
    assert score(judged(), only_price)[0] == pytest.approx(100 * 5 / 6)
    assert score(judged(), dict.fromkeys(USUAL_WEIGHTS, 0))[0] == 0
    total, marks = score(judged(), USUAL_WEIGHTS)
    by_hand = sum(USUAL_WEIGHTS[name] * mark for name, mark in marks.items()) / sum(
        USUAL_WEIGHTS.values()
    )
    assert total == pytest.approx(100 * by_hand)


def test_every_criterion_says_itself_and_how_it_marks():
    for criterion in CRITERIA:
        assert criterion.how
        assert criterion.say(judged())


def order(*candidates, **more):
    return [it.judged.match.source.name for it in rank(candidates, **more)]


def test_a_stop_is_never_outranked():
    stopped = judged(replace(GOOD, name="four", faces=4, price=1), peak_cd=200000, edge_cd=90000)
    poor = judged(
        replace(GOOD, name="poor"), peak_cd=10000, edge_cd=3000, de_boer=3.0, above=0.09, kept=0.4
    )
    assert order(stopped, poor) == ["poor", "four"]
    assert rank([stopped])[0].reason.startswith("Last, for it does not suit. More than two faces")


def test_a_failing_pattern_puts_own_optics_first():
    unit = judged(UNIT, peak_cd=20000, edge_cd=8000, kept=None)
    assert order(judged(), unit)[0] == "Test slim"
    assert order(judged(), unit, pattern_fails=True)[0] == "Unit"
    assert "Brings its own optic" in rank([unit], pattern_fails=True)[0].reason


def test_weights_turn_the_order_round():
    cheap = judged(replace(GOOD, name="cheap", price=10), above=0.06)
    clean = judged(replace(GOOD, name="clean", price=250), above=0.004)
    assert order(cheap, clean) == ["clean", "cheap"]
    assert order(cheap, clean, weights=dict.fromkeys(USUAL_WEIGHTS, 0) | {"price": 5}) == [
        "cheap",
        "clean",
    ]


def test_the_reason_names_what_lifts_and_what_holds_back():
    reason = rank([judged(replace(GOOD, cct_k=6500), above=0.09, de_boer=6.9)])[0].reason
    assert "against it, 9.0\u00a0% above the cut-off" in reason
    assert reason.count(".") >= 1


def test_nothing_is_held_against_what_has_nothing_against_it():
    only_price = dict.fromkeys(USUAL_WEIGHTS, 0) | {"price": 3}
    cheap = rank([judged(replace(GOOD, price=1))], only_price)[0]
    assert "against it" not in cheap.reason


def test_what_cannot_be_predicted_is_ranked_by_rules_and_price():
    _, marks = score(Judged(judge(GOOD, REFLECTOR), None, None, None, 100), USUAL_WEIGHTS)
    assert set(marks) == {"fit", "price"}


def options(setting, *sources, access=None):
    ranked = rank(
        [
            Judged(judge(source, setting), None, None, None, 300, n)
            for n, source in enumerate(sources)
        ]
    )
    return {option.kind.id: option for option in compare(setting, ranked, 2, access)}


def test_the_ways_to_go_for_halogen():
    found = options(REFLECTOR, GOOD, UNIT)
    assert list(found) == ["stay", "bulb", "housing", "opened", "assembly", "projector"]
    assert found["bulb"].best.judged.match.source is GOOD
    assert found["bulb"].parts == 100
    assert found["projector"].out == "Nothing on the shelf for it."
    assert found["projector"].law.level is Level.STOP
    assert found["stay"].law.level is Level.OK


def test_each_lens_is_restored_as_it_was_seen_also_where_beams_are_looked_at_through_it_restored():
    """44 min for a yellowed lens by its steps at Inspect, nothing for the clear one beside it."""
    clear = REFLECTOR.condition
    hazed = replace(clear, haze=2, labour_rate=60.0)
    both, one = replace(REFLECTOR, condition=hazed), replace(REFLECTOR, across=REFLECTOR)
    one = replace(one, condition=hazed)
    restored = replace(one, condition=replace(hazed, haze=0), seen=hazed)
    for setting, minutes in ((both, 88), (one, 44), (restored, 44)):
        stay = compare(setting, [], 2, None)[0]
        assert (stay.minutes, stay.labour) == (minutes, minutes)
        assert cautions_of(setting, None) == ["dust"]
    assert compare(one, [], 1, None)[0].minutes == 44


def test_what_is_new_like_for_like_costs_what_was_told():
    setting = replace(REFLECTOR, renewed=(("housing", 180.0),))
    found = {it.kind.id: it for it in compare(setting, [], 2, None)}
    assert (found["housing"].parts, found["housing"].out) == (360.0, "")
    assert {it.kind.id: it for it in compare(REFLECTOR, [], 2, None)}["housing"].parts is None


def test_a_socket_without_a_bulb_has_ways_of_its_own():
    socket = replace(REFLECTOR.socket, base=None, holds=Holds.MODULE)
    found = {
        it.kind.id: it for it in compare(replace(REFLECTOR, socket=socket, base=None), [], 2, None)
    }
    assert list(found) == ["stay", "opened", "assembly", "module"]


def test_time_and_cost_by_hand():
    """Grade 3: 8 + 4·7 + 10 + 12 = 58 min a lens. Two bulbs: (15 + 10)·1.75 + 116 = 159.75 min, at
    60 an hour.
    """
    seen = UnitCondition(haze=3, room_mm=60, opening_mm=60, labour_rate=60)
    found = options(replace(REFLECTOR, condition=seen), GOOD, UNIT, access=10)
    assert found["bulb"].minutes == pytest.approx(25 * 1.75 + 2 * 58)
    assert found["bulb"].cost == pytest.approx(100 + 159.75)
    assert found["stay"].minutes == 116
    assert found["assembly"].minutes == pytest.approx((30 + 10) * 1.75)


def test_hid_has_three_schools():
    hid = lamp(base="D2S", present=Present.HID, optic=Optic.PROJECTOR)
    three = [
        replace(GOOD, name=driver, base="D2S", driver=driver, lcl_mm=27.1)
        for driver in ("ballast", "in-place", "in-line")
    ]
    found = options(hid, *three)
    assert [name for name in found if name.startswith("hid")] == [
        "hid-plug-in",
        "hid-driver",
        "hid-bypass",
    ]
    assert [
        found[name].best.judged.match.source.driver for name in found if name.startswith("hid")
    ] == [
        "ballast",
        "in-place",
        "in-line",
    ]
    failed = options(replace(hid, ballast_cause="ballast"), *three)
    assert failed["hid-plug-in"].out == failed["stay"].out == "The ballast failed its test."
    assert failed["ballast"].mind == "The ballast failed its test."
    untested = options(hid, *three)
    assert "swap side to side before buying" in untested["ballast"].mind
    assert untested["stay"].out == ""


def test_a_housing_fit_to_replace_is_not_restored():
    broken = replace(REFLECTOR, condition=UnitCondition(haze=0, crack="through"))
    assert options(broken, GOOD)["stay"].out


def test_every_way_says_its_risk():
    assert all(kind.risk and kind.reverses in (1, 2, 3) for kind in kinds())


def test_a_stop_comes_last_even_where_own_optics_are_put_first():
    stopped_unit = judged(replace(UNIT, supply_max_v=5.0), peak_cd=200000, kept=None)
    assert stopped_unit.match.level is Level.STOP
    assert order(stopped_unit, judged(), pattern_fails=True) == ["Test slim", "Unit"]
