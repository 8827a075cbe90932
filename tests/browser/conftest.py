"""A real server and a real Chromium. Every page is watched: no request elsewhere, no error in the
console.
"""

from __future__ import annotations

import shutil

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.serving import CHROMIUM, CHROMIUM_FLAGS, Server, serving

TIMEOUT_MS = (
    40_000  # a machine may be busy elsewhere; what must be quick is timed by the tests that say so
)
expect.set_options(timeout=TIMEOUT_MS)


def is_fault(message):
    """Console errors but for field errors (422), beams asked again (503) and requests given up for
    a newer one.
    """
    answers = ("status of 422", "status of 409", "status of 503", "Status Error Code 503")
    expected = (*answers, "htmx:afterRequest", "htmx:sendAbort", "htmx:responseError")
    return message.type == "error" and not any(text in message.text for text in expected)


@pytest.fixture(scope="session")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
        yield browser
        browser.close()


@pytest.fixture
def serve(standing, prepared, tmp_path):
    """The demo of this test's own, served."""

    def served():
        shutil.copytree(prepared, tmp_path, dirs_exist_ok=True)
        return standing.open(tmp_path)

    return served


@pytest.fixture
def start(prepared, tmp_path):
    """Starts servers of this test's own, as the command does, and ends them once every page is
    closed.
    """
    servers = []

    def started(*options, command="demo"):
        if command == "demo":
            shutil.copytree(prepared, tmp_path, dirs_exist_ok=True)
        servers.append(Server(tmp_path, command, *options))
        return servers[-1]

    yield started
    for server in servers:
        server.kill()


@pytest.fixture
def shop(standing, empty_folder):
    """An empty shop, served."""
    return standing.open(empty_folder)


@pytest.fixture(scope="session")
def demo(prepared, tmp_path_factory):
    """The demo garage, served; tests on it leave no trace another would mind."""
    folder = shutil.copytree(prepared, tmp_path_factory.mktemp("demo"), dirs_exist_ok=True)
    with serving(folder, "demo") as server:
        yield server


@pytest.fixture(scope="session")
def tablet(chromium):
    """A browser's context that most tests share: what it fetched once of a server it keeps, which
    is most of what a first page takes (1.2 s, then 0.4 s).
    """
    context = chromium.new_context()
    context.new_page()  # what draws is not begun anew for each test: 5 processes, not 80
    yield context
    context.close()


@pytest.fixture
def open_page(chromium, tablet, start):
    """Opens pages, each a device of its own; at the end, complains of foreign requests and console
    errors.

    It hangs on the servers so that pages close before their server dies: a picture still loading
    from a dead server would be a fault of the test, not of the page.
    """
    pages, faults = [], []

    def opened(server, width=1280, height=800, watched=True):
        context = chromium.new_context() if pages else tablet
        page = context.new_page()
        pages.append((page, server.url))
        page.set_viewport_size({"width": width, "height": height})
        page.set_default_timeout(TIMEOUT_MS)
        if not watched:
            return page
        page.on(
            "request",
            lambda request: (
                request.url.startswith((server.url, "data:", "blob:")) or faults.append(request.url)
            ),
        )
        page.on("pageerror", lambda error: faults.append(str(error)))
        page.on("console", lambda message: is_fault(message) and faults.append(message.text))
        return page

    yield opened
    for page, url in pages:
        _forget(page, url, tablet)
    assert faults == []


def _forget(page, url, tablet):
    """Closes a page; what the shared context was told is gone, but not what it fetched."""
    if page.context is not tablet:
        page.context.close()
        return
    kept = {"origin": url, "storageTypes": "local_storage,indexeddb,cache_storage"}
    tablet.new_cdp_session(page).send("Storage.clearDataForOrigin", kept)
    page.close()
    tablet.clear_cookies()
