"""What a market's rule says. From memory of the rules named; the answers are dated and deferred to
local advice.
"""

import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core import law, light_source
from cold_arc.core.findings import Finding, Level, worst, worst_first
from cold_arc.core.references import PRACTICE, cite, say
from cold_arc.core.units import UnitSystem
from cold_arc.core.work.access import cautions


def test_every_market_answers_for_bulbs_and_assemblies():
    for market in law.markets().values():
        assert set(market.notes) == set(light_source.KINDS)
        for note in market.notes.values():
            assert note.road in {"yes", "listed", "no"}
            assert all(source.recalled for source in note.sources)


def test_answers_are_dated():
    for market in law.markets().values():
        assert dt.date(2026, 1, 1) <= market.as_of <= dt.date(2030, 1, 1)
        assert market.as_of.isoformat() in say(law.judge(market, "bulb", True).sources)


def test_traffic_keeps_left_where_it_does():
    assert {key: market.traffic for key, market in law.markets().items()} == {
        "un": "right",
        "uk": "left",
        "us": "right",
    }


@pytest.mark.parametrize("market", ["un", "uk", "us"])
def test_off_road_use_is_noted_not_stopped(market):
    finding = law.judge(law.markets()[market], "bulb", road_use=False)
    assert finding.level is Level.NOTE
    assert finding.id == "off-road"


@pytest.mark.parametrize("market", ["un", "uk", "us"])
def test_road_use_always_says_check_locally(market):
    for kind in ("bulb", "assembly"):
        assert law.CHECK_LOCALLY in law.judge(law.markets()[market], kind, road_use=True).advice


def test_worst_first_and_worst():
    found = [
        Finding("a", Level.OK, "A.", PRACTICE),
        Finding("b", Level.STOP, "B.", PRACTICE),
        Finding("c", Level.NOTE, "C.", PRACTICE),
        Finding("d", Level.STOP, "D.", PRACTICE),
    ]
    assert [finding.id for finding in worst_first(found)] == ["b", "d", "c", "a"]
    assert worst(found) is Level.STOP
    assert worst([]) is Level.OK


def test_levels_carry_a_word():
    assert [level.word for level in Level] == ["ok", "note", "caution", "stop"]


def test_the_trades_cautions_are_there():
    """Common practice, no published source."""
    words = " ".join(cautions().values()).lower()
    for danger in (
        "kilovolts",
        "airbag",
        "jack",
        "mercury",
        "dust",
        "glare",
        "fan",
        "not legal",
        "battery off",
    ):
        assert danger in words, danger


def test_a_finding_says_which_lamp_it_is_about():
    finding = Finding(
        "out", Level.STOP, "Out: too high.", cite("un-r48 6.2.6"), "3 cm", "keep", "Turn it down."
    )
    named = finding.named("Left, as found")
    assert named.words == "Left, as found: Out: too high."
    assert named.named("Fog").about == "Fog, Left, as found"
    assert (named.level, named.number, named.limit) == (
        finding.level,
        finding.number,
        finding.limit,
    )
    assert (named.sources, named.advice) == (finding.sources, finding.advice)


@pytest.mark.parametrize("market", ["un", "uk", "us"])
def test_a_whole_lamp_is_allowed_by_marks_that_were_read(market):
    """Common practice: what is not read on the lamp in hand is not known."""
    known = law.markets()[market]
    unread = law.judge(known, "assembly", True)
    assert unread.level is Level.CAUTION
    assert unread.id == "marks-unread"
    read = law.judge(known, "assembly", True, "E4 00 1234")
    assert read.level is Level.OK
    assert (read.id, read.values["marks"]) == ("law-yes", "E4 00 1234")


@pytest.mark.parametrize(
    ("market", "function", "height_m", "words"),
    [
        ("un", "low", 0.35, "lower"),
        ("un", "low", 0.5, None),
        ("un", "low", 1.2, None),
        ("un", "low", 1.35, "higher"),
        ("uk", "low", 0.35, "lower"),
        ("us", "low", 0.55, "lower"),
        ("us", "low", 0.56, None),
        ("us", "low", 1.38, "higher"),
        ("un", "fog", 0.2, "lower"),
        ("un", "fog", 0.9, "higher"),
        ("un", "high", 1.4, None),
    ],
)
def test_a_lamp_mounted_where_none_may_be_is_told(market, function, height_m, words):
    """UN R48 500 to 1 200 mm, 49 CFR 571.108 22 to 54 in, from memory."""
    told = law.mounting_words(market, function, height_m, UnitSystem.METRIC)
    assert [finding.level for finding in told] == ([Level.CAUTION] if words else [])
    assert all(finding.values["off"] == words for finding in told)


@pytest.mark.parametrize(
    ("road", "level"), [("yes", Level.OK), ("listed", Level.CAUTION), ("no", Level.STOP)]
)
def test_an_opened_lamp_is_judged_by_its_markets_own_word(road, level):
    market = law.markets()["un"]
    asked = replace(market, opened=replace(market.opened, road=road))
    assert law.opened(asked, True).level is level
    assert law.opened(asked, False).level is Level.NOTE
