"""Jobs written to a file and taken in from one, whole: records with their chains, and pictures.

A job is known by its founding link. Taken in again it is not doubled: what was added elsewhere is
added here, and nothing where both went on apart.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from cold_arc.core.job.chain import Link
from cold_arc.core.job.filed import FiledEntry, FiledJob, FiledPicture
from cold_arc.store import chain, jobs, pictures
from cold_arc.store.models import EntryRow, JobRow, LinkRow
from cold_arc.store.pictures import KeptPicture

NEW, SAME, OLDER, GOES_ON, APART = "new", "the same", "older", "goes on", "apart"


@dataclass(frozen=True)
class Incoming:
    """One job of a file: what it is of, how much it holds, how it stands to what is here (*state*),
    and under which number it is here.
    """

    reference: str
    vehicle: str
    entries: int
    pictures: int
    state: str
    job_id: int | None = None


def numbers_of(session: Session, references: Sequence[str]) -> list[int]:
    """The jobs of some references, in their order; every job where none is named. KeyError, naming
    it, for a reference that no job has.
    """
    every = list(session.scalars(select(JobRow.id).order_by(JobRow.id)))
    if not references:
        return every
    by_reference: dict[str, list[int]] = {}
    for number, booking in jobs.bookings(session, every).items():
        by_reference.setdefault(booking.reference.casefold(), []).append(number)
    missing = next((asked for asked in references if asked.casefold() not in by_reference), None)
    if missing is not None:
        raise KeyError(missing)
    return [number for asked in references for number in by_reference[asked.casefold()]]


def filed(session: Session, job_id: int) -> FiledJob:
    """One job, whole; its pictures are read when they are asked for."""
    job = jobs.load(session, job_id)
    assert job is not None
    stored = chain.contents(session, job_id)
    undone = {entry.id: entry.undone_at for entry in job.entries}

    def parts() -> Iterator[FiledPicture]:
        for number in pictures.numbers(session, job_id):
            yield _filed_picture(pictures.kept(session, job_id, number))

    return FiledJob(
        job.opened_at,
        job.closed_at,
        tuple(FiledEntry(content, undone[number]) for number, content, _ in stored),
        tuple(chain.links(session, job_id, stored)),
        carried=session.get_one(JobRow, job_id).carried or {},
        pictures=parts,
    )


def _filed_picture(kept: KeptPicture) -> FiledPicture:
    parts = {"jpg": kept.jpeg, "small.jpg": kept.small}
    if kept.original is not None:
        parts["original"] = kept.original
    return FiledPicture(kept.number, kept.at, parts)


def look(session: Session, filed_jobs: Iterable[FiledJob]) -> list[Incoming]:
    """How jobs of a file stand to what is here; FiledJobError for one that is not to be
    believed.
    """
    return [_incoming(session, job) for job in filed_jobs]


def take_in(session: Session, filed_jobs: Iterable[FiledJob]) -> Iterator[Incoming]:
    """Takes jobs in, one after the other; the caller commits, or nothing is left of them.

    FiledJobError for one that is not to be believed.
    """
    for job in filed_jobs:
        incoming = _incoming(session, job)
        if incoming.state in (NEW, GOES_ON):
            yield _taken(session, job, incoming)
        else:
            yield incoming


def _incoming(session: Session, job: FiledJob) -> Incoming:
    booking = job.booking()
    job_id, state = _stands(session, job.links)
    return Incoming(
        booking.reference,
        booking.vehicle,
        len(job.entries),
        len(job.picture_numbers),
        state,
        job_id,
    )


def _stands(session: Session, links: Sequence[Link]) -> tuple[int | None, str]:
    """Under which number a chain is here, and how it stands to ours."""
    job_id = session.scalar(select(LinkRow.job_id).where(LinkRow.digest == links[0].digest))
    if job_id is None:
        return None, NEW
    here = [link.digest for link in chain.links(session, job_id)]
    there = [link.digest for link in links]
    common = min(len(here), len(there))
    if here[:common] != there[:common]:
        return job_id, APART
    state = SAME if len(here) == len(there) else GOES_ON if len(there) > len(here) else OLDER
    return job_id, state


def _taken(session: Session, job: FiledJob, incoming: Incoming) -> Incoming:
    row = session.get(JobRow, incoming.job_id) if incoming.job_id is not None else None
    if row is None:
        row = JobRow(opened_at=job.opened_at)
        session.add(row)
    row.closed_at, row.carried = job.closed_at, dict(job.carried) or None
    session.flush()
    _put_record(session, row.id, job)
    _put_pictures(session, row.id, job.pictures())
    jobs.put_in(session, row.id)
    session.expire_all()
    return Incoming(
        incoming.reference,
        incoming.vehicle,
        incoming.entries,
        incoming.pictures,
        incoming.state,
        row.id,
    )


def _put_record(session: Session, job_id: int, job: FiledJob) -> None:
    """The entries and links that are not here yet; every entry undone as the file has it."""
    numbers = [number for number, *_ in chain.contents(session, job_id)]
    for entry in job.entries[len(numbers) :]:
        numbers.append(_put_entry(session, job_id, entry))
    for number, entry in zip(numbers, job.entries, strict=True):
        session.get_one(EntryRow, number).undone_at = entry.undone_at
    for link in job.links[len(chain.links(session, job_id)) :]:
        session.add(_row(job_id, numbers[link.place - 1], link))
        session.flush()


def _put_entry(session: Session, job_id: int, entry: FiledEntry) -> int:
    """One entry as it was stored, to the byte; returns its number here."""
    content = entry.content
    row = EntryRow(
        job_id=job_id,
        at=content.at,
        kind=content.kind,
        version=content.version,
        about=[],
        payload={},
    )
    session.add(row)
    session.flush()
    session.execute(
        text("UPDATE entries SET about = :about, payload = :payload WHERE id = :id"),
        {"about": content.about, "payload": content.payload, "id": row.id},
    )
    return row.id


def _row(job_id: int, entry_id: int, link: Link) -> LinkRow:
    return LinkRow(
        job_id=job_id,
        entry_id=entry_id,
        what=link.what,
        at=link.at,
        late=link.late,
        digest=link.digest,
    )


def _put_pictures(session: Session, job_id: int, filed: Iterable[FiledPicture]) -> None:
    here = set(pictures.numbers(session, job_id))
    for picture in filed:
        if picture.number not in here:
            kept = KeptPicture(
                picture.number,
                picture.at,
                picture.parts["jpg"],
                picture.parts["small.jpg"],
                picture.parts.get("original"),
            )
            pictures.put_in(session, job_id, kept)
