"""The chains of the jobs' records as they are stored: lengthened with every entry and undoing,
checked, found by a sheet's code.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import String, func, select, type_coerce
from sqlalchemy.orm import Session

from cold_arc.core.job import chain
from cold_arc.core.job.chain import ENTRY, Link, StoredContent
from cold_arc.store.models import EntryRow, LinkRow


def lengthen(session: Session, row: EntryRow, what: str = ENTRY) -> None:
    """Adds a link for an entry added, undone or brought back."""
    session.flush()
    at = row.at if what == ENTRY else dt.datetime.now(dt.UTC)
    link = Link(what, _place(session, row), at, False, "")
    content = contents(session, row.job_id, row.id)[0][1] if what == ENTRY else None
    digest = chain.digest_of(head(session, row.job_id), link, content)
    session.add(
        LinkRow(job_id=row.job_id, entry_id=row.id, what=what, at=at, late=link.late, digest=digest)
    )
    session.flush()


def _place(session: Session, row: EntryRow) -> int:
    query = select(func.count()).where(EntryRow.job_id == row.job_id, EntryRow.id <= row.id)
    return int(session.scalar(query) or 0)


def head(session: Session, job_id: int) -> str:
    """The newest digest of a job; "" for one without."""
    query = select(LinkRow.digest).where(LinkRow.job_id == job_id).order_by(LinkRow.id.desc())
    return session.scalar(query.limit(1)) or ""


StoredEntries = Sequence[tuple[int, StoredContent, bool]]


def contents(session: Session, job_id: int, entry_id: int | None = None) -> StoredEntries:
    """The entries of a job, or one, oldest first: number, content, whether it is undone."""
    keys, text = type_coerce(EntryRow.about, String), type_coerce(EntryRow.payload, String)
    query = select(
        EntryRow.id, EntryRow.at, EntryRow.kind, EntryRow.version, keys, text, EntryRow.undone_at
    ).where(EntryRow.job_id == job_id)
    if entry_id is not None:
        query = query.where(EntryRow.id == entry_id)
    return [
        (number, StoredContent(at, kind, version, str(about), str(payload)), undone is not None)
        for number, at, kind, version, about, payload, undone in session.execute(
            query.order_by(EntryRow.id)
        )
    ]


def links(session: Session, job_id: int) -> list[Link]:
    """A job's links, oldest first."""
    places = {number: place for place, (number, *_) in enumerate(contents(session, job_id), 1)}
    rows = session.scalars(select(LinkRow).where(LinkRow.job_id == job_id).order_by(LinkRow.id))
    return [
        Link(row.what, places.get(row.entry_id, 0), row.at, row.late, row.digest) for row in rows
    ]


def faults(session: Session, job_id: int) -> list[str]:
    """What of a job's record is not as it was chained, in words; empty for one that is whole."""
    stored = [(content, is_undone) for _, content, is_undone in contents(session, job_id)]
    return chain.faults(stored, links(session, job_id))


@dataclass(frozen=True)
class SheetFound:
    """The record a sheet's code stands for: which job; *entries*: how many it had then, *since*:
    how much was added or undone since; *faults*, where it is not as it was chained.
    """

    job_id: int
    entries: int
    since: int
    faults: tuple[str, ...]


def find(session: Session, code: str) -> SheetFound | None:
    """The record of a sheet's code; None where no record has it. CodeError for no code."""
    digits = chain.read_code(code)
    row = session.scalars(
        select(LinkRow).where(LinkRow.digest >= digits, LinkRow.digest < digits + "g")
    ).first()
    if row is None:
        return None
    upto = [what for number, what in _whats(session, row.job_id) if number <= row.id]
    every = len(_whats(session, row.job_id))
    return SheetFound(
        row.job_id, upto.count(ENTRY), every - len(upto), tuple(faults(session, row.job_id))
    )


def _whats(session: Session, job_id: int) -> list[tuple[int, str]]:
    query = select(LinkRow.id, LinkRow.what).where(LinkRow.job_id == job_id)
    return [(number, what) for number, what in session.execute(query.order_by(LinkRow.id))]
