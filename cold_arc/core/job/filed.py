"""Jobs whole, as a file carries them: entries as stored, with their chain, and pictures."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from cold_arc.core.errors import ColdArcError
from cold_arc.core.job import chain, plausible
from cold_arc.core.job.chain import Link, StoredContent
from cold_arc.core.job.entries.book_in import Booking


class FiledJobError(ColdArcError, ValueError):
    """A job that is not to be believed; the message says why."""


@dataclass(frozen=True)
class FiledPicture:
    """A picture: its number within its job, when it was taken, its parts by ending: "jpg",
    "small.jpg", "original".
    """

    number: int
    at: dt.datetime
    parts: Mapping[str, bytes]


@dataclass(frozen=True)
class FiledEntry:
    """An entry as it is stored, and when it was undone."""

    content: StoredContent
    undone_at: dt.datetime | None


@dataclass(frozen=True)
class FiledJob:
    """A job: when it was opened and closed, its entries and its chain; its pictures, read one after
    the other when asked for. *carried*: fields of a newer version, by where they stand: "job", or
    "entry N" with N from 1; kept as they are.
    """

    opened_at: dt.datetime
    closed_at: dt.datetime | None
    entries: tuple[FiledEntry, ...]
    links: tuple[Link, ...]
    picture_numbers: tuple[int, ...] = ()
    pictures: Callable[[], Iterator[FiledPicture]] = field(default=lambda: iter(()), compare=False)
    carried: Mapping[str, Any] = field(default_factory=dict)

    def booking(self) -> Booking:
        """The booking it was founded with; FiledJobError where its chain does not hold, or it
        begins with none.
        """
        stored = [(entry.content, entry.undone_at is not None) for entry in self.entries]
        wrong = chain.faults(stored, self.links)
        if wrong:
            raise FiledJobError(f"A record in the file is not as it was chained: {wrong[0]}")
        founding = self.entries[0].content
        try:
            plain = json.loads(founding.payload)
        except (ValueError, RecursionError):
            plain = None
        booking = plausible.read(founding.kind, founding.version, plain)
        if not isinstance(booking, Booking):
            raise FiledJobError("A record in the file begins with no booking that is read here.")
        return booking
