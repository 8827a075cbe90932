"""Pictures and originals stand as files beside the database, each under its SHA-256; a row holds
that. What is here is written out first, one after the other.

Written here as it is defined today (cold_arc/store/picture_files.py), by a copy of it: what later
changes in the program must not change what this wrote.
"""

import hashlib
import os
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    database = op.get_bind()
    folder = _folder(database)
    _write_out(database, folder, "pictures", "id", {"jpeg": "jpeg_sum", "small": "small_sum"})
    _write_out(database, folder, "picture_originals", "picture_id", {"data": "sum"})


def _folder(database: Any) -> Path:
    paths = {name: path for _, name, path in database.exec_driver_sql("PRAGMA database_list")}
    return Path(paths["main"]).parent / "pictures"


def _write_out(database: Any, folder: Path, table: str, key: str, columns: dict[str, str]) -> None:
    for digest in columns.values():
        op.add_column(table, sa.Column(digest, sa.String(64), nullable=False, server_default=""))
    for (number,) in database.exec_driver_sql(f"SELECT {key} FROM {table}").fetchall():
        for data, digest in columns.items():
            (held,) = database.exec_driver_sql(f"SELECT {data} FROM {table} WHERE {key} = ?", (number,)).fetchone()
            name = _put(folder, bytes(held))
            database.exec_driver_sql(f"UPDATE {table} SET {digest} = ? WHERE {key} = ?", (name, number))
    for data in columns:
        op.drop_column(table, data)


def _put(folder: Path, data: bytes) -> str:
    digest = hashlib.sha256(data).hexdigest()
    path = folder / digest[:2] / digest
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        part = path.with_name(f"{digest}.part")
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as to:
            to.write(data)
            to.flush()
            os.fsync(to.fileno())
        part.replace(path)
    return digest


def downgrade() -> None:
    database = op.get_bind()
    folder = _folder(database)
    _read_in(database, folder, "pictures", "id", {"jpeg": "jpeg_sum", "small": "small_sum"})
    _read_in(database, folder, "picture_originals", "picture_id", {"data": "sum"})


def _read_in(database: Any, folder: Path, table: str, key: str, columns: dict[str, str]) -> None:
    """The files back into their rows; FileNotFoundError where one is gone."""
    for data, digest in columns.items():
        op.add_column(table, sa.Column(data, sa.LargeBinary(), nullable=False, server_default=""))
        for number, name in database.exec_driver_sql(f"SELECT {key}, {digest} FROM {table}").fetchall():
            held = (folder / name[:2] / name).read_bytes()
            database.exec_driver_sql(f"UPDATE {table} SET {data} = ? WHERE {key} = ?", (held, number))
        op.drop_column(table, digest)
