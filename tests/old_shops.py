"""Shops as earlier versions left them: dumps under `old/`, named by their migration."""

import sqlite3
from contextlib import closing
from pathlib import Path

OLD = Path(__file__).parent / "old"


def write_old(folder, extra=(), dump="0003.sql"):
    """Writes an old shop's database into *folder*, changed by *extra* statements."""
    with closing(sqlite3.connect(folder / "cold-arc.sqlite")) as database:
        database.executescript((OLD / dump).read_text())
        for statement in extra:
            database.execute(statement)
        database.commit()
