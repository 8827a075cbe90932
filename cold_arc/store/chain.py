"""The chains of the jobs' records as they are stored: lengthened with every entry and undoing,
checked, found by a sheet's code.
"""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import String, func, insert, select, type_coerce
from sqlalchemy.orm import Session

from cold_arc.core.job import chain
from cold_arc.core.job.chain import ENTRY, Link, StoredContent
from cold_arc.store.models import EntryRow, LinkRow


def lengthen(session: Session, rows: Sequence[EntryRow], what: str = ENTRY) -> None:
    """Adds a link for each of a job's entries added, the newest it has; or for one undone, or
    brought back.
    """
    session.flush()
    job_id, newest = rows[0].job_id, rows[-1].id
    links_here = select(LinkRow.digest).where(LinkRow.job_id == job_id)
    last = links_here.order_by(LinkRow.id.desc()).limit(1).scalar_subquery()
    upto = func.count().filter(EntryRow.id <= newest)
    before, place = session.execute(select(last, upto).where(EntryRow.job_id == job_id)).one()
    added = []
    for at_place, row in enumerate(rows, place - len(rows) + 1):
        at = row.at if what == ENTRY else dt.datetime.now(dt.UTC)
        link = Link(what, at_place, at, False, "")
        content = _as_stored(row) if what == ENTRY else None
        before = chain.digest_of(before or "", link, content)
        added.append(
            {
                "job_id": job_id,
                "entry_id": row.id,
                "what": what,
                "at": at,
                "late": False,
                "digest": before,
            }
        )
    session.execute(insert(LinkRow), added)


def _as_stored(row: EntryRow) -> StoredContent:
    """An entry as it has just been stored: its values as SQLAlchemy's JSON writes them."""
    about, payload = json.dumps(row.about), json.dumps(row.payload)
    return StoredContent(row.at, row.kind, row.version, about, payload)


def head(session: Session, job_id: int) -> str:
    """The newest digest of a job; "" for one without."""
    query = select(LinkRow.digest).where(LinkRow.job_id == job_id).order_by(LinkRow.id.desc())
    return session.scalar(query.limit(1)) or ""


StoredEntries = Sequence[tuple[int, StoredContent, bool]]


def contents(session: Session, job_id: int) -> StoredEntries:
    """The entries of a job, oldest first: number, content, whether it is undone."""
    keys, text = type_coerce(EntryRow.about, String), type_coerce(EntryRow.payload, String)
    query = select(
        EntryRow.id, EntryRow.at, EntryRow.kind, EntryRow.version, keys, text, EntryRow.undone_at
    ).where(EntryRow.job_id == job_id)
    return [
        (number, StoredContent(at, kind, version, str(about), str(payload)), undone is not None)
        for number, at, kind, version, about, payload, undone in session.execute(
            query.order_by(EntryRow.id)
        )
    ]


def links(session: Session, job_id: int, stored: StoredEntries | None = None) -> list[Link]:
    """A job's links, oldest first; *stored*: its entries, where they are read already."""
    entries = contents(session, job_id) if stored is None else stored
    places = {number: place for place, (number, *_) in enumerate(entries, 1)}
    columns = (LinkRow.what, LinkRow.entry_id, LinkRow.at, LinkRow.late, LinkRow.digest)
    query = select(*columns).where(LinkRow.job_id == job_id).order_by(LinkRow.id)
    return [
        Link(what, places.get(number, 0), at, late, digest)
        for what, number, at, late, digest in session.execute(query)
    ]


def faults(session: Session, job_id: int) -> list[str]:
    """What of a job's record is not as it was chained, in words; empty for one that is whole."""
    stored = contents(session, job_id)
    entries = [(content, is_undone) for _, content, is_undone in stored]
    return chain.faults(entries, links(session, job_id, stored))


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
    here = select(LinkRow.id, LinkRow.what).where(LinkRow.job_id == row.job_id)
    every = session.execute(here).all()
    upto = [what for number, what in every if number <= row.id]
    since = len(every) - len(upto)
    return SheetFound(row.job_id, upto.count(ENTRY), since, tuple(faults(session, row.job_id)))
