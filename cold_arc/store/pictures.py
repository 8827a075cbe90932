"""Pictures taken at the car, kept with the job."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import delete, select
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


def delete_originals(session: Session, job_id: int, numbers: Collection[int]) -> int:
    """Deletes pictures of a job as they came from the camera, for good; how many there were. What
    is shown of them stays.
    """
    mine = select(PictureRow.id).where(PictureRow.job_id == job_id, PictureRow.id.in_(numbers))
    held = session.scalars(
        select(PictureOriginalRow.picture_id).where(PictureOriginalRow.picture_id.in_(mine))
    ).all()
    session.execute(delete(PictureOriginalRow).where(PictureOriginalRow.picture_id.in_(held)))
    return len(held)


def original(session: Session, job_id: int, number: int) -> bytes | None:
    """A picture of a job as it came from the camera; None where it was not kept."""
    of_job = PictureRow.id == PictureOriginalRow.picture_id
    query = (
        select(PictureOriginalRow.data).join(PictureRow, of_job).where(PictureRow.job_id == job_id)
    )
    return session.scalar(query.where(PictureOriginalRow.picture_id == number))
