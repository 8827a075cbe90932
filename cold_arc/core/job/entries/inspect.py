"""What is said at Inspect: what was seen on a unit."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car import damage
from cold_arc.core.car.condition import HAZE_GRADES, UnitCondition
from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must, tells_more


@dataclass(frozen=True)
class Inspected(Payload):
    """What was seen on the entry's units."""

    # 2: what the lens is made of, whether it was opened before. 3: tint, mirror's finish.
    ENTRY = EntryKind("inspected", 3, older={1: tells_more, 2: tells_more})

    seen: UnitCondition

    def in_words(self) -> str:
        return f"Inspected: haze {self.seen.haze}, {HAZE_GRADES[self.seen.haze].lower()}"


@dataclass(frozen=True)
class DamageSeen(Payload):
    """Damage as the car came: its *place* (a lamp's key as written, or of ``damage.BODY``), *what*
    (of ``damage.KINDS``); *off*: it is none after all.
    """

    ENTRY = EntryKind("damage-seen")

    place: str
    what: str
    note: str = ""
    off: bool = False

    def subject(self) -> Subject:
        return self.place, self.what

    def must_hold(self) -> None:
        must(damage.is_place(self.place) and self.what in damage.KINDS, "Such damage")

    def in_words(self) -> str:
        taken = " taken back" if self.off else ""
        return f"Damage{taken}: {damage.KINDS[self.what].lower()}"


@dataclass(frozen=True)
class AsItCameShown(Payload):
    """What was broken before was shown to the customer, who signed it: by name."""

    ENTRY = EntryKind("as-it-came-shown")

    signed: str

    def must_hold(self) -> None:
        must(bool(self.signed.strip()), "A signature without a name")

    def in_words(self) -> str:
        return f"As it came, signed by {self.signed}"
