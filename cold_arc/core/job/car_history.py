"""A car over all its jobs: what is in which socket now, since when, and every visit."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.later import Claimed, Returned
from cold_arc.core.job.facts import fitted_before
from cold_arc.core.job.in_socket import in_socket
from cold_arc.core.job.later import returned
from cold_arc.core.job.record import Record
from cold_arc.core.light_source import LightSource


@dataclass(frozen=True)
class CarVisit:
    """One job of a car: its number, when it was opened and left."""

    job_id: int
    opened_on: dt.date
    left_on: dt.date | None
    booking: Booking
    record: Record

    @property
    def back(self) -> Returned | None:
        """Why it was here again, where it was."""
        return returned(self.record)

    @property
    def claims(self) -> list[Claimed]:
        """What was claimed, each as it stands."""
        newest = {claim.source: claim for claim in self.record.all(Claimed)}
        return list(newest.values())

    @property
    def fitted(self) -> list[str]:
        """What it put in, each once."""
        now = (in_socket(self.record, key).source for key in self.record.sockets)
        return list(dict.fromkeys(source.name for source in now if source))


@dataclass(frozen=True)
class SocketNow:
    """What is in one socket of a car now: its name with its side, *words*, since when, by which
    job; *source* where a job put it in.
    """

    name: str
    words: str
    since: dt.date | None = None
    job_id: int | None = None
    source: LightSource | None = None


def sockets_now(visits: Sequence[CarVisit]) -> list[SocketNow]:
    """What is in each socket any of the *visits*, oldest first, worked on; the newest says it."""
    now: dict[str, SocketNow] = {}
    for visit in visits:
        now |= {each.name: each for each in _of_visit(visit, now)}
    return list(now.values())


def _of_visit(visit: CarVisit, earlier: dict[str, SocketNow]) -> Iterator[SocketNow]:
    record = visit.record
    for key in record.sockets:
        name, here = record.front.named(key), in_socket(record, key)
        before = fitted_before(record, key)
        known = earlier.get(name)
        if here.source is not None:
            day = visit.left_on or visit.opened_on
            yield SocketNow(name, here.words, day, visit.job_id, here.source)
        elif before is not None:
            job_id = known.job_id if known and known.source == before.source else None
            yield SocketNow(name, before.source.name, before.left_on, job_id, before.source)
        else:
            yield SocketNow(name, here.words)
