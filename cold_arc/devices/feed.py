"""A real meter feeding the shop: the newest display, and those of the last hours for a warm-up run.
Any thread may.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable

from cold_arc.devices.meter import Display

# How old a display may be and still be what the meter shows, s; how many are kept, how often at
# most, s.
FRESH_S = 3.0
KEPT, EVERY_S = 7200, 0.9


class Feed:
    """The meter that sends its displays here."""

    def __init__(self, clock: Callable[[], float] = time.time) -> None:
        self._clock, self._lock = clock, threading.Lock()
        self._newest: tuple[float, Display] | None = None
        self._kept: deque[tuple[float, float]] = deque(maxlen=KEPT)

    def take(self, display: Display) -> None:
        """What the meter shows now."""
        with self._lock:
            now = self._clock()
            self._newest = (now, display)
            due = not self._kept or now - self._kept[-1][0] >= EVERY_S
            if display.lux is not None and not display.hold and due:
                self._kept.append((now, display.lux))

    def display(self) -> Display | None:
        """The newest display; None where nothing came for three seconds."""
        with self._lock:
            if self._newest is None or self._clock() - self._newest[0] > FRESH_S:
                return None
            return self._newest[1]

    def since(self, moment: float) -> list[tuple[float, float]]:
        """What it showed since a moment (s, as its clock tells): s after it, lx."""
        with self._lock:
            return [(at - moment, lux) for at, lux in self._kept if at >= moment]
