"""Long work beside the pages: one piece at a time, in a thread of its own, with its progress; a
page asks how far it is, stops it, takes its answer.

What it computes is kept in memory only: an answer is recorded when somebody says so.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from cold_arc.core.errors import ColdArcError

Progress = Callable[[float], None]
Work = Callable[[Progress], Any]
# Answers kept, and pieces that may wait.
MOST_KEPT, MOST_WAITING = 20, 4
_log = logging.getLogger(__name__)
_worker = ThreadPoolExecutor(1, thread_name_prefix="long-work")
_lock = threading.Lock()


class StoppedError(ColdArcError):
    """Somebody stopped the work."""


class TooManyError(ColdArcError, ValueError):
    """So much waits already that no more is taken on; the message says so."""


@dataclass(eq=False)
class LongTask:
    """One piece of work about *asked*: how far it is (0 to 1), what came of it, or why nothing
    did.
    """

    asked: object
    share: float = 0.0
    is_stopped: bool = False
    why: str = ""
    answer: Any = None
    done: Future[None] | None = field(default=None, repr=False)

    @property
    def is_running(self) -> bool:
        """Whether it is at work, or waits to be."""
        return self.done is not None and not self.done.done()

    @property
    def percent(self) -> int:
        """How far it is."""
        return round(100 * self.share)

    def progress(self, share: float) -> None:
        """Notes how far it is; StoppedError where it was stopped."""
        if self.is_stopped:
            raise StoppedError
        self.share = max(self.share, share)

    def stop(self) -> None:
        """Stops it at its next step."""
        self.is_stopped = True

    def run(self, work: Work) -> None:
        """Does the work; what came of it, or why nothing did, stays here."""
        try:
            self.progress(0.0)
            self.answer = work(self.progress)
        except StoppedError:
            self.why = "Stopped."
        except (ColdArcError, ValueError) as error:
            self.why = str(error)
        except Exception:
            _log.exception("Long work failed")
            self.why = "It failed; the log says why."


_kept: dict[object, LongTask] = {}


def find(name: object, asked: object) -> LongTask | None:
    """The work of that *name* about exactly what is *asked*; None where there is none."""
    task = _kept.get(name)
    return task if task is not None and task.asked == asked else None


def start(name: object, asked: object, work: Work) -> LongTask:
    """Begins work, in place of what went by the same *name*; the same again where it runs already.

    Raises TooManyError where too much waits.
    """
    with _lock:
        running = find(name, asked)
        if running is not None and running.is_running:
            return running
        if sum(task.is_running for task in _kept.values()) > MOST_WAITING:
            raise TooManyError("Other work of this kind waits already. Try again in a minute.")
        forget(name)
        task = _kept[name] = LongTask(asked)
        while len(_kept) > MOST_KEPT:
            forget(next(iter(_kept)))
        task.done = _worker.submit(task.run, work)
    return task


def forget(name: object) -> None:
    """Stops and forgets the work of that name."""
    gone = _kept.pop(name, None)
    if gone is not None:
        gone.stop()
