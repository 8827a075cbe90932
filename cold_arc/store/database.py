"""Opens the shop's SQLite database and brings it up to date."""

from __future__ import annotations

import fcntl
import json
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache, partial
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util.exc import CommandError
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from cold_arc.core.errors import ColdArcError
from cold_arc.store.owned import OWNER_ONLY
from cold_arc.store.turns import Turns

_MIGRATIONS = Path(__file__).parent / "migrations"


BUSY_MS = 3000
FILE_NAME = "cold-arc.sqlite"
OWNERS_FOLDER = 0o700


class StoreError(ColdArcError, OSError):
    """The data can't be opened; the message says why and what to do."""


def _pragmas(connection: Any, _: Any) -> None:
    """Every commit reaches the disk before it is answered; readers don't wait for writers; we begin
    transactions.
    """
    connection.isolation_level = None
    cursor = connection.cursor()
    for pragma in (
        "journal_mode=WAL",
        "synchronous=FULL",
        "foreign_keys=ON",
        f"busy_timeout={BUSY_MS}",
    ):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _begin(turns: Turns, connection: Connection) -> None:
    """A transaction that will write takes the lock at once, so that what it reads is what it
    changes.
    """
    immediate = connection.get_execution_options().get(WRITES)
    if immediate:
        turns.take(connection)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if immediate else "BEGIN")


WRITES = "cold_arc_writes"


def writing(session: Session) -> Session:
    """The session with the write lock taken: others who write wait until it commits or closes."""
    session.connection(execution_options={WRITES: True})
    return session


def plain_or_none(text: str) -> Any:
    """A stored JSON text's value; None for one that is none, so that one damaged row keeps no other
    from being read.
    """
    try:
        return json.loads(text)
    except (ValueError, TypeError, RecursionError):
        return None


def open_database(folder: Path) -> sessionmaker[Session]:
    """Sessions on the shop's database in *folder*, created and migrated as needed, readable by its
    owner alone.

    Raises StoreError, in words, where it can't be.
    """
    _make_folder(folder)
    path = folder / FILE_NAME
    engine = create_engine(
        f"sqlite:///{path}",
        connect_args={"timeout": BUSY_MS / 1000},
        json_deserializer=plain_or_none,
    )
    event.listen(engine, "connect", _pragmas)
    event.listen(engine, "begin", partial(_begin, Turns(engine, BUSY_MS / 1000)))
    try:
        with _alone(folder) as first_start_ended:
            if first_start_ended and path.exists() and path.stat().st_size == 0:
                raise StoreError(
                    f"{path} is empty. Put a backup in its place, or remove it to begin an "
                    "empty shop."
                )
            _quick_check(engine)
            migrate(engine)
            path.chmod(OWNER_ONLY)
    except (DatabaseError, CommandError) as error:
        raise StoreError(_why(path, error)) from error
    return sessionmaker(engine, expire_on_commit=False)


def _make_folder(folder: Path) -> None:
    try:
        if not folder.exists():
            folder.mkdir(parents=True, mode=OWNERS_FOLDER)
        folder.chmod(OWNERS_FOLDER)
    except OSError as error:
        raise StoreError(
            f"{folder} can't be used ({error.strerror}). Name another with COLD_ARC_DATA."
        ) from error


@contextmanager
def _alone(folder: Path) -> Iterator[bool]:
    """Holds off another start on the same folder while the tables are made; says whether a start
    has ended before.

    While none has, an empty file is what a first start, perhaps a killed one, has only begun. Later
    it is damage.
    """
    try:
        lock = (folder / "starting.lock").open("a+")
    except OSError as error:
        raise StoreError(f"{folder} can't be written to ({error.strerror}).") from error
    with lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        lock.seek(0)
        ended = bool(lock.read())
        yield ended
        if not ended:
            lock.write("started\n")


def _why(path: Path, error: Exception) -> str:
    """What is wrong with a database, in words."""
    text = str(error)
    if "Can't locate revision" in text:
        return f"{path} was written by a newer Cold Arc. Use that one, or a backup from before."
    if "readonly" in text or "unable to open" in text:
        return f"{path} can't be written to. Check the folder's owner and rights."
    if "full" in text:
        return f"There is no room left on the disk for {path}."
    if "locked" in text:
        return f"{path} is in use by another program. Stop it and start again."
    return (
        f"{path} is damaged ({text.splitlines()[0][:120]}). Put a backup in its place; `cold-arc "
        "check` tells more."
    )


def _quick_check(engine: Engine) -> None:
    """Damage is met before the day's work goes into it; DatabaseError where there is any."""
    with engine.connect() as connection:
        (first,) = connection.exec_driver_sql("PRAGMA quick_check(1)").fetchone() or ("ok",)
    if first != "ok":
        raise DatabaseError("quick_check", None, ValueError(first))


def is_known(version: str) -> bool:
    """Whether a version of the tables is one this program knows."""
    return any(script.revision == version for script in _scripts().walk_revisions())


def migrate(engine: Engine) -> None:
    """Runs the migrations the database has not seen."""
    with engine.connect() as connection:
        if MigrationContext.configure(connection).get_current_revision() == newest():
            return
    config = _config()
    with engine.connect().execution_options(**{WRITES: True}) as connection, connection.begin():
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    _give_back(engine)


# A file this much empty is written anew, a share.
MOSTLY_EMPTY = 0.5


def _give_back(engine: Engine) -> None:
    """Gives the disk back what a migration emptied; a file that can't be is let be."""
    raw = engine.raw_connection()
    try:
        (pages,) = raw.cursor().execute("PRAGMA page_count").fetchone()
        (empty,) = raw.cursor().execute("PRAGMA freelist_count").fetchone()
        if empty > MOSTLY_EMPTY * pages:
            raw.cursor().execute("VACUUM")
    except sqlite3.Error:
        return
    finally:
        raw.close()


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    return config


@cache
def _scripts() -> ScriptDirectory:
    return ScriptDirectory.from_config(_config())


@cache
def newest() -> str | None:
    """The newest migration's id."""
    return _scripts().get_current_head()
