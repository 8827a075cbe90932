"""Lamps that make a pair: what hangs on one side against what hangs on the other."""

from __future__ import annotations

from collections.abc import Collection

from cold_arc.core.car.keys import SocketKey, across
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.facts import leaves_with
from cold_arc.core.job.record import Record
from cold_arc.core.light_source import LightSource
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

AS_IT_CAME = "as it came"
# Markets whose rule it is (UN R48 on lamps that make a pair, from memory).
BY_UN = ("un", "uk")


def pair_findings(
    record: Record, tried: Collection[SocketKey] = (), looked: LightSource | None = None
) -> list[Finding]:
    """A caution for each pair of which one side gets another light than the other has; *looked*:
    what the sockets *tried* would get. A side that is worked on and not decided says nothing.
    """
    lefts = dict.fromkeys(
        key if key.side is Side.LEFT else across(key) for key in (*record.sockets, *tried)
    )
    findings = []
    for left in lefts:
        names = [
            looked.name if looked and key in tried else _name(record, key)
            for key in (left, across(left))
        ]
        if "" not in names and names[0] != names[1]:
            findings.append(_differ(record, left, *names))
    return findings


def _name(record: Record, key: SocketKey) -> str:
    """What is in a socket once the job is done; "" where it is not decided."""
    if key in record.sockets and record.latest(Chosen, key) is None:
        return ""
    source = leaves_with(record, key)
    return source.name if source else AS_IT_CAME


def _differ(record: Record, left: SocketKey, of_left: str, of_right: str) -> Finding:
    return Finding(
        "pair-differs",
        Level.CAUTION,
        worded(
            "{lamp}: one side gets another light than the other.", lamp=record.front.words(left)
        ),
        cite("un-r48") if record.booking and record.booking.market in BY_UN else PRACTICE,
        worded("{left} left, {right} right", left=of_left, right=of_right),
        advice="A pair must be alike in colour and light: do both sides, or neither.",
    )
