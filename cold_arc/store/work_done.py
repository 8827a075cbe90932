"""What the shop's work at each car took and broke, kept beside the jobs, so that the next plan for
such a car knows.
"""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.work.learning import Done, Learnt, learnt
from cold_arc.store.jobs import Job
from cold_arc.store.models import WorkDoneRow


def car(booking: Booking) -> str:
    """What cars are alike by: make and model."""
    return f"{booking.make} {booking.model}".casefold()[:120]


def keep(session: Session, job: Job, taken: list[Done]) -> None:
    """Keeps what a job's parts took, in place of what was kept of it."""
    session.execute(delete(WorkDoneRow).where(WorkDoneRow.job_id == job.id))
    session.add_all(
        WorkDoneRow(
            job_id=job.id, vehicle=car(job.booking), part=done.part[:200], facts=to_plain(done)
        )
        for done in taken
    )
    session.flush()


def known(session: Session, booking: Booking, but: int = 0) -> dict[str, Learnt]:
    """What is known of such a car's parts, from all jobs but one."""
    query = select(WorkDoneRow.facts).where(
        WorkDoneRow.vehicle == car(booking), WorkDoneRow.job_id != but
    )
    read = (plausible.read_or_none(facts, Done) for facts in session.scalars(query))
    return learnt(done for done in read if done is not None)
