"""Beams take the processor: two requests at a time compute them, a few may wait, the rest are told
to ask again.

So there is always a thread for a plain page.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any, TypeVar

from werkzeug.exceptions import ServiceUnavailable

from cold_arc.core.beam import slices

COMPUTING, WAITING, PATIENCE_S = 2, 4, 15.0
RETRY_AFTER_S = 1
_computing = threading.BoundedSemaphore(COMPUTING)
_places = threading.BoundedSemaphore(COMPUTING + WAITING)
_held: set[object] = set()


def _is_crowded() -> bool:
    """Whether another request computes a beam, or waits to."""
    return len(_held) > 1


@contextmanager
def place(patience_s: float = PATIENCE_S) -> Iterator[bool]:
    """Holds a place among those who compute beams; False where none came free in time."""
    if not _places.acquire(blocking=False):
        yield False
        return
    me = object()
    _held.add(me)
    try:
        mine = _computing.acquire(timeout=patience_s)
        slices.leave_a_processor(_is_crowded())
        try:
            yield mine
        finally:
            if mine:
                _computing.release()
    finally:
        _held.discard(me)
        _places.release()


View = TypeVar("View", bound=Callable[..., Any])


def in_turn(view: View) -> View:
    """A view that computes beams: 503, to be asked again, where too many do already."""

    @wraps(view)
    def guarded(*args: object, **kw: object) -> Any:
        with place() as mine:
            if mine:
                return view(*args, **kw)
        raise ServiceUnavailable(retry_after=RETRY_AFTER_S)

    return guarded  # type: ignore[return-value]
