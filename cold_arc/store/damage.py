"""What is wrong with a file of the shop's data, or a copy of one: the file, its pictures, its
records, what this version can't read.
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, select
from sqlalchemy.orm import Session
from sqlalchemy.pool import NullPool

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.job import plausible
from cold_arc.core.job.record import Unreadable
from cold_arc.core.light_source import LightSource
from cold_arc.store import chain, picture_files
from cold_arc.store.catalogue import stored_route
from cold_arc.store.database import is_known, newest, plain_or_none
from cold_arc.store.models import TABLES, JobRow


def _opened(path: Path) -> sqlite3.Connection:
    """A database file to read, on a medium that can't be written to as well: SQLite then must not
    look for what others write meanwhile.
    """
    way = "mode=ro" if os.access(path.parent, os.W_OK) else "mode=ro&immutable=1"
    return sqlite3.connect(f"file:{path}?{way}", uri=True)


def file_faults(path: Path) -> list[str]:
    """What is wrong with a database file: by SQLite, and by the tables there should be; empty when
    it is sound.
    """
    try:
        with closing(_opened(path)) as database:
            faults = [row[0] for row in database.execute("PRAGMA integrity_check(20)")]
            faults += [
                f"a row of {row[0]} points nowhere"
                for row in database.execute("PRAGMA foreign_key_check")
            ]
            faults += _schema_faults(database)
    except sqlite3.Error as error:
        return [str(error)]
    return [fault for fault in faults if fault != "ok"]


def _schema_faults(database: sqlite3.Connection) -> Iterator[str]:
    """Tables that are not there, of a file of this version; a file of a newer one."""
    there = {
        row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
    }
    if "alembic_version" not in there:
        yield "it is no Cold Arc database: it does not say its version"
        return
    (version,) = database.execute("SELECT version_num FROM alembic_version").fetchone() or ("",)
    if not is_known(version):
        yield f"it was written by a newer Cold Arc (version {version} of its tables)"
    elif version == newest():
        yield from (f"the table {name} is missing" for name in sorted(TABLES - there))


def digests_in(path: Path) -> set[str]:
    """The digests of every picture a database file refers to; none of one that holds its own."""
    with closing(_opened(path)) as database:
        if not _refers_to_files(database):
            return set()
        return {digest for _, _, digest in _pictures(database)}


def _refers_to_files(database: sqlite3.Connection) -> bool:
    return any(row[1] == "jpeg_sum" for row in database.execute("PRAGMA table_info(pictures)"))


def _pictures(database: sqlite3.Connection) -> list[tuple[int, int, str]]:
    """Job, number and digest of every file pictures stand in."""
    return database.execute(
        "SELECT job_id, number, jpeg_sum FROM pictures"
        " UNION ALL SELECT job_id, number, small_sum FROM pictures"
        " UNION ALL SELECT job_id, number, sum FROM picture_originals"
        " JOIN pictures ON pictures.id = picture_id"
    ).fetchall()


def picture_faults(path: Path) -> list[str]:
    """Which pictures a sound database file refers to are missing beside it, or were changed."""
    with closing(_opened(path)) as database:
        rows = _pictures(database) if _refers_to_files(database) else []
    wrong = {digest: picture_files.fault(path.parent, digest) for _, _, digest in rows}
    faults = (
        f"picture {number} of job {job} is {wrong[digest]}"
        for job, number, digest in rows
        if wrong[digest]
    )
    return list(dict.fromkeys(faults))


def chain_faults(path: Path) -> list[str]:
    """What of the records in a sound database file of this version is not as it was chained."""
    with closing(_opened(path)) as database:
        (version,) = database.execute("SELECT version_num FROM alembic_version").fetchone()
    if version != newest():
        return []
    engine = create_engine("sqlite://", creator=lambda: _opened(path), poolclass=NullPool)
    with Session(engine) as session:
        numbers = session.scalars(select(JobRow.id).order_by(JobRow.id)).all()
        each = ((number, chain.faults(session, number)) for number in numbers)
        return [f"job {number}: {fault}" for number, faults in each for fault in faults]


# Things kept by name: their table, its JSON column, what they are called, and how one is read of
# its name and JSON.
NAMED: tuple[tuple[str, str, str, Callable[[str, Any], object]], ...] = (
    (
        "light_sources",
        "facts",
        "light source",
        lambda name, facts: plausible.read_or_none(facts, LightSource),
    ),
    ("route_templates", "steps", "route", stored_route),
    ("bench_setups", "facts", "set-up", lambda name, facts: plausible.read_or_none(facts, SetUp)),
)


def unreadable(path: Path) -> list[str]:
    """Entries, light sources, routes and set-ups this version can't read, in words; kept, of no
    account.
    """
    with closing(_opened(path)) as database:
        there = {
            row[0]
            for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
        }
        words = _unreadable_entries(database) if "entries" in there and _is_of_now(database) else []
        for table, column, what, read in NAMED:
            rows = (
                database.execute(f"SELECT name, {column} FROM {table} ORDER BY id")
                if table in there
                else ()
            )
            words += [
                f"{what} {name}: can't be read"
                for name, text in rows
                if read(name, plain_or_none(text)) is None
            ]
    return words


def _is_of_now(database: sqlite3.Connection) -> bool:
    """Whether entries carry versions: those of a copy from before are read once it is opened and
    brought up to date.
    """
    return any(row[1] == "version" for row in database.execute("PRAGMA table_info(entries)"))


def _unreadable_entries(database: sqlite3.Connection) -> list[str]:
    rows = database.execute("SELECT id, job_id, kind, version, payload FROM entries")
    return [
        f"job {job}, entry {number}: {kind} can't be read"
        for number, job, kind, version, text in rows
        if isinstance(plausible.read(kind, version, plain_or_none(text)), Unreadable)
    ]
