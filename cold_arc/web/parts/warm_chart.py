"""The chart of a warm-up run: what was read over time, the fitted course, where it settles. Drawing
units, y down.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.metering.warming import SETTLED_SHARE, Sample, WarmUp
from cold_arc.core.units import say_lux, say_number

WIDTH, HEIGHT = 640.0, 220.0
MARGIN = 0.06
STEPS = 60
MOST_DOTS = 160
TICKS = 4


@dataclass(frozen=True)
class WarmChart:
    """*dots*: the readings; *course*: the fitted path; *settled*: y of the settled value and the
    height of its band.
    """

    dots: tuple[tuple[float, float], ...]
    course: str
    settled: tuple[float, float] | None
    across: tuple[tuple[float, str], ...]
    upward: tuple[tuple[float, str], ...]
    width: float = WIDTH
    height: float = HEIGHT


def build_warm_chart(samples: Sequence[Sample], run: WarmUp | None) -> WarmChart | None:
    """The chart of a run; None before its second reading."""
    if len(samples) < 2:
        return None
    scale = _scale(samples, run)
    thin = max(1, len(samples) // MOST_DOTS)
    return WarmChart(
        tuple((scale.x(at), scale.y(lux)) for at, lux in samples[::thin]),
        _course(scale, run) if run else "",
        _band(scale, run) if run else None,
        tuple((scale.x(at), f"{say_number(at / 60, 2)} min") for at in scale.times(TICKS)),
        tuple((scale.y(lux), say_lux(lux)) for lux in scale.lights(TICKS)),
    )


@dataclass(frozen=True)
class _Scale:
    """Seconds and lux on the drawing: time from 0 to *end*, light from *low* to *high*."""

    end: float
    low: float
    high: float

    def x(self, seconds: float) -> float:
        return round(WIDTH * seconds / self.end, 1)

    def y(self, lux: float) -> float:
        return round(HEIGHT * (self.high - lux) / (self.high - self.low), 1)

    def times(self, steps: int) -> list[float]:
        """Moments evenly spaced over the run."""
        return [self.end * step / steps for step in range(steps + 1)]

    def lights(self, steps: int) -> list[float]:
        """Lights evenly spaced over the scale."""
        return [self.low + (self.high - self.low) * step / steps for step in range(steps + 1)]


def _scale(samples: Sequence[Sample], run: WarmUp | None) -> _Scale:
    """Room for the readings, and for what they settle at."""
    values = [lux for _, lux in samples] + ([run.settled_lx] if run else [])
    low, high = min(values), max(values)
    room = max((high - low) * MARGIN, high * 0.01)
    return _Scale(max(samples[-1][0], 1.0), low - room, high + room)


def _course(scale: _Scale, run: WarmUp) -> str:
    """The fitted course as a path."""
    places = [(scale.x(at), scale.y(run.at(at))) for at in scale.times(STEPS)]
    return "M" + "L".join(f"{x} {min(max(y, 0.0), HEIGHT)}" for x, y in places)


def _band(scale: _Scale, run: WarmUp) -> tuple[float, float]:
    """What it settles at, and how high the band is that counts as settled."""
    height = HEIGHT * 2 * SETTLED_SHARE * run.settled_lx / (scale.high - scale.low)
    return scale.y(run.settled_lx), round(height, 1)
