"""What is said at Match: what is chosen, refused, known of the feed and of the ballast."""

from __future__ import annotations

import re
from dataclasses import dataclass

from cold_arc.core import ballast
from cold_arc.core.ballast import BallastTest
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.entries.kind import (
    HIGHEST_PRICE,
    EntryKind,
    Payload,
    Subject,
    must,
    tells_more,
)
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import say_count
from cold_arc.core.wiring import leads
from cold_arc.core.wiring.leads import Lead, Switching, WireMap


@dataclass(frozen=True)
class Chosen(Payload):
    """What will be fitted: a source as it stood in the catalogue that day, or None to stay with the
    original.

    *override* is the recorded reason where the market's rule or a stop speaks against it,
    *off_road* that it is for off-road or show use; *accepted*: the ids of the cautions the customer
    accepted.
    """

    # 2: what a whole lamp or a module takes over. 3: the life claimed.
    ENTRY = EntryKind("chosen", 3, older={1: tells_more, 2: tells_more})

    source: LightSource | None
    reason: str
    who: str = ""
    override: str = ""
    off_road: bool = False
    accepted: tuple[str, ...] = ()

    def in_words(self) -> str:
        return f"Chosen: {self.source.name if self.source else 'stay with what is in it'}"


# What may be put in new, like for like.
HOUSING, SEAL, BALLAST, ARC_TUBE = "housing", "seal", "ballast", "arc tube"
RENEWALS = {
    HOUSING: "New housing",
    SEAL: "Lamp opened, new seal",
    BALLAST: "New ballast",
    ARC_TUBE: "New arc tube",
}


def renewed_words(what: str) -> str:
    """What is new, as a sentence says it.

    >>> renewed_words("ballast"), renewed_words("seal")
    ('New ballast like for like', 'Lamp opened, new seal')
    """
    return RENEWALS[what] if what == SEAL else f"{RENEWALS[what]} like for like"


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
        return f"{RENEWALS[self.what]}: not after all" if self.off else renewed_words(self.what)


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
class LeadLaid(Payload):
    """What lies between the plug and the lamp of the entry's sockets."""

    # 2: where each part lies.
    ENTRY = EntryKind("lead", 2, older={1: tells_more})

    lead: Lead

    def must_hold(self) -> None:
        order = list(leads.PARTS)
        kinds = [part.kind for part in self.lead.parts]
        must(set(kinds) <= set(order), "Such a part of a lead")
        must(kinds == sorted(set(kinds), key=order.index), "A lead in such an order")
        must(
            all(
                part.lock in ("", *leads.LOCKS)
                and part.tie in ("", *leads.TIES)
                and 0 < (part.length_m or 1.0) <= leads.LONGEST_LEAD_M
                and len(part.place) <= leads.LONGEST_PLACE
                for part in self.lead.parts
            ),
            "Such a part of a lead",
        )

    def in_words(self) -> str:
        names = ", ".join(leads.PARTS[part.kind].lower() for part in self.lead.parts)
        return f"Lead: {names or 'plug to plug'}"


@dataclass(frozen=True)
class WiresMapped(Payload):
    """Which wire is which at the entry's sockets."""

    ENTRY = EntryKind("wires-mapped")

    map: WireMap

    def must_hold(self) -> None:
        roles = [wire.role for wire in self.map.wires]
        must(set(roles) <= leads.ROLES.keys() and len(roles) == len(set(roles)), "Such a wire")
        must(
            all(
                wire.car and wire.new and wire.found_by in leads.FOUND_BY for wire in self.map.wires
            ),
            "A wire without its colours",
        )
        must(self.map.reversed in ("", *leads.REVERSED), "Such a polarity")
        must(self.map.joint in ("", *leads.JOINTS), "Such a joint")

    def in_words(self) -> str:
        return f"Wire map: {say_count(len(self.map.wires), 'wire')}"


@dataclass(frozen=True)
class SwitchingPlanned(Payload):
    """How the lamps of the entry's sockets, which the car lacked, are switched."""

    ENTRY = EntryKind("switching")

    switching: Switching

    def must_hold(self) -> None:
        must(
            self.switching.by in leads.SWITCHED_BY
            and set(self.switching.off_with) <= leads.OFF_WITH.keys(),
            "Such a switching",
        )

    def in_words(self) -> str:
        return f"Switched: {self.switching.words}"


@dataclass(frozen=True)
class BallastTested(Payload):
    """The ballast test of an HID pair."""

    ENTRY = EntryKind("ballast-tested")

    test: BallastTest

    def must_hold(self) -> None:
        known = self.test.fault in ballast.FAULTS
        must(known and self.test.after_swap in {"", *ballast.AFTER_SWAP}, "Such a ballast test")

    def in_words(self) -> str:
        return f"Ballast test: {self.test.words}"


LONGEST_DRAWN, MOST_WAYS, MOST_TAX = 4000, 3, 50.0
# A signature as drawn: a path of whole steps on a field of 600 by 160.
DRAWN = re.compile(r"(M\d{1,3} \d{1,3}(L\d{1,3} \d{1,3})*)*", re.ASCII)


@dataclass(frozen=True)
class QuotedWay:
    """One way to go as it was quoted: the *id* of its kind, its *name*, the *source* named for it
    ("" for none), *parts* and *labour* in the shop's currency (None: not told), *minutes* for all
    lamps, what the beam will be and what the law says, in words.
    """

    id: str
    name: str
    source: str
    parts: float | None
    labour: float | None
    minutes: float
    beam: str
    law: str

    def asked(self, tax_pct: float) -> float | None:
        """What it costs with taxes; None where parts or labour were not told."""
        if self.parts is None or self.labour is None:
            return None
        return (self.parts + self.labour) * (1 + tax_pct / 100)


@dataclass(frozen=True)
class Quoted(Payload):
    """The ways to go that the customer was shown, the *id* of the one *chosen*, by whom it was
    *signed*; *drawn*: the signature as a path, where one was drawn; *tax_pct* on parts and labour.
    """

    ENTRY = EntryKind("quoted")

    ways: tuple[QuotedWay, ...]
    chosen: str
    tax_pct: float
    signed: str
    drawn: str = ""

    @property
    def way(self) -> QuotedWay:
        """The way chosen."""
        return next(way for way in self.ways if way.id == self.chosen)

    @property
    def strokes(self) -> list[list[tuple[float, float]]]:
        """The signature's strokes, each its points right and down."""
        each = (re.findall(r"(\d+) (\d+)", stroke) for stroke in self.drawn.split("M")[1:])
        return [[(float(x), float(y)) for x, y in stroke] for stroke in each]

    def must_hold(self) -> None:
        must(0 < len(self.ways) <= MOST_WAYS, "A quote of so many ways")
        must(self.chosen in {way.id for way in self.ways}, "A choice that was not quoted")
        must(0 <= self.tax_pct <= MOST_TAX, "Such a tax")
        must(bool(self.signed.strip()), "A quote nobody signed")
        must(
            len(self.drawn) <= LONGEST_DRAWN and DRAWN.fullmatch(self.drawn) is not None,
            "Such a signature",
        )
        figures = [x for way in self.ways for x in (way.parts, way.labour) if x is not None]
        must(all(0 <= x <= HIGHEST_PRICE for x in figures), "Such a price")

    def in_words(self) -> str:
        return f"Quote signed by {self.signed}: {self.way.name}"
