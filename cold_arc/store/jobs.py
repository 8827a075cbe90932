"""Jobs and their records: opening, appending, undoing, reading back as core types."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Booking, Entry, LampsChosen, Payload, Record, from_plain, to_plain
from cold_arc.store.models import EntryRow, JobRow


class CannotUndo(ValueError):  # noqa: N818 - reads as the sentence it carries
    """The entry must stay: without it there is no job."""


@dataclass(frozen=True)
class Job:
    """One job as read from the store: every entry, undone ones too, and the record of the live ones."""

    id: int
    opened_at: dt.datetime
    closed_at: dt.datetime | None
    entries: tuple[Entry, ...]
    record: Record

    @property
    def booking(self) -> Booking:
        """The booking; every job has one."""
        booking = self.record.booking
        assert booking is not None
        return booking


def now() -> dt.datetime:
    """This moment, UTC."""
    return dt.datetime.now(dt.UTC)


def _entry(row: EntryRow) -> Entry:
    lamps = frozenset(LampKey.parse(text) for text in row.lamps)
    return Entry(row.id, row.at, lamps, from_plain(row.kind, row.payload), row.undone_at)


def _job(row: JobRow) -> Job:
    entries = tuple(_entry(entry) for entry in row.entries)
    return Job(row.id, row.opened_at, row.closed_at, entries, Record(entries))


def open_job(session: Session, booking: Booking, lamps: Iterable[LampKey], at: dt.datetime | None = None) -> int:
    """Opens a job with its founding booking and the lamps chosen; returns its id."""
    row = JobRow(opened_at=at or now())
    session.add(row)
    session.flush()
    append(session, row.id, booking, (), at)
    append(session, row.id, LampsChosen(), lamps, at)
    return row.id


def append(
    session: Session,
    job_id: int,
    payload: Payload,
    lamps: Iterable[LampKey] = (),
    at: dt.datetime | None = None,
) -> int:
    """Adds one entry to a job's record; returns its id. The caller commits."""
    row = EntryRow(
        job_id=job_id,
        at=at or now(),
        kind=type(payload).__name__,
        lamps=sorted(map(str, lamps)),
        payload=to_plain(payload),
    )
    session.add(row)
    session.flush()
    return row.id


def load(session: Session, job_id: int) -> Job | None:
    """One job with its record, or None."""
    row = session.get(JobRow, job_id, options=[selectinload(JobRow.entries)], populate_existing=True)
    return _job(row) if row else None


def open_jobs(session: Session) -> list[Job]:
    """Every job not closed, oldest first."""
    return _jobs(session, JobRow.closed_at.is_(None))


def closed_jobs(session: Session, limit: int = 50) -> list[Job]:
    """The jobs handed over last."""
    return _jobs(session, JobRow.closed_at.is_not(None))[-limit:][::-1]


def _jobs(session: Session, condition: object) -> list[Job]:
    query = select(JobRow).where(condition).order_by(JobRow.id).options(selectinload(JobRow.entries))  # type: ignore[arg-type]
    return [_job(row) for row in session.scalars(query)]


def undo(session: Session, job_id: int, entry_id: int) -> None:
    """Takes an entry out of account; CannotUndo for the founding booking, KeyError for a stranger."""
    row = _entry_row(session, job_id, entry_id)
    founding = session.scalars(
        select(EntryRow.id).where(EntryRow.job_id == job_id).order_by(EntryRow.id).limit(1)
    ).one()
    if row.id == founding:
        raise CannotUndo("The first booking can't be undone; correct it instead.")
    row.undone_at = now()


def redo(session: Session, job_id: int, entry_id: int) -> None:
    """Brings an undone entry back into account; KeyError for a stranger."""
    _entry_row(session, job_id, entry_id).undone_at = None


def _entry_row(session: Session, job_id: int, entry_id: int) -> EntryRow:
    row = session.get(EntryRow, entry_id)
    if row is None or row.job_id != job_id:
        raise KeyError(entry_id)
    return row


def set_closed(session: Session, job_id: int, closed: bool) -> None:
    """Marks a job handed over, or open again."""
    row = session.get_one(JobRow, job_id)
    if bool(row.closed_at) != closed:
        row.closed_at = now() if closed else None
