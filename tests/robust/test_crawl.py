"""A crawler finds every page, form and parameter by itself and sends junk: no answer may be a fault
of the program, nor slow.

New pages are covered without being named here.
"""

from __future__ import annotations

import random
import re
import shutil
import time
from collections import Counter
from urllib.parse import parse_qsl, urlencode, urlsplit

import pytest

from tests.robust.conftest import forms, kind, links, open_client
from tests.thorough import THOROUGH

JUNK = (
    "", " ", "0", "-1", "1e200", "nan", "inf", "9" * 5000, "1,013", "12000000", "-0.0", "٣", "²",
    "½", "%00", "\x00", "\n", "\r\nX: y",
    "\u202e", "\ud83d\ude00", "<script>alert(1)</script>", "{{ 7*7 }}", "'; DROP TABLE jobs; --",
    "../../etc/passwd", "//elsewhere.example/",
    "/\t/elsewhere.example/", "=1+1", "x" * 3000, "41 x" + "9" * 400, "1/0", "a-b-c", "true", "[]",
    "None", "low-left",
)  # fmt: skip
SLOW_S, FORMS_ALIKE, FIELDS = 15.0, *((4, 2) if THOROUGH else (1, 1))
MOST_PAGES = 260 if THOROUGH else 90
IDS = re.compile(r'\sid="([^"]+)"')
SKIPPED = ("/static/", "/bench/road.png", "/bench/beam.png", "/bench/export", "go=")


@pytest.fixture(scope="module")
def demo(prepared, tmp_path_factory):
    """One demo for all of it: what the junk leaves behind is part of the trial."""
    folder = tmp_path_factory.mktemp("crawled")
    shutil.copytree(prepared, folder, dirs_exist_ok=True)
    return open_client(folder)


@pytest.fixture(scope="module")
def pages(demo):
    """One page of every kind that can be reached, by address."""
    found, ahead = {}, ["/", "/jobs/1/record", "/bench?points=1&high=0"]
    while ahead and len(found) < MOST_PAGES:
        address = ahead.pop()
        if kind(address) in found or any(part in address for part in SKIPPED):
            continue
        answer = demo.get(address, follow_redirects=True)
        found[kind(address)] = (address, answer.text if answer.mimetype == "text/html" else "")
        assert answer.status_code < 500, address
        ahead += sorted(links(found[kind(address)][1]))
    return dict(found.values())


def refused_well(answer, started, said):
    assert answer.status_code < 500, said
    assert time.process_time() - started < SLOW_S, said
    assert len(answer.data) < 3_000_000, said


def test_no_page_calls_two_things_by_one_id(pages):
    """A label would lead to the first of them, whichever it is of."""
    doubled = {
        address: twice
        for address, page in pages.items()
        if (twice := [name for name, count in Counter(IDS.findall(page)).items() if count > 1])
    }
    assert doubled == {}


def test_junk_in_any_parameter_is_answered(demo, pages):
    assert len(pages) > 40
    dice = random.Random(11)
    names = {
        name
        for address in pages
        for name, _ in parse_qsl(urlsplit(address).query, keep_blank_values=True)
    }
    tried = sorted(pages) if THOROUGH else dice.sample(sorted(pages), len(pages) // 3)
    for address in tried:
        parts = urlsplit(address)
        known = dict(parse_qsl(parts.query, keep_blank_values=True))
        for _ in range(2):
            name = dice.choice(sorted(known) or sorted(names))
            query = urlencode(known | {name: dice.choice(JUNK)}, errors="surrogatepass")
            started = time.process_time()
            refused_well(demo.get(f"{parts.path}?{query}"), started, f"{parts.path}?{query}"[:300])


def test_junk_in_any_field_is_answered_and_nothing_breaks(demo, pages):
    dice, sent, known = random.Random(7), 0, Counter()
    for address, page in pages.items():
        for action, fields in forms(page):
            alike = kind(action or address), frozenset(fields)
            known[alike] += 1
            if known[alike] > FORMS_ALIKE:
                continue
            for name in dice.sample(sorted(fields), min(FIELDS, len(fields))):
                junk = dice.choice(JUNK).encode("utf-8", "surrogatepass")
                started = time.process_time()
                answer = demo.post(action or address, data={**fields, name: junk, "once": ""})
                refused_well(answer, started, (action or address, name, junk[:40]))
                sent += 1
    assert sent > (100 if THOROUGH else 30)
    for address in (
        "/",
        *(
            f"/jobs/{job}/{path}"
            for job in range(1, 6)
            for path in ("record", "all/verify", "sheet")
        ),
    ):
        assert demo.get(address, follow_redirects=True).status_code < 500, address


@pytest.mark.parametrize("spacing", ["120000", "1200000", "1e9", "2,500"])
def test_what_was_refused_is_never_drawn(demo, spacing):
    form = {
        "rule": "un-r48-low",
        "lamp": "low-left",
        "phase": "found",
        "height": "0.65 m",
        "distance": "10 m",
        "stands": "8 cm",
    }
    times = []
    for _ in range(4):
        started = time.process_time()
        answer = demo.post("/jobs/1/low/aim", data=form | {"spacing": spacing})
        times.append(time.process_time() - started)
        assert len(answer.data) < 200_000
    assert min(times) < 0.5


@pytest.mark.parametrize(
    "back",
    [
        "/\t/elsewhere.example/",
        "/\\elsewhere.example",
        "//elsewhere.example",
        "/a\r\nX: y",
        "http://elsewhere.example",
    ],
)
def test_preferences_lead_nowhere_else(demo, back):
    answer = demo.post("/preferences", data={"theme": "day", "back": back})
    assert answer.headers["Location"] == "/"


@pytest.mark.parametrize(
    ("host", "status"),
    [
        ("localhost", 200),
        ("127.0.0.1:8451", 200),
        ("[::1]:8451", 200),
        ("elsewhere.example", 400),
        ("127.0.0.1.elsewhere.example:8451", 400),
    ],
)
def test_only_its_own_names_reach_it(demo, host, status):
    assert demo.get("/", headers={"Host": host}).status_code == status
