"""Whatever is stored: one entry that can't be read is shown as such, kept, and nothing else
suffers.
"""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car.lamps import Drive, Optic, Present
from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.kind import AimPhase, ImplausibleError, Phase
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.record import Unreadable
from cold_arc.core.metering.readings import WallReading
from tests.robust.conftest import ask, change, open_client
from tests.thorough import thorough, usual

PAGES = (
    "",
    "record",
    "low/baseline",
    "low/match",
    "low/aim",
    "low/verify",
    "low/fit",
    "low/prove",
    "all/hand-over",
    "sheet",
)
READING = WallReading("peak", 410, 10, 13.2)


def opens(client, job):
    for path in PAGES:
        answer = client.get(f"/jobs/{job}/{path}".rstrip("/"), follow_redirects=True)
        assert answer.status_code == 200, path
    assert client.get("/").status_code == 200


@pytest.mark.parametrize(
    "damage",
    [
        ("kind = 'levitated'", ()),
        ("payload = ?", ('{"what": 1}',)),
        thorough(("payload = ?", ("[1, 2]",))),
        thorough(("payload = ?", ('"text"',))),
        (
            "payload = ?",
            (
                json.dumps(
                    {
                        "phase": "before",
                        "typed": "x",
                        "reading": to_plain(replace(READING, lux=1e308)),
                    }
                ),
            ),
        ),
        ("about = ?", ('["warp:left"]',)),
        thorough(("about = ?", ("7",))),
        thorough(("version = 7", ())),
    ],
)
def test_a_damaged_entry_is_shown_and_of_no_account(demo, damage):
    set_to, values = damage
    number = ask(demo.folder, "SELECT max(id) FROM entries WHERE job_id = 1 AND kind = 'read'")[0][
        0
    ]
    change(demo.folder, f"UPDATE entries SET {set_to} WHERE id = ?", *values, number)
    opens(demo, 1)
    assert "Unreadable entry" in demo.get("/jobs/1/record").text
    assert demo.post(f"/jobs/1/entries/{number}/undo").status_code == 303
    assert ask(demo.folder, "SELECT undone_at FROM entries WHERE id = ?", number)[0][0]


@pytest.mark.parametrize("bad", usual(["Infinity", "NaN", "-1e999", "1e300"], ("NaN", "1e300")))
def test_a_reading_that_is_no_number_bricks_nothing(demo, bad):
    """What an older version let in: the record opens, and it can be undone."""
    number = ask(demo.folder, "SELECT max(id) FROM entries WHERE job_id = 1 AND kind = 'read'")[0][
        0
    ]
    payload = json.dumps({"phase": "after", "typed": "x", "reading": to_plain(READING)}).replace(
        "410", bad
    )
    change(demo.folder, "UPDATE entries SET payload = ? WHERE id = ?", payload, number)
    opens(demo, 1)


def test_a_founding_booking_that_cannot_be_read_leaves_the_board_whole(demo):
    change(
        demo.folder,
        (
            "UPDATE entries SET payload = '{}' WHERE id = (SELECT min(id) FROM entries WHERE "
            "job_id = 2)"
        ),
    )
    change(demo.folder, "UPDATE jobs SET board = NULL")
    opens(demo, 2)
    board = demo.get("/").text
    assert "can&#39;t be read" in board
    assert "TL-318" in board


def test_a_source_a_route_and_a_set_up_that_cannot_be_read_are_left_out(demo):
    demo.post("/bench/keep", data={"name": "mine", "housing": "reflector", "base": "H7"})
    change(demo.folder, "UPDATE light_sources SET facts = '{\"watts\": []}' WHERE id = 1")
    change(demo.folder, 'UPDATE bench_setups SET facts = \'{"housing": "tent"}\'')
    for path in ("/light-sources", "/jobs/1/low/match", "/bench"):
        assert demo.get(path).status_code in (200, 503), path


@pytest.mark.parametrize(
    "text", usual(["{", "[" * 100_000, "null", "7", "", "[1]", '{"lamps": [3]}'], ("{", "[1]"))
)
@pytest.mark.parametrize(
    "place", ["light_sources.facts", "jobs.board", "light_source_history.facts"]
)
def test_text_that_is_no_json_keeps_no_other_row_from_being_read(demo, place, text):
    table, column = place.split(".")
    change(demo.folder, f"UPDATE {table} SET {column} = ? WHERE id = 1", text)
    for path in (
        "/",
        "/light-sources",
        "/light-sources/1",
        "/light-sources?retired=1",
        "/jobs/1/low/match",
    ):
        assert demo.get(path).status_code < 500, path


@pytest.mark.parametrize("stored", ["rubbish", thorough(7)])
@pytest.mark.parametrize(
    "place",
    [
        "jobs.opened_at",
        "jobs.closed_at",
        "jobs.due",
        "entries.at",
        "entries.undone_at",
        "light_sources.retired_at",
        "light_source_history.at",
    ],
)
def test_a_damaged_moment_keeps_nothing_from_being_read(demo, place, stored):
    table, column = place.split(".")
    change(demo.folder, f"UPDATE {table} SET {column} = ? WHERE id = 1", stored)
    change(demo.folder, "UPDATE jobs SET board = NULL WHERE id = 1")
    for path in (
        "/",
        "/jobs/1",
        "/jobs/1/record",
        "/jobs/1/low/match",
        "/light-sources",
        "/light-sources/2",
    ):
        assert demo.get(path).status_code < 500, path


@pytest.mark.parametrize(
    "steps", ["{}", "[1]", "7", "null", '{"steps": [7]}', '{"steps": null}', "{"]
)
def test_a_route_that_cannot_be_read_is_left_out(demo, steps):
    route = (
        "INSERT INTO route_templates (name, vehicle, unit, steps, saved_at) VALUES ('lost', '', "
        "'headlamp', ?, ?)"
    )
    change(demo.folder, route, steps, "2026-11-02 08:00:00.000000")
    page = demo.get("/jobs/1/low/plan")
    assert page.status_code == 200
    assert "lost" not in page.text


@pytest.mark.parametrize(
    "payload",
    [
        Read(Phase.BEFORE, "x", replace(READING, lux=float("inf"))),
        Read(Phase.BEFORE, "x", replace(READING, lux=float("nan"))),
        Read(Phase.BEFORE, "x", replace(READING, lux=1e8)),
        Read(Phase.BEFORE, "x", replace(READING, point="nowhere")),
        Read(Phase.BEFORE, "x", replace(READING, distance_m=1e9)),
        Clocked(float("inf")),
        Aimed(AimPhase.LEFT, "no-rule", 0.7, 10, -0.01, ""),
        Aimed(AimPhase.LEFT, "un-r48-low", 0.7, 10, float("nan"), ""),
        Aimed(AimPhase.LEFT, "us-j599-low", 0.1, 10, -0.01, ""),
        Identified(Optic.REFLECTOR, "H99", Present.HALOGEN),
        Passed("dance"),
        Booking("a\ud800", "b", "c", Drive.LEFT, "un"),
        Booking("a", "b", "c", Drive.LEFT, "mars"),
        Booking("a", "b", "c", Drive.LEFT, "un", volts=9),
    ],
)
def test_what_no_record_may_hold_is_refused_on_the_way_in(payload):
    with pytest.raises(ImplausibleError if "us-j599" not in str(payload) else ValueError):
        plausible.check(payload)


@given(
    st.sampled_from(["read", "chosen", "front", "identified"]) | st.text(max_size=12),
    st.integers(-1, 3) | st.none(),
    st.recursive(
        st.none() | st.floats() | st.text(max_size=5),
        lambda it: st.lists(it, max_size=3) | st.dictionaries(st.text(max_size=5), it, max_size=3),
    ),
)
def test_anything_stored_is_read_or_unreadable(kind, version, plain):
    assert isinstance(plausible.read(kind, version, plain), Unreadable)


def test_legal_figures_beyond_the_model_leave_match_whole(demo):
    """A source within the shelf's limits that the model can't compute is listed without a beam."""
    facts = json.loads(
        ask(demo.folder, "SELECT facts FROM light_sources WHERE name = 'Sableline H11 slim'")[0][0]
    )
    for more in ({"claimed_lm": 50000, "watts": 200}, {"lcl_mm": 9}, {"lcl_mm": 45}):
        change(
            demo.folder,
            "UPDATE light_sources SET facts = ? WHERE name = 'Sableline H11 slim'",
            json.dumps(facts | more),
        )
        for path in ("match", "match/options", "match/wiring"):
            assert demo.get(f"/jobs/2/low/{path}").status_code == 200
    assert "no beam to predict" in open_client(demo.folder).get("/jobs/2/low/match").text
