"""Work cut into a fixed number of slices, done beside one another by threads: whatever the number
of processors, the same inputs give the same bytes.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from functools import lru_cache
from threading import local

from numba import config

SLICES = 4
# Fewer things than this are done by the thread that asks: to hand them out takes as long (own,
# chosen by timing).
WORTH_IT = 5_000


@lru_cache
def _workers(many: int) -> ThreadPoolExecutor:
    """Threads, *many*; what they run lets go of the interpreter."""
    return ThreadPoolExecutor(many, thread_name_prefix="slice")


# A process that is forked off has none of the threads.
os.register_at_fork(after_in_child=_workers.cache_clear)
_here = local()


def leave_a_processor(wanted: bool) -> None:
    """Whether what this thread has done in slices leaves one processor to others."""
    _here.spared = int(wanted)


def each_slice(work: Callable[[int, slice], None], count: int) -> None:
    """*work* done for each slice's number and its part of *count* things: by this thread, and by
    others where there are processors for them.
    """
    parts = [(k, slice(k * count // SLICES, (k + 1) * count // SLICES)) for k in range(SLICES)]
    others = min(SLICES, config.NUMBA_NUM_THREADS - getattr(_here, "spared", 0)) - 1
    handed = [_handed(others, work, part) if count >= WORTH_IT else None for part in parts]
    for future, part in zip(reversed(handed), reversed(parts), strict=True):
        if future is None or future.cancel():  # nobody has begun it
            work(*part)
        else:
            future.result()


def _handed(
    many: int, work: Callable[[int, slice], None], part: tuple[int, slice]
) -> Future[None] | None:
    """A slice handed to one of *many* threads; None where there is none to take it."""
    with suppress(RuntimeError):  # the program is ending
        return _workers(many).submit(work, *part) if many > 0 else None
    return None
