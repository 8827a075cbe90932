"""A job as tests write it: entry after entry, some minutes apart."""

import datetime as dt

from cold_arc.core.job import plausible
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Entry, Record

NOW = dt.datetime(2026, 11, 5, 9, tzinfo=dt.UTC)


class WrittenJob:
    """A job and what follows from its entries."""

    def __init__(self):
        self.entries, self.at = [], NOW

    def add(self, payload, *about, minutes=1.0):
        plausible.check(payload)
        self.at += dt.timedelta(minutes=minutes)
        self.entries.append(Entry(len(self.entries) + 1, self.at, frozenset(about), payload))

    @property
    def record(self):
        return Record(self.entries)

    @property
    def work(self):
        return Handwork(self.record)

    @property
    def progress(self):
        return Progress(self.record)
