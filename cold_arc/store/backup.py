"""A second copy of the shop's only data: made while it is in use, checked before it counts, kept in
number. Pictures are copied once, however many copies refer to them.
"""

from __future__ import annotations

import datetime as dt
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from cold_arc.store import picture_files
from cold_arc.store.damage import digests_in, file_faults
from cold_arc.store.database import FILE_NAME, OWNERS_FOLDER, StoreError
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
        picture_files.carry(folder, target, digests_in(part))
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
    _sweep(folder, target)
    return copy


def _sweep(folder: Path, target: Path) -> None:
    """Removes pictures no copy refers to, and of the data in use those that have not for a day."""
    picture_files.sweep(target, set().union(*map(digests_in, copies(target))), 0.0)
    picture_files.sweep(folder, digests_in(folder / FILE_NAME))


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
