"""A second process that reads for the first: the same pages, the newest entries, nothing lost where
it is gone, and nobody read for who is not let in.
"""

from __future__ import annotations

import re
import shutil
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from copy import copy
from functools import partial

import pytest
from werkzeug.test import Client

from cold_arc.core.beam import model
from cold_arc.core.match import prediction
from cold_arc.web.app import CHANGING, attach, build_app, create_reader
from cold_arc.web.shell import apart, guests, readers
from tests.robust.conftest import forms
from tests.serving import serving

# What is made anew each time a page is made.
MADE_ANEW = re.compile(r'(name="(csrf_token|once)"[^>]*value="[^"]*"|csrf-token" content="[^"]*")')
FIT = "/jobs/1/all/fit"


class Here(Exception):  # noqa: N818 - no error: it says where a request was answered
    """The request came to this process."""


@pytest.fixture(scope="module")
def begun(prepared, tmp_path_factory):
    """Readers beside an app on the demo, ready: seconds, so they serve for all tests here."""
    folder = shutil.copytree(prepared, tmp_path_factory.mktemp("read"), dirs_exist_ok=True)
    app = build_app()
    app.config.update(WTF_CSRF_ENABLED=False)
    attach(app, folder)
    made = readers.Readers(app, partial(create_reader, folder), CHANGING)
    beside = made.beside["fit.page"]
    beside.begin()
    waited(lambda: beside._free.qsize() == readers.AT_ONCE)
    yield made
    beside.end()


def test_what_they_are_forked_from_has_read_in_what_makes_them():
    """Else each takes seconds to begin, in which all others wait."""
    assert create_reader.__module__ in apart.READ_IN


@pytest.fixture
def reading(begun, monkeypatch):
    monkeypatch.setattr(begun, "app", begun.app)
    monkeypatch.setattr(begun.app, "config", copy(begun.app.config))
    return begun


def waited(holds):
    until = time.monotonic() + 60
    while not holds() and time.monotonic() < until:
        time.sleep(0.02)
    assert holds()


def elsewhere(reading, monkeypatch):
    """A client of pages that this process refuses to answer."""

    def refused(*_):
        raise Here

    monkeypatch.setattr(reading, "app", _App(reading.app, refused))
    return Client(reading)


class _App:
    """An app that answers nothing itself."""

    def __init__(self, app, answer):
        self.url_map, self.config, self.answer = app.url_map, app.config, answer

    def __call__(self, *given):
        return self.answer(*given)


def test_a_page_is_the_same_whoever_makes_it(reading, monkeypatch):
    here = Client(reading.app)
    model.warm()  # a page that draws beams here would draw none there
    stages = (
        "book-in",
        "inspect",
        "inspect/damage",
        "plan",
        "plan/whole",
        "fit",
        "prove",
        "hand-over",
    )
    pages = [f"/jobs/1/all/{stage}" for stage in (*stages, "prove/rear")]
    pages += [
        "/",
        "/day",
        "/jobs/1/record",
        "/jobs/1/car",
        "/jobs/5/fog/plan",
        "/jobs/2/low/match/leads",
    ]
    pages += ["/light-sources", "/bases", "/jobs/lane/3"]
    made = {page: here.get(page).text for page in pages}
    there = elsewhere(reading, monkeypatch)
    for page in pages:
        answer = there.get(page)
        assert answer.status_code == 200
        assert answer.headers["Cache-Control"] == "no-store"
        assert MADE_ANEW.sub("", answer.text) == MADE_ANEW.sub("", made[page]), page


MATCH = "/jobs/1/low/match"


def test_match_goes_elsewhere_only_where_it_is_asked_to_go_on(reading, monkeypatch):
    class Beams:
        def begin(self):
            pass

        def page(self, environ, _):
            return [("Content-Type", "text/html")], b"there"

    monkeypatch.setitem(reading.beside, "match.page", Beams())
    here = Client(reading)
    assert here.get(f"{MATCH}?look=5&go=1").text == here.get(f"{MATCH}?go").text == "there"
    for query in ("", "?look=5", "?gone=1", "?look=go"):
        assert here.get(MATCH + query).text != "there"


def is_predicted(there):
    """Whether Match is ready; where beams take longer than is waited for, it is asked again."""
    try:
        return "predicting" not in there.get(f"{MATCH}?go=1").text
    except Here:
        return False


@pytest.mark.thorough
def test_the_benchs_beams_are_the_same_too_and_matchs_are_known_here(reading, monkeypatch):
    model.warm()
    beams = reading.beside["bench.page"]
    beams.begin()
    waited(lambda: beams._free.qsize() == readers.AT_ONCE)
    page = "/bench?source=led&clock=12&points=1"
    here = Client(reading.app).get(page)
    there = elsewhere(reading, monkeypatch)
    assert MADE_ANEW.sub("", there.get(page).text) == MADE_ANEW.sub("", here.text)
    prediction.OUTLOOKS.forget()
    waited(lambda: is_predicted(there))
    assert list(prediction.OUTLOOKS.news()) == []
    monkeypatch.undo()
    assert "predicting" not in Client(reading.app).get(MATCH).text
    beams.end()


def test_what_was_just_saved_is_read(reading, monkeypatch):
    page, record = "/jobs/5/headlamp/inspect", "/jobs/5/record"
    here = Client(reading.app)
    before = MADE_ANEW.sub("", here.get(record).text)
    fields = next(each for _, each in forms(here.get(page).text) if "haze" in each)
    assert Client(reading).post(page, data={**fields, "haze": "2"}).status_code == 303
    after = MADE_ANEW.sub("", elsewhere(reading, monkeypatch).get(record).text)
    assert after == MADE_ANEW.sub("", here.get(record).text)
    assert after != before


@pytest.mark.parametrize("path", ["/jobs/99/all/fit", "/jobs/1", "/jobs/1/low/verify", "/nowhere"])
def test_what_is_no_page_of_its_own_is_answered_here(reading, monkeypatch, path):
    with pytest.raises(Here):
        elsewhere(reading, monkeypatch).get(path)
    with pytest.raises(Here):
        elsewhere(reading, monkeypatch).post(FIT)


def test_nobody_is_read_for_who_is_not_let_in(reading, monkeypatch):
    reading.app.config[guests.ASKED] = True
    there = elsewhere(reading, monkeypatch)
    assert there.get(FIT, environ_base={"REMOTE_ADDR": "127.0.0.1"}).status_code == 200
    with pytest.raises(Here):
        there.get(FIT, environ_base={"REMOTE_ADDR": "192.0.2.7"})
    reading.app.config["COLD_ARC_HOSTS"] = frozenset()
    with pytest.raises(Here):
        there.get(FIT)


def test_one_that_is_gone_costs_nothing_and_another_is_begun(reading, monkeypatch):
    beside = reading.beside["fit.page"]
    beside.end()
    client = Client(reading)
    for _ in range(readers.AT_ONCE + 1):
        assert client.get(FIT).status_code == 200  # here
    assert beside._free.empty()
    beside.begin()
    assert beside._free.empty()  # not so soon
    monkeypatch.setattr(readers, "AGAIN_S", 0.0)
    beside.begin()
    waited(lambda: beside._free.qsize() == readers.AT_ONCE)
    assert elsewhere(reading, monkeypatch).get(FIT).status_code == 200


def test_it_is_begun_once_several_ask_at_once(demo_folder, monkeypatch):
    app = build_app()
    attach(app, demo_folder)
    made = readers.Readers(app, partial(create_reader, demo_folder), CHANGING)
    begun = []
    monkeypatch.setattr(readers.Beside, "begin", lambda beside: begun.append(beside))
    client = Client(made)
    client.get(FIT)
    assert begun == []
    made._under_way = readers.BEGUN_AT - 1
    client.get(FIT)
    assert begun == [made.beside["fit.page"]]


def test_a_crowd_at_a_served_shop_reads_each_its_own_job(demo_folder, monkeypatch):
    monkeypatch.setenv("COLD_ARC_READERS", "1")
    with serving(demo_folder) as server:
        wanted = {1: "TL-318", 2: "TL-321", 3: "TL-316", 5: "TL-322"}

        def read(job):
            for _ in range(8):
                page = urllib.request.urlopen(f"{server.url}/jobs/{job}/all/plan").read().decode()
                assert wanted[job] in page
            return job

        with ThreadPoolExecutor(8) as pool:
            assert sorted(pool.map(read, [*wanted, *wanted])) == sorted([*wanted, *wanted])


def never_made(beams):
    raise OSError("no such folder")


def made_at_last(beams):
    return build_app()


def test_one_that_can_not_begin_is_begun_again_later(monkeypatch, capfd):
    beside = readers.Beside(never_made)
    beside.begin()
    waited(lambda: beside._lines == 0)
    assert beside._free.empty()
    monkeypatch.setattr(readers, "AGAIN_S", 0.0)
    beside.made = made_at_last
    beside.begin()
    waited(lambda: beside._free.qsize() == readers.AT_ONCE)
    beside.end()
