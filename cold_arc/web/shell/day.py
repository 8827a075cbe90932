"""A day of the shop: which cars are worked on when, from when the wall is dark, and where people or
parts are short.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace

from flask import Blueprint, render_template, request

from cold_arc.core.job.carwork import day_of, learnt_plan, on_order, still_to_do, tasks
from cold_arc.core.job.entries.plan import PlannedFor
from cold_arc.core.units import say_time
from cold_arc.core.work import when
from cold_arc.core.work.when import Visit
from cold_arc.store import board, jobs, work_done
from cold_arc.store.jobs import Job
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session
from cold_arc.web.shell.place import has_dark_bay, shop_people, shop_place

bp = Blueprint("day", __name__)
MOST_SHOWN = 24
# The drawing: a thousand wide from the first hour to the last.
WIDTH, ROW, TOP, FROM_H, TO_H = 1000.0, 46.0, 26.0, 7, 24


@dataclass(frozen=True)
class Car:
    """One car of the day: its job, when its hands are and its wall, and the parts that are not here
    by then.
    """

    job: Job
    visit: Visit
    waits: tuple[str, ...]
    wall_from: float = 0.0

    @property
    def wall_to(self) -> float:
        """When it leaves the wall."""
        return self.wall_from + self.visit.wall


def car_of(job: Job, day: dt.date) -> Car:
    """A job as its plan for the day has it."""
    planned = job.record.latest(PlannedFor)
    people = planned.people if planned else 1
    known = work_done.known(session(), job.booking, job.id)
    left = still_to_do(job.record, tasks(job.record, learnt_plan(job.record, known)))
    spent = day_of(left, people)
    late = tuple(
        order.what for order in on_order(job.record) if order.due is None or order.due > day
    )
    starts = float(planned.starts_min if planned else when.OPENS_MIN)
    return Car(job, Visit(job.booking.reference, starts, spent.hands, spent.wall, people), late)


def place_x(minutes: float) -> float:
    """Where a time of the day is drawn."""
    inside = min(max(minutes, FROM_H * 60), TO_H * 60)
    return round((inside - FROM_H * 60) / ((TO_H - FROM_H) * 60) * WIDTH, 1)


def _asked_day() -> dt.date:
    """The day in the address; today for none, or one no shop plans."""
    try:
        day = dt.date.fromisoformat(request.args.get("on", ""))
    except ValueError:
        return dt.date.today()
    return day if when.is_planned(day) else dt.date.today()


@bp.get("/day")
def page() -> str:
    """One day: ?on=2026-11-27, today where none is told."""
    day = _asked_day()
    loaded = (jobs.load(session(), number) for number in board.starting(session(), day, MOST_SHOWN))
    ready = sorted((car_of(job, day) for job in loaded if job), key=lambda car: car.visit.starts)
    dark = when.dark_from(shop_place(), has_dark_bay(), day)
    counted = dark if dark is not None else float(when.UNKNOWN_DUSK_MIN)
    begins = when.line_up([car.visit for car in ready], counted)
    cars = [replace(car, wall_from=at) for car, at in zip(ready, begins, strict=True)]
    return render_template(
        "day.html",
        day=day,
        before=day - dt.timedelta(days=1),
        after=day + dt.timedelta(days=1),
        cars=cars,
        dark=dark,
        counted=counted,
        people=shop_people(),
        short=when.too_many([car.visit for car in cars], counted, shop_people()),
        due=board.unplanned(session(), day, MOST_SHOWN),
        whole=Scope(),
        x=place_x,
        say_time=say_time,
        hours=range(FROM_H, TO_H + 1),
        row=ROW,
        top=TOP,
        height=TOP + ROW * max(len(cars), 1) + 8,
    )
