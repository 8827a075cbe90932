"""Leads, wire maps and switching: what is wrong is named, what was told binds the ribbon. Common
practice, no published source, but for switching: UN R48 6.3.7, 6.19.7, 49 CFR 571.108 S7, from
memory.
"""

from dataclasses import replace

import pytest

from cold_arc.core.car.lamps import Function, Holds
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.wiring.leads import (
    Lead,
    LeadPart,
    MappedWire,
    Switching,
    WireMap,
    lead_findings,
    map_findings,
    switching_findings,
)
from cold_arc.core.wiring.ribbon import feed_ribbon, put_in, ribbon
from cold_arc.core.wiring.working import findings, lamp_amps
from tests.core.match.lamps import GOOD, REFLECTOR

ADAPTER = LeadPart("adapter", "9007", "slide", 0.15, "loom")
CAPACITOR = LeadPart("capacitor", "", "click", 0.2, "body")
PULSED = SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9)
BLIND = replace(GOOD, monitor_proof=False)
SOUND = WireMap(
    (MappedWire("drl", "red", "yellow", "light"), MappedWire("ground", "brown", "black", "meter")),
    "dark",
    "crimp",
)


def worst_of(findings):
    return max((finding.level for finding in findings), default=Level.OK)


def test_a_sound_lead_and_a_sound_map_are_not_spoken_of():
    assert lead_findings(Lead((ADAPTER, CAPACITOR), 0.3), "9007") == []
    assert map_findings(SOUND, ["drl", "ground"]) == []


@pytest.mark.parametrize(
    ("lead", "level", "what"),
    [
        (Lead((replace(ADAPTER, plug="H4"),)), Level.CAUTION, "lead-other-plug"),
        (Lead((ADAPTER, CAPACITOR), 0.36), Level.CAUTION, "lead-short"),
        (Lead((replace(CAPACITOR, tie="hot"),)), Level.CAUTION, "lead-tied-badly"),
        (Lead((replace(CAPACITOR, tie="moving"),)), Level.CAUTION, "lead-tied-badly"),
        (Lead((replace(CAPACITOR, tie=""),)), Level.NOTE, "lead-untied"),
        (Lead((replace(ADAPTER, lock="none"),)), Level.CAUTION, "lead-plug-free"),
    ],
)
def test_what_is_wrong_with_a_lead_is_named(lead, level, what):
    [finding] = lead_findings(lead, "9007")
    assert finding.level is level
    assert finding.id == what


def test_a_lead_whose_length_is_not_told_whole_is_not_called_short():
    assert lead_findings(Lead((ADAPTER, replace(CAPACITOR, length_m=None)), 9.0), "9007") == []


@pytest.mark.parametrize(
    ("changed", "level", "what"),
    [
        ({"wires": SOUND.wires[:1]}, Level.CAUTION, "wires-untold"),
        ({"joint": "tap"}, Level.CAUTION, "wires-joined"),
        ({"joint": "twist"}, Level.CAUTION, "wires-joined"),
    ],
)
def test_what_is_wrong_with_a_map_is_named(changed, level, what):
    [finding] = map_findings(replace(SOUND, **changed), ["drl", "ground"])
    assert finding.level is level
    assert finding.id == what


@pytest.mark.parametrize(
    ("found_by", "reverse", "level"),
    [
        ("light", "kills", Level.OK),
        ("sheet", "dark", Level.NOTE),
        ("colour", "dark", Level.CAUTION),
        ("sheet", "kills", Level.CAUTION),
        ("colour", "kills", Level.STOP),
    ],
)
def test_a_wire_that_was_not_measured_is_worse_where_reversed_kills(found_by, reverse, level):
    wires = (replace(SOUND.wires[0], found_by=found_by), SOUND.wires[1])
    assert worst_of(map_findings(WireMap(wires, reverse, "crimp"))) is level


def test_one_colour_for_two_wires_is_asked_back():
    wires = (SOUND.wires[0], replace(SOUND.wires[1], car="Red"))
    [finding] = map_findings(WireMap(wires, "dark", "crimp"))
    assert (finding.id, finding.values["count"]) == ("wires-same-colour", 2)


@pytest.mark.parametrize(
    ("market", "function", "switching", "level"),
    [
        ("un", Function.FOG, Switching("own", telltale=True), Level.OK),
        ("un", Function.FOG, Switching("low", telltale=True), Level.CAUTION),
        ("un", Function.FOG, Switching("own"), Level.CAUTION),
        ("us", Function.FOG, Switching("own", ("high",)), Level.OK),
        ("us", Function.FOG, Switching("own"), Level.CAUTION),
        ("uk", Function.DRL, Switching("key", ("low",)), Level.OK),
        ("us", Function.DRL, Switching("key"), Level.CAUTION),
    ],
)
def test_switching_is_held_to_the_markets_rule(market, function, switching, level):
    [finding] = switching_findings(switching, function, market)
    assert finding.level is level


def test_two_fog_lamps_do_not_hang_on_a_small_switch():
    """Two halogen fogs of 55 W take some 10 A: common practice, no published source."""
    alone = switching_findings(Switching("own", telltale=True), Function.FOG, "un", 10.0)
    relayed = switching_findings(Switching("own", (), True, True), Function.FOG, "un", 10.0)
    assert worst_of(alone) is Level.CAUTION
    assert worst_of(relayed) is Level.OK


def test_where_a_part_lies_stands_on_the_ribbon():
    laid = replace(ADAPTER, lock="click", tie="body", place="behind the washer neck")
    setting = replace(REFLECTOR, lead=Lead((laid,)))
    (adapter,) = [part for part in ribbon(setting, PULSED, BLIND) if part.kind == "adapter"]
    assert adapter.note == "clicks home; tied to body or bracket; behind the washer neck"


def test_a_lead_binds_the_ribbon_and_what_is_put_in():
    """Its own capacitor or decoder takes the place of the one to be made up."""
    made_up = {part.kind for part in ribbon(REFLECTOR, PULSED, BLIND)}
    assert {"diode", "capacitor", "resistor"} <= made_up
    with_capacitor = replace(REFLECTOR, lead=Lead((ADAPTER, CAPACITOR)))
    line = ribbon(with_capacitor, PULSED, BLIND)
    assert [part.kind for part in line if part.added] == ["adapter", "lead-capacitor", "resistor"]
    decoded = replace(REFLECTOR, lead=Lead((LeadPart("decoder"),)))
    assert [part.id for part in put_in(ribbon(decoded, PULSED, BLIND))] == ["wire-decoder"]
    assert lamp_amps(decoded, PULSED, BLIND) < lamp_amps(REFLECTOR, PULSED, BLIND)


def test_an_added_lamp_with_a_switch_of_its_own_gets_it_and_its_relay():
    nothing = replace(
        REFLECTOR,
        socket=replace(REFLECTOR.socket, holds=Holds.NOTHING, functions=(Function.FOG,)),
        switching=Switching("own", ("high",), relay=True, telltale=True),
    )
    facts = SupplyFacts(run_m=3, slot="switched")
    parts = {part.kind: part for part in ribbon(nothing, facts, GOOD)}
    assert {"switch", "relay"} <= parts.keys()
    assert "off with high beam" in parts["relay"].note
    assert not {"switch", "relay"} & {part.kind for part in feed_ribbon(nothing, facts)}
    assert "switched-otherwise" not in {one.id for one in findings(nothing, facts, GOOD)}


def test_reversed_wires_that_kill_are_said_at_the_lamp():
    killed = replace(REFLECTOR, wires=replace(SOUND, reversed="kills"))
    lamp = next(part for part in ribbon(killed, SupplyFacts(), GOOD) if part.kind == "lamp")
    assert "destroyed" in lamp.note
