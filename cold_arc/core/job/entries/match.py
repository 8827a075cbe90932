"""What is said at Match: what is chosen, refused, known of the feed and of the ballast."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core import ballast
from cold_arc.core.ballast import BallastTest
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.entries.kind import EntryKind, Payload, Subject, must, tells_more
from cold_arc.core.light_source import LightSource


@dataclass(frozen=True)
class Chosen(Payload):
    """What will be fitted: a source as it stood in the catalogue that day, or None to stay with the
    original.

    *override* is the recorded reason where the market's rule or a stop speaks against it,
    *off_road* that it is for off-road or show use; *accepted*: the ids of the cautions the customer
    accepted.
    """

    # 2: what a whole lamp or a module takes over.
    ENTRY = EntryKind("chosen", 2, older={1: tells_more})

    source: LightSource | None
    reason: str
    who: str = ""
    override: str = ""
    off_road: bool = False
    accepted: tuple[str, ...] = ()

    def in_words(self) -> str:
        return f"Chosen: {self.source.name if self.source else 'stay with the original'}"


# What may be put in new, like for like.
HOUSING, BALLAST, ARC_TUBE = "housing", "ballast", "arc tube"
RENEWALS = {HOUSING: "New housing", BALLAST: "New ballast", ARC_TUBE: "New arc tube"}
HIGHEST_PRICE = 1e6


@dataclass(frozen=True)
class Renewed(Payload):
    """A part of the entry's sockets, or of their lamp, is put in new like for like; *price* of one
    in the shop's currency; *off*: it is not after all.
    """

    ENTRY = EntryKind("renewed")

    what: str
    price: float | None = None
    off: bool = False

    def subject(self) -> Subject:
        return (self.what,)

    def must_hold(self) -> None:
        must(self.what in RENEWALS, "A part that is none of those")
        must(self.price is None or 0 <= self.price <= HIGHEST_PRICE, "Such a price")

    def in_words(self) -> str:
        return f"{RENEWALS[self.what]}: {'not after all' if self.off else 'like for like'}"


@dataclass(frozen=True)
class Refused(Payload):
    """Asked for and not fitted: *source* by name, why, and who said no."""

    ENTRY = EntryKind("refused")

    source: str
    reason: str
    who: str = ""

    def in_words(self) -> str:
        return f"Refused: {self.source}"


@dataclass(frozen=True)
class Supplied(Payload):
    """What is known of the sockets' electrical feed."""

    # 2: the tap. 3: what an added feed is for, and the slot's rating.
    ENTRY = EntryKind("supplied", 3, older={1: tells_more, 2: tells_more})

    facts: SupplyFacts

    def in_words(self) -> str:
        return "Facts of the feed"


@dataclass(frozen=True)
class BallastTested(Payload):
    """The ballast test of an HID pair."""

    ENTRY = EntryKind("ballast-tested")

    test: BallastTest

    def in_words(self) -> str:
        return f"Ballast test: {ballast.CAUSES[ballast.cause(self.test)].lower().rstrip('.')}"
