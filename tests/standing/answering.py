"""The standing answers by subject: asked anew, kept, compared."""

from __future__ import annotations

import gzip
import json
import math
from collections.abc import Iterator, Mapping
from itertools import islice
from pathlib import Path

from cold_arc.core.job.record import Record
from tests.standing import bounds, drawn, kept, rare, turned
from tests.standing.asking import Job
from tests.standing.drawn import aiming, beams, matching, metering, working
from tests.standing.plainly import ABOUT, plainly

FOLDER = Path(__file__).with_name("answers")
DRAWN = {
    "matching": matching,
    "beams": beams,
    "metering": metering,
    "aiming": aiming,
    "working": working,
}
BOUNDS = "bounds"
# A job is asked as it stood after so many parts of its entries; one come back only as it stands.
PARTS, AGAIN, TURNS = 5, "re-check", 4
# How far a figure may be off that another machine adds up in another order; and a fit's.
RELATIVE, FITTED, ABSOLUTE = 1e-4, 0.02, 1e-6
MOST_PARTS, NOT_ASKED = 6, "not asked"
Kept = dict[str, object]


def subjects() -> list[str]:
    """Everything that is asked about."""
    return [*kept.names(), BOUNDS, *DRAWN]


def is_usual(subject: str) -> bool:
    """Whether a subject is asked each time: of the jobs one in three."""
    return subject not in kept.names() or subject in kept.names()[::3]


def asked_anew(subject: str) -> Kept:
    """The answers of now; what does not change as a job goes on stands once."""
    if subject in DRAWN:
        return _plain(DRAWN[subject].answers())
    if subject == BOUNDS:
        told = (entry.payload for name in kept.names() for entry in kept.entries(name))
        return _plain(bounds.answers([*told, *rare.every()]))
    return dict(_as_it_went(subject))


def _plain(answers: drawn.Answers) -> Kept:
    return {question: plainly(answer) for question, answer in answers}


def _as_it_went(name: str) -> Iterator[tuple[str, object]]:
    entries = kept.entries(name)
    parts = 1 if name.endswith(AGAIN) else PARTS
    known: Kept = {}
    for part in range(1, parts + 1):
        number = max(1, len(entries) * part // parts)
        now = _plain(Job(Record(entries[:number])).answers())
        for question, answer in now.items():
            if question not in known or known[question] != answer:
                yield f"after {number}: {question}", answer
        yield f"after {number}: no more", sorted(known.keys() - now.keys())
        known = now
    yield from turned.answers(name, TURNS)


def path_of(subject: str) -> Path:
    """Where a subject's answers are kept."""
    return FOLDER / f"{subject}.json.gz"


def as_kept(subject: str) -> Kept:
    """The answers kept; none where a subject is new."""
    path = path_of(subject)
    answers: Kept = json.loads(gzip.decompress(path.read_bytes())) if path.exists() else {}
    return answers


def keep(subject: str, answers: Mapping[str, object]) -> None:
    """Writes a subject's answers, the same bytes for the same answers."""
    path_of(subject).write_bytes(gzip.compress(json.dumps(answers).encode(), mtime=0))


def changed(subject: str, answers: Kept) -> Iterator[str]:
    """Each question whose answer is another than was kept, with what of it was and is."""
    was, now = as_kept(subject), json.loads(json.dumps(answers))
    for question in sorted(was.keys() | now.keys()):
        parts = list(_apart(was.get(question, NOT_ASKED), now.get(question, NOT_ASKED)))
        if parts:
            yield "\n".join([question, *islice(parts, MOST_PARTS)])


def _apart(was: object, now: object, where: str = "", relative: float = RELATIVE) -> Iterator[str]:
    """Where two answers differ, in words."""
    if isinstance(was, list) and isinstance(now, list) and len(was) == len(now):
        for place, pair in enumerate(zip(was, now, strict=True)):
            yield from _apart(*pair, f"{where}[{place}]")
    elif isinstance(was, dict) and isinstance(now, dict) and was.keys() == now.keys():
        for name in was:
            near = FITTED if name == ABOUT else relative
            yield from _apart(was[name], now[name], f"{where}.{name}", near)
    elif not _alike(was, now, relative):
        yield f"  {where} was {was}\n  {where} is  {now}"


def _alike(one: object, other: object, relative: float) -> bool:
    if isinstance(one, float) and isinstance(other, int | float):
        return math.isclose(one, other, rel_tol=relative, abs_tol=ABSOLUTE)
    return one == other
