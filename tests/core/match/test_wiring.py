"""What a choice changes electrically, and the ballast test. Formulas apart, common practice, no published source."""

from dataclasses import replace

import pytest

from cold_arc.core import ballast
from cold_arc.core.ballast import BallastTest
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.lamps import Function, Housing, LampKey, Present, Side
from cold_arc.core.match.wiring import findings, work_out
from tests.core.match.lamps import GOOD, REFLECTOR, lamp

BLIND = replace(GOOD, monitor_proof=False)


def worked(facts=None, source=BLIND, setting=REFLECTOR):
    return {it.title: it for it in work_out(setting, facts or SupplyFacts(), source)}


def test_before_and_after():
    """55 W at 13.2 V is 4.17 A; 24 W is 1.82 A; two lamps save 62 W; at 12 V two draw 4 A."""
    found = worked()
    assert found["Before"].value.startswith("55 W · 4.17 A")
    assert found["After"].value.startswith("24 W · 1.82 A")
    assert "62 W less" in found["After"].detail
    assert found["Most current"].value == "4 A"


def test_staying_changes_nothing():
    assert list(worked(source=None)) == ["Before"]


def test_every_cure_where_it_is_needed_and_only_there():
    assert "Load resistor" not in worked()
    found = worked(SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9, run_m=3))
    assert "13 Ω" in found["Load resistor"].value
    assert "bare metal" in found["Load resistor"].detail
    assert "µF, 25 V" in found["Smoothing capacitor"].value
    assert found["Wire"].value.startswith("1.5 mm² · AWG 14")
    assert found["Fuse"].value == "5 A blade"
    proof = worked(SupplyFacts(monitored_w=36, pwm_hz=100, pwm_duty=0.9), replace(GOOD, pwm_proof=True))
    assert not {"Load resistor", "Smoothing capacitor"} & set(proof)


def test_turn_signals_get_their_load():
    turn = replace(lamp(), lamp=replace(REFLECTOR.lamp, key=LampKey(Function.TURN, Side.LEFT), base="P21W"))
    assert "Flash-rate load" in worked(setting=turn, source=replace(BLIND, watts=4))


def test_on_a_ballast_the_cars_side_keeps_its_draw():
    """35 W and 15 % lost: 40 W before; a 35 W plug-in draws the same through the ballast."""
    hid = lamp(base="D2S", present=Present.HID, housing=Housing.PROJECTOR)
    found = worked(setting=hid, source=replace(GOOD, watts=35, driver="ballast"))
    assert found["Before"].value.split(" W")[0] == found["After"].value.split(" W")[0]


def test_a_feed_no_wire_can_take_is_said():
    assert worked(SupplyFacts(run_m=30), setting=replace(REFLECTOR, volts=6.0))["Wire"].value == "no single wire"


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
    assert ballast.cause(test) == cause
    assert ballast.ballast_good(test) is good
    assert ballast.findings(test, 12)


def test_one_sided_faults_want_the_swap_first():
    assert ballast.needs_swap("left")
    with pytest.raises(ValueError, match="Swap the bulbs"):
        ballast.cause(BallastTest("left"))


def test_a_suspect_ballast_wants_its_feed_read():
    told = ballast.findings(BallastTest("left", "stayed", 12.4), 12)
    assert [finding.level for finding in told] == [Level.STOP, Level.OK]
    dead = ballast.findings(BallastTest("left", "stayed", 3.1), 12)
    assert dead[1].level is Level.STOP
