"""The record in words: each entry as one line, newest first, with what can be undone."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from cold_arc.core.car.front import Front
from cold_arc.core.car.keys import Key
from cold_arc.store.jobs import Job

SHOWN = 8


@dataclass(frozen=True)
class HistoryLine:
    """One entry as shown; *founding*: the job was opened with it."""

    id: int
    at: dt.datetime
    text: str
    about: str
    undone: bool
    can_undo: bool
    founding: bool


def history(job: Job, most: int, skip: int = 0) -> list[HistoryLine]:
    """The entries, newest first, undone ones among them: *most* of them after *skip*."""
    upto = len(job.entries) - skip
    shown = job.entries[max(upto - most, 0) : max(upto, 0)]
    founding = job.entries[0].id if job.entries else 0
    return [
        HistoryLine(
            entry.id,
            entry.at,
            entry.payload.in_words(),
            _about(job.record.front, entry.about),
            entry.undone_at is not None,
            entry.id != founding,
            entry.at == job.opened_at,
        )
        for entry in reversed(shown)
    ]


def _about(front: Front, keys: frozenset[Key]) -> str:
    """What an entry is about, short: "low beam both, headlamp left"."""
    sides: dict[str, list[str]] = {}
    for key in sorted(keys, key=str):
        words = front.words(key) if front.has(key) else key.name
        sides.setdefault(words.lower(), []).append(key.side.value)
    return ", ".join(
        f"{words} {held[0] if len(held) == 1 else 'both'}" for words, held in sides.items()
    )
