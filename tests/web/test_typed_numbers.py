"""What can be read two ways is asked back beside its field, with the readings to tap; nothing is
saved meanwhile.
"""

import html
import re

import pytest

from cold_arc.store import jobs
from tests.web.conftest import plain

SET_UP = {"distance": "10 m", "range_factor": "1", "volts": "13.2"}
AIM = {
    "rule": "un-r48-low",
    "lamp": "low-left",
    "phase": "found",
    "height": "0.65 m",
    "distance": "10 m",
}


def entries(client):
    with client.app.extensions["cold_arc_sessions"]() as session:
        return len(jobs.load(session, 1).entries)


@pytest.mark.parametrize(
    ("path", "form", "field", "typed", "readings"),
    [
        ("baseline", SET_UP, "peak-low-left", "1,013 lx", ["1013 lx", "1.0130 lx"]),
        (
            "baseline",
            {**SET_UP, "range_factor": "10"},
            "peak-low-left",
            "410 lx",
            ["410 lx x1", "410 lx x10"],
        ),
        (
            "baseline",
            {**SET_UP, "range_factor": "10", "peak-low-left": "41"},
            "ambient",
            "5",
            ["5 lx x1", "5 lx x10"],
        ),
        (
            "baseline",
            {**SET_UP, "peak-low-left": "9"},
            "across-low-left",
            "1,500 mm",
            ["1500 mm right", "1.5 mm right"],
        ),
        ("inspect", {"haze": "1"}, "replacement_price", "1,200", ["1200", "1.2"]),
        ("aim", AIM, "stands", "2'", ["2 ft down", "2 min down"]),
    ],
)
def test_two_readings_are_offered(booked, path, form, field, typed, readings):
    before = entries(booked)
    response = booked.http.post(f"/jobs/1/low/{path}", data={**form, field: typed})
    page = re.sub(r"\s+", " ", html.unescape(response.text))
    for reading in readings:
        assert f'data-means="{reading}" data-into="{field}"' in page
        booked_with = booked.http.get(f"/echo/reading?name=p&p={reading.replace(' ', '+')}")
        assert booked_with.status_code == 200
    assert f'value="{typed}"' in page, "what was typed stays"
    assert entries(booked) == before


def test_one_plausible_reading_is_taken_and_echoed(booked):
    assert "1.5 m, 4.92 ft" in plain(booked.http.get("/echo/distance?name=d&d=1,500+mm").text)
    page = booked.post(
        "/jobs/1/low/baseline", **{**SET_UP, "distance": "7,620 mm", "peak-low-left": "410"}
    )
    assert "410 lx at 7.62 m" in page


def test_every_quantity_has_its_live_echo(booked):
    """Whatever field a page asks for, the address its echo asks is answered."""
    import re

    for stage in ("book-in", "inspect", "baseline", "plan", "aim", "verify", "match/wiring"):
        page = html.unescape(
            booked.http.get(f"/jobs/1/low/{stage}?edit=1", follow_redirects=True).text
        )
        for address in set(re.findall(r'hx-get="(/echo/[^"]+)"', page)):
            name = address.partition("name=")[2]
            assert booked.http.get(f"{address}&{name}=1&distance=10+m").text.startswith(
                ("=", "<span", "\n=")
            ), address


def test_the_bench_offers_both_readings(shop):
    page = re.sub(r"\s+", " ", html.unescape(shop.http.get("/bench?flux=1,500").text))
    assert 'data-means="1500 lm" data-into="flux"' in page
    assert 'value="1,500"' in page


def test_a_refused_aim_is_not_computed_with(booked):
    """Beyond its bounds a figure draws nothing: the wall stays at its usual size."""
    usual = len(booked.http.get("/jobs/1/low/aim").text)
    page = booked.http.post("/jobs/1/low/aim", data={**AIM, "stands": "8 cm", "spacing": "120000"})
    assert "between 0.3 and 2.5 m" in html.unescape(page.text)
    assert len(page.text) < usual * 1.5
