"""What a market's rule says of a choice. From memory, dated, never a substitute for local
advice.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import KINDS, OWN_PLACE
from cold_arc.core.references import Sources, read
from cold_arc.core.units import UnitSystem, say_offset, worded

# A tape is read no better, m (own).
HEIGHT_SLACK_M = 0.001
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
class MountingHeight:
    """How high a lamp may stand above the ground, m, both included."""

    from_m: float
    to_m: float
    advice: str
    sources: Sources


@dataclass(frozen=True)
class SwitchRule:
    """How a lamp is switched: *by* one of these, *off_with* all of these (the ids of
    ``wiring.leads``), with a *telltale* or without; in words.
    """

    by: tuple[str, ...]
    off_with: tuple[str, ...]
    telltale: bool
    text: str
    sources: Sources


@dataclass(frozen=True)
class Market:
    """A market, the side its traffic keeps to, its answers by kind of source and of a lamp
    *opened*, how high lamps of each function may stand and how they are switched.
    """

    id: str
    name: str
    traffic: Traffic
    as_of: dt.date
    notes: dict[str, LawNote]
    mounted: dict[str, MountingHeight]
    switched: dict[str, SwitchRule]
    opened: LawNote


def _note(row: dict[str, Any]) -> LawNote:
    return LawNote(row["road"], row["text"], read(row["source"]))


def _mounting(row: dict[str, Any]) -> MountingHeight:
    return MountingHeight(row["from"], row["to"], row["advice"], read(row["source"]))


def _switching(row: dict[str, Any]) -> SwitchRule:
    return SwitchRule(
        tuple(row["by"]),
        tuple(row["off_with"]),
        row["telltale"],
        row["text"],
        read(row["source"]),
    )


def traffic_of(market: str) -> Traffic:
    """The side of the road a market drives on, "right" where it is not known."""
    known = markets().get(market)
    return known.traffic if known else Traffic.RIGHT


@cache
def markets() -> dict[str, Market]:
    """All markets by id."""
    table = dict(data.load("markets"))
    as_of = table.pop("as_of")
    return {
        key: Market(
            key,
            row["name"],
            Traffic(row["traffic"]),
            as_of,
            {kind: _note(row[kind]) for kind in KINDS},
            {function: _mounting(rule) for function, rule in row.get("mounted", {}).items()},
            {function: _switching(rule) for function, rule in row.get("switched", {}).items()},
            _note(row["opened"]),
        )
        for key, row in table.items()
    }


def mounting_words(
    market: str, function: Function, height_m: float, system: UnitSystem
) -> list[Finding]:
    """A word where a lamp stands lower or higher than its market has such lamps."""
    known = markets().get(market)
    rule = known.mounted.get(function) if known else None
    if rule is None or rule.from_m - HEIGHT_SLACK_M <= height_m <= rule.to_m + HEIGHT_SLACK_M:
        return []
    off = "lower" if height_m < rule.from_m else "higher"
    low, high = (say_offset(metres, system) for metres in (rule.from_m, rule.to_m))
    return [
        Finding(
            "height-unlawful",
            Level.CAUTION,
            worded("The lamp stands {off} than such lamps may.", off=off),
            rule.sources,
            say_offset(height_m, system),
            worded("{low} to {high}", low=low, high=high),
            worded(
                "Measure it again, from the ground. {advice} {check_locally}",
                advice=rule.advice,
                check_locally=CHECK_LOCALLY,
            ),
        )
    ]


# How bad each word of a market's on road use is, and what it says of a lamp that was opened.
LEVELS = {"yes": Level.OK, "listed": Level.CAUTION, "no": Level.STOP}
OPENED = {
    "yes": "The lamp was opened: it keeps its approval here.",
    "listed": "The lamp was opened: whether its approval still stands is in doubt.",
    "no": "The lamp was opened: it is not for road use here any more.",
}


def opened(market: Market, road_use: bool) -> Finding:
    """What a market says of a lamp that was opened and sealed anew."""
    return Finding(
        "lamp-opened",
        LEVELS[market.opened.road] if road_use else Level.NOTE,
        OPENED[market.opened.road],
        market.opened.sources,
        market.opened.text,
        advice=worded(
            "The customer is told, and the sheet says so. {check_locally}",
            check_locally=CHECK_LOCALLY,
        ),
    )


def judge(market: Market, kind: str, road_use: bool, marks: str = "") -> Finding:
    """May a *kind* of source ("bulb", "assembly", "module", "projector") be fitted in this market,
    for road or off-road use; *marks*: the approval marks read on a whole lamp or a module, by which
    alone it may.
    """
    note = market.notes[kind]
    sources = tuple(
        replace(source, clause=f"as of {market.as_of.isoformat()}") for source in note.sources
    )
    if not road_use:
        return Finding(
            "off-road",
            Level.NOTE,
            "Off-road or show use only.",
            sources,
            note.text,
            advice="The customer is told, and the sheet says so.",
        )
    if kind in OWN_PLACE and note.road == "yes" and not marks:
        return Finding(
            "marks-unread",
            Level.CAUTION,
            "On the road here by its own approval marks alone: none are read yet.",
            sources,
            note.text,
            advice=worded(
                "Read them on the lamp in hand and record them. {check_locally}",
                check_locally=CHECK_LOCALLY,
            ),
        )
    level = LEVELS[note.road]
    text = {
        "yes": "Allowed on the road here.",
        "listed": "On the road only as a listed bulb and vehicle pair.",
        "no": "Not for road use here.",
    }[note.road]
    number = (
        worded("Marks read: {marks}. {text}", marks=marks, text=note.text)
        if marks and kind in OWN_PLACE
        else note.text
    )
    return Finding(f"law-{note.road}", level, text, sources, number, advice=CHECK_LOCALLY)
