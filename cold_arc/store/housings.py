"""The housings the shop read from their walls: what the next car of the same make and model begins
with.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy import literal_column, select
from sqlalchemy.orm import Session

from cold_arc.core.car.keys import BeamKey, parse_key
from cold_arc.core.job import plausible
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.wall_read import HousingRead
from cold_arc.store import jobs
from cold_arc.store.models import EntryRow

MOST_LISTED = 200


@dataclass(frozen=True)
class KnownHousing:
    """One housing that was read: on which job, of which beam of which car."""

    job_id: int
    booking: Booking
    beam: BeamKey
    read: HousingRead


def housings(session: Session) -> list[KnownHousing]:
    """The newest housings read, MOST_LISTED at most; of one beam of one job the newest."""
    is_housing = EntryRow.kind == literal_column(
        "'housing-read'"
    )  # as written in the index, so that it serves
    query = select(EntryRow).where(is_housing, EntryRow.undone_at.is_(None))
    rows = session.scalars(query.order_by(EntryRow.id.desc()).limit(MOST_LISTED)).all()
    bookings = jobs.bookings(session, {row.job_id for row in rows})
    newest: dict[tuple[int, BeamKey], KnownHousing] = {}
    for row in rows:
        read = plausible.read(row.kind, row.version, row.payload)
        if isinstance(read, HousingRead) and row.job_id in bookings:
            for beam in _beams(row.about):
                found_on = KnownHousing(row.job_id, bookings[row.job_id], beam, read)
                newest.setdefault((row.job_id, beam), found_on)
    return list(newest.values())


def _beams(about: list[str]) -> Iterator[BeamKey]:
    for text in about:
        try:
            key = parse_key(text)
        except ValueError:
            continue
        if isinstance(key, BeamKey):
            yield key


def alike(
    session: Session, job_id: int, booking: Booking, beam: BeamKey, housing: str, base: str
) -> KnownHousing | None:
    """The newest housing read of such a beam on another car of the same make and model, made for
    the same base and traffic; the same side's first. None where none was.
    """
    same = [
        known
        for known in housings(session)
        if known.job_id != job_id
        and _model(known.booking) == _model(booking)
        and known.beam.function is beam.function
        and (known.read.housing, known.read.base) == (housing, base)
        and known.booking.market == booking.market
        and not known.read.simulated
    ]
    return next(iter(sorted(same, key=lambda known: known.beam.side is not beam.side)), None)


def _model(booking: Booking) -> tuple[str, str]:
    return booking.make.strip().casefold(), booking.model.strip().casefold()
