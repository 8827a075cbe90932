"""What is said at Fit, at the car."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.job.entries.kind import (
    LONGEST_BULB_MM,
    EntryKind,
    Payload,
    Phase,
    Subject,
    must,
    must_be_a_phase,
    tells_more,
)
from cold_arc.core.units import say_clock_angle
from cold_arc.core.work import access
from cold_arc.core.work.tick import MADE_LIVE, Tick, TickKind


@dataclass(frozen=True)
class Ticked(Payload):
    """A step done; *step* is "route:3" or "close:3" or "extra:polish", of units, or "fit:seat", of
    sockets.

    *who* did it, as told on that device; *reason*: why a panel was closed over what should have
    come first.
    """

    # 2: by whom.
    ENTRY = EntryKind("ticked", 2, older={1: tells_more})

    step: Tick
    who: str = ""
    reason: str = ""

    def subject(self) -> Subject:
        return (self.step,)

    def in_words(self) -> str:
        did = _DID.get(self.step) or _DID.get(self.step.kind or "", self.step)
        by = f" by {self.who}" if self.who else ""
        why = f": {self.reason}" if self.reason else ""
        return f"Step ticked ({did}){by}{why}"


@dataclass(frozen=True)
class ClockRan(Payload):
    """The clock of the work at the car was started, or stopped."""

    ENTRY = EntryKind("clock-ran")

    running: bool

    def subject(self) -> Subject:
        return None

    def in_words(self) -> str:
        return f"Clock {'started' if self.running else 'stopped'}"


@dataclass(frozen=True)
class Checked(Payload):
    """A check at the lamp: whether it is right, what was seen; of an O-ring its thickness and the
    one needed.
    """

    ENTRY = EntryKind("checked")

    check: str
    right: bool
    note: str = ""
    fitted_mm: float | None = None
    needed_mm: float | None = None

    def subject(self) -> Subject:
        return (self.check,)

    def must_hold(self) -> None:
        sizes = [size for size in (self.fitted_mm, self.needed_mm) if size is not None]
        must(
            bool(self.check) and all(0 < size <= LONGEST_BULB_MM for size in sizes), "Such a check"
        )

    def in_words(self) -> str:
        return (
            f"{self.check}: "
            f"{'right' if self.right else 'not right'}{f', {self.note}' if self.note else ''}"
        )


@dataclass(frozen=True)
class Pictured(Payload):
    """A picture kept by the shop under a number, taken *phase* ("before" or "after") a step at
    Fit.
    """

    ENTRY = EntryKind("pictured")

    picture: int
    phase: Phase
    step: str = ""
    note: str = ""

    def subject(self) -> Subject:
        return (self.picture,)

    def must_hold(self) -> None:
        must_be_a_phase(self.phase)
        must(self.picture > 0, "Such a picture")

    def in_words(self) -> str:
        return f"Picture {self.phase} a step"


@dataclass(frozen=True)
class FastenerBack(Payload):
    """Fasteners of one step accounted for: *back* in place, *noted* missing or replaced, and why.

    *place* as the route says it ("": of an entry made before places told two groups of one kind
    apart). Of the *noted*, *broken* broke; *ordered*: new ones are. *lies*: where those that are
    out lie; *counted*: how many there were, where the plan told a range (0: not counted).
    """

    # 2: which broke, and where they lie. 3: how many there were.
    ENTRY = EntryKind("fasteners-back", 3, older={1: tells_more, 2: tells_more})

    step: int
    kind: str
    back: int
    noted: int = 0
    note: str = ""
    place: str = ""
    broken: int = 0
    ordered: bool = False
    lies: str = ""
    counted: int = 0

    def subject(self) -> Subject:
        return self.step, self.kind, self.place

    def must_hold(self) -> None:
        must(self.back >= 0 and 0 <= self.broken <= self.noted, "Such a count")
        must(0 <= self.counted <= access.MOST_FASTENERS, "Such a count")

    def in_words(self) -> str:
        gone = [f"{count} {word}" for count, word in _gone(self) if count]
        return f"Fasteners: {', '.join([f'{self.back} {self.kind} back', *gone])}"


@dataclass(frozen=True)
class Clocked(Payload):
    """Where the bulb stopped when it locked, degrees clockwise from upright, seen from behind.

    *depth_mm*: the middle of its chips above the reference plane, by caliper, where it was taken.
    """

    # 2: the depth.
    ENTRY = EntryKind("clocked", 2, older={1: tells_more})

    stopped_deg: float
    typed: str = ""
    depth_mm: float | None = None

    def must_hold(self) -> None:
        must(abs(self.stopped_deg) <= 360, "More than a full turn")
        must(self.depth_mm is None or 0 < self.depth_mm <= LONGEST_BULB_MM, "Such a depth")

    def in_words(self) -> str:
        return f"Clocking: stopped {say_clock_angle(self.stopped_deg)}"


def _gone(fasteners: FastenerBack) -> list[tuple[int, str]]:
    return [(fasteners.broken, "broken"), (fasteners.noted - fasteners.broken, "noted")]


# What a ticked step did, by itself or by its kind.
_DID: dict[str, str] = {
    MADE_LIVE: "battery on",
    TickKind.SAFE: "made safe",
    TickKind.ROUTE: "opened",
    TickKind.CLOSE: "closed",
    TickKind.EXTRA: "extra work",
    TickKind.FIT: "fitted",
    TickKind.TOOLS: "tools counted",
}
