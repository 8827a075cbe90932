"""What is said at Hand over."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core.job.entries.kind import HIGHEST_PRICE, EntryKind, Payload, must, tells_more


@dataclass(frozen=True)
class HandedOver(Payload):
    """The close of the job. *cautions* are the ids of those the customer was told; *marks*: the
    approval marks read on whole lamps fitted; *asked*: the price in all, with taxes, in the shop's
    currency.
    """

    # 2: the price asked.
    ENTRY = EntryKind("handed-over", 2, older={1: tells_more})

    technician: str
    cautions: tuple[str, ...]
    law_told: bool
    old_parts_kept: bool
    recheck: dt.date
    warranty_end: dt.date | None = None
    switching: str = ""
    note: str = ""
    marks: str = ""
    asked: float | None = None

    def must_hold(self) -> None:
        must(self.asked is None or 0 <= self.asked <= HIGHEST_PRICE, "Such a price")

    def in_words(self) -> str:
        return f"Customer sheet by {self.technician}"


# What the levelling did under load.
LEVELLING = {"none": "The car has none", "moves": "Moves as it should", "stuck": "Does not move"}
LONGEST_DRIVE_MIN = 600.0


@dataclass(frozen=True)
class TestDriven(Payload):
    """The test drive: by whom, how many *minutes*, *where*; whether anyone *flashed*, a fan or a
    hum was *heard*, it was in the *wet*; what the *levelling* did.
    """

    ENTRY = EntryKind("test-driven")
    __test__ = False

    who: str
    minutes: float
    where: str
    flashed: bool = False
    heard: bool = False
    wet: bool = False
    levelling: str = "none"
    note: str = ""

    def must_hold(self) -> None:
        must(0 < self.minutes <= LONGEST_DRIVE_MIN, "Such a drive")
        must(self.levelling in LEVELLING, "Such a levelling")

    def in_words(self) -> str:
        return f"Test drive by {self.who}"
