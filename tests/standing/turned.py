"""The kept jobs turned over: entries dropped, doubled, told of the other side, with other figures
and words, others between, as far as they may stand. All is asked of each, and kept as digests.
"""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from itertools import count
from random import Random

from cold_arc.core.car.keys import Key, across
from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.book_in import Booking, FrontSet, WorkChosen
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.record import Entry, Record, Unreadable
from tests.standing import kept, rare
from tests.standing.asking import Job
from tests.standing.bounds import Path, having, leaves
from tests.standing.plainly import plainly

# What no job is without.
FOUNDING = (Booking, FrontSet, WorkChosen)
# How often an entry is left out, told twice, told of the other side; how often another is
# told besides, and one of its figures or words is another.
DROPPED, DOUBLED, MIRRORED, BESIDES, OTHER = 0.15, 0.08, 0.08, 0.25, 0.1
TIMES = (0.8, 0.97, 1.05, 1.6, 3.0, -1.0)
# A digest's letters, and the figures it goes by.
LETTERS, COARSE = 10, 4


def answers(name: str, turns: int) -> Iterator[tuple[str, object]]:
    """A job turned so many times: of each the questions by what is asked, all their answers in a
    digest.
    """
    for turn in range(turns):
        record = turned(name, turn)
        told: dict[str, list[object]] = defaultdict(list)
        for question, answer in Job(record).answers():
            told[question.partition("(")[0]].append([question, plainly(answer)])
        for asked, all_told in told.items():
            yield f"turn {turn}: {asked}", _digest(all_told)


def _digest(told: object) -> str:
    return hashlib.sha256(json.dumps(_coarse(told)).encode()).hexdigest()[:LETTERS]


def _coarse(plain: object) -> object:
    """The same to fewer figures: a digest has no tolerance for another machine's last one."""
    if isinstance(plain, list):
        return [_coarse(part) for part in plain]
    if isinstance(plain, dict):
        return {name: _coarse(held) for name, held in plain.items()}
    return float(f"{plain:.{COARSE}g}") if isinstance(plain, float) else plain


def turned(name: str, turn: int) -> Record:
    """A kept job turned over."""
    entries, random = kept.entries(name), Random(f"{name} {turn}")
    return Record(_turned(entries, Record(entries), random))


def _turned(entries: list[Entry], record: Record, random: Random) -> Iterator[Entry]:
    numbers = count(1)
    for entry in entries:
        if isinstance(entry.payload, FOUNDING):
            yield replace(entry, id=next(numbers))
            continue
        for _ in range(1 + (random.random() < DOUBLED)):
            if random.random() > DROPPED:
                yield _told_otherwise(entry, random, next(numbers))
        if random.random() < BESIDES:
            about, payload = rare.told(record, random)
            payload = _other(payload, random)
            yield Entry(next(numbers), entry.at, about, payload)


def _told_otherwise(entry: Entry, random: Random, number: int) -> Entry:
    about = entry.about
    if random.random() < MIRRORED:
        about = frozenset(map(_other_side, about))
    return replace(entry, id=number, about=about, payload=_other(entry.payload, random))


def _other_side(key: Key) -> Key:
    return across(key)


def _other(payload: Payload, random: Random) -> Payload:
    """The same kind of entry with another figure or word here and there, where that may stand."""
    kind = type(payload).ENTRY
    for path, value in leaves(to_plain(payload)):
        if random.random() < OTHER:
            plain = having(to_plain(payload), path, _another(kind.id, path, value, random))
            read = plausible.read(kind.id, kind.version, plain)
            payload = payload if isinstance(read, Unreadable) else read
    return payload


def _another(kind: str, path: Path, value: object, random: Random) -> object:
    if isinstance(value, bool):
        return not value
    if isinstance(value, float):
        return value * random.choice(TIMES)
    return random.choice(_seen()[kind, path])


@cache
def _seen() -> dict[tuple[str, Path], list[object]]:
    """What was ever told at a place of a kind of entry, in all kept jobs."""
    seen: dict[tuple[str, Path], dict[str, object]] = defaultdict(dict)
    told = [entry.payload for name in kept.names() for entry in kept.entries(name)]
    for payload in (*told, *rare.every()):
        for path, value in leaves(to_plain(payload)):
            seen[type(payload).ENTRY.id, path][json.dumps(value)] = value
    return {place: [values[text] for text in sorted(values)] for place, values in seen.items()}
