"""Pictures taken at the car, kept with the job."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.store.jobs import now
from cold_arc.store.models import PictureRow


def keep(session: Session, job_id: int, jpeg: bytes, small: bytes) -> int:
    """Keeps a picture; returns its number."""
    row = PictureRow(job_id=job_id, at=now(), jpeg=jpeg, small=small)
    session.add(row)
    session.flush()
    return row.id


def picture(session: Session, job_id: int, number: int, small: bool) -> bytes | None:
    """One picture of a job as JPEG, or None."""
    column = PictureRow.small if small else PictureRow.jpeg
    return session.scalar(select(column).where(PictureRow.id == number, PictureRow.job_id == job_id))
