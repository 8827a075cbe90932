"""A simulated lux meter: it reads a modelled lamp, with a seat, an aim and a fade of its own, where
its head is held.

What it does as real ones do: a head of real size, cosine error, the room's own light, noise, steps
by range, overload, a display that takes a moment to settle; the source warms up since it was
switched on. Nothing about it is random twice: the same lamp, moment and place show the same figure.
"""

from __future__ import annotations

import math
import random
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

from cold_arc.core.beam import derived
from cold_arc.core.beam.model import Beam
from cold_arc.core.metering.meters import meter
from cold_arc.devices.meter import UNITS, Display

# The class it is built to; how unsteady it reads (share), how long its display takes to settle, s;
# how fast its battery empties, 1/s; how long a display stands before it changes, s (invented: such
# a meter as are sold).
CLASS = "simulated"
NOISE, SETTLE_S, DRAIN, REFRESH_S = 0.004, 0.35, 1 / 36_000, 0.25
STEADY_SHARE = 0.01


@dataclass(frozen=True)
class SimulatedLamp:
    """What shines: a beam as warm and settled, how it is aimed off (degrees right, up), how much
    brighter it is than modelled, and its warm-up: for its chips and its body, the share more they
    give cold and a time constant, s.
    """

    beam: Beam
    right_deg: float = 0.0
    up_deg: float = 0.0
    bright: float = 1.0
    fades: tuple[tuple[float, float], ...] = ()

    def lux(
        self, right_m: float, down_m: float, distance_m: float, lit_s: float, head_mm: float
    ) -> float:
        """What falls on a head there, lx, *lit_s* after it was switched on."""
        aimed_r = distance_m * math.tan(math.radians(self.right_deg))
        aimed_d = -distance_m * math.tan(math.radians(self.up_deg))
        warm = 1 + sum(share * math.exp(-lit_s / tau) for share, tau in self.fades)
        return (
            self.bright
            * warm
            * derived.meter_lux(self.beam, right_m - aimed_r, down_m - aimed_d, distance_m, head_mm)
        )


def hidden(seed: str) -> tuple[float, float, float, float, float]:
    """What a lamp keeps to itself: degrees of clocking, mm of depth, degrees aimed right and up,
    and its brightness.
    """
    draw = random.Random(seed)
    return (
        draw.gauss(0, 4.0),
        draw.gauss(0, 0.2),
        draw.gauss(0, 0.4),
        draw.gauss(0, 0.25),
        math.exp(draw.gauss(0, 0.15)),
    )


class SimulatedMeter:
    """One meter before one wall. *pace*: how many seconds of the lamp's pass in one of the
    clock's.
    """

    def __init__(
        self,
        lamp: SimulatedLamp,
        distance_m: float,
        ambient_lx: float = 0.0,
        seed: str = "",
        pace: float = 1.0,
        clock: Callable[[], float] = time.time,
    ) -> None:
        self.lamp, self.distance_m, self.ambient_lx = lamp, distance_m, ambient_lx
        self._seed, self._pace, self._clock, self._lock = seed, pace, clock, threading.Lock()
        self.kind = meter(CLASS)
        self._error = random.Random(f"{seed} meter").uniform(-1, 1) * self.kind.total / 2
        self.switched_on = clock()
        self._place, self._moved, self._from = (0.0, 0.0), clock() - 60, 0.0
        self.range, self.unit = 1.0, "lx"
        self._held: Display | None = None

    @property
    def lit_s(self) -> float:
        """How long its lamp has burned, s of the lamp's own time."""
        return max(0.0, self._clock() - self.switched_on) * self._pace

    def move(self, right_m: float, down_m: float) -> None:
        """Holds the head elsewhere: m right and down of the lamp's axis."""
        with self._lock:
            if (right_m, down_m) != self._place:
                self._from = self._settling(self._clock())
                self._place, self._moved = (right_m, down_m), self._clock()

    def hold(self, held: bool) -> None:
        """Holds the display, or lets it go."""
        shown = self.display()
        with self._lock:
            self._held = shown if held else None

    def display(self) -> Display:
        """What it shows now."""
        with self._lock:
            if self._held is not None:
                return Display(
                    self._held.value,
                    self._held.unit,
                    self._held.range,
                    True,
                    self._held.overload,
                    self._battery(),
                )
            now = self._clock()
            return self._shown(
                self._settling(now),
                steady=now - self._moved > SETTLE_S * math.log(1 / STEADY_SHARE),
            )

    def reading_at(self, lit_s: float, place: tuple[float, float]) -> float:
        """What it would show, lx, held at a place (m right and down) so long after the lamp was
        switched on.
        """
        return self._seen(self._true(lit_s, place), int(lit_s / REFRESH_S), place)

    def _true(self, lit_s: float, place: tuple[float, float]) -> float:
        """What falls on the head, lx, without the meter's error."""
        return self.lamp.lux(*place, self.distance_m, lit_s, self.kind.head_mm) + self.ambient_lx

    def _settling(self, now: float) -> float:
        """The display's way from what it showed to what it reads."""
        to = self._seen(self._true(self.lit_s, self._place), int(now / REFRESH_S), self._place)
        return to + (self._from - to) * math.exp(-(now - self._moved) / SETTLE_S)

    def _seen(self, lux: float, moment: int, place: tuple[float, float]) -> float:
        angle = math.atan(math.hypot(*place) / self.distance_m)
        cosine = self.kind.cosine * math.sin(angle) ** 2
        noise = random.Random(f"{self._seed} {moment} {place}").gauss(0, NOISE)
        return max(0.0, lux * (1 + self._error - cosine) * (1 + noise))

    def _shown(self, lux: float, steady: bool) -> Display:
        if lux >= self.kind.full_scale_lx(self.range):
            return Display(
                None, self.unit, self.range, overload=True, battery=self._battery(), steady=steady
            )
        step = self.kind.digit_lx
        value = round(round(lux / self.range / UNITS[self.unit] / step) * step, 4)
        return Display(value, self.unit, self.range, battery=self._battery(), steady=steady)

    def _battery(self) -> float:
        return round(max(0.05, 0.9 - (self._clock() - self.switched_on) * DRAIN), 2)
