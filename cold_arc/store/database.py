"""Opens the shop's SQLite database and brings it up to date."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"


def _pragmas(connection: Any, _: Any) -> None:
    """Every commit reaches the disk before it is answered; readers don't wait for writers."""
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=5000"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def open_database(folder: Path) -> sessionmaker[Session]:
    """Sessions on ``folder/cold-arc.sqlite``, created and migrated as needed; OSError if it can't be."""
    folder.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / 'cold-arc.sqlite'}")
    event.listen(engine, "connect", _pragmas)
    migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)


def migrate(engine: Engine) -> None:
    """Runs the migrations the database has not seen."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
