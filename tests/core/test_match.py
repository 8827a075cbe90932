"""Match rules. Limits are common practice, no published source, unless the finding names one."""

from dataclasses import replace

import pytest

from cold_arc.core.condition import LampCondition
from cold_arc.core.findings import Level
from cold_arc.core.lamps import Function, Housing, Lamp, LampKey, Present, Side
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import Setting, judge, needs_override

GOOD = LightSource(
    name="Test slim", kind="bulb", base="H7", watts=24, claimed_lm=1900, supply_min_v=9, supply_max_v=16, price=50,
    cct_k=6000, faces=2, gap_mm=1.5, emitter_mm=4.2, lcl_mm=25.1, tail_mm=40, tail_width_mm=36, monitor_proof=True,
)  # fmt: skip
LOW_LEFT = LampKey(Function.LOW, Side.LEFT)
REFLECTOR = Setting(
    lamp=Lamp(LOW_LEFT, Housing.REFLECTOR, "H7", Present.HALOGEN),
    condition=LampCondition(haze=0, room_mm=60, opening_mm=60),
    volts=12,
    earth_positive=False,
    market="un",
    road_use=True,
)


def lamp(**changes):
    return replace(REFLECTOR, lamp=replace(REFLECTOR.lamp, **changes))


def levels(source, setting=REFLECTOR):
    return {finding.text: finding.level for finding in judge(source, setting).findings}


def test_a_bulb_that_copies_the_filament_fits():
    match = judge(GOOD, REFLECTOR)
    assert match.verdict == "Fits"
    assert match.level <= Level.NOTE


@pytest.mark.parametrize(
    ("change", "words", "level"),
    [
        ({"base": "H11"}, "Wrong base", Level.STOP),
        ({"lcl_mm": 25.5}, "Emitters sit at", Level.OK),
        ({"lcl_mm": 26.0}, "Emitters sit off", Level.CAUTION),
        ({"lcl_mm": 27.0}, "Emitters sit far off", Level.STOP),
        ({"gap_mm": 1.8}, "Emitters are close", Level.OK),
        ({"gap_mm": 2.6}, "Emitters stand off the axis", Level.CAUTION),
        ({"gap_mm": 3.0}, "Thick core", Level.STOP),
        ({"faces": 4}, "More than two faces", Level.STOP),
        ({"faces": 1}, "One face", Level.STOP),
        ({"emitter_mm": 6.5}, "Not as long", Level.CAUTION),
        ({"rows": 2}, "Two rows on a one-beam base", Level.CAUTION),
        ({"tail_mm": 55}, "Room enough behind", Level.OK),
        ({"tail_mm": 57}, "Tight behind", Level.CAUTION),
        ({"tail_mm": 61}, "No room behind", Level.STOP),
        ({"tail_width_mm": 61}, "No room in the opening", Level.STOP),
        ({"supply_min_v": 11.5}, "Supply range does not cover", Level.STOP),
        ({"driver": "ballast"}, "Made for an HID ballast", Level.STOP),
        ({"cct_k": 8000}, "Outside legal white", Level.STOP),
        ({"colour": "yellow", "cct_k": None}, "Yellow is for fog", Level.STOP),
        ({"colour": "amber", "cct_k": None}, "Amber is for turn", Level.STOP),
        ({"claimed_lm": 9000}, "Claimed lumens do not add up", Level.CAUTION),
        ({"claimed_lm": 2100}, "needs washers", Level.CAUTION),
        ({"cooling": "passive"}, "passive cooling", Level.CAUTION),
        ({"monitor_proof": False}, "Bulb-out monitoring", Level.NOTE),
        ({"polarity": "fixed"}, "one way round", Level.NOTE),
    ],
)
def test_each_rule_on_a_reflector(change, words, level):
    found = levels(replace(GOOD, **change))
    assert [found[text] for text in found if words in text] == [level], found


def test_a_projector_forgives_depth_and_faces():
    projector = lamp(housing=Housing.PROJECTOR)
    bad = replace(GOOD, lcl_mm=27.5, faces=4, gap_mm=4)
    assert judge(bad, projector).level is Level.CAUTION
    assert any("dark slit" in finding.advice for finding in judge(bad, projector).findings)


def test_a_dual_base_wants_two_rows_and_a_shield():
    dual = lamp(base="H4")
    source = replace(GOOD, base="9003")
    assert any("One row" in text for text in levels(source, dual))
    assert any("No shield" in text for text in levels(replace(source, rows=2), dual))
    assert not any("shield" in text for text in levels(replace(source, rows=2, dip_shield=True), dual))


def test_a_six_volt_positive_earth_car():
    old = replace(lamp(), volts=6.0, earth_positive=True)
    found = levels(GOOD, old)
    assert found["Supply range does not cover this car."] is Level.STOP
    assert found["Body is live on a positive-earth car."] is Level.STOP
    suited = replace(GOOD, supply_min_v=5, earth_insulated=True)
    assert Level.STOP not in levels(suited, old).values()


def test_hid_schools():
    hid = lamp(base="D2S", present=Present.HID, housing=Housing.PROJECTOR)
    plug_in = replace(GOOD, base="D2S", driver="ballast", lcl_mm=27.1)
    assert any("Fed by the ballast" in text for text in levels(plug_in, hid))
    bypass = replace(plug_in, driver="in-line")
    assert any("ballast must be bypassed" in text for text in levels(bypass, hid))


def test_haze_and_sealed_lamps_are_told():
    hazy = replace(REFLECTOR, condition=LampCondition(haze=3))
    assert any("haze" in text for text in levels(GOOD, hazy))
    assert levels(GOOD, lamp(housing=Housing.ASSEMBLY))["A sealed lamp takes no bulb."] is Level.STOP


@pytest.mark.parametrize(
    ("market", "kind", "level", "override"),
    [
        ("us", "bulb", Level.STOP, True),  # 49 CFR 564, from memory
        ("uk", "bulb", Level.STOP, True),  # UK inspection, from memory
        ("un", "bulb", Level.CAUTION, True),  # UN R37 categories and listed pairs, from memory
        ("us", "assembly", Level.OK, False),
    ],
)
def test_the_law_by_market(market, kind, level, override):
    setting = replace(REFLECTOR, market=market)
    source = replace(GOOD, kind=kind)
    assert judge(source, setting).law.level is level
    assert needs_override(source, setting) is override
    assert not needs_override(source, replace(setting, road_use=False))


def test_better_matches_come_first():
    four = replace(GOOD, name="four", faces=4, price=10)
    off = replace(GOOD, name="off", lcl_mm=26.0, price=10)
    ordered = sorted((judge(source, REFLECTOR) for source in (four, off, GOOD)), key=lambda match: match.order)
    assert [match.source.name for match in ordered] == ["Test slim", "off", "four"]


def test_every_finding_names_its_source():
    for finding in judge(replace(GOOD, faces=4, lcl_mm=29, cct_k=8000), REFLECTOR).findings:
        assert finding.source
