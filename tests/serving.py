"""Starts the real server as its own process, for browser tests and pictures."""

from __future__ import annotations

import asyncio
import os
import random
import socket
import sys
import threading
import time
import urllib.request
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from cold_arc import cli
from cold_arc.web.shell.apart import READY

# Debian's own, without a window's parts: a third less to do than the whole browser.
CHROMIUM = "/usr/bin/chromium-headless-shell"
CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # One process draws all pages of a worker, none is readied that no page comes to: a third of
    # what a page costs here.
    "--disable-features=SpareRendererForSitePerProcess",
    "--disable-site-isolation-trials",
    "--renderer-process-limit=1",
    "--in-process-gpu",
    "--disable-software-rasterizer",
    # Nothing waits for what glides: a quarter of what drawing costs.
    "--force-prefers-reduced-motion",
]


PORTS = 20_000, 32_000


# A server is forked from a process that has read the program in, which takes longer than to start
# it; how it starts from nothing is tested in tests/robust/test_start.py. There is one such process,
# and what was said last of what it reads in holds: ours.
READY.set_forkserver_preload(["tests.read_in"])


def _run(command: tuple[str, ...], environment: dict[str, str]) -> None:
    os.environ.update(environment)
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    sys.exit(cli.main(list(command)))


def free_port() -> int:
    """A port nothing listens on, nor a connection is given meanwhile; the next is for https."""
    while True:
        with suppress(OSError), socket.socket() as probe:
            probe.bind(("0.0.0.0", random.SystemRandom().randrange(*PORTS, 2)))
            return probe.getsockname()[1]


def _stand(port: int, orders: Any) -> None:
    """Serves one app, put on each folder that is ordered."""
    from cold_arc.cli import server
    from cold_arc.web.app import attach, build_app, warm

    app = build_app()
    warm(app)
    here = server.listening("127.0.0.1", port)
    serve = threading.Thread(
        target=server.run, args=(app, here), kwargs={"until": lambda: asyncio.Event().wait()}
    )
    serve.daemon = True
    serve.start()
    while folder := orders.recv():
        attach(app, Path(folder))
        orders.send(folder)


class StandingServer:
    """One server for many tests, put on one folder after another: starting it takes seconds, that
    nothing.
    """

    def __init__(self) -> None:
        self.port, (self.orders, theirs) = free_port(), READY.Pipe()
        self.url = f"http://127.0.0.1:{self.port}"
        self.process = READY.Process(target=_stand, args=(self.port, theirs))
        self.process.start()

    def open(self, folder: Path) -> StandingServer:
        self.folder = folder
        self.orders.send(str(folder))
        self.orders.recv()
        return self

    def kill(self) -> None:
        self.process.kill()
        self.process.join()


class Server:
    """A served shop; `kill` ends it as a power cut would."""

    def __init__(self, folder: Path, *command: str) -> None:
        self.folder, self.command, self.port = folder, command, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        """Starts it, once more on the same port after a `kill`."""
        # No processes that read beside it, unless a test asks for them: they take seconds to begin.
        environment = {"COLD_ARC_READERS": "0", **os.environ, "PORT": str(self.port)}
        environment |= {"COLD_ARC_DATA": str(self.folder)}
        self.process = READY.Process(target=_run, args=(self.command, environment))
        self.process.start()
        self._wait()

    def _wait(self) -> None:
        for _ in range(1200):
            try:
                urllib.request.urlopen(self.url, timeout=1).close()
                return
            except OSError:
                if not self.process.is_alive():
                    raise RuntimeError("the server did not start") from None
                time.sleep(0.05)
        raise RuntimeError("the server does not answer")

    def kill(self) -> None:
        self.process.kill()
        self.process.join()


@contextmanager
def serving(folder: Path, command: str = "serve"):
    server = Server(folder, command)
    try:
        yield server
    finally:
        server.kill()
