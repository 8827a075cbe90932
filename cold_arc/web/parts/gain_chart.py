"""The gain chart: before and after at each place as bars with their uncertainty, and what the whole
gain's is made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from cold_arc.core.metering.comparing import Gain
from cold_arc.core.metering.uncertainty import BudgetPart

# Drawing units: the bars' width, a row's height, a bar's.
WIDTH, ROW, BAR = 460.0, 34.0, 11.0
MOST_PARTS = 6


class GainRow(Protocol):
    """A row of the table the chart is made from."""

    @property
    def words(self) -> str: ...

    @property
    def gain(self) -> Gain | None: ...


@dataclass(frozen=True)
class GainBars:
    """One place: its words, y, the lengths of both bars, and how far the after bar's end is
    uncertain.
    """

    words: str
    y: float
    before: float
    after: float
    low: float
    high: float


@dataclass(frozen=True)
class BudgetBar:
    """One part of the budget: its share as a length against the largest's."""

    part: BudgetPart
    length: float


@dataclass(frozen=True)
class GainChart:
    """Everything drawn."""

    bars: tuple[GainBars, ...]
    budget: tuple[BudgetBar, ...]
    width: float = WIDTH

    @property
    def height(self) -> float:
        """How tall it is."""
        return len(self.bars) * ROW

    @property
    def improve(self) -> str:
        """What to improve next."""
        return self.budget[0].part.advice if self.budget else ""


def build_gain_chart(rows: Sequence[GainRow], whole: Gain | None) -> GainChart | None:
    """The chart of the places read both times; None where there is none."""
    gains = [(row.words, row.gain) for row in rows if row.gain is not None]
    most = max(
        (max(gain.before_cd, gain.after_cd * (1 + gain.budget.expanded)) for _, gain in gains),
        default=0.0,
    )
    if whole is None or most <= 0:
        return None
    scale = WIDTH / most
    bars = tuple(
        _bars(words, gain, index * ROW, scale) for index, (words, gain) in enumerate(gains)
    )
    parts = whole.budget.parts[:MOST_PARTS]
    return GainChart(
        bars, tuple(BudgetBar(part, WIDTH * part.share / parts[0].share) for part in parts)
    )


def _bars(words: str, gain: Gain, y: float, scale: float) -> GainBars:
    doubt = gain.budget.expanded
    low, high = (
        gain.after_cd * max(0.0, 1 - doubt) * scale,
        min(gain.after_cd * (1 + doubt) * scale, WIDTH),
    )
    return GainBars(words, y, gain.before_cd * scale, gain.after_cd * scale, low, high)
