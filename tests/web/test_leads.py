"""Match's leads page: what is told there is kept, judged, and asked back where half a row is
told.
"""

import re
from dataclasses import replace

import pytest

from cold_arc.core.job.entries.match import LeadLaid, SwitchingPlanned, WiresMapped
from tests.web.test_match import latest
from tests.web.test_walks import KINDS
from tests.web.walking import Walk

PAGE = "/jobs/1/low/match/leads"


def test_a_lead_is_kept_for_both_sides_and_shown_again(demo):
    page = demo.post(
        PAGE, part="lead", adapter_inside="y", adapter_plug="9007", adapter_length="15 cm",
        driver_inside="y", driver_tie="moving", reach_m="40 cm",
        adapter_place="behind the washer neck",
    )  # fmt: skip
    for place in (0, 1):
        lead = latest(demo, 1, LeadLaid, place).lead
        assert [part.kind for part in lead.parts] == ["adapter", "driver"]
        assert lead.reach_m == pytest.approx(0.4)
    assert "Adapter, ends in 9007" in page
    assert "Driver tied to what turns or moves." in page
    assert 'value="9007"' in page
    assert 'value="behind the washer neck"' in page
    assert "<small>behind the washer neck" in page


def test_half_a_wire_is_asked_back_and_what_was_typed_stays(demo):
    page = demo.post(PAGE, 422, part="map", low_car="white/black", low_new="", low_by="")
    assert page.count("Tell both colours and how the wire was found") == 2
    assert 'value="white/black"' in page
    assert latest(demo, 1, WiresMapped) is None


def test_a_wire_map_reaches_the_step_at_the_lamp(demo):
    demo.post(
        PAGE, part="map", low_car="white", low_new="red", low_by="light", ground_car="brown",
        ground_new="black", ground_by="colour", reversed="kills", joint="twist",
    )  # fmt: skip
    page = demo.get(PAGE)
    assert "Not measured: ground." in page
    assert "Twisted and taped." in page
    wires = latest(demo, 1, WiresMapped).map
    assert [wire.role for wire in wires.wires] == ["low", "ground"]


def test_only_a_lamp_the_car_lacked_is_asked_how_it_is_switched(demo):
    assert "How it is switched" not in demo.get(PAGE)
    walk = Walk(demo, KINDS["fogs it never had"], "W-9")
    walk.come_in()
    page = demo.get(f"{walk.path}/foglamp-1/match/leads")
    assert "How it is switched" in page
    assert "Say what switches it on." in demo.post(
        f"{walk.path}/foglamp-1/match/leads", 422, part="switch", relay="y"
    )


@pytest.mark.parametrize(
    ("market", "wanted"), [("un", "not switched as the rule"), ("us", "switched as the rule")]
)
def test_a_fog_with_a_switch_is_judged_by_its_market(demo, market, wanted):
    lamps = replace(KINDS["fogs it never had"], booking={"market": market})
    walk = Walk(demo, lamps, "W-8")
    walk.come_in()
    where = f"{walk.path}/foglamp-1/match/leads"
    page = demo.post(where, part="switch", by="low", off_with="high", relay="y")
    judged = re.findall(r"Front fog is ([^:.]*)", page)
    assert judged
    assert judged[0].startswith(wanted)
    number = int(walk.path.rpartition("/")[2])
    planned = latest(demo, number, SwitchingPlanned).switching
    assert planned.words == "with low beam, off with high beam, through a relay"
    leaving = demo.get(f"{walk.path}/all/hand-over")
    assert ("Front fog is not switched as the rule has it" in leaving) is (market == "un")
    assert "Front fog lamp" in page
    assert "Front fog bulb" not in page


def test_an_override_is_recorded_only_where_something_speaks_against(demo):
    """A module with marks is allowed: a reason typed against nothing is not printed as one."""
    lamps = KINDS["rings renewed"]
    walk = Walk(demo, lamps, "W-5")
    walk.come_in()
    walk.match()
    assert "Recorded against a rule" not in demo.get(f"{walk.path}/sheet")


def test_an_unknown_part_of_the_page_is_no_page(demo):
    demo.post(PAGE, 404, part="nothing")
