"""Cars over their jobs: which jobs are of one car, what of it is known, how it comes back."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import literal_column, or_, select
from sqlalchemy.orm import Session

from cold_arc.core.car import identity
from cold_arc.core.job import plausible
from cold_arc.core.job.again import LeftJob, booked_again, carried
from cold_arc.core.job.car_history import CarVisit
from cold_arc.core.job.entries.later import Claimed, FollowedUp
from cold_arc.store import jobs
from cold_arc.store.models import EntryRow, JobRow

MOST_VISITS, MOST_CLAIMS = 60, 2000


def known(session: Session, vin: str, plate: str) -> list[int]:
    """The jobs of a car, by its number and its plate as `identity.plain` gives them, the newest
    first. A plate of a car whose own number is another says nothing.
    """
    wanted = [JobRow.vin == vin] if vin else []
    wanted += [JobRow.plate == plate] if plate else []
    if not wanted:
        return []
    query = select(JobRow).where(or_(*wanted)).order_by(JobRow.id.desc()).limit(MOST_VISITS)
    return [
        row.id
        for row in session.scalars(query)
        if identity.is_same(vin, plate, row.vin or "", row.plate or "")
    ]


def visits(session: Session, job_id: int) -> list[CarVisit]:
    """Every job of the car of one job, oldest first; that job alone where its car is known by
    nothing. Empty for no such job.
    """
    job = jobs.load(session, job_id)
    if job is None:
        return []
    numbers = {*known(session, *job.booking.known_by), job_id}
    loaded = (visit(session, number) for number in sorted(numbers))
    return [each for each in loaded if each is not None]


def visit(session: Session, job_id: int) -> CarVisit | None:
    """One job as a visit of its car; None for no such job."""
    job = jobs.load(session, job_id)
    if job is None:
        return None
    left_on = job.closed_at.date() if job.closed_at else None
    return CarVisit(job.id, job.opened_at.date(), left_on, job.booking, job.record)


def come_back(session: Session, job_id: int, why: str) -> int:
    """Opens a job for a car that comes back, and *why*, with what its last one told of it; returns
    its number.
    The caller commits. KeyError for no such job.
    """
    job = jobs.load(session, job_id)
    if job is None:
        raise KeyError(job_id)
    left = LeftJob(job.booking, job.record, (job.closed_at or job.opened_at).date())
    moment = jobs.now()
    row = JobRow(opened_at=moment)
    session.add(row)
    session.flush()
    taken = {visit.booking.reference for visit in visits(session, job_id)}
    booking = booked_again(left, why, taken)
    jobs.append_each(session, row.id, [(booking, ()), *carried(left, why)], moment)
    jobs.append(session, job_id, FollowedUp(why, booking.reference))
    return row.id


def claims_on(session: Session, source: str) -> list[Claimed]:
    """The claims that stand on one light source, by its name."""
    return [claim for _, claim in claims(session) if claim.source == source]


def claims(session: Session) -> Iterator[tuple[int, Claimed]]:
    """Every claim that stands, the newest first, with its job."""
    # As written in the index, so that it serves.
    is_claim = EntryRow.kind == literal_column("'claimed'")
    query = select(EntryRow).where(is_claim, EntryRow.undone_at.is_(None))
    listed: set[tuple[int, str]] = set()
    for row in session.scalars(query.order_by(EntryRow.id.desc()).limit(MOST_CLAIMS)):
        claim = plausible.read(row.kind, row.version, row.payload)
        if isinstance(claim, Claimed) and (row.job_id, claim.source) not in listed:
            listed.add((row.job_id, claim.source))
            yield row.job_id, claim
