"""The server before the pages: a large body is taken in only of those that are let in, told by the
head of the request alone; an answer without a body is an answer.
"""

import asyncio
import http.client
import json
import sqlite3
from functools import partial

import pytest

from cold_arc.cli.server import SMALL_BODY, Gate
from cold_arc.web.shell.guests import ask_for_code, takes_large
from tests.apps import app_on


@pytest.fixture
def gate(empty_folder):
    app = app_on(empty_folder, WTF_CSRF_ENABLED=False)
    ask_for_code(app)
    return Gate(app, partial(takes_large, app))


def scope_of(address, path="/jobs/new", **head):
    headers = [(name.replace("_", "-").encode(), words.encode()) for name, words in head.items()]
    return {
        "type": "http", "method": "POST", "path": path, "raw_path": path.encode(),
        "query_string": b"", "root_path": "", "scheme": "http", "http_version": "1.1",
        "headers": [(b"host", b"localhost"), *headers],
        "client": (address, 5000), "server": ("127.0.0.1", 80), "extensions": {},
    }  # fmt: skip


def answered(gate, scope):
    """The status, and how much of the body was taken in, pieces."""
    answers, taken = [], 0

    async def receive():
        nonlocal taken
        taken += 1
        return {"type": "http.request", "body": b"a" * 1000, "more_body": taken < 100}

    async def send(message):
        answers.append(message)

    async def sync_spawn(work, *given):
        return await asyncio.get_running_loop().run_in_executor(None, work, *given)

    async def answer():
        loop = asyncio.get_running_loop()

        def call_soon(work, *given):
            return asyncio.run_coroutine_threadsafe(work(*given), loop).result()

        await gate(scope, receive, send, sync_spawn, call_soon)

    asyncio.run(answer())
    return answers[0]["status"], taken


LARGE = {"content_length": str(SMALL_BODY + 1)}


@pytest.mark.parametrize("head", [LARGE, {"transfer_encoding": "chunked"}])
def test_of_a_stranger_no_large_body_is_taken_in(gate, head):
    assert answered(gate, scope_of("192.168.1.20", **head)) == (401, 0)


def test_the_shops_own_machine_and_small_forms_are_taken_in(gate):
    assert answered(gate, scope_of("127.0.0.1", **LARGE))[1] == 100
    assert answered(gate, scope_of("192.168.1.20", content_length="1000"))[1] == 100


def test_a_path_that_is_none_is_refused_before_its_body(gate):
    assert answered(gate, scope_of("127.0.0.1", "jobs", **LARGE) | {"root_path": "/x"})[1] == 0


def meter_token(folder):
    with sqlite3.connect(folder / "cold-arc.sqlite") as database:
        query = "SELECT value FROM settings WHERE key = 'meter_token'"
        return database.execute(query).fetchone()[0]


def test_an_answer_without_a_body_is_an_answer(standing, demo_folder):
    """HEAD and 204: what asks whether a page is there, and what takes a meter's display."""

    def answered(port, method, path, body=None, **head):
        asked = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
        asked.request(method, path, body, {"Content-Type": "application/json", **head})
        answer = asked.getresponse()
        answer.read()
        return answer.status

    ask = partial(answered, standing.open(demo_folder).port)
    token = meter_token(demo_folder)
    assert ask("HEAD", "/jobs/1/all/fit") == 200
    display = json.dumps({"value": 300.5, "unit": "lx"})
    for _ in range(2):
        assert ask("POST", "/meter", display, Authorization=f"Bearer {token}") == 204
