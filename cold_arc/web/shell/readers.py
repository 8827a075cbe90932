"""Pages that only read, answered by processes beside this one: one interpreter answers some fifty
pages a second, a shop full of tablets asks for more; and beams of the bench take the processor.

One of either kind is begun once several ask at once, and reads the same database; what is told to
the running shop alone (who is let in, its names) goes along with each request, and what was worked
out for Match comes back with each answer. Where it has no page to give (it is busy, gone, or finds
something to refuse or to lead elsewhere) the request is answered here, as if it had never been
asked.
"""

from __future__ import annotations

import io
import os
import sys
import threading
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from queue import Empty, SimpleQueue
from typing import Any
from urllib.parse import parse_qs

from flask import Flask
from werkzeug.exceptions import HTTPException
from werkzeug.test import run_wsgi_app

from cold_arc.core.match import remembered
from cold_arc.web.shell.apart import READY
from cold_arc.web.shell.lasting import keep_what_is_read_in

Environ = dict[str, Any]
# A page: its headers and its bytes.
Page = tuple[list[tuple[str, str]], bytes]
# What comes back where nothing does: no page, and nothing learnt.
NOTHING: tuple[Page | None, remembered.News] = (None, {})
# Makes the app in another process; whether it works beams.
Made = Callable[[bool], Flask]
# How many requests it answers at once; when it is begun: so many of all kinds are under way here;
# how long one is waited for, s, and how long after it was lost another is begun.
AT_ONCE, BEGUN_AT, PATIENCE_S, AGAIN_S = 5, 3, 10.0, 30.0
# Pages that read the record and nothing that this process alone knows: no beams, meters, cameras;
# and those that work beams out of what they are asked alone, which stand back for all others.
READS = frozenset(
    {
        *("home.page", "home.lane", "day.page", "record.entries", "car.page"),
        *("book_in.page", "inspect.page", "as_it_came.page", "match_leads.page"),
        *("plan.page", "car_plan.page", "fit.page", "prove.page", "rear.page"),
        *("hand_over.page", "shelf.page", "identify.page"),
    }
)
BEAMS = frozenset({"bench.page", "bench.beam", "bench.road", "bench.seat", "bench.probe"})
# Match where it is asked to go on predicting: what it learns is remembered here too.
PREDICTING, GO_ON = "match.page", "go"
# How far these stand back, as nice counts it.
BEHIND = 10


class Beside:
    """One process beside this one, begun when it is wanted, and the lines to it that are free."""

    def __init__(self, made: Made, beams: bool = False) -> None:
        self.made, self.beams = made, beams
        self._free: SimpleQueue[Connection] = SimpleQueue()
        self._lock, self._lines = threading.Lock(), 0
        self._begun_at = -AGAIN_S
        self.process: BaseProcess | None = None

    def end(self) -> None:
        """Ends it, whatever it is at."""
        if self.process is not None:
            self.process.kill()
            self.process.join()

    def page(self, environ: Environ, settings: Mapping[str, object]) -> Page | None:
        """A page as it has it; None where it has none."""
        try:
            line = self._free.get_nowait()
        except Empty:
            return None
        try:
            line.send((_plain(environ), settings))
            answered = line.poll(PATIENCE_S)
            page, news = line.recv() if answered else NOTHING
        except (OSError, EOFError):
            answered, (page, news) = False, NOTHING
        self._give_back(line, answered)
        remembered.learn(news)
        return page

    def _give_back(self, line: Connection, answered: bool) -> None:
        """Keeps a line for the next; one that gave no answer is closed, and ends what is on it."""
        if answered:
            self._free.put(line)
            return
        line.close()
        with self._lock:
            self._lines -= 1

    def begin(self) -> None:
        """Begins it where it is not there, and was not lost a moment ago."""
        with self._lock:
            if self._lines or time.monotonic() - self._begun_at < AGAIN_S:
                return
            self._begun_at, self._lines = time.monotonic(), AT_ONCE
        threading.Thread(target=self._start, daemon=True).start()

    def _start(self) -> None:
        ours, theirs = zip(*(READY.Pipe() for _ in range(AT_ONCE)), strict=True)
        given = self.made, theirs, self.beams
        self.process = READY.Process(target=_serve, args=given, daemon=True)
        self.process.start()
        for line in theirs:
            line.close()
        for line in ours:
            try:
                line.recv()  # it is ready
            except (OSError, EOFError):
                self._give_back(line, False)
            else:
                self._give_back(line, True)


class Readers:
    """The app with processes that read for it; *made*: the same app, made there; *settings*: the
    app's that may change while it runs.
    """

    def __init__(self, app: Flask, made: Made, settings: Iterable[str]) -> None:
        self.app, self.settings = app, tuple(settings)
        reads, beams = Beside(made), Beside(made, beams=True)
        self.beside = dict.fromkeys(READS, reads) | dict.fromkeys((*BEAMS, PREDICTING), beams)
        self._lock, self._under_way = threading.Lock(), 0

    def __call__(self, environ: Environ, start_response: Callable[..., Any]) -> Iterable[bytes]:
        """Answers a request: elsewhere where that may be, else here."""
        with self._counted():
            page = self._elsewhere(environ)
            if page is None:
                return self.app(environ, start_response)
        headers, body = page
        start_response("200 OK", headers)
        return [body]

    @contextmanager
    def _counted(self) -> Iterator[None]:
        with self._lock:
            self._under_way += 1
        try:
            yield
        finally:
            with self._lock:
                self._under_way -= 1

    def _elsewhere(self, environ: Environ) -> Page | None:
        get = environ["REQUEST_METHOD"] == "GET"
        endpoint = self._endpoint(environ) if get else ""
        beside = self.beside.get(endpoint)
        if beside is None or (endpoint == PREDICTING and not _goes_on(environ)):
            return None
        if self._under_way >= BEGUN_AT:
            beside.begin()
        return beside.page(environ, {name: self.app.config.get(name) for name in self.settings})

    def _endpoint(self, environ: Environ) -> str:
        try:
            path = environ.get("PATH_INFO", "")
            return str(self.app.url_map.bind("").match(path, "GET")[0])
        except HTTPException:
            return ""


def _goes_on(environ: Environ) -> bool:
    """Whether an address asks Match to go on predicting."""
    return GO_ON in parse_qs(environ.get("QUERY_STRING", ""), keep_blank_values=True)


def is_worth() -> bool:
    """Whether this machine has a processor for it, and it was not declined (COLD_ARC_READERS=0)."""
    return (os.cpu_count() or 1) > 1 and os.environ.get("COLD_ARC_READERS", "1") != "0"


def _plain(environ: Environ) -> Environ:
    """What of a request goes over to another process: no open files, nothing of the server's."""
    return {name: value for name, value in environ.items() if isinstance(value, str)}


def _serve(made: Made, lines: tuple[Connection, ...], beams: bool) -> None:
    """Answers on each line until its other end is gone; who works *beams* stands back."""
    os.nice(BEHIND if beams else 0)
    app = made(beams)
    keep_what_is_read_in()
    answering = [threading.Thread(target=_answer, args=(app, line)) for line in lines]
    for thread in answering:
        thread.start()


def _answer(app: Flask, line: Connection) -> None:
    with suppress(OSError, EOFError):
        line.send(None)
        while True:
            plain, settings = line.recv()
            app.config.update(settings)
            line.send((_page(app, plain), remembered.news()))


def _page(app: Flask, plain: Environ) -> Page | None:
    """A page; None for any answer but one, faults among them."""
    asked = {
        **plain,
        "wsgi.version": (1, 0),
        "wsgi.input": io.BytesIO(),
        "wsgi.errors": sys.stderr,
        "wsgi.multithread": True,
        "wsgi.multiprocess": True,
        "wsgi.run_once": False,
    }
    try:
        pieces, status, headers = run_wsgi_app(app, asked, buffered=True)
    except Exception:  # it is asked again where its fault is logged
        return None
    return (headers.to_wsgi_list(), b"".join(pieces)) if status.startswith("200") else None
