"""Pictures taken at the car, kept with the job."""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Select, event, func, select
from sqlalchemy.orm import Session

from cold_arc.store import picture_files
from cold_arc.store.database import StoreError
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


class PictureMissingError(StoreError):
    """A picture's file is gone, or was changed."""


def _folder(session: Session) -> Path:
    """The folder of the data a session is on."""
    return Path(str(session.get_bind().engine.url.database)).parent


def put_in(session: Session, job_id: int, picture: KeptPicture) -> None:
    """Keeps a picture under its own number: its files are on the disk before its row is."""
    folder = _folder(session)
    row = PictureRow(
        job_id=job_id,
        number=picture.number,
        at=picture.at,
        jpeg_sum=picture_files.put(folder, picture.jpeg),
        small_sum=picture_files.put(folder, picture.small),
    )
    session.add(row)
    session.flush()
    if picture.original is not None:
        digest = picture_files.put(folder, picture.original)
        session.add(PictureOriginalRow(picture_id=row.id, sum=digest))
    session.flush()


def numbers(session: Session, job_id: int) -> list[int]:
    """The numbers of a job's pictures."""
    query = select(PictureRow.number).where(PictureRow.job_id == job_id)
    return list(session.scalars(query.order_by(PictureRow.number)))


def kept(session: Session, job_id: int, number: int) -> KeptPicture:
    """One picture of a job, whole; PictureMissingError where a file of it is not as it was kept."""
    row = session.scalars(_row(job_id, number)).one()
    held = session.get(PictureOriginalRow, row.id)
    original = _whole(session, row, held.sum) if held else None
    jpeg, small = (_whole(session, row, digest) for digest in (row.jpeg_sum, row.small_sum))
    return KeptPicture(number, row.at, jpeg, small, original)


def _row(job_id: int, number: int) -> Select[PictureRow]:
    return select(PictureRow).where(PictureRow.job_id == job_id, PictureRow.number == number)


def _whole(session: Session, row: PictureRow, digest: str) -> bytes:
    try:
        return picture_files.whole(_folder(session), digest)
    except picture_files.ChangedError as error:
        where = f"Picture {row.number} of job {row.job_id}"
        raise PictureMissingError(f"{where} is {error}.") from error


def picture(session: Session, job_id: int, number: int, small: bool) -> bytes | None:
    """One picture of a job as JPEG, or None."""
    row = session.scalars(_row(job_id, number)).one_or_none()
    if row is None:
        return None
    return picture_files.read(_folder(session), row.small_sum if small else row.jpeg_sum)


def delete_originals(session: Session, job_id: int, numbers: Collection[int]) -> int:
    """Deletes pictures of a job as they came from the camera, for good once it is committed; how
    many there were. What is shown of them stays.
    """
    mine = select(PictureRow.id).where(PictureRow.job_id == job_id, PictureRow.number.in_(numbers))
    rows = session.scalars(
        select(PictureOriginalRow).where(PictureOriginalRow.picture_id.in_(mine))
    ).all()
    digests = {row.sum for row in rows}
    for row in rows:
        session.delete(row)
    session.flush()
    gone, folder = digests - digests_kept(session), _folder(session)
    event.listen(session, "after_commit", lambda _: picture_files.remove(folder, gone), once=True)
    return len(rows)


def digests_kept(session: Session) -> set[str]:
    """The digests of every picture any row refers to."""
    columns = (PictureRow.jpeg_sum, PictureRow.small_sum, PictureOriginalRow.sum)
    return {digest for column in columns for digest in session.scalars(select(column))}


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
    query = select(PictureOriginalRow.sum).join(PictureRow, of_job)
    mine = query.where(PictureRow.job_id == job_id, PictureRow.number == number)
    digest = session.scalar(mine)
    return picture_files.read(_folder(session), digest) if digest else None
