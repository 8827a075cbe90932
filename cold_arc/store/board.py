"""The board: what is shown of every job, kept with it so that a hundred thousand cost no more than a page of them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, Select, and_, func, select, update
from sqlalchemy.orm import Session

from cold_arc.core.car.lamps import Side
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.store import jobs
from cold_arc.store.models import EntryRow, JobRow

LANES = ("Overdue", "Today", "Next seven days", "Later", "No date")
SOON_DAYS = 7


@dataclass(frozen=True)
class Card:
    """One job on the board: its booking in short, the stage it waits on, where each of its sockets stands, by name."""

    id: int
    reference: str
    vehicle: str
    due: dt.date | None
    complaint: str
    waits_on: Stage | None
    work: tuple[tuple[str, dict[Side, Stage | None]], ...]
    closed_at: dt.datetime | None


def in_lane(name: str, today: dt.date) -> ColumnElement[bool]:
    """The condition on a job's due date that puts it in a lane."""
    soon = today + dt.timedelta(days=SOON_DAYS)
    return {
        "Overdue": JobRow.due < today,
        "Today": JobRow.due == today,
        "Next seven days": JobRow.due.between(today + dt.timedelta(days=1), soon),
        "Later": JobRow.due > soon,
        "No date": JobRow.due.is_(None),
    }[name]


def _open(name: str, today: dt.date) -> Select[JobRow]:
    return select(JobRow).where(JobRow.closed_at.is_(None), in_lane(name, today))


def count(session: Session, name: str, today: dt.date) -> int:
    """How many open jobs a lane has."""
    return session.scalar(select(func.count()).select_from(_open(name, today).subquery())) or 0


def lane(session: Session, name: str, today: dt.date, most: int, skip: int = 0) -> list[Card]:
    """A lane's jobs, the next due first, *most* of them after *skip*."""
    rows = session.scalars(_open(name, today).order_by(JobRow.due, JobRow.id).limit(most).offset(skip))
    return [_card(session, row) for row in rows.all()]


def handed_over(session: Session, most: int) -> list[Card]:
    """The jobs handed over last."""
    query = select(JobRow).where(JobRow.closed_at.is_not(None)).order_by(JobRow.closed_at.desc()).limit(most)
    return [_card(session, row) for row in session.scalars(query).all()]


def _card(session: Session, row: JobRow) -> Card:
    """A job's card, from what is kept of it or, where that is out of date, worked out."""
    try:
        return _card_of(row, row.board)
    except (KeyError, TypeError, ValueError):  # none kept, or damaged
        return _card_of(row, _worked_out(session, row.id)[0])


def _card_of(row: JobRow, kept: Any) -> Card:
    work: dict[str, dict[Side, Stage | None]] = {}
    for name, side, stage in kept["work"]:
        work.setdefault(str(name), {})[Side(side)] = Stage(stage) if stage else None
    waits_on = Stage(kept["waits_on"]) if kept["waits_on"] else None
    return Card(
        row.id, kept["reference"], kept["vehicle"], row.due, kept["complaint"], waits_on, tuple(work.items()),
        row.closed_at,
    )  # fmt: skip


def _worked_out(session: Session, job_id: int) -> tuple[dict[str, Any], str]:
    """What the board shows of a job, and the state of its record that was so."""
    job = jobs.load(session, job_id)
    assert job is not None
    progress, booking, front = Progress(job.record), job.booking, job.record.front
    waits_on = progress.waits_on
    shown = {
        "reference": booking.reference,
        "vehicle": booking.vehicle,
        "complaint": booking.complaint,
        "waits_on": waits_on.value if waits_on else None,
        "work": [
            [front.socket(key).short, key.side.value, stage.value if (stage := progress.current(key)) else None]
            for key in job.record.sockets
        ],
    }
    undone = sum(entry.undone_at is not None for entry in job.entries)
    return shown, f"{job.entries[-1].id if job.entries else 0}-{undone}"


_STATE = (
    select(func.coalesce(func.max(EntryRow.id), 0).concat("-").concat(func.count(EntryRow.undone_at)))
    .where(EntryRow.job_id == JobRow.id)
    .correlate(JobRow)
    .scalar_subquery()
)


def keep(session: Session, most: int) -> int:
    """Keeps the cards of up to *most* jobs that have none, unless their record changed meanwhile; returns how many."""
    waiting = session.scalars(select(JobRow.id).where(JobRow.board.is_(None)).limit(most)).all()
    worked = {job_id: _worked_out(session, job_id) for job_id in waiting}
    for job_id, (shown, state) in worked.items():
        unchanged = and_(JobRow.id == job_id, _STATE.op("=")(state))
        session.execute(update(JobRow).where(unchanged).values(board=shown))
    return len(worked)
