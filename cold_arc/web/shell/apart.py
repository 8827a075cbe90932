"""Heavy work in a process of its own: one at a time, stopped where it takes too long, its memory
bounded and given back when it ends.
"""

from __future__ import annotations

import multiprocessing
import os
import resource
import threading
from collections.abc import Callable
from concurrent.futures import TimeoutError as TooLongError
from typing import Any, TypeVar

from pebble import ProcessExpired, ProcessPool
from werkzeug.exceptions import ServiceUnavailable

from cold_arc.core.errors import ColdArcError

Answer = TypeVar("Answer")
# How long one may take and wait for its turn, s; how much of its own it may hold, bytes; how many
# may wait.
LONGEST_S, PATIENCE_S, MOST_BYTES, WAITING = 60.0, 30.0, 2_000_000_000, 4
RETRY_AFTER_S = 2
# How far it stands back for whoever waits for a page, as nice counts it: a third of their share
# where all is asked for, since somebody waits for this too.
BEHIND = 5
# Forked from a process that has read the program in, as are those that read beside this one; which
# takes seconds, that milliseconds.
READ_IN = ["cold_arc.web.app"]
READY = multiprocessing.get_context("forkserver")
READY.set_forkserver_preload(READ_IN)
_turn = threading.BoundedSemaphore()
_places = threading.BoundedSemaphore(1 + WAITING)


class TooHeavyError(ColdArcError, ValueError):
    """The work took too long, or more memory than there is for it; the message says so."""


def apart(work: Callable[..., Answer], *given: object) -> Answer:
    """What *work* makes of what it is given, done apart; its errors are raised here.

    Raises TooHeavyError, and ServiceUnavailable where too many wait already.
    """
    if not _places.acquire(blocking=False):
        raise ServiceUnavailable(retry_after=RETRY_AFTER_S)
    try:
        if not _turn.acquire(timeout=PATIENCE_S):
            raise ServiceUnavailable(retry_after=RETRY_AFTER_S)
        try:
            return _done(work, given)
        finally:
            _turn.release()
    finally:
        _places.release()


def warm() -> None:
    """Starts the process that others are forked from."""
    apart(abs, 0)


def _done(work: Callable[..., Answer], given: tuple[Any, ...]) -> Answer:
    with ProcessPool(max_workers=1, max_tasks=1, context=READY) as pool:
        try:
            return pool.schedule(_bounded, args=(work, given), timeout=LONGEST_S).result()
        except (TooLongError, ProcessExpired, MemoryError) as error:
            raise TooHeavyError(
                "This took too long or too much memory, and was stopped. Send fewer or smaller "
                "pictures."
            ) from error
        finally:
            pool.stop()


def _bounded(work: Callable[..., Answer], given: tuple[Any, ...]) -> Answer:
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    os.nice(BEHIND)
    return work(*given)
