"""Starting, backing up and checking: whatever is wrong is said in words, and nothing is half
made.
"""

from __future__ import annotations

import datetime as dt
import os
import shutil
import sqlite3
import stat
import subprocess
import sys
from contextlib import closing

import pytest

from cold_arc import cli
from cold_arc.store import backup, damage
from cold_arc.store.database import StoreError, open_database
from cold_arc.web.app import create_app
from tests.old_shops import write_old
from tests.robust.conftest import ask, change, settle


@pytest.fixture
def shop(prepared, tmp_path, monkeypatch):
    folder = tmp_path / "data"
    shutil.copytree(prepared, folder)
    monkeypatch.setenv("COLD_ARC_DATA", str(folder))
    return folder


def said(capsys, *arguments):
    code = cli.main(list(arguments))
    out = capsys.readouterr()
    return code, out.out + out.err


def test_data_is_its_owners_alone(shop):
    create_app(shop)
    assert stat.S_IMODE(shop.stat().st_mode) == 0o700
    for name in ("cold-arc.sqlite", "secret-key"):
        assert stat.S_IMODE((shop / name).stat().st_mode) == 0o600, name


def test_a_half_written_key_is_made_anew(shop):
    (shop / "secret-key").write_text("")
    assert len(create_app(shop).config["SECRET_KEY"]) == 64
    assert (shop / "secret-key").read_text() == create_app(shop).config["SECRET_KEY"]


def test_each_shop_has_a_cookie_of_its_own(shop, tmp_path):
    names = {
        create_app(folder).config["SESSION_COOKIE_NAME"] for folder in (shop, tmp_path / "other")
    }
    assert len(names) == 2
    assert all(name.startswith("cold_arc_") for name in names)


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (lambda folder: (folder / "cold-arc.sqlite").write_bytes(b""), "is empty"),
        (
            lambda folder: (folder / "cold-arc.sqlite").write_bytes(b"no database at all" * 100),
            "is damaged",
        ),
        (
            lambda folder: change(folder, "UPDATE alembic_version SET version_num = '9999'"),
            "newer Cold Arc",
        ),
    ],
)
def test_what_can_not_be_opened_is_said_in_words(shop, capsys, damage, words):
    damage(shop)
    code, text = said(capsys, "serve", "--no-serve")
    assert code == 1
    assert words in text
    assert "Traceback" not in text


def test_a_folder_that_is_a_file_is_said(tmp_path, capsys, monkeypatch):
    (tmp_path / "file").write_text("x")
    monkeypatch.setenv("COLD_ARC_DATA", str(tmp_path / "file"))
    code, text = said(capsys, "serve", "--no-serve")
    assert code == 1
    assert "cold-arc:" in text


def test_two_first_starts_at_once_make_one_shop(tmp_path):
    environment = {**os.environ, "COLD_ARC_DATA": str(tmp_path / "new")}
    command = [sys.executable, "-m", "cold_arc", "serve", "--no-serve"]
    starts = [subprocess.Popen(command, env=environment, stderr=subprocess.PIPE) for _ in range(2)]
    assert [(start.communicate()[1], start.returncode) for start in starts] == [(b"", 0)] * 2


def test_a_first_start_that_was_killed_is_begun_again(tmp_path):
    """SQLite makes its file empty, before the first table is in it: that is no damage."""
    (tmp_path / "cold-arc.sqlite").touch()
    (tmp_path / "starting.lock").touch()
    open_database(tmp_path)
    assert ask(tmp_path, "SELECT count(*) FROM jobs") == [(0,)]


def test_an_older_shop_is_brought_up_to_date(tmp_path):
    """A database as an older version left it: its due dates come along, its board is worked out."""
    write_old(
        tmp_path,
        [
            "DROP INDEX ix_jobs_without_board", "DROP INDEX ix_jobs_closed_due",
            "ALTER TABLE jobs DROP COLUMN board",
            "ALTER TABLE jobs DROP COLUMN due", "DROP TABLE answers",
            "DROP TABLE light_source_history",
            "UPDATE alembic_version SET version_num = '0002'",
        ],
    )  # fmt: skip
    open_database(tmp_path)
    assert ask(tmp_path, "SELECT count(*) FROM jobs WHERE due IS NOT NULL") == [(5,)]
    assert b"TL-318" in create_app(tmp_path).test_client().get("/").data


def test_a_backup_is_a_whole_shop(shop, tmp_path, capsys):
    code, text = said(capsys, "backup", "--into", str(tmp_path / "second"))
    assert (code, "Backed up to" in text) == (0, True)
    (copy,) = backup.copies(tmp_path / "second")
    assert stat.S_IMODE(copy.stat().st_mode) == 0o600
    restored = tmp_path / "restored"
    restored.mkdir()
    copy.rename(restored / "cold-arc.sqlite")
    assert b"TL-318" in create_app(restored).test_client().get("/").data


def test_backups_are_kept_in_number_and_made_daily(shop):
    day = dt.datetime(2026, 11, 1, 3)
    for days in range(6):
        backup.back_up(shop, keep=4, at=day + dt.timedelta(days=days))
    kept = backup.copies(shop / "backups")
    assert [copy.name[9:17] for copy in kept] == ["20261103", "20261104", "20261105", "20261106"]
    assert backup.is_due(shop / "backups", day + dt.timedelta(days=6))
    assert not backup.is_due(shop / "backups", day + dt.timedelta(days=5, hours=12))
    assert backup.is_due(shop / "nowhere", day)


def test_a_backup_while_somebody_writes(shop):
    with closing(sqlite3.connect(shop / "cold-arc.sqlite", isolation_level=None)) as writer:
        writer.execute("BEGIN IMMEDIATE")
        writer.execute("INSERT INTO settings VALUES ('half', 'done')")
        copy = backup.back_up(shop)
        writer.execute("ROLLBACK")
    assert damage.file_faults(copy) == []


def test_nothing_to_back_up_is_said(tmp_path):
    with pytest.raises(StoreError, match="nothing to back up"):
        backup.back_up(tmp_path)
    assert not (tmp_path / "backups").exists()


def test_check_tells_sound_from_damaged(shop, capsys):
    assert said(capsys, "check") == (0, f"{shop / 'cold-arc.sqlite'} is sound.\n")
    change(shop, "UPDATE entries SET kind = 'levitated' WHERE id = 3")
    code, text = said(capsys, "check")
    assert (code, "levitated can't be read" in text) == (1, True)
    assert "records in it are not as they were written" in text
    change(shop, "UPDATE light_sources SET facts = '{\"base\": 7}' WHERE id = 2")
    code, text = said(capsys, "check")
    assert (code, text.count("can't be read"), "\nlight source " in text) == (1, 2, True)
    assert "this version cannot read 2 of what it holds" in text
    settle(shop)
    with open(shop / "cold-arc.sqlite", "r+b") as file:
        file.seek(8192)
        file.write(os.urandom(16384))
    code, text = said(capsys, "check")
    assert (code, "damaged" in text) == (1, True)
