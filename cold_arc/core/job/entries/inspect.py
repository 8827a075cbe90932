"""What is said at Inspect: what was seen on a unit."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car.condition import HAZE_GRADES, UnitCondition
from cold_arc.core.job.entries.kind import EntryKind, Payload


@dataclass(frozen=True)
class Inspected(Payload):
    """What was seen on the entry's units."""

    ENTRY = EntryKind("inspected")

    seen: UnitCondition

    def in_words(self) -> str:
        return f"Inspected: haze {self.seen.haze}, {HAZE_GRADES[self.seen.haze].lower()}"
