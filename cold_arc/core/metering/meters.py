"""Lux meters by class (``data/meters.toml``): what each may be wrong by, its steps and its head."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.references import Sources, read

UNKNOWN = "none"


@dataclass(frozen=True)
class MeterClass:
    """A class of meter. Limits as shares of the reading: *total* error, *spectral* mismatch,
    *cosine* error, *linearity*.

    *digit_lx*: the display's smallest step on range ×1; *counts*: the display's end, in steps;
    *head_mm* its width.
    """

    id: str
    label: str
    total: float
    spectral: float
    cosine: float
    linearity: float
    digit_lx: float
    counts: int
    head_mm: float
    sources: Sources

    def full_scale_lx(self, range_factor: float) -> float:
        """What a range ends at, lx.

        >>> meter("c").full_scale_lx(10)
        20000.0
        """
        return float(self.counts * self.digit_lx * range_factor)


@cache
def meters() -> dict[str, MeterClass]:
    """Every class, by id."""
    rows = data.load("meters").items()
    return {
        key: MeterClass(
            key,
            **{name: figure for name, figure in row.items() if name != "source"},
            sources=read(row["source"]),
        )
        for key, row in rows
    }


def meter(name: str) -> MeterClass:
    """A class by id; one not known counts as "class not known"."""
    return meters().get(name, meters()[UNKNOWN])
