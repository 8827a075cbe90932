"""Shops made once, copied for each test: by the first worker that asks for one."""

import os
import sqlite3
from contextlib import closing
from fcntl import LOCK_EX, flock


def made_once(tmp_path_factory, name, make):
    """A shop's folder that the first worker to ask for it makes; the others wait, and take it."""
    beside_another = "PYTEST_XDIST_WORKER" in os.environ
    root = tmp_path_factory.getbasetemp()
    root = root.parent if beside_another else root
    folder, half_made = root / name, tmp_path_factory.mktemp(name)
    with (root / f"{name}.lock").open("w") as lock:
        flock(lock, LOCK_EX)
        if not folder.exists():
            make(half_made)
            with closing(sqlite3.connect(half_made / "cold-arc.sqlite")) as database:
                database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            half_made.rename(folder)
    return folder
