"""What is said at Hand over."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core.job.entries.kind import EntryKind, Payload


@dataclass(frozen=True)
class HandedOver(Payload):
    """The close of the job. *cautions* are the ids of those the customer was told; *marks*: the
    approval marks read on whole lamps fitted.
    """

    ENTRY = EntryKind("handed-over")

    technician: str
    cautions: tuple[str, ...]
    law_told: bool
    old_parts_kept: bool
    recheck: dt.date
    warranty_end: dt.date | None = None
    switching: str = ""
    note: str = ""
    marks: str = ""

    def in_words(self) -> str:
        return f"Customer sheet by {self.technician}"
