"""Jobs and their records: opening, appending, undoing, reading back as core types."""

from __future__ import annotations

import datetime as dt
import json
import logging
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from functools import lru_cache

from sqlalchemy import String, func, select, type_coerce
from sqlalchemy.orm import Session

from cold_arc.core.car.front import Front
from cold_arc.core.car.keys import Key, SocketKey, parse_key
from cold_arc.core.car.lamps import Drive
from cold_arc.core.errors import ColdArcError
from cold_arc.core.job import plausible
from cold_arc.core.job.chain import REDONE, UNDONE
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.book_in import Booking, FrontSet, WorkChosen
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.entries.plan import PlannedFor
from cold_arc.core.job.later import recheck_due
from cold_arc.core.job.record import Entry, Record, Unreadable
from cold_arc.store import chain
from cold_arc.store.models import EntryRow, JobRow

_log = logging.getLogger(__name__)


# The state of a job without an entry, and of none.
NO_RECORD = "0-0"


class CannotUndoError(ColdArcError, ValueError):
    """The entry must stay: without it there is no job."""


@dataclass(frozen=True)
class Job:
    """One job as read from the store: every entry, undone ones too, and the record of the live
    ones.
    """

    id: int
    opened_at: dt.datetime
    closed_at: dt.datetime | None
    entries: tuple[Entry, ...]
    record: Record

    @property
    def booking(self) -> Booking:
        """The booking; every job has one, if only a stand-in for one that can't be read."""
        return self.record.booking or LOST_BOOKING

    @property
    def state(self) -> str:
        """A word for the record as it stands: it changes with every entry and every undoing."""
        undone = sum(entry.undone_at is not None for entry in self.entries)
        return f"{self.entries[-1].id}-{undone}" if self.entries else NO_RECORD


# An entry as it is stored: number, when, kind, version, keys and payload as text, when undone.
StoredEntry = tuple[int, dt.datetime, str, int, str, str, dt.datetime | None]


def now() -> dt.datetime:
    """This moment, UTC."""
    return dt.datetime.now(dt.UTC)


@lru_cache(maxsize=20_000)
def _payload(
    kind: str, version: int, about: str, payload: str
) -> tuple[frozenset[Key], Payload | Unreadable]:
    """What an entry is about and its payload, from their stored text; remembered, for an entry
    never changes.
    """
    try:
        keys, plain = frozenset(parse_key(text) for text in json.loads(about)), json.loads(payload)
    except (ValueError, TypeError, AttributeError, RecursionError) as error:
        return frozenset(), Unreadable(kind, f"{type(error).__name__}: {error}")
    return keys, plausible.read(kind, version, plain)


@lru_cache(maxsize=2_000)
def _log_once(job_id: int, number: int, entry: Unreadable) -> None:
    """Why an entry can't be read, in the log, the first time it is met."""
    _log.warning("job %s, entry %s (%s) can't be read: %s", job_id, number, entry.kind, entry.why)


@lru_cache(maxsize=96)
def _record(job_id: int, rows: tuple[StoredEntry, ...]) -> tuple[tuple[Entry, ...], Record]:
    """Every entry of a job and the record of the live ones, from what is stored: remembered with
    all that was worked out of it, as long as nothing is added or undone.
    """
    entries = []
    for number, at, kind, version, keys, text, undone_at in rows:
        about, payload = _payload(kind, version, keys, text)
        if isinstance(payload, Unreadable):
            _log_once(job_id, number, payload)
        entries.append(Entry(number, at, about, payload, undone_at))
    return tuple(entries), Record(entries)


def _stored(session: Session, job_id: int) -> tuple[StoredEntry, ...]:
    """Every entry of a job as it is stored, oldest first."""
    keys_text, text_of = type_coerce(EntryRow.about, String), type_coerce(EntryRow.payload, String)
    columns = (
        EntryRow.id,
        EntryRow.at,
        EntryRow.kind,
        EntryRow.version,
        keys_text,
        text_of,
        EntryRow.undone_at,
    )
    rows = session.execute(select(*columns).where(EntryRow.job_id == job_id).order_by(EntryRow.id))
    return tuple(
        (number, at, kind, version, str(keys), str(text), undone_at)
        for number, at, kind, version, keys, text, undone_at in rows
    )


LOST_BOOKING = Booking("Unreadable", "Its booking can't be read", "", Drive.LEFT, "un")


def open_job(
    session: Session,
    booking: Booking,
    front: Front,
    work: Iterable[SocketKey],
    at: dt.datetime | None = None,
) -> int:
    """Opens a job with its founding booking, the car's front and the sockets to work on; returns
    its id.
    """
    row = JobRow(opened_at=at or now())
    session.add(row)
    session.flush()
    append(session, row.id, booking, (), at)
    append(session, row.id, FrontSet(front), (), at)
    append(session, row.id, WorkChosen(), work, at)
    return row.id


def append(
    session: Session,
    job_id: int,
    payload: Payload,
    about: Iterable[Key] = (),
    at: dt.datetime | None = None,
) -> int:
    """Adds one entry to a job's record; returns its id. The caller commits.

    Raises ImplausibleError for what a record may not hold.
    """
    return append_each(session, job_id, [(payload, about)], at)[0]


def append_each(
    session: Session,
    job_id: int,
    entries: Iterable[tuple[Payload, Iterable[Key]]],
    at: dt.datetime | None = None,
) -> list[int]:
    """`append`, for entries each about keys of its own, in their order."""
    rows = []
    for payload, about in entries:
        plausible.check(payload)
        row = EntryRow(
            job_id=job_id,
            at=at or now(),
            kind=payload.ENTRY.id,
            version=payload.ENTRY.version,
            about=sorted(map(str, about)),
            payload=to_plain(payload),
        )
        session.add(row)
        session.flush()  # one by one: their numbers are their order
        rows.append(row)
    if rows:
        chain.lengthen(session, rows)
        _changed(session, job_id, any(row.kind in _TELL_DAYS for row in rows))
    return [row.id for row in rows]


def put_in(session: Session, job_id: int) -> None:
    """What is kept of a job that was put in whole is worked out anew."""
    session.flush()
    _changed(session, job_id, days_too=True)


def _changed(session: Session, job_id: int, days_too: bool) -> None:
    """What the board keeps of a job is out of date; its days, and what its car is known by, follow
    its entries at once.
    """
    row = session.get_one(JobRow, job_id)
    row.board = None
    if days_too:
        job = load(session, job_id)
        assert job is not None
        planned = job.record.latest(PlannedFor)
        row.due, row.starts = job.booking.due, planned.day if planned else None
        row.vin, row.plate = (known or None for known in job.booking.known_by)
        left = job.record.latest(HandedOver)
        row.warranty_end = left.warranty_end if left else None
        row.recheck = recheck_due(job.record)


def load(session: Session, job_id: int) -> Job | None:
    """One job with its record, or None."""
    row = session.get(JobRow, job_id)
    if row is None:
        return None
    entries, record = _record(job_id, _stored(session, job_id))
    return Job(row.id, row.opened_at, row.closed_at, entries, record)


def bookings(session: Session, job_ids: Collection[int]) -> dict[int, Booking]:
    """The newest booking of each of some jobs, without reading their records."""
    query = select(EntryRow).where(
        EntryRow.job_id.in_(job_ids), EntryRow.kind == "booking", EntryRow.undone_at.is_(None)
    )
    read = {
        row.job_id: plausible.read(row.kind, row.version, row.payload)
        for row in session.scalars(query.order_by(EntryRow.id))
    }
    return {job_id: booking for job_id, booking in read.items() if isinstance(booking, Booking)}


def state(session: Session, job_id: int) -> str:
    """A job's `Job.state`, without reading its record; `NO_RECORD` for no such job."""
    newest = select(func.coalesce(func.max(EntryRow.id), 0), func.count(EntryRow.undone_at)).where(
        EntryRow.job_id == job_id
    )
    number, undone = session.execute(newest).one()
    return f"{number}-{undone}"


def undo(session: Session, job_id: int, entry_id: int) -> None:
    """Takes an entry out of account.

    Raises CannotUndoError for the founding booking or the only front, KeyError for an entry of no
    such job.
    """
    row = _entry_row(session, job_id, entry_id)
    founding = session.scalars(
        select(EntryRow.id).where(EntryRow.job_id == job_id).order_by(EntryRow.id).limit(1)
    ).one()
    if row.id == founding:
        raise CannotUndoError("The first booking can't be undone; correct it instead.")
    if row.kind in _NEEDED and row.undone_at is None and _is_only_one(session, row):
        raise CannotUndoError("Without it there is no car to work on; correct it instead.")
    if row.undone_at is None:  # undone twice, it keeps the time of the first
        row.undone_at = now()
        chain.lengthen(session, [row], UNDONE)
        _changed(session, job_id, row.kind in _TELL_DAYS)


_TELL_DAYS = ("booking", "planned-for", "handed-over", "followed-up")
_NEEDED = ("front", "work")


def _is_only_one(session: Session, row: EntryRow) -> bool:
    """Whether no other live entry of its kind stands in the job."""
    others = select(func.count()).where(
        EntryRow.job_id == row.job_id,
        EntryRow.kind == row.kind,
        EntryRow.undone_at.is_(None),
        EntryRow.id != row.id,
    )
    return not session.scalar(others)


def redo(session: Session, job_id: int, entry_id: int) -> None:
    """Brings an undone entry back into account; KeyError for an entry of no such job."""
    row = _entry_row(session, job_id, entry_id)
    if row.undone_at is None:
        return
    row.undone_at = None
    chain.lengthen(session, [row], REDONE)
    _changed(session, job_id, row.kind in _TELL_DAYS)


def _entry_row(session: Session, job_id: int, entry_id: int) -> EntryRow:
    row = session.get(EntryRow, entry_id)
    if row is None or row.job_id != job_id:
        raise KeyError(entry_id)
    return row


def set_closed(session: Session, job_id: int, closed: bool, at: dt.datetime | None = None) -> None:
    """Marks a job handed over, *at* a moment or now, or open again."""
    row = session.get_one(JobRow, job_id)
    if bool(row.closed_at) != closed:
        row.closed_at = (at or now()) if closed else None
