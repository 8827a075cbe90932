"""What is said at Plan: ways in, extra work, parts on order, the day."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core.job.entries.kind import (
    MINUTES_A_DAY,
    EntryKind,
    Payload,
    Plain,
    Subject,
    must,
    tells_more,
)
from cold_arc.core.units import say_count, say_minutes, say_time
from cold_arc.core.work import access, when
from cold_arc.core.work.access import RouteStep
from cold_arc.core.work.extras import extras


def _with_undoing(plain: Plain) -> Plain:
    """A way in told before its steps said how they are undone."""
    return {**plain, "steps": [access.with_undoing(step) for step in plain["steps"]]}


@dataclass(frozen=True)
class Routed(Payload):
    """The way in to the entry's units."""

    # 2: risk, people, plugs. 3: how each step is undone.
    ENTRY = EntryKind("routed", 3, older={1: tells_more, 2: _with_undoing})

    name: str
    steps: tuple[RouteStep, ...]

    def in_words(self) -> str:
        return f"Route: {self.name}, {say_count(len(self.steps), 'step')}"


@dataclass(frozen=True)
class ExtraWork(Payload):
    """What else is done to the entry's units while the car is here: ids of the extra work, in place
    of those before.
    """

    ENTRY = EntryKind("extra-work")

    extras: tuple[str, ...]

    def must_hold(self) -> None:
        must(set(self.extras) <= extras().keys(), "Such extra work")

    def in_words(self) -> str:
        known = [
            extra.text[0].lower() + extra.text[1:]
            for name in self.extras
            if (extra := extras().get(name))
        ]
        return f"Extra work: {'; '.join(known) or 'none'}"


@dataclass(frozen=True)
class Ordered(Payload):
    """A part on order for the entry's units: *due* when it is expected, *arrived* once it is
    here.
    """

    ENTRY = EntryKind("ordered")

    what: str
    due: dt.date | None = None
    arrived: bool = False

    def subject(self) -> Subject:
        return (self.what,)

    def must_hold(self) -> None:
        must(bool(self.what.strip()), "A part without a name")

    def in_words(self) -> str:
        when = f", due {self.due.day} {self.due:%b}" if self.due and not self.arrived else ""
        return f"{self.what} {'arrived' if self.arrived else 'on order'}{when}"


@dataclass(frozen=True)
class PlannedFor(Payload):
    """When the car is worked on: *day* (None: taken off it), minutes after midnight there, how many
    people.
    """

    ENTRY = EntryKind("planned-for")

    day: dt.date | None
    starts_min: int = 540
    people: int = 1

    def must_hold(self) -> None:
        must(self.day is None or when.is_planned(self.day), "Such a day")
        must(
            0 <= self.starts_min < MINUTES_A_DAY and 1 <= self.people <= access.MOST_PEOPLE,
            "Such a time",
        )

    def in_words(self) -> str:
        if self.day is None:
            return "Taken off the day plan"
        return f"Planned for {self.day.day} {self.day:%b}, {say_time(self.starts_min)}"


@dataclass(frozen=True)
class PlanKept(Payload):
    """The car's plan as it stood: its minutes, each step in words, fasteners by kind."""

    ENTRY = EntryKind("plan-kept")

    minutes: float
    one_by_one: float
    steps: tuple[str, ...]
    fasteners: int

    def subject(self) -> Subject:
        return None

    def in_words(self) -> str:
        return f"Plan kept: {say_minutes(self.minutes)}, {say_count(len(self.steps), 'step')}"
