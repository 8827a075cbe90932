"""The seat chart: what 1 mm of depth and 10° of clocking do, as bars round a line. Drawing units, y
down.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.match.prediction import Sensitivity, Try
from cold_arc.core.units import say_percent
from cold_arc.web.parts.wall import Rect

BAR, STEP, KEPT_HIGH, ABOVE_HIGH, MOST_ABOVE = 13.0, 17.0, 24.0, 14.0, 0.2


@dataclass(frozen=True)
class SeatBar:
    """One try: the hot spot kept, up from the line; the light above the cut-off, down from it; a
    short label, mm without their unit; in words.
    """

    kept: Rect
    above: Rect
    label: str
    words: str


@dataclass(frozen=True)
class SeatChart:
    """The bars of one candidate."""

    bars: tuple[SeatBar, ...]
    words: str
    width: float = 4 * STEP
    full: float = KEPT_HIGH


def build_seat_chart(sensitivity: Sensitivity | None) -> SeatChart | None:
    """The chart; None for a fixed seat."""
    if sensitivity is None:
        return None
    bars = tuple(_bar(index, tried) for index, tried in enumerate(sensitivity.tries))
    return SeatChart(bars, "; ".join(bar.words for bar in bars))


def _bar(index: int, tried: Try) -> SeatBar:
    left = index * STEP + (STEP - BAR) / 2
    kept, above = (
        min(tried.peak_share, 1.0) * KEPT_HIGH,
        min((tried.above or 0) / MOST_ABOVE, 1.0) * ABOVE_HIGH,
    )
    moved = f"{tried.axial_mm:+g} mm" if tried.axial_mm else f"{tried.clock_deg:+g}°"
    moved = moved.replace("-", "−")
    over = f", {say_percent(tried.above, 1)} above" if tried.above is not None else ""
    return SeatBar(
        Rect(left, KEPT_HIGH - kept, BAR, kept),
        Rect(left, KEPT_HIGH + 1, BAR, above),
        moved.removesuffix(" mm"),
        f"{moved}: hot spot {say_percent(tried.peak_share)}{over}",
    )
