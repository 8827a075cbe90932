"""Copies and the check: what is damaged is told, what is sound is not called damaged."""

from __future__ import annotations

import os
import shutil
import sqlite3
import time
from contextlib import closing

import pytest

from cold_arc.store import backup, damage
from cold_arc.store.database import FILE_NAME, StoreError, open_database


def change(path, statement):
    with closing(sqlite3.connect(path)) as database:
        database.execute(statement)
        database.commit()


@pytest.fixture
def copy(empty_folder):
    return backup.back_up(empty_folder)


def test_a_sound_copy_on_a_medium_that_can_not_be_written_to_is_sound(copy, monkeypatch):
    monkeypatch.setattr(os, "access", lambda *_: False)
    before = sorted(copy.parent.iterdir())
    assert damage.file_faults(copy) == []
    assert damage.unreadable(copy) == []
    assert sorted(copy.parent.iterdir()) == before


def test_a_table_that_is_gone_is_told(copy):
    change(copy, "DROP TABLE light_sources")
    assert damage.file_faults(copy) == ["the table light_sources is missing"]


def test_a_newer_file_is_told_as_one(copy):
    change(copy, "UPDATE alembic_version SET version_num = '9999'")
    (fault,) = damage.file_faults(copy)
    assert "newer Cold Arc" in fault


def test_another_programs_database_is_none_of_ours(tmp_path):
    change(tmp_path / "other.sqlite", "CREATE TABLE things (id)")
    (fault,) = damage.file_faults(tmp_path / "other.sqlite")
    assert "no Cold Arc database" in fault


def test_what_copies_cut_short_left_behind_is_cleared_away(empty_folder):
    target = empty_folder / backup.BACKUPS
    target.mkdir()
    old, new = (target / f"cold-arc-2026110{day}-010203.part" for day in (1, 2))
    for part in (old, new):
        part.write_bytes(b"half")
    os.utime(old, (time.time() - 2 * backup.LEFT_BEHIND_S,) * 2)
    backup.back_up(empty_folder)
    assert not old.exists()
    assert new.exists()  # another may be at it


def test_a_copy_beside_a_lock_ends_in_words(empty_folder, monkeypatch):
    monkeypatch.setattr(backup, "PATIENCE_S", 0.2)
    monkeypatch.setattr(backup.sqlite3, "connect", _impatient(sqlite3.connect))
    change(empty_folder / FILE_NAME, "PRAGMA journal_mode=DELETE")
    with closing(sqlite3.connect(empty_folder / FILE_NAME)) as other:
        other.execute("BEGIN EXCLUSIVE")
        began = time.monotonic()
        with pytest.raises(StoreError, match="locked"):
            backup.back_up(empty_folder)
        assert time.monotonic() - began < 5


def _impatient(connect):
    return lambda *given, **more: connect(*given, **{"timeout": 0.1} | more)


def test_damage_is_met_at_the_start(empty_folder, tmp_path):
    """A page in the middle of the file overwritten: the start says so, and what to do."""
    folder = tmp_path / "damaged"
    folder.mkdir()
    shutil.copy(empty_folder / FILE_NAME, folder)
    path = folder / FILE_NAME
    data = bytearray(path.read_bytes())
    size = int.from_bytes(data[16:18], "big")
    for page in range(3, len(data) // size, 2):
        data[page * size : page * size + 64] = os.urandom(64)
    path.write_bytes(bytes(data))
    with pytest.raises(StoreError, match="damaged"):
        open_database(folder)
