"""What a choice changes electrically, and the ballast test. Formulas apart, common practice, no
published source.
"""

from dataclasses import replace

import pytest

from cold_arc.core import ballast
from cold_arc.core.ballast import BallastTest
from cold_arc.core.car.lamps import Function, Holds, Optic, Present
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.wiring.ribbon import ribbon
from cold_arc.core.wiring.working import before_of, findings, work_out
from tests.core.match.lamps import GOOD, REFLECTOR, lamp

BLIND = replace(GOOD, monitor_proof=False)


def worked(facts=None, source=BLIND, setting=REFLECTOR):
    return {it.title: it for it in work_out(setting, facts or SupplyFacts(), source)}


def test_before_and_after():
    """H7 takes up to 58 W at 13.2 V (UN R37, from memory): 4.39 A; 24 W is 1.82 A; two save 68 W,
    draw 48/10.5 = 4.57 A at the 10.5 V a car runs on at least.
    """
    found = worked()
    assert found["Before"].value.startswith("58 W · 4.39 A")
    assert "rated 55 W" in found["Before"].detail
    assert found["After"].value.startswith("24 W · 1.82 A")
    assert "68 W less" in found["After"].detail
    assert found["Most current"].value == "4.57 A"


def test_staying_changes_nothing():
    assert list(worked(source=None)) == ["Before"]


def test_every_cure_where_it_is_needed_and_only_there():
    assert "Load resistor" not in worked()
    found = worked(SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9, run_m=3))
    assert "13 Ω" in found["Load resistor"].value
    assert "bare metal" in found["Load resistor"].detail
    assert "µF, 25 V" in found["Smoothing capacitor"].value
    # 24/10.5 = 2.29 A a lamp and 14.4/13 = 1.11 A a resistor: 6.8 A, so 10 A; 3.4 a side, so 5 A
    assert found["Wire"].value.startswith("2.5 mm² · AWG 12")
    assert found["Fuse"].value == "10 A blade"
    assert found["Fuse, each side"].value == "5 A blade each"
    assert "both out at once" in found["Fuse, each side"].detail
    assert "feeds back" in found["Blocking diode"].detail
    assert "bursts" in found["Smoothing capacitor"].detail
    assert "for an instant" in found["Inrush limiter"].detail
    proof = worked(
        SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9), replace(GOOD, pwm_proof=True)
    )
    assert not {"Load resistor", "Smoothing capacitor"} & set(proof)


def test_load_resistors_are_fused_and_wired_for():
    """6 V, 31 W missing a lamp: 6.3²/31 = 1.28, so 1.2 Ω; 24/5.25 + 7.2/1.2 = 10.6 A a lamp,
    21.1 A for two, so 30 A.
    """
    old = replace(REFLECTOR, volts=6.0)
    found = worked(SupplyFacts(monitored_w=55, run_m=0.5), setting=old)
    assert "1.2 Ω" in found["Load resistor"].value
    assert found["Most current"].value == "21.1 A"
    assert found["Fuse"].value == "30 A blade"
    assert found["Fuse, each side"].value == "15 A blade each"
    made_for_it = replace(BLIND, supply_min_v=5.0, supply_max_v=8.0)
    told = SupplyFacts(monitored_w=55, run_m=0.5, wire_mm2=1.5)
    (_, protected) = findings(old, told, made_for_it)
    assert protected.level is Level.STOP, "1.5 mm² carries no 30 A fuse"


@pytest.mark.parametrize(
    ("base", "function", "volts", "watts"),
    [
        ("H4", Function.LOW, 12, 68),  # UN R37's greatest power at test voltage, from memory
        ("H4", Function.HIGH, 12, 75),
        ("H7", Function.LOW, 24, 75),
        ("P27/7W", Function.TURN, 12, 32.1),
        ("P27/7W", Function.POSITION, 12, 8.5),
        ("H15", Function.DRL, 12, 19),
        ("H15", Function.HIGH, 12, 64),
        ("9007", Function.LOW, 12, 55 * 1.1**1.6),  # not recalled: the power law from 12 to 13.2 V
    ],
)
def test_each_function_burns_its_own_filament(base, function, volts, watts):
    before = before_of(replace(lamp(function, base=base), volts=float(volts)))
    assert before.watts == pytest.approx(watts)


def test_what_an_led_bulb_put_in_before_takes_is_not_known_by_its_base():
    led = lamp(present=Present.LED)
    assert before_of(led) is None
    found = worked(setting=led)
    assert "Before" not in found
    assert found["After"].detail.startswith("one lamp at")  # nothing is saved against a guess
    assert work_out(led, SupplyFacts(), None) == []


@pytest.mark.parametrize(("base", "arc_w"), [("D2S", "35"), ("D5S", "25")])
def test_an_arcs_own_watts_are_said_and_a_kits_are_not_guessed(base, arc_w):
    """UN R99: D5S is a 25 W source, from memory."""
    hid = lamp(base=base, present=Present.HID, optic=Optic.PROJECTOR)
    assert worked(setting=hid)["Before"].how.startswith(f"{arc_w} W")
    assert before_of(lamp(base="H7", present=Present.HID)) is None


def test_a_type_that_is_not_known_is_said():
    assert "figure is not known" in worked(setting=replace(REFLECTOR, volts=6.0))["Before"].detail


def test_turn_signals_get_their_load():
    turn = lamp(Function.TURN, base="P21W")
    assert "Flash-rate load" in worked(setting=turn, source=replace(BLIND, watts=4))


def test_on_a_ballast_the_cars_side_keeps_its_draw():
    """35 W and 15 % lost: 40 W before; a 35 W plug-in draws the same through the ballast."""
    hid = lamp(base="D2S", present=Present.HID, optic=Optic.PROJECTOR)
    found = worked(setting=hid, source=replace(GOOD, watts=35, driver="ballast"))
    assert found["Before"].value.split(" W")[0] == found["After"].value.split(" W")[0]


def test_a_feed_no_wire_can_take_is_said():
    assert (
        worked(SupplyFacts(run_m=30), setting=replace(REFLECTOR, volts=6.0))["Wire"].value
        == "no single wire"
    )


def test_the_feed_point_is_judged():
    (finding,) = findings(REFLECTOR, SupplyFacts(feed_at="out"), GOOD)
    assert finding.level is Level.STOP


@pytest.mark.parametrize(
    ("fault", "after", "cause", "good"),
    [
        ("right", "moved", "bulb", True),  # the fault follows the bulb
        ("right", "stayed", "ballast", False),  # or stays with the ballast
        ("left", "gone", "seat", True),
        ("both", "", "feed", None),
        ("none", "", "healthy", True),
    ],
)
def test_what_the_swap_says(fault, after, cause, good):
    test = BallastTest(fault, after)
    assert ballast.cause(test, 12) == cause
    assert ballast.GOOD[cause] is good
    assert ballast.findings(test, 12)


def test_one_sided_faults_want_the_swap_first():
    assert ballast.needs_swap("left")
    assert ballast.cause(BallastTest("left"), 12) == "unswapped"


def test_a_suspect_ballast_wants_its_feed_read():
    told = ballast.findings(BallastTest("left", "stayed", 12.4), 12)
    assert [finding.level for finding in told] == [Level.STOP, Level.OK]


def test_a_ballast_with_a_good_feed_is_named_alone():
    fed = BallastTest("left", "stayed", 12.4)
    assert ballast.cause(fed, 12) == "ballast-fed"


def test_a_starved_ballast_is_not_judged():
    """3 V on its feed says nothing of a ballast: the feed first."""
    starved = BallastTest("left", "stayed", 3.0)
    assert ballast.cause(starved, 12) == "off-supply"
    verdict, feed = ballast.findings(starved, 12)
    assert verdict.level is Level.CAUTION
    assert verdict.id == "ballast-open"
    assert feed.level is Level.STOP
    assert (
        ballast.cause(BallastTest("left", feed_volts=3.0), 12) == "off-supply"
    )  # no swap is needed


@pytest.mark.parametrize(("volts", "nominal"), [(5.0, 12), (20.0, 12), (9.0, 24), (9.0, 6)])
def test_a_ballast_is_judged_by_no_test_made_off_the_cars_supply(volts, nominal):
    for test in (BallastTest("none", "", volts), BallastTest("left", "moved", volts)):
        assert ballast.cause(test, nominal) == "off-supply"
        assert "ballast-good" not in {finding.id for finding in ballast.findings(test, nominal)}


RING = SupplyFacts(run_m=3, feed_for="position", feed_w=5)


def test_a_feed_is_sized_for_what_it_feeds_not_for_the_lamp_beside_it():
    """By hand: two rings of 5 W at 10.5 V take 0.95 A; at 80 % a 2 A fuse, the thinnest wire."""
    results = worked(RING)
    assert results["Fuse"].value == "2 A blade"
    assert results["Wire"].value.startswith("0.5 mm²")
    assert results["Fuse, each side"].value.startswith("1 A")
    lamp_itself = worked(replace(RING, feed_for="", feed_w=None))
    assert lamp_itself["Fuse"].value == "7.5 A blade"  # 2 · 24 W / 10.5 V = 4.6 A, at 80 %


def test_a_feed_for_something_else_wants_its_watts():
    assert worked(replace(RING, feed_w=None))["Added feed"].value == "its watts first"


def test_the_slot_must_be_rated_for_what_it_feeds():
    daytime = SupplyFacts(run_m=3, feed_for="drl", feed_w=20, slot_a=5)
    (short,) = findings(REFLECTOR, replace(daytime, slot_a=3), BLIND)
    assert short.level is Level.CAUTION
    assert (short.id, short.values["slot_a"]) == ("tap-slot-small", 3)
    assert findings(REFLECTOR, daytime, BLIND) == []


NEVER = replace(REFLECTOR.socket, base=None, holds=Holds.NOTHING, functions=(Function.DRL,))
STRIP = replace(GOOD, name="strip", kind="module", base="", watts=8, functions=("drl",))


def test_a_lamp_the_car_never_had_is_fed_before_it_is_fitted():
    """8 W a lamp at the 10.5 V a car runs on at least: 0.76 A, two 1.52 A."""
    setting = replace(REFLECTOR, socket=NEVER, base=None)
    assert [it.id for it in findings(setting, SupplyFacts(), STRIP)] == ["feed-none"]
    fed = SupplyFacts(run_m=1.5, slot="switched", slot_name="F17", slot_a=10)
    assert "feed-none" not in {it.id for it in findings(setting, fed, STRIP)}
    told = worked(fed, STRIP, setting)
    assert "Before" not in told
    assert told["Most current"].value == "1.52 A"
    assert "Wire" in told
    words = [part.words for part in ribbon(setting, SupplyFacts(), STRIP)]
    assert "No feed yet" in words
    assert "The car's own feed" not in words
    assert "Added wire" in [part.words for part in ribbon(setting, fed, STRIP)]
    module = replace(setting, socket=replace(NEVER, holds=Holds.MODULE))
    assert findings(module, SupplyFacts(), STRIP) == []
