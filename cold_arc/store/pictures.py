"""Pictures taken at the car, kept with the job."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.store.jobs import now
from cold_arc.store.models import PictureOriginalRow, PictureRow


def keep(
    session: Session, job_id: int, jpeg: bytes, small: bytes, original: bytes | None = None
) -> int:
    """Keeps a picture, and it as it came from the camera where that is told; returns its number."""
    row = PictureRow(job_id=job_id, at=now(), jpeg=jpeg, small=small)
    session.add(row)
    session.flush()
    if original is not None:
        session.add(PictureOriginalRow(picture_id=row.id, data=original))
    return row.id


def picture(session: Session, job_id: int, number: int, small: bool) -> bytes | None:
    """One picture of a job as JPEG, or None."""
    column = PictureRow.small if small else PictureRow.jpeg
    return session.scalar(
        select(column).where(PictureRow.id == number, PictureRow.job_id == job_id)
    )


def original(session: Session, job_id: int, number: int) -> bytes | None:
    """A picture of a job as it came from the camera; None where it was not kept."""
    of_job = PictureRow.id == PictureOriginalRow.picture_id
    query = (
        select(PictureOriginalRow.data).join(PictureRow, of_job).where(PictureRow.job_id == job_id)
    )
    return session.scalar(query.where(PictureOriginalRow.picture_id == number))
