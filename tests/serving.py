"""Starts the real server as its own process, for browser tests and pictures."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

CHROMIUM_FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """A served shop; `kill` ends it as a power cut would."""

    def __init__(self, folder: Path, *command: str) -> None:
        self.folder, self.command, self.port = folder, command, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        """Starts it, once more on the same port after a `kill`."""
        self.process = subprocess.Popen(
            [sys.executable, "-m", "cold_arc", *self.command],
            env={**os.environ, "PORT": str(self.port), "COLD_ARC_DATA": str(self.folder)},
            stdout=subprocess.DEVNULL,
        )
        self._wait()

    def _wait(self) -> None:
        for _ in range(1200):
            try:
                urllib.request.urlopen(self.url, timeout=1).close()
                return
            except OSError:
                if self.process.poll() is not None:
                    raise RuntimeError("the server did not start") from None
                time.sleep(0.05)
        raise RuntimeError("the server does not answer")

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()


@contextmanager
def serving(folder: Path, command: str = "serve"):
    server = Server(folder, command)
    try:
        yield server
    finally:
        server.kill()
