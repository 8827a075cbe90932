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
    end = max(samples[-1][0], 1.0)
    values = [lux for _, lux in samples] + ([run.settled_lx] if run else [])
    low, high = min(values), max(values)
    room = max((high - low) * MARGIN, high * 0.01)
    low, high = low - room, high + room

    def x(seconds: float) -> float:
        return round(WIDTH * seconds / end, 1)

    def y(lux: float) -> float:
        return round(HEIGHT * (high - lux) / (high - low), 1)

    thin = max(1, len(samples) // MOST_DOTS)
    course = ""
    if run:
        places = [
            (x(end * step / STEPS), y(run.at(end * step / STEPS))) for step in range(STEPS + 1)
        ]
        course = "M" + "L".join(f"{px} {min(max(py, 0.0), HEIGHT)}" for px, py in places)
    band = HEIGHT * 2 * SETTLED_SHARE * run.settled_lx / (high - low) if run else 0.0
    return WarmChart(
        tuple((x(at), y(lux)) for at, lux in samples[::thin]),
        course,
        (y(run.settled_lx), round(band, 1)) if run else None,
        tuple(
            (x(end * step / TICKS), f"{say_number(end * step / TICKS / 60, 2)} min")
            for step in range(TICKS + 1)
        ),
        tuple(
            (y(lux), say_lux(lux))
            for lux in (low + (high - low) * step / TICKS for step in range(TICKS + 1))
        ),
    )
