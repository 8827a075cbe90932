"""What a market's rule says of a choice. From memory, dated, never a substitute for local
advice.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import KINDS
from cold_arc.core.references import Sources, read

CHECK_LOCALLY = "Check locally: the rule here is from memory and rules change."


@dataclass(frozen=True)
class LawNote:
    """One answer: whether it may go on the road ("yes", "listed", "no"), in words, and whose
    rule.
    """

    road: str
    text: str
    sources: Sources


@dataclass(frozen=True)
class Market:
    """A market, the side its traffic keeps to, and its answers by kind of source."""

    id: str
    name: str
    traffic: str
    as_of: dt.date
    notes: dict[str, LawNote]


def _note(row: dict[str, Any]) -> LawNote:
    return LawNote(row["road"], row["text"], read(row["source"]))


def traffic_of(market: str) -> str:
    """The side of the road a market drives on, "right" where it is not known."""
    known = markets().get(market)
    return known.traffic if known else "right"


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
            {kind: _note(row[kind]) for kind in KINDS},
        )
        for key, row in table.items()
    }


def judge(market: Market, kind: str, road_use: bool) -> Finding:
    """May a *kind* of source ("bulb", "assembly", "projector") be fitted in this market, for road
    or off-road use.
    """
    note = market.notes[kind]
    sources = tuple(
        replace(source, clause=f"as of {market.as_of.isoformat()}") for source in note.sources
    )
    if not road_use:
        return Finding(
            Level.NOTE,
            "Off-road or show use only.",
            sources,
            note.text,
            advice="Write it on the sheet.",
        )
    level = {"yes": Level.OK, "listed": Level.CAUTION, "no": Level.STOP}[note.road]
    text = {
        "yes": "Allowed on the road here.",
        "listed": "On the road only as a listed bulb and vehicle pair.",
        "no": "Not for road use here.",
    }[note.road]
    return Finding(level, text, sources, note.text, advice=CHECK_LOCALLY)
