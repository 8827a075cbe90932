"""The board: what is shown of every job, kept with it so that a hundred thousand cost no more than
a page of them.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy import ColumnElement, CursorResult, Select, and_, func, select, update
from sqlalchemy.orm import Session

from cold_arc.core.car.lamps import Side
from cold_arc.core.job.carwork import on_order
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.work_took import done_of
from cold_arc.core.work.learning import Done
from cold_arc.store import jobs, outcomes, work_done
from cold_arc.store.models import EntryRow, JobRow

# From how long before its end a warranty is told.
WARRANTY_DAYS = 30
LANES = ("Overdue", "Today", "Next seven days", "Later", "No date")
SOON_DAYS = 7


@dataclass(frozen=True)
class JobCard:
    """One job on the board: its booking in short, the stage it waits on, where each of its sockets
    stands, by name.
    """

    id: int
    reference: str
    vehicle: str
    due: dt.date | None
    complaint: str
    waits_on: Stage | None
    work: tuple[tuple[str, dict[Side, Stage | None]], ...]
    closed_at: dt.datetime | None
    recheck: dt.date | None
    warranty_end: dt.date | None


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


def lane(session: Session, name: str, today: dt.date, most: int, skip: int = 0) -> list[JobCard]:
    """A lane's jobs, the next due first, *most* of them after *skip*."""
    rows = session.scalars(
        _open(name, today).order_by(JobRow.due, JobRow.id).limit(most).offset(skip)
    )
    return [_card(session, row) for row in rows.all()]


def starting(session: Session, day: dt.date, most: int) -> list[int]:
    """The open jobs worked on that day, by id."""
    query = (
        select(JobRow.id)
        .where(JobRow.closed_at.is_(None), JobRow.starts == day)
        .order_by(JobRow.id)
        .limit(most)
    )
    return list(session.scalars(query))


def to_come(session: Session, today: dt.date, most: int) -> list[int]:
    """The open jobs planned for today or later, the next first, by id."""
    wanted = and_(JobRow.closed_at.is_(None), JobRow.starts >= today)
    return list(
        session.scalars(
            select(JobRow.id).where(wanted).order_by(JobRow.starts, JobRow.id).limit(most)
        )
    )


def unplanned(session: Session, day: dt.date, most: int) -> list[JobCard]:
    """The open jobs due by a day that are planned for none, the next due first."""
    wanted = and_(JobRow.closed_at.is_(None), JobRow.starts.is_(None), JobRow.due <= day)
    rows = session.scalars(select(JobRow).where(wanted).order_by(JobRow.due, JobRow.id).limit(most))
    return [_card(session, row) for row in rows.all()]


def handed_over(session: Session, most: int) -> list[JobCard]:
    """The jobs handed over last."""
    query = (
        select(JobRow)
        .where(JobRow.closed_at.is_not(None))
        .order_by(JobRow.closed_at.desc())
        .limit(most)
    )
    return [_card(session, row) for row in session.scalars(query).all()]


def to_recheck(session: Session, today: dt.date, most: int) -> list[JobCard]:
    """The cars to come back within a week for a re-check, the longest due first."""
    return found(session, "", "recheck", today, most)


def warranty_ends(session: Session, today: dt.date, most: int) -> list[JobCard]:
    """The cars whose warranty ends within a month, the next first: what is wrong is claimed in
    time.
    """
    soon = JobRow.warranty_end.between(today, today + dt.timedelta(days=WARRANTY_DAYS))
    query = select(JobRow).where(soon).order_by(JobRow.warranty_end, JobRow.id).limit(most)
    return [_card(session, row) for row in session.scalars(query).all()]


def _card(session: Session, row: JobRow) -> JobCard:
    """A job's card, from what is kept of it or, where that is out of date, worked out."""
    try:
        return _card_of(row, row.board)
    except (KeyError, TypeError, ValueError):  # none kept, or damaged
        job = jobs.load(session, row.id)
        assert job is not None
        return _card_of(row, _told(job)[0])


def _card_of(row: JobRow, kept: Any) -> JobCard:
    work: dict[str, dict[Side, Stage | None]] = {}
    for name, side, stage in kept["work"]:
        work.setdefault(str(name), {})[Side(side)] = Stage(stage) if stage else None
    waits_on = Stage(kept["waits_on"]) if kept["waits_on"] else None
    return JobCard(
        row.id,
        kept["reference"],
        kept["vehicle"],
        row.due,
        kept["complaint"],
        waits_on,
        tuple(work.items()),
        row.closed_at,
        row.recheck,
        row.warranty_end,
    )


# What the finder tells jobs apart by besides their words: signs of no script, which are taken out
# of what is typed.
WALL, PARTS, ORDERED = "\ue001", "\ue002", "\ue003"
NO_MARKS = dict.fromkeys(map(ord, WALL + PARTS + ORDERED), " ")
ON_THE_WALL = (Stage.BASELINE, Stage.AIM, Stage.VERIFY)
BEFORE_FITTING = (Stage.PLAN, Stage.FIT)
WHICH = {
    "open": "Open",
    "due": "Due",
    "wall": "Wall work next",
    "parts": "Chosen, not fitted",
    "order": "Waiting for parts",
    "recheck": "Re-check due",
    "closed": "Handed over",
}
# What is looked through where none of them was picked: open ones, then those handed over.
ANY = "any"


def found(session: Session, text: str, which: str, today: dt.date, most: int) -> list[JobCard]:
    """Jobs whose reference, car, bases, sources, wishes or complaint hold every word of *text*, the
    next due first.

    *which* of :data:`WHICH`, or :data:`ANY`: open ones, due by today, with wall work next (which
    needs the dark), with parts chosen that are not fitted yet, with parts on order, or handed over
    (the last first), to come back for a re-check within a week.
    """
    wanted = [
        JobRow.words.contains(word, autoescape=True)
        for word in text.translate(NO_MARKS).casefold().split()
    ]
    is_open = JobRow.closed_at.is_(None)
    conditions: dict[str, list[ColumnElement[bool]]] = {
        ANY: [],
        "open": [is_open],
        "due": [is_open, JobRow.due <= today],
        "wall": [is_open, JobRow.words.contains(WALL)],
        "parts": [is_open, JobRow.words.contains(PARTS)],
        "order": [is_open, JobRow.words.contains(ORDERED)],
        "recheck": [JobRow.recheck <= today + dt.timedelta(days=SOON_DAYS)],
        "closed": [JobRow.closed_at.is_not(None)],
    }
    parts: list[tuple[list[ColumnElement[bool]], Any]]
    closed: tuple[list[ColumnElement[bool]], Any] = (
        [JobRow.closed_at.is_not(None)],
        JobRow.closed_at.desc(),
    )
    if which == "closed":
        parts = [closed]
    elif which == "recheck":
        parts = [([], JobRow.recheck)]
    elif which == ANY:
        parts = [([is_open], JobRow.due), closed]
    else:  # those with a due date first: the index yields them in order, so that a scan ends early
        parts = [([JobRow.due.is_not(None)], JobRow.due), ([JobRow.due.is_(None)], JobRow.id)]
    ids: list[int] = []
    for more, order in parts:
        query = (
            select(JobRow.id)
            .where(*conditions[which], *wanted, *more)
            .order_by(order)
            .limit(most - len(ids))
        )
        ids += session.scalars(query).all()
    rows = {row.id: row for row in session.scalars(select(JobRow).where(JobRow.id.in_(ids)))}
    return [_card(session, rows[job_id]) for job_id in ids]


def _words(job: jobs.Job, progress: Progress) -> str:
    """What a job is found by, in small letters, with the finder's marks."""
    booking, record, front = job.booking, job.record, job.record.front
    words = [booking.reference, booking.vehicle, booking.complaint, booking.tampered]
    words += [booking.plate, booking.vin, *booking.known_by]
    words += booking.wishes
    for key in record.sockets:
        chosen = record.latest(Chosen, key)
        words += [record.socket(key).base or "", front.words(key)]
        words += [chosen.source.name] if chosen and chosen.source else []
    words += [unit.words for unit in front.units]
    plain = " ".join(dict.fromkeys(filter(None, words))).casefold()
    return " ".join([plain, *_marks(job.record, progress)])


def _marks(record: Record, progress: Progress) -> list[str]:
    """The finder's marks: it stands at the wall, waits for parts, has parts on order."""
    stages = {key: progress.current(key) for key in record.sockets}
    chosen = (record.latest(Chosen, key) for key, at in stages.items() if at in BEFORE_FITTING)
    marks = {
        WALL: any(at in ON_THE_WALL for at in stages.values()),
        PARTS: any(choice and choice.source for choice in chosen),
        ORDERED: bool(on_order(record)),
    }
    return [mark for mark, holds in marks.items() if holds]


def _told(job: jobs.Job) -> tuple[dict[str, Any], str]:
    """What the board shows of a job, and what it is found by."""
    progress, booking, front = job.record.once(Progress), job.booking, job.record.front
    waits_on = progress.waits_on
    shown = {
        "reference": booking.reference,
        "vehicle": booking.vehicle,
        "complaint": booking.complaint,
        "waits_on": waits_on.value if waits_on else None,
        "work": [
            [
                front.socket(key).short,
                key.side.value,
                stage.value if (stage := progress.current(key)) else None,
            ]
            for key in job.record.sockets
        ],
    }
    return shown, _words(job, progress)


_STATE = (
    select(
        func.coalesce(func.max(EntryRow.id), 0).concat("-").concat(func.count(EntryRow.undone_at))
    )
    .where(EntryRow.job_id == JobRow.id)
    .correlate(JobRow)
    .scalar_subquery()
)


@dataclass(frozen=True)
class WorkedOut:
    """What is to be kept of a job: its card, what it is found by, what it measured and what its
    work took, of the state of its record that was so.
    """

    job: jobs.Job
    shown: dict[str, Any]
    words: str
    measured: outcomes.Measurements
    done: list[Done]


def worked_out(session: Session, most: int) -> list[WorkedOut]:
    """What is to be kept of up to *most* jobs of which nothing is."""
    waiting = session.scalars(select(JobRow.id).where(JobRow.board.is_(None)).limit(most)).all()
    read = (jobs.load(session, job_id) for job_id in waiting)
    return [
        WorkedOut(job, *_told(job), outcomes.measured(job), done_of(job.record))
        for job in read
        if job is not None
    ]


def keep(session: Session, worked: Iterable[WorkedOut]) -> None:
    """Keeps what was worked out of jobs whose record did not change meanwhile."""
    for each in worked:
        unchanged = and_(JobRow.id == each.job.id, _STATE.op("=")(each.job.state))
        card = update(JobRow).where(unchanged).values(board=each.shown, words=each.words)
        if cast(CursorResult[Any], session.execute(card)).rowcount:
            outcomes.keep(session, each.job.id, each.measured)
            work_done.keep(session, each.job, each.done)
