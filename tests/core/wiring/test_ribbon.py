"""The ribbon: every part that was chosen, in the order the current takes it. Common practice, no
published source.
"""

from dataclasses import replace

import pytest

from cold_arc.core import electrical
from cold_arc.core.car.bases import find
from cold_arc.core.car.lamps import Present
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.wiring.ribbon import STEPS, feed_ribbon, put_in, ribbon, steps
from tests.core.match.lamps import GOOD, REFLECTOR, lamp

PLAIN = SupplyFacts()
ADDED = SupplyFacts(run_m=3)
CURED = SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9)
BLIND = replace(GOOD, monitor_proof=False)
HID = lamp(base="D2S", present=Present.HID)


def kinds(facts=PLAIN, source=GOOD, setting=REFLECTOR):
    return [part.kind for part in ribbon(setting, facts, source)]


RING = SupplyFacts(run_m=3, feed_for="position", feed_w=5, slot_name="17")


def test_a_feed_for_another_lamp_is_a_line_of_its_own():
    """The lamp in hand stays on the car's own feed."""
    assert kinds(RING) == kinds()
    line = feed_ribbon(REFLECTOR, RING)
    assert [part.kind for part in line] == [
        "battery",
        "fuse",
        "wire",
        "fuse",
        "lamp",
        "ground",
    ]
    assert line[1].words == "Fuse tap, slot 17"
    assert feed_ribbon(REFLECTOR, ADDED) == []


@pytest.mark.parametrize(("base", "dual"), [("H11", False), ("9007", True)])
def test_only_a_dual_bulbs_adapter_may_exchange_high_and_low(base, dual):
    source = replace(GOOD, base="H4", adapters=(base,))
    plug = next(part for part in ribbon(lamp(base=base), PLAIN, source) if part.kind == "plug")
    assert ("may be exchanged" in plug.note) is dual
    assert "contacts" in plug.note


def test_what_is_put_in_is_bought_and_fitted_and_what_is_there_is_not():
    cured = put_in(ribbon(REFLECTOR, CURED, BLIND))
    assert {part.id for part in cured} >= {"wire-diode", "wire-capacitor", "wire-resistor"}
    assert [part.id for part in put_in(ribbon(REFLECTOR, PLAIN, GOOD))] == []
    feed = put_in(feed_ribbon(REFLECTOR, RING))
    assert [part.id for part in feed] == ["wire-ground", "wire-wire", "wire-fuse", "wire-fuse-2"]
    assert [part.once for part in feed] == [False, True, True, False]


def test_a_plain_bulb_hangs_on_the_cars_own_feed():
    assert kinds() == ["battery", "wire", "plug", "lamp", "ground"]


def test_an_added_feed_is_fused_at_the_battery_and_each_side():
    parts = ribbon(REFLECTOR, ADDED, GOOD)
    assert [part.kind for part in parts] == [
        "battery",
        "fuse",
        "wire",
        "fuse",
        "plug",
        "lamp",
        "ground",
    ]
    assert "mm², 3 m" in parts[2].says
    assert "loses" in parts[2].note


def test_cures_lie_in_the_line_or_across_it():
    parts = {part.kind: part for part in ribbon(REFLECTOR, CURED, BLIND)}
    assert not parts["diode"].across
    assert parts["capacitor"].across
    assert parts["resistor"].across
    assert "plastic" in parts["resistor"].note
    assert kinds(CURED, replace(GOOD, pwm_proof=True)) == kinds(SupplyFacts(monitored_w=36))


@pytest.mark.parametrize(
    ("driver", "words"),
    [
        ("ballast", "Ballast kept"),
        ("in-place", "Ballast out, driver in its place"),
        ("in-line", "Ballast passed by"),
    ],
)
def test_the_three_schools_of_gas_discharge(driver, words):
    source = replace(GOOD, base="D2S", driver=driver)
    (ballast,) = (part for part in ribbon(HID, PLAIN, source) if part.kind == "ballast")
    assert ballast.words == words
    assert ("never from ballast to bulb" in ballast.note) == (driver == "in-line")
    assert ("23 kV" in ballast.says) == (driver == "ballast")


def test_an_adapter_and_polarity_are_said():
    setting = replace(REFLECTOR, base=find("H11"))
    parts = {
        part.kind: part
        for part in ribbon(setting, PLAIN, replace(GOOD, adapters=("H11",), polarity="fixed"))
    }
    assert parts["plug"].words == "Adapter H11 to H7"
    assert "turn the plug" in parts["lamp"].note


def test_positive_earth_and_the_original():
    parts = ribbon(replace(REFLECTOR, earth_positive=True), PLAIN, None)
    assert parts[0].note == "positive earth"
    assert parts[-2].words == "The original"
    assert ribbon(replace(REFLECTOR, base=None), PLAIN, None) == []


def test_steps_name_only_what_is_there_and_the_fuse_comes_last():
    told = steps(ribbon(REFLECTOR, ADDED, GOOD), ADDED)
    assert told[0] == STEPS["battery"]
    assert told[-1] == STEPS["fuse"]
    assert steps(ribbon(REFLECTOR, PLAIN, GOOD), PLAIN) == [STEPS["plug"]]
    cured = steps(ribbon(REFLECTOR, CURED, BLIND), CURED)
    assert cured.index(STEPS["diode"]) < cured.index(STEPS["capacitor"])
    assert STEPS["wire"] not in cured


TAP = replace(
    ADDED,
    slot="live",
    slot_name="F17",
    tap_loads=2,
    fuse_a=30.0,
    wire_mm2=0.75,
    resistor_on="plastic",
)


def test_a_tap_in_a_named_slot_and_a_relay_where_it_is_always_live():
    parts = {part.kind: part for part in ribbon(REFLECTOR, TAP, GOOD)}
    assert parts["relay"].words == "Relay"
    assert any("slot F17" in part.words for part in ribbon(REFLECTOR, TAP, GOOD))
    assert "relay" not in {
        part.kind for part in ribbon(REFLECTOR, replace(TAP, slot="switched"), GOOD)
    }


def test_what_is_wrong_with_a_tap_is_told():
    """Above the wire and a resistor on plastic stop; several loads and a live slot are
    cautioned.
    """
    found = {finding.id: finding.level for finding in electrical.tap(TAP, 6.0)}
    assert found == {
        "tap-live": Level.CAUTION,
        "tap-shared": Level.CAUTION,
        "tap-fuse-above-wire": Level.STOP,
        "resistor-on-plastic": Level.STOP,
    }
    (small,) = electrical.tap(replace(ADDED, fuse_a=5.0, wire_mm2=2.5), 6.0)
    assert (small.level, small.values["amps"]) == (Level.CAUTION, 6.0)
    assert [it.level for it in electrical.tap(replace(ADDED, fuse_a=10.0, wire_mm2=2.5), 6.0)] == [
        Level.OK
    ]
    assert electrical.tap(ADDED, 6.0) == []
