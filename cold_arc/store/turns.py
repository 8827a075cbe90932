"""Who writes in this process does so in turn.

SQLite gives its lock to whoever asks just when it is free; who waits asks again after up to a tenth
of a second, in no order, so that of many who save some wait long while the lock lies free. Here the
next in line begins as soon as the one before has given its connection back, which every way out of
a transaction comes to.
"""

from __future__ import annotations

from threading import Lock
from typing import Any

from sqlalchemy import Connection, Engine, event

_HAS_ITS_TURN = "cold_arc_turn"


class Turns:
    """The line of those who write through one *engine*; nobody waits in it for more than
    *patience_s*, and whoever has waited that long asks SQLite all the same.
    """

    def __init__(self, engine: Engine, patience_s: float) -> None:
        self._lock, self._patience_s = Lock(), patience_s
        event.listen(engine.pool, "checkin", self._pass_on)

    def take(self, connection: Connection) -> None:
        """Waits for its turn, which it has until its connection is given back."""
        if not connection.info.get(_HAS_ITS_TURN):
            connection.info[_HAS_ITS_TURN] = self._lock.acquire(timeout=self._patience_s)

    def _pass_on(self, _: Any, record: Any) -> None:
        if record.info.pop(_HAS_ITS_TURN, False):
            self._lock.release()
