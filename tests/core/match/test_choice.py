"""What a choice must answer. Common practice, no published source."""

from dataclasses import replace

import pytest

from cold_arc.core.beam.housings import KINDS
from cold_arc.core.car.condition import UnitCondition, Verdict
from cold_arc.core.car.lamps import OPTICS, Function, Holds, Optic, Present
from cold_arc.core.findings import Finding, Level
from cold_arc.core.law import markets
from cold_arc.core.match import choice, judge, weighing
from cold_arc.core.match.ranking import USUAL_WEIGHTS
from cold_arc.core.references import PRACTICE
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp

STOPPED = replace(GOOD, name="four", faces=4)
OFF_ROAD = replace(REFLECTOR, road_use=False)


def test_a_stop_or_the_law_speaks_against_and_nothing_else_does():
    assert choice.speaks_against(judge(GOOD, REFLECTOR), REFLECTOR)  # the law of the market
    assert not choice.speaks_against(judge(GOOD, OFF_ROAD), OFF_ROAD)
    assert choice.speaks_against(judge(STOPPED, OFF_ROAD), OFF_ROAD)  # a rule alone


@pytest.mark.parametrize(
    ("way", "source", "wanted"),
    [
        ("override", GOOD, "Record the reason"),
        ("off-road", GOOD, ""),
        ("off-road", STOPPED, "A rule stops it"),
        ("refuse", STOPPED, ""),
    ],
)
def test_a_reason_is_wanted_where_a_rule_or_the_law_is_gone_against(way, source, wanted):
    assert choice.reason_wanted(way, judge(source, REFLECTOR)).startswith(wanted)
    assert bool(choice.reason_wanted(way, judge(source, REFLECTOR))) == bool(wanted)


@pytest.mark.parametrize(
    ("way", "told"), [("override", True), ("off-road", True), ("refuse", False)]
)
def test_the_customer_is_told_before_the_law_is_gone_against(way, told):
    assert choice.must_be_told(way, judge(GOOD, REFLECTOR), REFLECTOR) is told
    assert not choice.must_be_told(way, judge(GOOD, OFF_ROAD), OFF_ROAD)


def test_a_housing_fit_to_replace_stops_a_bulb_and_no_assembly():
    pattern = Finding("pattern", Level.STOP, "The pattern fails.", PRACTICE)
    first, last = choice.housing_findings(pattern, Verdict.REPLACE, GOOD)
    assert [finding.level for finding in (*first, *last)] == [Level.STOP, Level.STOP]
    first, last = choice.housing_findings(pattern, Verdict.REPLACE, UNIT)
    assert ([finding.level for finding in first], last) == ([Level.NOTE], [])
    assert choice.housing_findings(None, Verdict.RESTORE, GOOD) == ([], [])
    assert choice.housing_findings(None, Verdict.REPLACE, None)[1][0].level is Level.STOP


def test_cautions_follow_what_is_there_and_what_is_fitted():
    hid = replace(REFLECTOR.socket, present=Present.HID)
    setting = replace(REFLECTOR, socket=hid)
    assert "high-voltage" in choice.cautions_of(setting, GOOD)
    assert "high-voltage" not in choice.cautions_of(REFLECTOR, GOOD)
    assert choice.cautions_of(REFLECTOR, None) == []
    assert choice.cautions_of(replace(REFLECTOR, condition=UnitCondition(haze=2)), None) == ["dust"]


def test_a_shelf_is_weighed_without_a_beam_where_there_is_no_time():
    shelf = {1: GOOD, 2: STOPPED, 3: replace(GOOD, name="other base", base="D2S")}
    suiting = weighing.suiting(shelf, REFLECTOR.socket, REFLECTOR.base)
    assert list(suiting) == [1, 2]
    weighed = weighing.weigh(REFLECTOR, Function.LOW, "right", suiting, {}, None)
    assert [ranked.judged.id for ranked in weighed.ranked(USUAL_WEIGHTS)] == [1, 2]
    assert weighed.places(USUAL_WEIGHTS) == {1: 0, 2: 1}
    assert (weighed.nominal, weighed.pattern, weighed.pattern_fails) == (None, None, False)
    assert all(judged.prediction is None for judged in weighed.judged)
    assert weighing.suiting(shelf, replace(REFLECTOR.socket, base=None), None) == {}


@pytest.mark.parametrize(
    ("functions", "offered"),
    [
        ((Function.DRL,), ["ring"]),
        ((Function.DRL, Function.TURN), []),
        ((Function.LOW, Function.HIGH), ["whole"]),
    ],
)
def test_what_holds_no_bulb_is_offered_what_takes_over_all_it_gives(functions, offered):
    """A whole headlamp takes the place of no mere daytime lamp."""
    ring = replace(UNIT, name="ring", kind="module", base="", functions=("drl", "position"))
    whole = replace(UNIT, name="whole", base="", functions=("low", "high", "drl", "turn"))
    socket = replace(REFLECTOR.socket, base=None, holds=Holds.NOTHING, functions=functions)
    suiting = weighing.suiting({1: GOOD, 2: ring, 3: whole}, socket, None)
    assert [source.name for source in suiting.values()] == offered


def test_every_optic_names_a_housing_there_is_and_every_housing_is_some_jobs():
    """But VOR's reflector, which a lamp of the US market may be marked as instead of VOL's."""
    assert set(OPTICS) == set(Optic)
    named = {
        optic.housing(function, market)
        for optic in Optic
        for function in (Function.LOW, Function.HIGH, Function.FOG)
        for market in markets()
    }
    assert named - {None} == set(KINDS) - {"vor-reflector"}
    assert Optic.REFLECTOR.housing(Function.FOG, "us") == "fog-reflector"
    assert Optic.SEALED.housing(Function.LOW, "un") is None


def test_a_signal_dazzles_nobody_and_is_held_beside_no_white_lamp():
    """Common practice, no published source: glare is a caution of what throws a beam."""
    signal = replace(lamp(Function.TURN, base="P21W"), others=(("the position", 2800.0),))
    assert "glare" in choice.cautions_of(REFLECTOR, GOOD)
    assert "glare" not in choice.cautions_of(signal, GOOD)
    white = replace(GOOD, base="P21W")
    assert "colour-apart" not in {finding.id for finding in judge(white, signal).findings}
    beside = replace(REFLECTOR, others=signal.others)
    assert "colour-apart" in {finding.id for finding in judge(GOOD, beside).findings}
