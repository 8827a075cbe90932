"""Home: jobs by what is due next, with each lamp's stage at a glance."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from flask import Blueprint, render_template

from cold_arc.core.lamps import Function, Side
from cold_arc.core.stages import Stage, current, least
from cold_arc.store import jobs
from cold_arc.store.jobs import Job
from cold_arc.web.db import session

bp = Blueprint("home", __name__)
LANES = ("Overdue", "Today", "Next seven days", "Later", "No date")


@dataclass(frozen=True)
class Card:
    """One job on the board."""

    job: Job
    waits_on: Stage | None
    lamps: tuple[tuple[Function, dict[Side, Stage | None]], ...]


def lane(due: dt.date | None, today: dt.date) -> str:
    """The lane a due date falls in."""
    if due is None:
        return "No date"
    days = (due - today).days
    if days <= 0:
        return "Overdue" if days < 0 else "Today"
    return "Next seven days" if days <= 7 else "Later"


def _card(job: Job) -> Card:
    standing: dict[Function, dict[Side, Stage | None]] = {}
    for key in job.record.lamp_keys:
        standing.setdefault(key.function, {})[key.side] = current(job.record, key)
    return Card(job, least(job.record), tuple(standing.items()))


@bp.get("/")
def page() -> str:
    """The board of open jobs and the list of those handed over last."""
    today = dt.date.today()
    lanes: dict[str, list[Card]] = {name: [] for name in LANES}
    for job in sorted(jobs.open_jobs(session()), key=lambda job: job.booking.due or dt.date.max):
        lanes[lane(job.booking.due, today)].append(_card(job))
    return render_template(
        "home.html",
        lanes={name: cards for name, cards in lanes.items() if cards},
        closed=jobs.closed_jobs(session()),
    )
