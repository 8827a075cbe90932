"""Several at once, stale and doubled forms, and power cuts: every change counts once, and none goes
over another unseen.
"""

from __future__ import annotations

import html
import random
import re
import threading
import time
import urllib.parse
import urllib.request
from contextlib import ExitStack

import pytest

from cold_arc.web.bench import beams
from tests.robust.conftest import ask, forms
from tests.serving import serving
from tests.thorough import THOROUGH
from tests.web.test_pages import next_tick

MANY = 12
# How long one is sent again while the data are busy, s: a machine may be busy elsewhere.
PATIENCE_S = 60.0


def at_once(*jobs):
    """Runs every job in a thread of its own, all let go at the same moment."""
    gate, results = threading.Barrier(len(jobs)), [None] * len(jobs)

    def run(place, job):
        gate.wait()
        results[place] = job()

    threads = [threading.Thread(target=run, args=pair) for pair in enumerate(jobs)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return results


def form_of(client, page, wanted):
    """The first form of a page whose fields hold *wanted*."""
    return next(fields for _, fields in forms(client.get(page).text) if wanted in fields)


def count(client, kind):
    return ask(client.folder, "SELECT count(*) FROM entries WHERE kind = ?", kind)[0][0]


def poster(demo, address, data):
    """A post by a browser of its own, sent again where the data are said to be busy."""

    def post():
        until = time.monotonic() + PATIENCE_S
        while True:
            answer = demo.application.test_client().post(address, data=data)
            if answer.status_code != 503 or time.monotonic() > until:
                return answer

    return post


READINGS = {"distance": "10 m", "range_factor": "1", "volts": "13.2", "peak-low-left": "410"}


def test_a_form_sent_many_times_at_once_is_done_once(demo):
    before = count(demo, "read")
    stamps = form_of(demo, "/jobs/2/low/baseline", "peak-low-left")
    data = {**READINGS, "once": stamps["once"], "seen": stamps["seen"]}
    answers = at_once(*[poster(demo, "/jobs/2/low/baseline", data) for _ in range(MANY)])
    assert {answer.status_code for answer in answers} == {303}
    assert count(demo, "read") == before + 1


def test_steps_added_to_a_plan_at_once_are_all_there(demo):
    step = {"do": "step:", "minutes": "2", "caution": ""}
    answers = at_once(
        *[
            poster(demo, "/jobs/5/fog/plan", {**step, "text": f"Step number {n}"})
            for n in range(MANY)
        ]
    )
    assert {answer.status_code for answer in answers} == {303}
    page = demo.get("/jobs/5/fog/plan").text
    assert all(f"Step number {n}" in page for n in range(MANY))


def test_two_who_put_one_fastener_back_at_once_are_both_heard(demo):
    """Both forms say where they started from: one counts, the other is told and counts when it
    looks again.
    """
    for _ in range(5):
        demo.post("/jobs/5/fog/fit", data={"do": next_tick(demo.get("/jobs/5/fog/fit").text)})
    row = form_of(demo, "/jobs/5/fog/fit", "stood")
    data = {"row": row["row"], "stood": row["stood"], "do": "one"}
    before = count(demo, "fasteners-back")
    at_once(*[poster(demo, "/jobs/5/fog/fit/tray", data) for _ in range(2)])
    assert count(demo, "fasteners-back") == before + 1
    fresh = form_of(demo, "/jobs/5/fog/fit", "stood")
    demo.post(
        "/jobs/5/fog/fit/tray", data={"row": fresh["row"], "stood": fresh["stood"], "do": "one"}
    )
    assert count(demo, "fasteners-back") == before + 2


def test_a_stale_form_puts_nothing_else_back(demo):
    """A row is named by what it is, not by where it stood: those bolts are gone from the list, so
    nothing happens.
    """
    before = count(demo, "fasteners-back")
    demo.post(
        "/jobs/5/fog/fit/tray",
        data={"row": "99/wheel bolt/hub/shared", "stood": "0+0 of 5", "do": "all"},
    )
    assert count(demo, "fasteners-back") == before


def test_ticks_and_finishes_at_once_count_once(demo):
    step = next_tick(demo.get("/jobs/5/fog/fit").text)
    before = count(demo, "ticked"), count(demo, "passed")
    at_once(*[poster(demo, "/jobs/5/fog/fit", {"do": step}) for _ in range(6)])
    at_once(*[poster(demo, "/jobs/2/low/inspect/finish", {"reason": "seen"}) for _ in range(6)])
    assert (count(demo, "ticked"), count(demo, "passed")) == (before[0] + 1, before[1] + 1)


def test_undone_twice_it_keeps_its_time(demo):
    number = ask(demo.folder, "SELECT max(id) FROM entries WHERE job_id = 1")[0][0]
    undone = "SELECT undone_at FROM entries WHERE id = ?"
    demo.post(f"/jobs/1/entries/{number}/undo")
    first = ask(demo.folder, undone, number)
    demo.post(f"/jobs/1/entries/{number}/undo")
    assert ask(demo.folder, undone, number) == first


@pytest.mark.parametrize(
    ("page", "wanted", "theirs", "mine"),
    [
        ("/jobs/2/low/inspect", "haze", {"haze": "1"}, {"haze": "4"}),
        ("/jobs/2/low/aim", "stands", {"stands": "8 cm"}, {"stands": "9 cm"}),
        ("/jobs/2/all/book-in?edit=1", "reference", {"reference": "THEIRS"}, {"reference": "MINE"}),
    ],
)
def test_what_another_recorded_meanwhile_is_shown_not_overwritten(demo, page, wanted, theirs, mine):
    form = form_of(demo, page, wanted)
    form |= (
        {
            "phase": "found",
            "lamp": "low-left",
            "rule": "uk-inspection-low",
            "distance": "10 m",
            "height": "0.7 m",
        }
        if "aim" in page
        else {}
    )
    form |= (
        {
            "work": ["headlamp-1-left", "headlamp-1-right"],
            "drive": "right",
            "market": "uk",
            "road_use": "road",
            "volts": "12",
        }
        if "book" in page
        else {}
    )
    address = page.partition("?")[0]
    assert demo.post(address, data={**form, **theirs, "once": ""}).status_code == 303
    stale = demo.post(address, data={**form, **mine, "once": ""})
    assert stale.status_code == 409
    assert "Changed meanwhile" in stale.text
    for value in (*theirs.values(), *mine.values()):
        assert value.removesuffix(" cm") in stale.text
    again = next(fields for _, fields in forms(stale.text) if wanted in fields)
    again |= {"work": form["work"]} if "work" in form else {}
    assert demo.post(address, data=again).status_code == 303


def test_a_source_changed_meanwhile_is_shown_and_its_history_kept(demo):
    form = form_of(demo, "/light-sources/1", "made_from")
    form = {
        name: value
        for name, value in form.items()
        if name not in ("dip_shield", "earth_insulated", "monitor_proof", "pwm_proof")
    }
    assert (
        demo.post("/light-sources/1", data={**form, "price": "61", "once": ""}).status_code == 303
    )
    stale = demo.post("/light-sources/1", data={**form, "price": "77", "once": ""})
    assert stale.status_code == 409
    assert "Theirs" in stale.text
    page = html.unescape(demo.get("/light-sources/1").text)
    assert re.search(r"price 58(\.0)? → 61", page)


def test_a_source_changed_while_it_is_chosen_is_looked_at_again(demo):
    form = form_of(demo, "/jobs/2/low/match?look=5", "choice")
    source = form_of(demo, "/light-sources/5", "made_from")
    assert (
        demo.post("/light-sources/5", data={**source, "watts": "31", "once": ""}).status_code == 303
    )
    before = count(demo, "chosen")
    answer = demo.post(
        "/jobs/2/low/match",
        data={
            **form,
            "choice": "5",
            "reason": "thin",
            "against": "override",
            "override": "x",
            "told": "y",
        },
    )
    assert answer.status_code == 422
    assert "Look at it again" in answer.text
    assert count(demo, "chosen") == before


def test_killed_while_writing_nothing_acknowledged_is_lost(demo_folder):
    """Rounds of SIGKILL under writers: whatever was answered is there, and the shop opens again."""
    dice, acknowledged = random.Random(3), []
    with serving(demo_folder) as server:
        for _ in range(4 if THOROUGH else 1):
            stop = threading.Event()
            writers = [
                threading.Thread(target=write, args=(server, n, stop, acknowledged))
                for n in range(3)
            ]
            for writer in writers:
                writer.start()
            wait_for_more(acknowledged, dice.randint(4, 9))
            server.kill()
            stop.set()
            for writer in writers:
                writer.join()
            server.start()
    kept = {
        row[0]
        for row in ask(
            demo_folder,
            "SELECT json_extract(payload, '$.typed') FROM entries WHERE kind = 'clocked'",
        )
    }
    assert len(acknowledged) >= 4
    assert set(acknowledged) <= kept
    assert ask(demo_folder, "PRAGMA integrity_check") == [("ok",)]


def wait_for_more(acknowledged, count):
    """Until *count* more were answered, however long a busy machine takes for it."""
    wanted, ends = len(acknowledged) + count, time.monotonic() + 120
    while len(acknowledged) < wanted and time.monotonic() < ends:
        time.sleep(0.01)
    assert len(acknowledged) >= wanted


def write(server, number, stop, acknowledged):
    """Reads clockings in as fast as they are answered, until the server is gone."""
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    try:
        token = opener.open(f"{server.url}/token", timeout=30).read().decode()
        while not stop.is_set():
            typed = f"{len(acknowledged) % 89 + 13}.{number}{random.randrange(10**6):06d} cw"
            data = urllib.parse.urlencode(
                {
                    "csrf_token": token,
                    "do": "clock:headlamp-1-left",
                    "headlamp-1-left-stopped": typed,
                }
            ).encode()
            if opener.open(f"{server.url}/jobs/1/low/fit", data, timeout=30).status == 200:
                acknowledged.append(typed)
    except OSError:
        return


def test_a_crowd_at_the_beams_is_told_to_ask_again_and_plain_pages_are_not(demo):
    with ExitStack() as crowd:
        for _ in range(beams.COMPUTING + beams.WAITING):
            crowd.enter_context(beams.place(0.0))
        refused = demo.get("/bench")
        assert (refused.status_code, refused.headers["Retry-After"]) == (
            503,
            str(beams.RETRY_AFTER_S),
        )
        assert "Try again in a moment" in refused.text
        assert demo.get("/").status_code == 200
    assert demo.get("/bench").status_code == 200
