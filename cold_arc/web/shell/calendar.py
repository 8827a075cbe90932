"""The shop's days as a calendar to subscribe to: jobs due, re-checks, ends of warranty; and a job's
own.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator

from flask import Blueprint, Response, abort, request

from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.plan import PlannedFor
from cold_arc.core.job.later import recheck_due
from cold_arc.core.units import say_time
from cold_arc.formats.calendar import CalendarDay, write_calendar
from cold_arc.store import board, catalogue, jobs
from cold_arc.store.jobs import Job
from cold_arc.web.shell.db import session

bp = Blueprint("calendar", __name__)
MOST_DUE, MOST_CLOSED = 500, 100


@bp.get("/calendar.ics")
def feed() -> Response:
    """Every open job's due date, and what is to come of those handed over last."""
    today = dt.date.today()
    cards = (card for name in board.LANES for card in board.lane(session(), name, today, MOST_DUE))
    days = [
        CalendarDay(_uid(card.id, "due"), card.due, f"{card.reference} due", card.vehicle)
        for card in cards
        if card.due
    ]
    for job in _loaded(board.to_come(session(), today, MOST_CLOSED)):
        days += _planned(job)
    for job in _loaded(card.id for card in board.handed_over(session(), MOST_CLOSED)):
        days += _after(job)
    return _file(days, catalogue.setting(session(), "shop_name", "Cold Arc"), "shop")


def _loaded(numbers: Iterable[int]) -> Iterator[Job]:
    """The jobs of these numbers that are there."""
    return filter(None, (jobs.load(session(), number) for number in numbers))


@bp.get("/jobs/<int:job_id>/calendar.ics")
def of_job(job_id: int) -> Response:
    """One job's days: for the customer's own calendar."""
    job = jobs.load(session(), job_id)
    if job is None:
        abort(404)
    booking = job.booking
    due = (
        [CalendarDay(_uid(job_id, "due"), booking.due, f"{booking.reference} due", booking.vehicle)]
        if booking.due
        else []
    )
    return _file([*due, *_planned(job), *_after(job)], booking.reference, booking.reference)


def _planned(job: Job) -> Iterator[CalendarDay]:
    """The day a job is worked on."""
    planned, booking = job.record.latest(PlannedFor), job.booking
    if planned is not None and planned.day is not None:
        start = f"{say_time(planned.starts_min)} at the car"
        yield CalendarDay(
            _uid(job.id, "work"), planned.day, f"{booking.reference} {start}", booking.vehicle
        )


def _after(job: Job) -> Iterator[CalendarDay]:
    """What comes after a job was handed over."""
    handed_over, booking = job.record.latest(HandedOver), job.booking
    if handed_over is None:
        return
    if due := recheck_due(job.record):
        yield CalendarDay(
            _uid(job.id, "recheck"),
            due,
            f"{booking.reference} re-check",
            f"{booking.vehicle}: aim, moisture, seat",
        )
    if handed_over.warranty_end:
        yield CalendarDay(
            _uid(job.id, "warranty"),
            handed_over.warranty_end,
            f"{booking.reference} warranty ends",
            booking.vehicle,
        )


def _uid(job_id: int, what: str) -> str:
    return f"job-{job_id}-{what}@{request.host.partition(':')[0]}"


def _file(days: list[CalendarDay], name: str, file: str) -> Response:
    plain = "".join(
        sign if sign.isascii() and (sign.isalnum() or sign in "-_") else "-" for sign in file
    )[:60]
    return Response(
        write_calendar(days, name, dt.datetime.now(dt.UTC)),
        mimetype="text/calendar",
        headers={"Content-Disposition": f'attachment; filename="{plain}.ics"'},
    )
