"""What is said of a car that comes back: what was fitted then, how it left, what is held against
it, a claim.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must, tells_more
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import say_number, say_percent

RECHECK, WORK = "recheck", "work"
VISITS = {RECHECK: "Re-check", WORK: "More work"}
MOST_HOURS = 100_000.0
# What a light source, or the work, is claimed for.
CLAIMS = {
    "dead": "Dark",
    "flicker": "Flickers",
    "faded": "Faded",
    "colour": "Changed colour",
    "moisture": "Moisture in the lamp",
    "loose": "Loose in its seat",
    "fan": "Fan loud or still",
    "warning": "Warning in the car",
    "aim": "Aim did not hold",
    "other": "Something else",
}
# How a claim ended.
SETTLED = {"open": "Not settled", "replaced": "Replaced", "repaid": "Repaid", "refused": "Refused"}


@dataclass(frozen=True)
class Returned(Payload):
    """The car was here before: *visit* says why it is again, *reference* which job that was, which
    left on *left_on*.
    """

    ENTRY = EntryKind("returned")

    visit: str
    reference: str
    left_on: dt.date

    def must_hold(self) -> None:
        must(self.visit in VISITS, "Such a visit")

    def in_words(self) -> str:
        return f"{VISITS[self.visit]}: here before as {self.reference}"


@dataclass(frozen=True)
class FittedBefore(Payload):
    """What an earlier job, *reference*, put into the entry's sockets, and when it left; *off_road*:
    for such use alone; *marks*: the approval marks read then; *warranty_end*: of its parts.
    """

    ENTRY = EntryKind("fitted-before", 2, older={1: tells_more})

    source: LightSource
    reference: str
    left_on: dt.date
    off_road: bool = False
    marks: str = ""
    warranty_end: dt.date | None = None

    def in_words(self) -> str:
        return f"In since {self.reference}: {self.source.name}"


@dataclass(frozen=True)
class LeftSo(Payload):
    """How the entry's beam left the earlier job: *slope*, up positive, and *sideways*, right
    positive, where it was read.
    """

    ENTRY = EntryKind("left-so")

    slope: float
    sideways: float | None = None

    def must_hold(self) -> None:
        must(abs(self.slope) <= 1 and abs(self.sideways or 0.0) <= 1, "Such an aim")

    def in_words(self) -> str:
        return f"Aim as it left then: {say_percent(self.slope, 2)}"


@dataclass(frozen=True)
class HoursLit(Payload):
    """How long the lamps were lit since then, about, in hours."""

    ENTRY = EntryKind("hours-lit")

    hours: float

    def must_hold(self) -> None:
        must(0 < self.hours <= MOST_HOURS, "So many hours")

    def in_words(self) -> str:
        return f"Lit since then: about {say_number(self.hours)} h"


@dataclass(frozen=True)
class Claimed(Payload):
    """A claim about what was fitted in the entry's sockets: *source* by name, its *reasons*, how it
    was *settled*, a *note*.
    """

    ENTRY = EntryKind("claimed")

    source: str
    reasons: tuple[str, ...]
    settled: str = "open"
    note: str = ""

    def subject(self) -> Subject:
        return (self.source,)

    def must_hold(self) -> None:
        must(bool(self.reasons) and set(self.reasons) <= set(CLAIMS), "Such a claim")
        must(self.settled in SETTLED, "Such an end of a claim")

    def in_words(self) -> str:
        why = ", ".join(CLAIMS[reason].lower() for reason in self.reasons)
        return f"Claim on {self.source}: {why}; {SETTLED[self.settled].lower()}"


@dataclass(frozen=True)
class FollowedUp(Payload):
    """The car came back: the job it came as, by *reference*, and why."""

    ENTRY = EntryKind("followed-up")

    visit: str
    reference: str

    def subject(self) -> Subject:
        return self.visit, self.reference

    def must_hold(self) -> None:
        must(self.visit in VISITS, "Such a visit")

    def in_words(self) -> str:
        return f"Came back as {self.reference}: {VISITS[self.visit].lower()}"
