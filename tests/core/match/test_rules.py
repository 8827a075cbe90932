"""Match rules. Limits are common practice, no published source, unless the finding names one."""

from dataclasses import replace

import pytest

from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.lamps import Function, Holds, Optic, Present, Side
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.match import geometry, judge, needs_override
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp


def levels(source, setting=REFLECTOR):
    return {finding.id: finding.level for finding in judge(source, setting).findings}


def test_a_bulb_that_copies_the_filament_fits():
    match = judge(GOOD, REFLECTOR)
    assert match.verdict == "Fits"
    assert match.level <= Level.NOTE


@pytest.mark.parametrize(
    ("change", "id_", "level"),
    [
        ({"base": "H11"}, "base-wrong", Level.STOP),
        ({"lcl_mm": 25.5}, "seat-good", Level.OK),
        ({"lcl_mm": 26.0}, "seat-off", Level.CAUTION),
        ({"lcl_mm": 27.0}, "seat-far-off", Level.STOP),
        ({"gap_mm": 1.8}, "core-thin", Level.OK),
        ({"gap_mm": 2.6}, "core-thick-side", Level.CAUTION),
        ({"gap_mm": 3.0}, "core-thick", Level.STOP),
        ({"off_axis_mm": 0.0}, "chips-centred", Level.OK),
        ({"off_axis_mm": -0.2}, "chips-centred", Level.OK),
        ({"off_axis_mm": -0.3}, "chips-off", Level.CAUTION),
        ({"off_axis_mm": geometry.OFF_AXIS_TOLERABLE_MM}, "chips-off", Level.CAUTION),
        ({"off_axis_mm": 0.6}, "chips-far-off", Level.STOP),
        ({"faces": 4}, "faces-wrong", Level.STOP),
        ({"faces": 1}, "faces-wrong", Level.STOP),
        ({"emitter_mm": 6.5}, "length-unlike", Level.CAUTION),
        ({"rows": 2}, "rows-more", Level.CAUTION),
        ({"tail_mm": 55}, "room-enough", Level.OK),
        ({"tail_mm": 57}, "room-tight", Level.CAUTION),
        ({"tail_mm": 61}, "room-none", Level.STOP),
        ({"tail_width_mm": 61}, "room-none", Level.STOP),
        ({"supply_min_v": 11.5}, "supply-short", Level.STOP),
        ({"driver": "ballast"}, "ballast-needed", Level.STOP),
        ({"cct_k": 8000}, "colour-not-white", Level.STOP),
        ({"colour": "yellow", "cct_k": None}, "yellow-elsewhere", Level.STOP),
        ({"colour": "amber", "cct_k": None}, "amber-elsewhere", Level.STOP),
        ({"claimed_lm": 9000}, "lumens-impossible", Level.CAUTION),
        ({"claimed_lm": 2100}, "strong-source", Level.CAUTION),
        ({"cooling": "passive"}, "heat-much", Level.CAUTION),
        ({"watts": 14}, "heat-little", Level.OK),
        ({"claimed_lm": 3600, "claim_basis": "set"}, "lumens-of-set", Level.NOTE),
        ({"adapters": ("H7",), "base": "H4", "rows": 2}, "base-adapter", Level.CAUTION),
        ({"plug": "H7"}, "plug-agrees", Level.OK),
        ({"plug": "H11"}, "plug-adapter", Level.CAUTION),
        ({"ip": 44}, "sealing-good", Level.OK),
        ({"ip": 43}, "sealing-short", Level.CAUTION),
        ({"ip": 65, "driver": "in-line"}, "sealing-good", Level.OK),
        ({"ip": 44, "driver": "in-line"}, "sealing-short", Level.CAUTION),
        ({"driver": "in-place"}, "ballast-needed", Level.STOP),
        ({"cct_k": None, "chroma_x": 0.33, "chroma_y": 0.34}, "colour-white", Level.OK),
        ({"cct_k": None, "chroma_x": 0.36, "chroma_y": 0.42}, "colour-not-white", Level.STOP),
        ({"monitor_proof": False}, "monitor-may-see", Level.NOTE),
        ({"polarity": "fixed"}, "one-way-round", Level.NOTE),
    ],
)
def test_each_rule_on_a_reflector(change, id_, level):
    judged = judge(replace(GOOD, **change), REFLECTOR).findings
    assert level in [finding.level for finding in judged if finding.id == id_], judged


def test_a_claim_that_would_add_up_halved_is_asked_about():
    """24 W carry 3 600 lm at 150 lm/W: 6 000 and just 7 200 would be two bulbs', 9 000 not even
    that.
    """
    two, just, never = (
        found(replace(GOOD, claimed_lm=lm), REFLECTOR, "lumens-impossible")
        for lm in (6000, 7200, 9000)
    )
    assert "set" in two.values["advice"]
    assert just.values["advice"] == two.values["advice"]
    assert two.values["advice"] != never.values["advice"]
    assert two.values["per_watt"] == pytest.approx(250)


def test_a_projector_forgives_depth_and_faces():
    projector = lamp(optic=Optic.PROJECTOR)
    bad = replace(GOOD, lcl_mm=27.5, faces=4, gap_mm=4)
    assert judge(bad, projector).level is Level.CAUTION
    assert any("dark slit" in finding.advice for finding in judge(bad, projector).findings)


def test_a_dual_base_wants_two_rows_and_a_shield():
    dual = lamp(base="H4")
    source = replace(GOOD, base="9003")
    assert levels(source, dual)["beams-one"] is Level.STOP
    told = levels(replace(source, rows=2), dual)
    assert told["beams-same"] is Level.CAUTION
    assert told["shield-none"] is Level.STOP
    for whole in (replace(source, rows=2, dip_shield=True), replace(source, high_by="shield")):
        told = levels(whole, dual)
        assert told["beams-both"] is Level.OK
        assert "shield-none" not in told


def test_a_six_volt_positive_earth_car():
    old = replace(lamp(), volts=6.0, earth_positive=True)
    found = levels(GOOD, old)
    assert found["supply-short"] is Level.STOP
    assert found["body-live"] is Level.STOP
    suited = replace(GOOD, supply_min_v=5, earth_insulated=True)
    assert Level.STOP not in levels(suited, old).values()


def test_hid_schools():
    hid = lamp(base="D2S", present=Present.HID, optic=Optic.PROJECTOR)
    plug_in = replace(GOOD, base="D2S", driver="ballast", lcl_mm=27.1)
    assert "ballast-untested" in levels(plug_in, hid)
    bypass = replace(plug_in, driver="in-line")
    assert "ballast-bypassed" in levels(bypass, hid)


def test_haze_and_sealed_lamps_are_told():
    hazy = replace(REFLECTOR, condition=UnitCondition(haze=3))
    assert "haze-scatters" in levels(GOOD, hazy)
    assert levels(GOOD, lamp(optic=Optic.SEALED))["sealed-no-bulb"] is Level.STOP


@pytest.mark.parametrize(
    ("market", "kind", "level", "override"),
    [
        ("us", "bulb", Level.STOP, True),  # 49 CFR 564, from memory
        ("uk", "bulb", Level.STOP, True),  # UK inspection, from memory
        ("un", "bulb", Level.CAUTION, True),  # UN R37 categories and listed pairs, from memory
        ("us", "assembly", Level.CAUTION, False),  # until its marks are read
    ],
)
def test_the_law_by_market(market, kind, level, override):
    setting = replace(REFLECTOR, market=market)
    source = replace(GOOD, kind=kind)
    assert judge(source, setting).law.level is level
    assert needs_override(source, setting) is override
    assert not needs_override(source, replace(setting, road_use=False))


def test_every_finding_that_is_not_fine_says_what_to_do_or_why():
    bad = replace(
        GOOD,
        faces=4,
        lcl_mm=29,
        cct_k=8000,
        gap_mm=5,
        emitter_mm=9,
        tail_mm=90,
        monitor_proof=False,
    )
    for finding in judge(bad, REFLECTOR).findings:
        if finding.level >= Level.CAUTION:
            assert finding.advice, finding.text


def test_no_room_says_by_how_much():
    none = found(replace(GOOD, tail_mm=70), REFLECTOR, "room-none")
    assert none.values["needs"] - none.values["has"] == pytest.approx(
        15.0 - none.values["room_margin_mm"]
    )


def found(source, setting, id_):
    (finding,) = [it for it in judge(source, setting).findings if it.id == id_]
    return finding


def test_a_monitor_with_a_known_limit_gets_its_resistor():
    """13.2²/(36 − 24) = 14.5 Ω, E24 below: 13 Ω; 14.4²/13 = 16 W, so 50 W."""
    watched = replace(REFLECTOR, supply=SupplyFacts(monitored_w=36))
    blind = replace(GOOD, monitor_proof=False)
    assert "13 Ω, 50 W or more" in found(blind, watched, "monitor-sees-none").advice
    assert found(replace(blind, watts=40), watched, "monitor-content").level is Level.OK


def test_a_pulsed_feed_gets_its_capacitor():
    pulsed = replace(REFLECTOR, supply=SupplyFacts(pwm_hz=100, pwm_duty=0.9))
    finding = found(GOOD, pulsed, "pulsed-flickers")
    assert "µF, 25 V" in finding.advice
    assert found(replace(GOOD, pwm_proof=True), pulsed, "pulsed-suits").level is Level.OK


def test_led_turn_signals_blink_fast():
    """21 W expected, 8 drawn: 13.2²/13 = 13.4 Ω, so 13 Ω."""
    turn = lamp(Function.TURN, base="PY21W")
    amber = replace(GOOD, base="PY21W", watts=8, monitor_proof=False, colour="amber", cct_k=None)
    assert "13 Ω" in found(amber, turn, "blinks-fast").advice


def test_colour_beside_the_other_lamps():
    """A lighting handbook's rule of thumb: 0.004 in u′v′ is one just visible step."""
    beside = replace(REFLECTOR, others=(("the high beam", 3200.0), ("the fog", 6000.0)))
    assert found(GOOD, beside, "colour-apart").values["name"] == "the high beam"
    assert found(GOOD, beside, "colour-alike").values["name"] == "the fog"


def test_yellow_fog_must_be_selective_yellow():
    fog = lamp(Function.FOG)
    yellow = replace(GOOD, colour="yellow", cct_k=None)
    assert found(yellow, fog, "yellow-untold").level is Level.NOTE
    assert (
        found(replace(yellow, chroma_x=0.485, chroma_y=0.473), fog, "yellow-inside").level
        is Level.OK
    )
    assert (
        found(replace(yellow, chroma_x=0.55, chroma_y=0.43), fog, "yellow-outside").level
        is Level.STOP
    )


@pytest.mark.parametrize(
    ("driver", "cause", "id_", "level"),
    [
        ("ballast", "", "ballast-untested", Level.CAUTION),
        ("ballast", "bulb", "ballast-passed", Level.OK),
        ("ballast", "new", "ballast-passed", Level.OK),
        ("ballast", "ballast-fed", "ballast-failed", Level.STOP),
        ("ballast", "off-supply", "ballast-unjudged", Level.CAUTION),
        ("in-place", "ballast", "driver-in-ballast-place", Level.NOTE),
        ("in-line", "ballast", "ballast-bypassed", Level.CAUTION),
    ],
)
def test_the_ballast_test_decides_the_school(driver, cause, id_, level):
    hid = lamp(base="D2S", present=Present.HID, optic=Optic.PROJECTOR)
    hid = replace(hid, ballast_cause=cause)
    assert found(replace(GOOD, base="D2S", driver=driver, lcl_mm=27.1), hid, id_).level is level
    assert (
        found(replace(GOOD, base="D2S", driver=driver, lcl_mm=27.1), hid, "chuck-fouls").level
        is Level.NOTE
    )


def test_an_own_optic_is_not_judged_as_a_bulb():
    told = levels(UNIT, REFLECTOR)
    assert not {"faces-two", "faces-wrong", "seat-good", "seat-off", "seat-far-off"} & set(told)
    assert not any(id_.startswith("optic-") for id_ in told)
    kit = replace(UNIT, kind="projector")
    assert levels(kit, REFLECTOR)["lamp-to-open"] is Level.CAUTION
    assert judge(kit, REFLECTOR).law.level is Level.STOP


def test_every_finding_names_its_source():
    for finding in judge(replace(GOOD, faces=4, lcl_mm=29, cct_k=8000), REFLECTOR).findings:
        assert finding.sources


def on_the_right(**condition):
    """The lamp's fellow on the right, its unit as inspected."""
    socket = replace(REFLECTOR.socket, key=replace(REFLECTOR.socket.key, side=Side.RIGHT))
    seen = replace(REFLECTOR.condition, **condition)
    return replace(REFLECTOR, socket=socket, condition=seen)


def test_of_a_choice_for_both_sides_the_worse_one_decides_and_is_named():
    """80 mm of room on the left, 55 on the right, a tail of 62."""
    bulb = replace(GOOD, tail_mm=62)
    left = replace(REFLECTOR, condition=replace(REFLECTOR.condition, room_mm=80))
    assert judge(bulb, left).level <= Level.NOTE
    both = judge(bulb, replace(left, across=on_the_right(room_mm=55)))
    assert both.level is Level.STOP
    assert both.verdict == "Does not suit"
    assert (both.findings[0].id, both.findings[0].about) == ("room-none", "Right")
    alone = {finding.id for finding in judge(bulb, left).findings}
    assert {id_ for id_ in alone if "room" not in id_} <= {it.id for it in both.findings}


def test_sides_alike_are_told_once():
    one, both = (judge(GOOD, it) for it in (REFLECTOR, replace(REFLECTOR, across=on_the_right())))
    assert both.findings == one.findings


def test_a_whole_lamp_says_what_it_asks_of_the_car():
    whole = replace(UNIT, connectors="12-pin", coding=True, levelling="none")
    setting = replace(REFLECTOR, socket=replace(REFLECTOR.socket, plug="10-pin"))
    found = {it.id: it for it in judge(whole, setting).findings}
    assert found["plugs-its"].values["plug"] == "10-pin"
    assert found["coding-needed"].level is Level.NOTE
    assert found["levelling-none"].level is Level.CAUTION
    assert "levelling-none" not in levels(replace(whole, levelling="motor"), setting)


def test_what_takes_over_all_a_socket_gives_needs_no_base():
    ring = replace(UNIT, kind="module", base="", functions=("drl", "position"))
    socket = Socket(REFLECTOR.socket.key, (Function.DRL,), Optic.PLAIN, None, Present.LED)
    setting = replace(REFLECTOR, base=None, socket=replace(socket, holds=Holds.MODULE))
    match = judge(ring, setting)
    assert match.level is Level.NOTE or match.level is Level.OK
    assert any(it.number == "gives position besides" for it in match.findings)
    assert judge(replace(ring, functions=("turn",)), setting).level is Level.STOP
