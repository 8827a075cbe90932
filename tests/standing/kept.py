"""The kept jobs: fourteen kinds of job as they were walked, each again for a re-check, and the
demo's. Each is a job's file of the version that wrote it.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

from cold_arc.core.car.keys import parse_key
from cold_arc.core.job import plausible
from cold_arc.core.job.filed import FiledEntry
from cold_arc.core.job.record import Entry
from cold_arc.formats import job_file

FOLDER = Path(__file__).with_name("jobs")


def names() -> list[str]:
    """What the kept jobs are called."""
    return sorted(path.stem for path in FOLDER.glob("*.zip"))


def entries(name: str) -> list[Entry]:
    """A job's live entries."""
    (job,) = job_file.read(FOLDER / f"{name}.zip")
    return list(_live(job.entries))


def _live(filed: tuple[FiledEntry, ...]) -> Iterator[Entry]:
    for number, entry in enumerate(filed, 1):
        content = entry.content
        about = frozenset(map(parse_key, json.loads(content.about)))
        payload = plausible.read(content.kind, content.version, json.loads(content.payload))
        if entry.undone_at is None:
            yield Entry(number, content.at, about, payload)
