"""The meters of a served shop: one simulated before a lamp, the feed of a real one, junk."""

import json
import time

import pytest

from cold_arc.core.beam import derived, model
from cold_arc.core.light import photometry
from cold_arc.store import catalogue
from cold_arc.web.app import create_app
from tests.thorough import usual
from tests.web.conftest import BOOKING, identification, plain


@pytest.fixture(autouse=True)
def ready():
    model.warm()


def live(client, **asked):
    told = {"phase": "before", "device": "simulated", "distance": "10 m", **asked}
    return client.http.get("/jobs/1/low-left/meter", query_string=told).json


def test_the_simulated_meter_reads_the_jobs_lamp_where_it_is_held(booked):
    live(booked, x=25, y=25)
    time.sleep(2.5)
    bright = live(booked, x=25, y=25)
    assert bright["lux"] > 50
    assert bright["typed"].endswith("lx x1")
    live(booked, x=-60, y=-30)
    time.sleep(2.5)
    assert live(booked, x=-60, y=-30)["lux"] < bright["lux"] / 10
    assert live(booked, x=-60, y=-30, range=100)["range"] == 100
    assert live(booked, x=-60, y=-30, hold=1)["hold"]


def test_a_lamp_that_can_not_be_modelled_has_no_meter(shop):
    shop.post("/jobs/new", **BOOKING)
    shop.post("/jobs/1/all/book-in", **identification(optic="sealed"))
    assert "can't be modelled" in live(shop)["error"]
    assert shop.http.get("/jobs/1/low/meter?phase=before").status_code == 404
    assert shop.http.get("/jobs/1/low-left/meter?phase=never").status_code == 404


def test_the_search_finds_the_simulated_hot_spot(booked):
    """Eight readings at most, each taken where the page says."""
    from cold_arc.web.job.lux.stand import Stand

    live(booked)
    (meter,) = booked.app.extensions["cold_arc_meters"]._meters.values()
    assert isinstance(booked.app.extensions["cold_arc_meters"], Stand)
    taken, told = [], None
    for _ in range(8):
        query = {
            "phase": "before",
            "distance": "10 m",
            "taken": ";".join(",".join(map(str, it)) for it in taken),
        }
        told = booked.http.get("/jobs/1/low-left/meter/search", query_string=query).json
        if told["found"] and taken:
            break
        x, y = told["next_x"], told["next_y"]
        taken.append((x, y, meter.reading_at(1e4, (x / 100, y / 100))))
    lamp = meter.lamp
    across, down = told["x"] / 100, told["y"] / 100
    here = (
        photometry.candela(lamp.lux(across, down, 10.0, 1e4, 30), 10.0, across, down) / lamp.bright
    )
    assert told["sure_deg"] < 0.5
    assert here >= 0.9 * derived.peak(lamp.beam).candela


def test_the_feed_takes_a_display_with_the_shops_token(tmp_path):
    app = create_app(
        tmp_path
    )  # with its guard against forged forms in force: a meter brings a token of its own
    client = app.test_client()
    page = plain(client.get("/shop").text)
    token = page.partition("--token ")[2].split("<")[0]
    sent = {"value": 41.5, "range": 10}
    assert client.post("/meter", json=sent).status_code == 401
    assert (
        client.post("/meter", json=sent, headers={"Authorization": "Bearer no"}).status_code == 401
    )
    good = {"Authorization": f"Bearer {token}"}
    assert client.post("/meter", json=sent, headers=good).status_code == 204
    assert client.get("/meter").json["lux"] == 415
    refused = client.post("/meter", json={"value": "x"}, headers=good)
    assert refused.status_code == 422
    assert "value" in refused.json["error"]
    assert client.post("/meter", data=b"{", headers=good).status_code == 422


JUNK = (
    "",
    "nan",
    "inf",
    "-1e99",
    "9" * 400,
    "x",
    "\x00",
    "1,2,3;4,5;;x,y,z;1,2,-3",
    "\ud83d",
    "feed",
)


@pytest.mark.parametrize("junk", usual(JUNK, ("nan", "9" * 400, "\ud83d")))
@pytest.mark.parametrize(
    "name", ["x", "y", "range", "unit", "distance", "ambient", "hold", "device", "taken"]
)
def test_junk_to_the_meter_is_answered(booked, name, junk):
    query = {"phase": "before", "device": "simulated", name: junk.encode("utf-8", "surrogatepass")}
    for where in ("meter", "meter/search"):
        told = booked.http.get(f"/jobs/1/low-left/{where}", query_string=query)
        assert told.status_code == 200
        json.dumps(told.json, allow_nan=False)


def test_a_shop_whose_page_was_never_opened_hears_no_meter(shop):
    sent = {"lux": 1.0}
    for said in ("Bearer -", "Bearer ", "-", ""):
        answer = shop.http.post("/meter", json=sent, headers={"Authorization": said})
        assert answer.status_code == 401, said


def test_json_without_end_is_no_display(tmp_path):
    app = create_app(tmp_path)
    with app.extensions["cold_arc_sessions"]() as session:
        token = catalogue.setting(session, "meter_token")
    assert len(token) == 24  # made before the first page was opened
    answer = app.test_client().post(
        "/meter",
        data="[" * 100_000,
        headers={"Authorization": f"Bearer {token}", "Content-Type": "application/json"},
    )
    assert answer.status_code == 422
