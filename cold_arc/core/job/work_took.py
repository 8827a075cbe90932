"""What the work at the car took: each part that was opened and closed again, for the next plan."""

from __future__ import annotations

from cold_arc.core.job import timing
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.record import Record
from cold_arc.core.job.step_order import CLOSES
from cold_arc.core.job.tray import tray_of
from cold_arc.core.work.access import PLUG
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.learning import Done, part_of


def done_of(record: Record) -> list[Done]:
    """What each part that was opened and closed again took, and how many of its fasteners broke."""
    work, spent = record.once(Handwork), timing.actual_min(record)
    return [
        _took(record, step.opening, timing.opening_min(spent, step.opening))
        for step in work.steps
        if step.kind in CLOSES and step.opening is not None and work.done(step)
    ]


def _took(record: Record, opening: Opening, spent_min: float | None) -> Done:
    """What one part took, counted for a first side, and its fasteners."""
    share = opening.minutes / opening.step.minutes if opening.step.minutes else 1.0
    rows = [row for row in tray_of(record, opening) if row.fasteners.kind != PLUG]
    return Done(
        part_of(opening.step),
        opening.step.minutes,
        spent_min / share if spent_min is not None else None,
        sum(row.count for row in rows),
        sum(row.said.broken for row in rows),
    )
