"""The server before the pages: Hypercorn, on plain sockets and by https at once, in one process.

docs/reliability.md tells what it was chosen from, and by what figures.
"""

from __future__ import annotations

import asyncio
import socket
from collections.abc import Awaitable, Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from hypercorn.app_wrappers import InvalidPathError, WSGIWrapper, _build_environ
from hypercorn.asyncio.run import worker_serve
from hypercorn.config import Config

from cold_arc.web.app import MOST_REQUEST

# Requests answered at once. Plain pages never wait for beams: those are computed by a few at a
# time (see web/bench/beams.py), and the rest stay free.
THREADS = 8
# Connections that wait to be taken.
BACKLOG = 256
# A connection that says nothing is let go after so many seconds: between requests, in the middle
# of one, while https is agreed on; and what is under way at the end is given so long.
IDLE_S, SILENT_S, HANDSHAKE_S, ENDING_S = 20, 60, 10, 2
# The head of a request, bytes; and the body that is taken of anybody, before it is known who asks.
MOST_HEAD, SMALL_BODY = 65_536, 65_536


# Given a request's WSGI environment without its body.
TakesLarge = Callable[[dict[str, Any]], bool]


def listening(host: str, port: int) -> socket.socket:
    """A socket that listens on a port, or on any free one for 0; OSError where it can't be used."""
    return socket.create_server((host, port), backlog=BACKLOG)


class Gate(WSGIWrapper):
    """Hands requests to the pages; a large body is taken in only where *takes_large*, given the
    request without it, says so.
    """

    def __init__(self, app: Any, takes_large: TakesLarge) -> None:
        super().__init__(_with_head(app), MOST_REQUEST)
        self.takes_large = takes_large

    async def handle_http(
        self, scope: Any, receive: Any, send: Any, sync_spawn: Any, call_soon: Any
    ) -> None:
        """Answers one request; 401 before a body nobody may send."""
        if _is_large(scope) and not await sync_spawn(self._takes, scope):
            head = [(b"connection", b"close"), (b"content-type", b"text/plain")]
            await send({"type": "http.response.start", "status": 401, "headers": head})
            words = b"This device is not let in: tell the shop's code first."
            await send({"type": "http.response.body", "body": words, "more_body": False})
            return
        await super().handle_http(scope, receive, send, sync_spawn, call_soon)

    def _takes(self, scope: Any) -> bool:
        try:
            return self.takes_large(_build_environ(scope, b""))
        except InvalidPathError:
            return False


def _with_head(app: Any) -> Any:
    """The same app, whose every answer has a piece to send: Hypercorn sends the head with the first
    one, and calls an answer without any (204, 304, to HEAD) a fault.
    """

    def answered(environ: dict[str, Any], start_response: Any) -> Iterator[bytes]:
        with _closing(app(environ, start_response)) as pieces:
            yield from pieces
            yield b""

    return answered


@contextmanager
def _closing(pieces: Any) -> Iterator[Any]:
    """The pieces of an answer, which is told when it is done with them."""
    try:
        yield pieces
    finally:
        if hasattr(pieces, "close"):
            pieces.close()


def _is_large(scope: Any) -> bool:
    """Whether a request says its body is large, or does not say how large it is."""
    head = dict(scope["headers"])
    length = head.get(b"content-length", b"0")
    return b"transfer-encoding" in head or not length.isdigit() or int(length) > SMALL_BODY


def run(
    app: Any,
    plain: socket.socket,
    secure: socket.socket | None = None,
    certificate: Path | None = None,
    until: Callable[[], Awaitable[Any]] | None = None,
    takes_large: TakesLarge = lambda _: True,
) -> None:
    """Serves *app*, by https on *secure* with a *certificate* that holds its key too; until what
    *until* waits for, or a signal to stop. *takes_large*: of whom a large body is taken in.
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
    asyncio.run(_serve(Gate(app, takes_large), config, until))


async def _serve(gate: Gate, config: Config, until: Callable[[], Awaitable[Any]] | None) -> None:
    loop = asyncio.get_running_loop()
    loop.set_default_executor(ThreadPoolExecutor(THREADS, thread_name_prefix="page"))
    await worker_serve(gate, config, shutdown_trigger=until)
