"""Days of the shop as iCalendar (RFC 5545): jobs due, re-checks, ends of warranty; read by any
calendar.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass

from icalendar import Calendar, Event

PRODUCT = "-//Cold Arc//Cold Arc//EN"


@dataclass(frozen=True)
class CalendarDay:
    """One whole day to keep: *uid* stays the same for the same thing, so that a calendar renews
    it.
    """

    uid: str
    day: dt.date
    summary: str
    description: str = ""


def write_calendar(days: Iterable[CalendarDay], name: str, made: dt.datetime) -> bytes:
    """The days as one iCalendar file; *made*: the moment it was made (aware)."""
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for day in days:
        event = Event()
        event.add("uid", day.uid)
        event.add("dtstamp", made.astimezone(dt.UTC))
        event.add("dtstart", day.day)
        event.add("dtend", day.day + dt.timedelta(days=1))
        event.add("summary", day.summary)
        event.add("transp", "TRANSPARENT")
        if day.description:
            event.add("description", day.description)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
