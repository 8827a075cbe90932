"""Bad input in every form: a clear error beside its field, what was typed stays, nothing is
saved.
"""

import re

import pytest

from cold_arc.store import jobs
from tests.web.conftest import BOOKING, identification

READINGS = {"distance": "10 m", "range_factor": "1", "volts": "13.2", "peak-low-left": "410"}
AIM = {
    "rule": "un-r48-low",
    "lamp": "low-left",
    "phase": "found",
    "height": "0.65 m",
    "distance": "10 m",
    "stands": "12 cm",
}
STEP = {"do": "step:", "text": "Cap off", "minutes": "2", "caution": ""}
SOURCE = {
    "name": "Test",
    "kind": "bulb",
    "base": "H7",
    "watts": "24",
    "claimed_lm": "1900",
    "claim_basis": "bulb",
    "colour": "white",
    "optic": "",
    "high_by": "",
    "supply_min_v": "9",
    "supply_max_v": "16",
    "polarity": "any",
    "driver": "inside",
    "cooling": "fan",
    "price": "50",
    "warranty_years": "2",
}
SUPPLY = {"air_c": "60"}
DRIVE = {"do": "drive:", "who": "Ines", "minutes": "20", "where": "dark road", "levelling": "none"}
HAND_OVER = {"technician": "I. Corvane", "recheck": "2099-01-01", "law_told": "y"}

CASES = [
    ("/jobs/new", BOOKING, "reference", "", "Give the job a reference"),
    ("/jobs/new", BOOKING, "make", " ", "Say what car it is"),
    ("/jobs/new", BOOKING, "year", "nineteen", "is not a number"),
    ("/jobs/new", BOOKING, "year", "1650", "between 1890 and"),
    ("/jobs/new", BOOKING, "due", "soon", "Not a valid date"),
    ("/jobs/new", BOOKING, "market", "mars", "Not a valid choice"),
    ("/jobs/new", BOOKING, "work", [], "Tap at least one lamp"),
    ("/jobs/new", BOOKING, "front", "", "tap the one that is like it"),
    ("/jobs/new", BOOKING, "front", "{", "can't be read"),
    ("/jobs/1/all/book-in", identification(), "headlamp-1-base", "H99", "not in the catalogue"),
    ("/jobs/1/all/book-in", identification(), "headlamp-1-optic", "", "This is needed"),
    ("/jobs/1/low/inspect", {}, "haze", "", "Grade the haze"),
    ("/jobs/1/low/inspect", {"haze": "1"}, "room_mm", "wide", "is not a length"),
    ("/jobs/1/low/inspect", {"haze": "1"}, "room_mm", "9 m", "between 0 and 500 mm"),
    ("/jobs/1/low/inspect", {"haze": "1"}, "labour_rate", "lots", "is not a number"),
    ("/jobs/1/low/baseline", READINGS, "distance", "0.1 m", "between 0.5 and 60 m"),
    ("/jobs/1/low/baseline", READINGS, "distance", "", "This is needed"),
    ("/jobs/1/low/baseline", READINGS, "volts", "230", "between 3 and 32 V"),
    ("/jobs/1/low/baseline", READINGS, "ambient", "dark", "is not a reading"),
    ("/jobs/1/low/baseline", READINGS, "peak-low-left", "bright", "is not a reading"),
    ("/jobs/1/low/baseline", READINGS, "across-low-left", "left", "is not a length"),
    ("/jobs/1/low/baseline", READINGS, "peak-low-left", "", "Type at least one reading"),
    ("/jobs/1/low/verify", READINGS, "edge-low-right", "4 fc x10 lx", "is not a reading"),
    ("/jobs/1/low/match", {"choice": "stay"}, "reason", "", "Say why"),
    ("/jobs/1/low/match", {"reason": "because"}, "choice", "99", "not on the shelf"),
    ("/jobs/1/low/plan", STEP, "minutes", "long", "is not a number"),
    ("/jobs/1/low/plan", STEP, "text", "", "Say what is done"),
    ("/jobs/1/low/plan", STEP, "fasteners", "some pins", "is not understood"),
    ("/jobs/1/low/aim", AIM, "stands", "-8 cm up", "not both"),
    ("/jobs/1/low/aim", AIM, "stands", "", "Say where it stands"),
    ("/jobs/1/low/aim", AIM, "height", "9 m", "between 0.2 and 2.5 m"),
    ("/jobs/1/low/aim", AIM, "sideways", "4 cm left right", "not both"),
    ("/jobs/1/low/aim", AIM, "turns", "some", "is not a number"),
    ("/jobs/1/all/hand-over", HAND_OVER, "technician", "", "Sign with your name"),
    ("/jobs/1/all/hand-over", DRIVE, "where", "", "Say where"),
    ("/jobs/1/all/hand-over", DRIVE, "minutes", "9999", "between 0.5 and 600"),
    ("/jobs/1/low/match/options", {"renew": "1"}, "housing_price", "140", "Tick it as new"),
    ("/jobs/1/all/hand-over", HAND_OVER, "recheck", "2001-01-01", "must not lie in the past"),
    ("/jobs/1/all/hand-over", HAND_OVER, "law_told", "", "Read the law note"),
    ("/light-sources/new", SOURCE, "base", "Q9", "is not a base in the catalogue"),
    ("/light-sources/new", SOURCE, "watts", "0", "between 0.1 and 200 W"),
    ("/light-sources/new", SOURCE, "supply_max_v", "5", "Must not be below"),
    ("/light-sources/new", SOURCE, "faces", "2.5", "whole number"),
    ("/light-sources/new", SOURCE, "lcl_mm", "2 m", "between 5 and 60 mm"),
    ("/light-sources/new", SOURCE, "adapters", "H8, Q9", "“Q9” is not a base"),
    ("/light-sources/new", SOURCE, "chroma_x", "0.4", "Give both x and y"),
    ("/light-sources/new", SOURCE, "ip", "90", "between 0 and 69"),
    ("/light-sources/new", SOURCE, "kind", "assembly", "Say what makes its pattern"),
    ("/jobs/1/low/match/wiring", SUPPLY, "run_m", "long", "not"),
    ("/jobs/1/low/match/wiring", SUPPLY, "pwm_hz", "100", "Give both frequency and share"),
    ("/jobs/1/low/match/wiring", SUPPLY, "duty", "130", "between 1 and 100"),
    ("/jobs/1/low/match/wiring", SUPPLY, "air_c", "900", "between −40 and 130"),
    ("/shop", {}, "shop_name", "", "This is needed"),
]


def entries(client):
    with client.app.extensions["cold_arc_sessions"]() as session:
        return len(jobs.load(session, 1).entries)


@pytest.mark.parametrize(("path", "good", "field", "typed", "error"), CASES)
def test_error_beside_its_field_and_typed_text_kept(booked, path, good, field, typed, error):
    before = entries(booked)
    page = booked.post(path, 422, **(good | {field: typed}))
    assert re.search(rf'class="field-error"[^>]*>[^<]*{re.escape(error)}', page), page
    if isinstance(typed, str) and typed.strip() and field not in {"market", "recheck", "choice"}:
        assert f'value="{typed}"' in page.replace("&#34;", '"') or f">{typed}<" in page
    assert entries(booked) == before


def test_other_fields_keep_what_was_typed(booked):
    page = booked.post(
        "/jobs/1/low/baseline",
        422,
        **(READINGS | {"edge-low-right": "what", "peak-low-left": "41 x10"}),
    )
    assert 'value="41 x10"' in page
    assert 'value="what"' in page


def test_a_height_the_rule_has_no_figure_for(shop):
    shop.post("/jobs/new", **(BOOKING | {"market": "us"}))
    page = shop.post("/jobs/1/low/aim", 422, **(AIM | {"rule": "us-j599-low", "height": "1.5 m"}))
    assert "has no figure for a lamp 1.50 m high" in page


def test_clocking(demo):
    page = demo.post(
        "/jobs/1/low/fit",
        422,
        **{"do": "clock:headlamp-1-left", "headlamp-1-left-stopped": "sideways"},
    )
    assert "is not an angle" in page
    assert 'value="sideways"' in page
    page = demo.post(
        "/jobs/1/low/fit", 422, **{"do": "clock:headlamp-1-left", "headlamp-1-left-stopped": ""}
    )
    assert "Read where it stopped" in page


def test_skipping_asks_for_a_reason(booked):
    booked.post("/jobs/1/low/book-in/finish")
    page = booked.post("/jobs/1/low/inspect/finish", reason=" ")
    assert "Say why it is skipped" in page
    page = booked.post("/jobs/1/low/inspect/finish", reason="x" * 301)
    assert "under 300 characters" in page


@pytest.mark.parametrize(
    ("path", "data"),
    [
        ("/jobs/1/low/fit", {"do": "tick:route:999"}),
        ("/jobs/1/low/fit", {"do": "jump"}),
        ("/jobs/1/low/plan", {"do": "drop:1"}),
        ("/jobs/1/low/plan", {"do": "load:starter-99"}),
        ("/jobs/1/low/plan", {"do": "load:saved-5"}),
        ("/jobs/1/low/prove", {"do": "mark:low,left,on,glowing"}),
        ("/jobs/1/low/prove", {"do": "mark:warp,left,on,works"}),
        ("/jobs/1/low/prove", {"do": "absent:warp"}),
        ("/jobs/1/low/dance/finish", {}),
        ("/jobs/1/entries/999/undo", {}),
        ("/jobs/77/low/fit", {"do": "tick:x"}),
        ("/light-sources/9/retire", {}),
    ],
)
def test_requests_no_page_makes_are_not_found(booked, path, data):
    assert "Not here" in booked.post(path, 404, **data)
