"""A car that comes back: known by its plate or number, booked in again, claimed on."""

import datetime as dt
import re
from dataclasses import replace
from types import SimpleNamespace

import pytest

from cold_arc.core.car.lamps import Optic, Present
from cold_arc.core.job import stand
from cold_arc.core.job.entries.book_in import Identified
from cold_arc.core.job.entries.later import FittedBefore
from cold_arc.core.job.entries.match import Chosen
from cold_arc.store import cars, jobs
from cold_arc.store.database import open_database
from cold_arc.web.job.sheet_rows import SheetPair, socket_rows
from tests.core.job.test_record import LEFT, RIGHT, SLIM, Story
from tests.web.conftest import BOOKING, identification
from tests.web.walking import bare

VIN = "WXY00000000000017"


def booked(client, **more):
    answer = client.http.post("/jobs/new", data=BOOKING | more)
    return answer.headers.get("Location", ""), bare(answer.text)


def record_of(client, job_id):
    with open_database(client.folder)() as session:
        return jobs.load(session, job_id).record


def test_a_number_that_can_not_be_is_asked_back_and_may_stand(shop):
    nothing, page = booked(shop, vin="1XY00000000000017", year="2012")
    assert not nothing
    assert "Its ninth sign is 0" in page
    assert "It stands so on the car" in page
    place, _ = booked(shop, vin="1XY00000000000017", year="2012", vin_stands="y")
    assert place


def test_a_car_is_known_by_plate_however_it_is_written(shop):
    booked(shop, plate="BR 204-k", reference="First")
    assert "was here before, 1 time, last as First" in shop.get("/cars/known?plate=br204K")
    assert shop.get("/cars/known?plate=BR204L").strip() == ""
    assert shop.get("/cars/known?plate=&vin=").strip() == ""
    assert "First" in shop.get("/?q=br204k")


def test_a_plate_that_went_to_another_car_says_nothing_of_it(shop):
    booked(shop, plate="BR 204", vin=VIN)
    booked(shop, plate="BR 204", vin=VIN[:-1] + "8")
    with open_database(shop.folder)() as session:
        assert [visit.job_id for visit in cars.visits(session, 1)] == [1]
        assert cars.known(session, "", "BR204") == [2, 1]
        assert cars.known(session, VIN, "BR204") == [1]


@pytest.fixture
def left(demo):
    """The number of the demo's car that left with LED low beams."""
    with open_database(demo.folder)() as session:
        (number,) = cars.known(session, "", "BK287F")
    return number


def again(client, number, visit):
    answer = client.http.post(f"/jobs/{number}/again", data={"visit": visit})
    return int(re.search(r"/jobs/(\d+)", answer.headers["Location"])[1])


def test_more_work_starts_with_what_is_known(demo, left):
    new = again(demo, left, "work")
    record, before = record_of(demo, new), record_of(demo, left)
    assert record.sockets == before.sockets
    assert record.ways.keys() == before.ways.keys()
    assert record.booking.known_by == before.booking.known_by
    assert (record.booking.complaint, record.booking.due) == ("", None)
    for beam in record.road_beams:
        assert stand.height(record, beam).value == stand.height(before, beam).value == 0.68
        assert not stand.height(record, beam).assumed
    page = demo.get(f"/jobs/{new}/car")
    assert "2 visits" in page
    assert "More work of TL-287" in page
    assert "Sableline H7 slim" in page.partition("In it now")[2].partition("Visits")[0]
    assert "TL-287" in demo.get("/?which=closed")


def test_a_claim_stands_with_the_car_and_with_the_light_source(demo, left):
    page, name = f"/jobs/{left}/car", "Sableline H7 slim"
    refused = demo.http.post(page, data={"source": name, "settled": "open"})
    assert refused.status_code == 422
    assert "Say what is wrong with it." in refused.text
    claim = {"source": name, "settled": "replaced", "reasons": ["flicker", "fan"], "note": "cold"}
    told = demo.post(page, **claim)
    assert f"Claim on {name}: flickers, fan loud or still; replaced" in told
    assert "1 claim on it in this shop: flickers, fan" in demo.get("/light-sources/1")
    match = "/jobs/1/low/match?look=1"
    assert "1 claim on it in this shop" in demo.get(match)
    listed = bare(demo.get("/measured"))
    assert f"{name} 1 flickers, fan loud or still TL-287" in listed


def test_a_claim_may_be_made_at_the_next_visit_on_what_the_first_fitted(demo, left):
    new = again(demo, left, "recheck")
    claim = {"source": "Sableline H7 slim", "settled": "open", "reasons": ["dead"]}
    assert "Claim on Sableline H7 slim: dark" in demo.post(f"/jobs/{new}/car", **claim)


def test_a_re_check_is_on_the_board_and_in_the_calendar_until_the_car_comes(demo, left):
    board = demo.get("/")
    assert "TL-287" in board.partition('aria-label="Re-check due"')[2].partition("</section>")[0]
    assert "TL-287" in demo.get("/?which=recheck")
    assert "TL-287 re-check" in demo.http.get("/calendar.ics").text
    again(demo, left, "recheck")
    assert "TL-287" not in bare(demo.get("/?which=recheck")).partition("Found")[2]
    assert "TL-287 re-check\r\nDTSTART" not in demo.http.get("/calendar.ics").text


def test_nothing_comes_back_that_was_not_here(shop):
    shop.post("/jobs/9/again", 404, visit="recheck")
    booked(shop)
    shop.post("/jobs/1/again", 404, visit="party")
    assert "It has not left yet" in shop.post("/jobs/1/again", visit="recheck")
    page = shop.get("/jobs/1/car")
    assert "It is here now: A-1" in page
    assert "Book the re-check" not in page
    shop.get("/jobs/2/car", 404)
    shop.get("/jobs/9/car", 404)


def test_a_car_that_comes_again_and_again_has_references_of_its_own(demo, left):
    for number, reference in ((left, "TL-287, re-check"), (left, "TL-287, re-check 2")):
        new = again(demo, number, "recheck")
        record = record_of(demo, new)
        assert record.booking.reference == reference
        with open_database(demo.folder).begin() as session:
            jobs.set_closed(session, new, True)
        taken = again(demo, new, "work")
        assert record_of(demo, taken).booking.reference.startswith(f"{reference}, more work")


def test_hours_are_read_as_they_are_typed_and_turn_light_into_fade(demo, left):
    new = again(demo, left, "recheck")
    assert "Hours lit" in demo.post(f"/jobs/{new}/hours", hours="many")
    demo.post(f"/jobs/{new}/hours", hours="400 h")
    set_up = {
        "distance": "10 m",
        "range_factor": "1",
        "volts": "13.8",
        "meter": "b",
        "settled": "1",
    }
    verify = f"/jobs/{new}/low/verify"
    page = demo.post(verify, **set_up, **{"peak-low-left": "150", "height": "0.68 m"})
    assert "Low beam, left: It fades faster than it may." in page
    assert "claimed: 70 % after 20 000 h" in page
    assert "Before is how it left on" in page


def test_identification_survives_a_visit(shop):
    shop.post("/jobs/new", **BOOKING)
    shop.post("/jobs/1/all/book-in", **identification())
    with open_database(shop.folder).begin() as session:
        jobs.set_closed(session, 1, True)
    shop.post("/jobs/1/again", visit="work")
    record = record_of(shop, 2)
    assert [record.base(key).name for key in record.sockets] == ["H7", "H7"]


def test_a_warranty_that_ends_soon_is_on_the_board(demo, left):
    board = demo.get("/")
    assert 'aria-label="Warranty ends"' not in board
    soon = (dt.date.today() + dt.timedelta(days=20)).isoformat()
    form = {"technician": "Ines", "law_told": "y", "recheck": soon, "warranty_end": soon}
    demo.post(f"/jobs/{left}/all/hand-over", **form)
    lane = demo.get("/").partition('aria-label="Warranty ends"')[2].partition("</section>")[0]
    assert "TL-287" in lane


def kept_on(*sides):
    """The sheet's lamps of a car whose low beams keep what earlier visits put in, by side."""
    story = Story().add(Identified(Optic.REFLECTOR, "H7", Present.LED), LEFT, RIGHT)
    for key, (name, off_road) in zip((LEFT, RIGHT), sides, strict=True):
        before = FittedBefore(replace(SLIM, name=name), "A-1", dt.date(2026, 3, 3), off_road)
        story.add(before, key)
    story.add(Chosen(None, "stays"), LEFT, RIGHT)
    rows = socket_rows(SimpleNamespace(record=story.record))
    return SheetPair([row for row in rows if row.key in (LEFT, RIGHT)], []).fitted


def test_two_sides_that_keep_unlike_bulbs_are_told_apart_and_off_road_stays_so():
    same = kept_on(("Ridge", False), ("Ridge", False))
    assert [(side, row.now) for side, row in same] == [("", "Ridge, kept")]
    assert not same[0][1].remarks
    unlike = kept_on(("Ridge", False), ("Thin", True))
    assert [(side, row.now) for side, row in unlike] == [
        ("Left", "Ridge, kept"),
        ("Right", "Thin, kept"),
    ]
    assert [row.remarks for _, row in unlike] == [[], ["For off-road or show use only."]]
