"""When: the shop's place and dusk there, and its days as a calendar."""

import datetime as dt

import pytest
from icalendar import Calendar

from tests.web.conftest import BOOKING

SHOP = {
    "shop_name": "Tallow",
    "shop_contact": "",
    "latitude": "",
    "longitude": "",
    "zone": "",
    "dark_bay": "0",
}
PLACE = {"latitude": "51.5", "longitude": "-0.12", "zone": "Europe/London"}


def events(client, path):
    answer = client.http.get(path)
    assert answer.mimetype == "text/calendar"
    return list(Calendar.from_ical(answer.data).walk("VEVENT"))


def test_the_place_is_kept_and_dusk_is_said(shop):
    assert "wall work" not in shop.get("/").lower() or "Wall work next" in shop.get("/")
    page = shop.post("/shop", **SHOP | PLACE)
    assert 'value="51.5"' in page
    assert "for wall work now" in page or "Dusk at" in page
    assert "Dark bay: wall work at any hour" in shop.post(
        "/shop", **SHOP | PLACE | {"dark_bay": "1"}
    )


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"latitude": "51.5"}, "A place has latitude, longitude and time zone"),
        (PLACE | {"zone": "Nowhere"}, "Not a time zone"),
        (PLACE | {"latitude": "95"}, "between −90 and 90"),
        (PLACE | {"longitude": "x"}, "is not a number"),
    ],
)
def test_what_is_no_place_is_refused_beside_its_field(shop, wrong, said):
    page = shop.post("/shop", 422, **SHOP | wrong)
    assert said in page
    assert "Dusk at" not in shop.get("/")


def test_jobs_due_and_rechecks_stand_in_the_calendar(shop):
    shop.post("/jobs/new", **BOOKING | {"due": "2026-12-24"})
    (due,) = events(shop, "/calendar.ics")
    assert str(due["summary"]) == "A-1 due"
    assert due.decoded("dtstart") == dt.date(2026, 12, 24)
    assert [str(it["uid"]) for it in events(shop, "/jobs/1/calendar.ics")] == [str(due["uid"])]
    assert shop.http.get("/jobs/9/calendar.ics").status_code == 404


def test_a_job_handed_over_leaves_its_recheck(demo):
    demo.post(
        "/jobs/1/all/hand-over",
        technician="Ines",
        recheck="2099-03-01",
        warranty_end="2100-01-01",
        law_told="y",
        cautions=["glare"],
    )
    days = {
        str(it["uid"]).split("@")[0]: it.decoded("dtstart")
        for it in events(demo, "/jobs/1/calendar.ics")
    }
    assert days["job-1-recheck"] == dt.date(2099, 3, 1)
    assert days["job-1-warranty"] == dt.date(2100, 1, 1)
