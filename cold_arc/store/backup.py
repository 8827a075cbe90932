"""A second copy of the shop's only data: made while it is in use, checked before it counts, kept in
number.
"""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.job import plausible
from cold_arc.core.job.record import Unreadable
from cold_arc.core.light_source import LightSource
from cold_arc.store.catalogue import stored_route
from cold_arc.store.database import (
    FILE_NAME,
    OWNERS_FOLDER,
    StoreError,
    is_known,
    newest,
    plain_or_none,
)
from cold_arc.store.models import TABLES
from cold_arc.store.owned import OWNER_ONLY

BACKUPS = "backups"
KEPT = 14
STAMP = "cold-arc-%Y%m%d-%H%M%S.sqlite"
# How long a copy waits for a lock, how often it asks; from when on what a copy cut short left is
# cleared away, s.
PATIENCE_S, RETRY_S, LEFT_BEHIND_S = 20.0, 0.25, 3600.0
PATTERN = "cold-arc-????????-??????.sqlite"


def back_up(
    folder: Path, into: Path | None = None, keep: int = KEPT, at: dt.datetime | None = None
) -> Path:
    """An online copy of *folder*'s database (SQLite's backup interface), verified, named by its
    moment.

    Returns its path. Older copies beyond *keep* are removed. StoreError, in words, where there is
    nothing to copy or no copy to be made.
    """
    source, target = folder / FILE_NAME, into or folder / BACKUPS
    if not source.exists():
        raise StoreError(f"{source} does not exist: nothing to back up.")
    copy = target / (at or dt.datetime.now()).strftime(STAMP)
    part = copy.with_suffix(".part")
    try:
        target.mkdir(parents=True, exist_ok=True, mode=OWNERS_FOLDER)
        _clear_away(target)
        part.touch(OWNER_ONLY)
        with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(part)) as new:
            old.backup(new, progress=_within(PATIENCE_S), sleep=RETRY_S)
        if faults := file_faults(part):
            raise StoreError(
                f"The copy is damaged ({faults[0]}); so is {source}. `cold-arc check` tells more."
            )
        part.replace(copy)
    except (OSError, sqlite3.Error) as error:
        part.unlink(missing_ok=True)
        raise (
            error
            if isinstance(error, StoreError)
            else StoreError(f"No backup was made in {target}: {error}.")
        ) from error
    for old_copy in copies(target)[:-keep]:
        old_copy.unlink(missing_ok=True)
    return copy


def _clear_away(target: Path) -> None:
    """Removes what copies cut short have left behind."""
    for left in target.glob("cold-arc-*.part*"):
        if time.time() - left.stat().st_mtime > LEFT_BEHIND_S:
            left.unlink(missing_ok=True)


def _within(patience_s: float) -> Callable[[int, int, int], None]:
    """Ends a copy that waits for somebody else's lock longer than that."""
    until = time.monotonic() + patience_s

    def progress(status: int, remaining: int, total: int) -> None:
        if status in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED) and time.monotonic() > until:
            raise StoreError("The data is locked by another program; no backup was made.")

    return progress


def copies(target: Path) -> list[Path]:
    """The copies in a folder, oldest first."""
    return sorted(target.glob(PATTERN))


def is_due(target: Path, now: dt.datetime) -> bool:
    """Whether the newest copy is a day old, or there is none."""
    newest = copies(target)[-1:]
    return not newest or now - dt.datetime.strptime(newest[0].name, STAMP) >= dt.timedelta(days=1)


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
