"""Find the fault: from symptom to cure on the record, what the shop found counts, stale answers,
practice.
"""

import re

import pytest

from cold_arc.core.job.entries.prove import FaultFound, FaultSought
from cold_arc.core.work.diagnosis import faults
from cold_arc.devices.simulated_car import SimulatedCar
from cold_arc.store import faults as kept
from cold_arc.store import jobs

WHERE = "/jobs/1/low-left/prove/fault"


def record(client):
    with client.app.extensions["cold_arc_sessions"]() as session:
        return jobs.load(session, 1).record


def answered(client, symptom, car):
    """Answers as a simulated car does until a cause is told; the page then."""
    page = client.get(f"{WHERE}?symptom={symptom}")
    for made in range(20):
        offered = re.search(r'value="answer:([a-z-]+):0"[^>]*data-tick', page)
        if offered is None:
            return page
        choice = f"answer:{offered[1]}:{car.answer(offered[1])}"
        page = client.post(f"{WHERE}?symptom={symptom}", do=choice, made=str(made))
    raise AssertionError("it never ends")


@pytest.mark.parametrize(
    ("symptom", "fault"), [("dark", "polarity"), ("flicker", "pwm"), ("glare", "clocking")]
)
def test_a_fault_is_found_and_its_cure_recorded(booked, symptom, fault):
    page = answered(booked, symptom, SimulatedCar(fault))
    cause = faults().causes[fault]
    assert f"<h2>{cause.text}</h2>" in page
    assert cause.cure in page
    made = re.search(r'name="made" value="(\d+)"', page)[1]
    page = booked.post(f"{WHERE}?symptom={symptom}", do=f"cured:{fault}", made=made)
    assert "Found on this car" in page
    assert record(booked).all(FaultFound) == [FaultFound(symptom, fault)]


def test_a_bad_cell_of_the_board_leads_to_its_cause(demo):
    page = demo.post("/jobs/2/low/prove?pass=open", do="mark:low,left,on,flickers")
    (href,) = re.findall(r'href="([^"]+)">Flickers: find why', page)
    assert "Flickers with the engine running" in demo.get(href.replace("&amp;", "&"))


def test_what_the_shop_found_is_counted_until_it_is_undone(booked):
    booked.post(f"{WHERE}?symptom=fan", do="cured:fan-worn", made="0")
    with booked.app.extensions["cold_arc_sessions"]() as session:
        assert kept.found(session) == (("fan-worn", 1),)
        number = jobs.load(session, 1).entries[-1].id
    booked.post(f"/jobs/1/entries/{number}/undo")
    with booked.app.extensions["cold_arc_sessions"]() as session:
        assert kept.found(session) == ()


def test_a_cure_that_does_not_help_makes_way_for_the_next(booked):
    page = booked.post(f"{WHERE}?symptom=fan", do="not-cured:fan-touch", made="0")
    (cause, *_) = re.findall(r'<ol class="fault-causes"><li><span>([^<]+)', page)
    assert cause == faults().causes["fan-worn"].text


def test_the_last_answer_is_taken_back(booked):
    booked.post(f"{WHERE}?symptom=dark", do="answer:push-plug:1", made="0")
    booked.post(f"{WHERE}?symptom=dark", do="back:", made="1")
    assert record(booked).all(FaultSought)[-1].answers == ()


def test_an_answer_to_a_page_that_is_old_changes_nothing(booked):
    booked.post(f"{WHERE}?symptom=dark", do="answer:push-plug:1", made="0")
    page = booked.post(f"{WHERE}?symptom=dark", do="answer:turn-plug:0", made="0")
    assert "Somebody answered meanwhile" in page
    assert len(record(booked).all(FaultSought)) == 1


@pytest.mark.parametrize(
    "do",
    ["", "answer:", "answer:nothing:0", "answer:fuse:9", "answer:fuse:x", "cured:nothing", "back:"],
)
def test_junk_is_no_answer(booked, do):
    assert (
        booked.http.post(f"{WHERE}?symptom=dark", data={"do": do, "made": "0"}).status_code == 404
    )
    assert booked.http.get(f"{WHERE}?symptom=nothing").status_code == 404


def test_every_practice_car_has_something_to_show():
    assert all(SimulatedCar.numbered(number).shows() for number in range(1, 300))
    one = SimulatedCar.numbered(7)
    assert [one.answer(test) for test in faults().tests] == [
        SimulatedCar.numbered(7).answer(test) for test in faults().tests
    ]
