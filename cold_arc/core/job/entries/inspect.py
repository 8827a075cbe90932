"""What is said at Inspect: what was seen on a unit."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car.condition import HAZE_GRADES, UnitCondition
from cold_arc.core.job.entries.kind import EntryKind, Payload, tells_more


@dataclass(frozen=True)
class Inspected(Payload):
    """What was seen on the entry's units."""

    # 2: what the lens is made of, whether it was opened before. 3: tint, mirror's finish.
    ENTRY = EntryKind("inspected", 3, older={1: tells_more, 2: tells_more})

    seen: UnitCondition

    def in_words(self) -> str:
        return f"Inspected: haze {self.seen.haze}, {HAZE_GRADES[self.seen.haze].lower()}"
