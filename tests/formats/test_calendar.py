"""iCalendar: what is written is read back by the library, and holds what RFC 5545 asks for."""

import datetime as dt

from hypothesis import given
from hypothesis import strategies as st
from icalendar import Calendar

from cold_arc.formats.calendar import CalendarDay, write_calendar

MADE = dt.datetime(2026, 11, 26, 9, tzinfo=dt.UTC)


def events(data):
    return list(Calendar.from_ical(data).walk("VEVENT"))


def test_a_day_is_a_whole_day_and_keeps_its_id():
    data = write_calendar(
        [CalendarDay("job-1-due@shop", dt.date(2026, 12, 1), "TL-1 due", "Velmar Dorin")],
        "Tallow Lane",
        MADE,
    )
    (event,) = events(data)
    assert event.decoded("dtstart") == dt.date(2026, 12, 1)
    assert event.decoded("dtend") == dt.date(2026, 12, 2)
    assert (str(event["uid"]), str(event["summary"])) == ("job-1-due@shop", "TL-1 due")
    assert data.startswith(b"BEGIN:VCALENDAR\r\n")
    assert all(len(line) <= 75 for line in data.split(b"\r\n"))


TEXT = st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=120).filter(
    str.strip
)


@given(TEXT, st.dates(dt.date(2000, 1, 1), dt.date(2100, 1, 1)))
def test_any_text_and_day_come_back(text, day):
    (event,) = events(write_calendar([CalendarDay("x@shop", day, text)], "s", MADE))
    assert str(event["summary"]) == text
    assert event.decoded("dtstart") == day
