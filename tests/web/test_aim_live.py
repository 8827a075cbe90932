"""The live camera at Aim: pictures of a simulated one are measured one after another; the last is
recorded.
"""

import io

import pytest

from cold_arc.core.job.entries.aim import Aimed
from cold_arc.store import jobs
from cold_arc.store.database import open_database
from tests.timing import takes_less

LIVE = "/jobs/2/low/aim/live"


def look(demo, **turned):
    """One picture of the simulated camera, sent as a browser would."""
    picture = demo.http.get(f"{LIVE}/simulated.jpg", query_string=turned)
    assert picture.mimetype == "image/jpeg"
    answer = demo.http.post(
        f"{LIVE}/frame", data={"frame": (io.BytesIO(picture.data), "frame.jpg")}
    )
    return answer.get_json()


def test_the_line_follows_the_screws(demo):
    """A turn of the simulated height screw is −0.6 %, of the side screw −0.5 % sideways; they start
    at +0.4, 1.8 %. The lamp's lens is hazed, its edge soft: it is told to some 0.15°.
    """
    start, down, left = look(demo), look(demo, height=2), look(demo, side=2)
    assert start["up"] == pytest.approx(0.004, abs=0.003)
    assert down["up"] - start["up"] == pytest.approx(-0.012, abs=0.0025)
    assert left["right"] - start["right"] == pytest.approx(-0.010, abs=0.003)
    assert start["level"] == "stop"
    assert "too high" in start["words"][0]


def test_it_is_told_several_times_a_second(demo):
    look(demo)
    picture = demo.http.get(f"{LIVE}/simulated.jpg").data

    def told():
        assert demo.http.post(
            f"{LIVE}/frame", data={"frame": (io.BytesIO(picture), "frame.jpg")}
        ).get_json()["words"]

    assert takes_less(0.3, told)


def test_what_can_not_be_told_is_said(demo):
    answer = demo.http.post(f"{LIVE}/frame", data={"frame": (io.BytesIO(b"no"), "frame.jpg")})
    assert "no picture" in answer.get_json()["why"]
    assert "no picture" in demo.http.post(f"{LIVE}/frame").get_json()["why"]
    assert demo.http.get(f"{LIVE}/simulated.jpg?height=lots").status_code == 404
    assert demo.http.get(f"{LIVE}/simulated.jpg?height=nan").status_code == 404
    assert demo.http.get("/jobs/5/turn/aim/live").status_code == 404


def test_a_beam_without_an_elbow_is_recorded_without_a_side(demo):
    demo.post(LIVE, distance="10 m", stands="-1.20%", sideways="", lamp="low-left")
    with open_database(demo.folder)() as session:
        newest = [
            it.payload for it in jobs.load(session, 2).entries if isinstance(it.payload, Aimed)
        ][-1]
    assert (newest.slope, newest.sideways) == (pytest.approx(-0.012), None)


def test_what_it_said_last_is_recorded(demo):
    page = demo.post(LIVE, distance="10 m", stands="-1.20%", sideways="-0.40%", lamp="low-left")
    assert "Recorded as the aim." in page
    assert "left, as left: in." in page.lower()
    assert "it looked at no lamp" not in page
    assert "it looked at no lamp" in demo.post(
        LIVE,
        distance="10 m",
        stands="-1.20%",
        sideways="-0.40%",
        lamp="low-left",
        camera="simulated",
    )
    assert "Say where the cut-off stands." in demo.post(
        LIVE, 422, distance="10 m", stands="", sideways=""
    )
