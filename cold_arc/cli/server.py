"""The server before the pages: Hypercorn, on plain sockets and by https at once, in one process.

docs/reliability.md tells what it was chosen from, and by what figures.
"""

from __future__ import annotations

import asyncio
import socket
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from hypercorn.asyncio import serve
from hypercorn.config import Config

from cold_arc.web.app import MOST_REQUEST

# Requests answered at once. Plain pages never wait for beams: those are computed by a few at a
# time (see web/bench/beams.py), and the rest stay free.
THREADS = 12
# Connections that wait to be taken.
BACKLOG = 256
# A connection that says nothing is let go after so many seconds: between requests, in the middle
# of one, while https is agreed on; and what is under way at the end is given so long.
IDLE_S, SILENT_S, HANDSHAKE_S, ENDING_S = 20, 60, 10, 2
# The head of a request, bytes.
MOST_HEAD = 65_536


def listening(host: str, port: int) -> socket.socket:
    """A socket that listens on a port, or on any free one for 0; OSError where it can't be used."""
    return socket.create_server((host, port), backlog=BACKLOG)


def run(
    app: Any,
    plain: socket.socket,
    secure: socket.socket | None = None,
    certificate: Path | None = None,
    until: Callable[[], Awaitable[Any]] | None = None,
) -> None:
    """Serves *app*, by https on *secure* with a *certificate* that holds its key too; until what
    *until* waits for, or a signal to stop.
    """
    config = Config()
    config.backlog, config.include_server_header = BACKLOG, False
    config.h11_max_incomplete_size, config.wsgi_max_body_size = MOST_HEAD, MOST_REQUEST
    config.keep_alive_timeout, config.read_timeout = IDLE_S, SILENT_S
    config.ssl_handshake_timeout, config.graceful_timeout = HANDSHAKE_S, ENDING_S
    config.alpn_protocols = ["http/1.1"]
    config.loglevel = "WARNING"
    config.bind = [f"fd://{plain.fileno()}"]
    if secure is not None and certificate is not None:
        config.insecure_bind, config.bind = config.bind, [f"fd://{secure.fileno()}"]
        config.certfile = config.keyfile = str(certificate)
    asyncio.run(_serve(app, config, until))


async def _serve(app: Any, config: Config, until: Callable[[], Awaitable[Any]] | None) -> None:
    loop = asyncio.get_running_loop()
    loop.set_default_executor(ThreadPoolExecutor(THREADS, thread_name_prefix="page"))
    await serve(app, config, shutdown_trigger=until, mode="wsgi")
