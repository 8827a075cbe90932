"""An app on an empty shop or on the demo, driven without a browser."""

from __future__ import annotations

import html
import re
import shutil

import pytest

from cold_arc.core.car import front_building as fronts
from cold_arc.web.job import front_builder
from tests.apps import app_on
from tests.made import made_once


class Client:
    """A test client whose pages read as plain text."""

    def __init__(self, folder):
        self.app = app_on(folder, WTF_CSRF_ENABLED=False, PROPAGATE_EXCEPTIONS=True)
        self.http = self.app.test_client()
        self.folder = folder

    def get(self, path, status=200):
        response = self.http.get(path, follow_redirects=True)
        assert response.status_code == status, path
        return plain(response.text)

    def post(self, path, status=200, **data):
        fields = {name.replace("__", "-"): value for name, value in data.items()}
        response = self.http.post(path, data=fields, follow_redirects=True)
        assert response.status_code == status, (path, plain(response.text)[:2000])
        return plain(response.text)


def plain(text):
    """Entities and odd spaces resolved, runs of white space as one."""
    return re.sub(r"\s+", " ", html.unescape(text))


@pytest.fixture
def shop(empty_folder):
    return Client(empty_folder)


@pytest.fixture
def demo(demo_folder):
    return Client(demo_folder)


BOOKING = {
    "reference": "A-1",
    "make": "Velmar",
    "model": "Dorin",
    "drive": "left",
    "market": "un",
    "road_use": "road",
    "volts": "12",
    "front": front_builder.write(fronts.made("two-singles", ["turn"])),
    "work": ["headlamp-1-left", "headlamp-1-right"],
}


def identification(
    base="H7", optic="reflector", present="halogen", socket="headlamp-1", holds="bulb"
):
    """The form that says what a socket is."""
    facts = {"optic": optic, "base": base, "present": present, "holds": holds}
    return {"identify": socket, **{f"{socket}-{name}": value for name, value in facts.items()}}


@pytest.fixture(scope="session")
def once_booked(tmp_path_factory, blank):
    """A shop with one job booked in, written once."""

    def book(folder):
        shutil.copytree(blank, folder, dirs_exist_ok=True)
        shop = Client(folder)
        shop.post("/jobs/new", **BOOKING)
        shop.post("/jobs/1/all/book-in", **identification())

    return made_once(tmp_path_factory, "booked", book)


@pytest.fixture
def booked(once_booked, tmp_path):
    """A shop with job 1 booked in: a pair of H7 low beams in a reflector."""
    shutil.copytree(once_booked, tmp_path, dirs_exist_ok=True)
    return Client(tmp_path)
