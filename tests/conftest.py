"""Fixtures shared by all tests."""

from __future__ import annotations

import os
import shutil
from asyncio import events

import pytest
from hypothesis import settings

# Beside another worker each computes on one processor; its servers take that over.
if "PYTEST_XDIST_WORKER" in os.environ:
    for name in ("NUMBA_NUM_THREADS", "OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ.setdefault(name, "1")

from cold_arc.demo.garage import load_once
from cold_arc.store.database import open_database
from cold_arc.web.shell.lasting import keep_what_is_read_in
from tests.made import made_once
from tests.serving import StandingServer

# No test: read in where servers are forked from.
collect_ignore = ["read_in.py"]
# How long an example takes says nothing on a machine that is busy elsewhere. Each time the same
# examples: what fails was changed. The thorough run draws others.
settings.register_profile("steady", deadline=None, max_examples=25, derandomize=True)
settings.register_profile("thorough", deadline=None, max_examples=200)
settings.load_profile("thorough" if os.environ.get("COLD_ARC_THOROUGH") else "steady")


def pytest_collection_finish():
    """As a server does, a worker keeps what it read in from being looked through."""
    keep_what_is_read_in()


@pytest.fixture(autouse=True)
def no_loop_of_a_browsers(request):
    """The loop a worker's browser is driven by counts as running for as long as the worker lives:
    it is out of the way of whatever else begins one of its own.
    """
    running = None if "browser" in request.keywords else events._get_running_loop()
    if running is None:
        yield
        return
    events._set_running_loop(None)
    yield
    events._set_running_loop(running)


@pytest.fixture(scope="session")
def prepared(tmp_path_factory):
    """The demo's data, written once; tests work on copies of it."""
    return made_once(tmp_path_factory, "prepared", load_once)


@pytest.fixture(scope="session")
def blank(tmp_path_factory):
    """An empty shop, its tables made once by every migration."""
    return made_once(tmp_path_factory, "blank", open_database)


@pytest.fixture
def empty_folder(blank, tmp_path):
    """An empty shop of this test's own."""
    shutil.copytree(blank, tmp_path, dirs_exist_ok=True)
    return tmp_path


@pytest.fixture
def demo_folder(prepared, tmp_path):
    """A copy of the demo's data of this test's own."""
    shutil.copytree(prepared, tmp_path, dirs_exist_ok=True)
    return tmp_path


@pytest.fixture(scope="session")
def standing():
    """A server that most tests of one share, put on each one's folder."""
    server = StandingServer()
    yield server
    server.kill()


@pytest.fixture
def sessions(empty_folder):
    return open_database(empty_folder)
