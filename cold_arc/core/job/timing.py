"""How long the work at the car took: the clock that is started and stopped at Fit, and what was
ticked while it ran.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable

from cold_arc.core.job.entries.fit import ClockRan, Ticked
from cold_arc.core.job.record import Entry, Record
from cold_arc.core.work.composing import Opening

# What is ticked so soon after another was not worked at in between; what took longer was left alone
# (own).
LEAST_MIN, MOST_MIN = 0.05, 240.0


def ran_min(entries: Iterable[Entry], until: dt.datetime) -> float:
    """For how many minutes the clock ran up to a moment."""
    total, since = 0.0, None
    for entry in entries:
        if isinstance(entry.payload, ClockRan) and entry.at <= until:
            total += _minutes(since, entry.at)
            since = entry.at if entry.payload.running else None
    return total + _minutes(since, until)


def _minutes(since: dt.datetime | None, until: dt.datetime) -> float:
    return max((until - since).total_seconds(), 0.0) / 60 if since else 0.0


def is_running(record: Record) -> bool:
    """Whether the clock runs."""
    newest = record.latest(ClockRan)
    return newest is not None and newest.running


def step_min(record: Record, now: dt.datetime, who: str = "") -> float:
    """For how many minutes the step under hand has been worked at by one of those at the car."""
    ticks = [
        entry.at
        for entry in record.entries
        if isinstance(entry.payload, Ticked) and entry.payload.who == who
    ]
    return ran_min(record.entries, now) - (ran_min(record.entries, ticks[-1]) if ticks else 0.0)


def actual_min(record: Record) -> dict[str, float]:
    """Minutes each ticked step took while the clock ran, by its name in the tick; what can't be
    told is left out.

    A step is timed from the tick before it of the same person, or from when the clock first ran;
    not while it stands. What was told in one go shares its minutes evenly.
    """
    spent: dict[str, float] = {}
    for minutes, steps in _goes(record):
        for step in steps if minutes else ():
            spent[step] = spent.get(step, 0.0) + minutes / len(steps)
    return spent


def _goes(record: Record) -> list[tuple[float, list[str]]]:
    """What was ticked at once, by each person, in order: for how many minutes it was worked at, 0
    where that can't be told, and the steps.
    """
    goes: list[tuple[float, list[str]]] = []
    total, since = 0.0, None
    before, newest = dict[str, float](), dict[str, list[str]]()
    for entry in record.entries:
        payload = entry.payload
        if isinstance(payload, ClockRan):
            total += _minutes(since, entry.at)
            since = entry.at if payload.running else None
        elif isinstance(payload, Ticked):
            at = total + _minutes(since, entry.at)
            took = at - before.get(payload.who, 0.0)
            before[payload.who] = at
            if payload.who not in newest or not since or took >= LEAST_MIN:
                newest[payload.who] = []
                goes.append((took if since and _is_told(took) else 0.0, newest[payload.who]))
            newest[payload.who].append(payload.step)
    return goes


def _is_told(took_min: float) -> bool:
    return LEAST_MIN <= took_min <= MOST_MIN


def opening_min(spent: dict[str, float], opening: Opening) -> float | None:
    """What a part took, opened and, where it comes back, closed; None where one of the two was not
    timed.
    """
    ticks = ("route", "close") if opening.step.comes_back else ("route",)
    minutes = [
        sum(spent.get(f"{tick}:{number}", 0.0) for number in {*opening.ids.values()})
        for tick in ticks
    ]
    return sum(minutes) if all(minutes) else None
