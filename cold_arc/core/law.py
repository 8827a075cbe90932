"""What a market's rule says of a choice. From memory, dated, never a substitute for local advice."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.findings import Finding, Level
from cold_arc.core.match.light_source import KINDS

CHECK_LOCALLY = "Check locally: the rule here is from memory and rules change."


@dataclass(frozen=True)
class LawNote:
    """One answer: whether it may go on the road ("yes", "listed", "no"), in words, and whose rule."""

    road: str
    text: str
    source: str


@dataclass(frozen=True)
class Market:
    """A market, the side its traffic keeps to, and its answers by kind of source."""

    id: str
    name: str
    traffic: str
    as_of: dt.date
    notes: dict[str, LawNote]


@cache
def markets() -> dict[str, Market]:
    """All markets by id."""
    table = dict(data.load("markets"))
    as_of = table.pop("as_of")
    return {
        key: Market(
            key,
            row["name"],
            row["traffic"],
            as_of,
            {kind: LawNote(**row[kind]) for kind in KINDS},
        )
        for key, row in table.items()
    }


def judge(market: Market, kind: str, road_use: bool) -> Finding:
    """May a *kind* of source ("bulb", "assembly", "projector") be fitted in this market, for road or off-road use."""
    note = market.notes[kind]
    source = f"{note.source}; as of {market.as_of.isoformat()}"
    if not road_use:
        return Finding(
            Level.NOTE,
            "Off-road or show use only.",
            note.text,
            source=source,
            advice="Write it on the sheet.",
        )
    level = {"yes": Level.OK, "listed": Level.CAUTION, "no": Level.STOP}[note.road]
    text = {
        "yes": "Allowed on the road here.",
        "listed": "On the road only as a listed bulb and vehicle pair.",
        "no": "Not for road use here.",
    }[note.road]
    return Finding(level, text, note.text, source=source, advice=CHECK_LOCALLY)
