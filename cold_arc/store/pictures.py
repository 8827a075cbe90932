"""Pictures taken at the car, kept with the job."""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from cold_arc.store.jobs import now
from cold_arc.store.models import PictureOriginalRow, PictureRow


def keep(
    session: Session, job_id: int, jpeg: bytes, small: bytes, original: bytes | None = None
) -> int:
    """Keeps a picture, and it as it came from the camera where that is told; returns its number."""
    newest = session.scalar(select(func.max(PictureRow.number)).where(PictureRow.job_id == job_id))
    number = (newest or 0) + 1
    put_in(session, job_id, KeptPicture(number, now(), jpeg, small, original))
    return number


@dataclass(frozen=True)
class KeptPicture:
    """A picture as it is kept: its number within its job, when it was taken, JPEG and small JPEG,
    and it as it came from the camera.
    """

    number: int
    at: dt.datetime
    jpeg: bytes
    small: bytes
    original: bytes | None


def put_in(session: Session, job_id: int, picture: KeptPicture) -> None:
    """Keeps a picture under its own number."""
    row = PictureRow(
        job_id=job_id,
        number=picture.number,
        at=picture.at,
        jpeg=picture.jpeg,
        small=picture.small,
    )
    session.add(row)
    session.flush()
    if picture.original is not None:
        session.add(PictureOriginalRow(picture_id=row.id, data=picture.original))
    session.flush()
    session.expunge(row)


def numbers(session: Session, job_id: int) -> list[int]:
    """The numbers of a job's pictures."""
    query = select(PictureRow.number).where(PictureRow.job_id == job_id)
    return list(session.scalars(query.order_by(PictureRow.number)))


def kept(session: Session, job_id: int, number: int) -> KeptPicture:
    """One picture of a job, whole; its memory is given back with it."""
    columns = (PictureRow.at, PictureRow.jpeg, PictureRow.small)
    query = select(*columns).where(PictureRow.job_id == job_id, PictureRow.number == number)
    at, jpeg, small = session.execute(query).one()
    return KeptPicture(number, at, jpeg, small, original(session, job_id, number))


def picture(session: Session, job_id: int, number: int, small: bool) -> bytes | None:
    """One picture of a job as JPEG, or None."""
    column = PictureRow.small if small else PictureRow.jpeg
    return session.scalar(
        select(column).where(PictureRow.number == number, PictureRow.job_id == job_id)
    )


def delete_originals(session: Session, job_id: int, numbers: Collection[int]) -> int:
    """Deletes pictures of a job as they came from the camera, for good; how many there were. What
    is shown of them stays.
    """
    mine = select(PictureRow.id).where(PictureRow.job_id == job_id, PictureRow.number.in_(numbers))
    held = session.scalars(
        select(PictureOriginalRow.picture_id).where(PictureOriginalRow.picture_id.in_(mine))
    ).all()
    session.execute(delete(PictureOriginalRow).where(PictureOriginalRow.picture_id.in_(held)))
    return len(held)


def has_originals(session: Session, job_id: int, numbers: Collection[int]) -> bool:
    """Whether any of some pictures of a job is kept as it came from the camera."""
    query = select(PictureOriginalRow.picture_id).join(
        PictureRow, PictureRow.id == PictureOriginalRow.picture_id
    )
    mine = query.where(PictureRow.job_id == job_id, PictureRow.number.in_(numbers))
    return session.execute(mine.limit(1)).first() is not None


def original(session: Session, job_id: int, number: int) -> bytes | None:
    """A picture of a job as it came from the camera; None where it was not kept."""
    of_job = PictureRow.id == PictureOriginalRow.picture_id
    query = (
        select(PictureOriginalRow.data).join(PictureRow, of_job).where(PictureRow.job_id == job_id)
    )
    return session.scalar(query.where(PictureRow.number == number))
