"""Pictures as files: shared, moved out of old databases, copied once, missed when they are gone."""

import datetime as dt
import hashlib
import os
import sqlite3
import time
from contextlib import closing

import pytest
from alembic import command

from cold_arc.store import backup, damage, database, picture_files, pictures
from cold_arc.store.database import FILE_NAME, open_database
from cold_arc.store.models import JobRow

JPEG, SMALL, RAW = b"jpeg" * 999, b"small", b"as it came" * 9


@pytest.fixture
def session(empty_folder):
    with open_database(empty_folder)() as opened:
        opened.add(JobRow(opened_at=dt.datetime.now(dt.UTC)))
        opened.flush()
        yield opened


def files(folder):
    return sorted(path.name for path in (folder / picture_files.PICTURES).glob("??/*"))


def digest(data):
    return hashlib.sha256(data).hexdigest()


def test_what_is_kept_is_read_back_and_the_same_twice_is_one_file(session, empty_folder):
    first = pictures.keep(session, 1, JPEG, SMALL, RAW)
    second = pictures.keep(session, 1, JPEG, SMALL)
    session.commit()
    assert pictures.kept(session, 1, first).original == RAW
    assert pictures.picture(session, 1, second, small=True) == SMALL
    assert pictures.picture(session, 1, second, small=False) == JPEG
    assert pictures.original(session, 1, second) is None
    assert files(empty_folder) == sorted(map(digest, (JPEG, SMALL, RAW)))
    assert all(os.stat(path).st_mode & 0o077 == 0 for path in empty_folder.glob("pictures/??/*"))


def test_a_deleted_original_is_off_the_disk_once_that_is_committed_and_not_before(
    session, empty_folder
):
    number = pictures.keep(session, 1, JPEG, SMALL, RAW)
    session.commit()
    assert pictures.delete_originals(session, 1, [number]) == 1
    assert digest(RAW) in files(empty_folder)
    session.commit()
    assert digest(RAW) not in files(empty_folder)
    assert pictures.kept(session, 1, number).original is None


def test_an_original_another_picture_holds_stays(session, empty_folder):
    number = pictures.keep(session, 1, JPEG, SMALL, RAW)
    pictures.keep(session, 1, RAW, SMALL)
    pictures.delete_originals(session, 1, [number])
    session.commit()
    assert digest(RAW) in files(empty_folder)


@pytest.mark.parametrize(("harm", "word"), [("unlink", "missing"), ("write_bytes", "changed")])
def test_a_file_that_is_gone_or_changed_is_told(session, empty_folder, harm, word):
    number = pictures.keep(session, 1, JPEG, SMALL)
    session.commit()
    path = picture_files.path_of(empty_folder, digest(JPEG))
    path.unlink() if harm == "unlink" else path.write_bytes(b"other")
    assert damage.picture_faults(empty_folder / FILE_NAME) == [
        f"picture {number} of job 1 is {word}"
    ]
    with pytest.raises(pictures.PictureMissingError, match=word):
        pictures.kept(session, 1, number)


def test_a_backup_copies_a_picture_once_and_forgets_it_with_its_last_copy(session, empty_folder):
    number = pictures.keep(session, 1, JPEG, SMALL, RAW)
    session.commit()
    day = dt.datetime(2026, 11, 1)
    target = empty_folder.parent / "elsewhere"
    copy = backup.back_up(empty_folder, target, keep=2, at=day)
    assert files(target) == files(empty_folder)
    assert damage.picture_faults(copy) == []
    assert damage.chain_faults(copy) == []
    pictures.delete_originals(session, 1, [number])
    session.commit()
    backup.back_up(empty_folder, target, keep=2, at=day + dt.timedelta(1))
    assert digest(RAW) in files(target), "a copy that is kept still holds it"
    backup.back_up(empty_folder, target, keep=2, at=day + dt.timedelta(2))
    assert files(target) == files(empty_folder)


def test_what_nobody_refers_to_goes_a_day_later(session, empty_folder):
    pictures.keep(session, 1, JPEG, SMALL)
    session.commit()
    for data, age_s in ((b"old", 2 * picture_files.LEFT_ALONE_S), (b"new", 0)):
        name = picture_files.put(empty_folder, data)
        path = picture_files.path_of(empty_folder, name)
        os.utime(path, (time.time() - age_s,) * 2)
    backup.back_up(empty_folder)
    assert files(empty_folder) == sorted(map(digest, (JPEG, SMALL, b"new")))


def old_shop(folder):
    """A database of before, with two pictures in it."""
    folder.mkdir()
    engine = database.create_engine(f"sqlite:///{folder / FILE_NAME}")
    config = database._config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0015")
        connection.exec_driver_sql("INSERT INTO jobs (id, opened_at) VALUES (1, '2026-01-01')")
        for number in (1, 2):
            connection.exec_driver_sql(
                "INSERT INTO pictures (id, job_id, number, at, jpeg, small) VALUES (?, 1, ?, "
                "'2026-01-01 10:00:00', ?, ?)",
                (number, number, JPEG + bytes([number]), SMALL),
            )
        connection.exec_driver_sql("INSERT INTO picture_originals VALUES (2, ?)", (RAW,))
    engine.dispose()
    return folder


def test_pictures_of_an_old_database_are_moved_out_of_it(tmp_path):
    folder = old_shop(tmp_path / "old")
    with open_database(folder)() as session:
        for number in (1, 2):
            kept = pictures.kept(session, 1, number)
            assert (kept.jpeg, kept.small) == (JPEG + bytes([number]), SMALL)
        assert pictures.original(session, 1, 2) == RAW
        assert pictures.original(session, 1, 1) is None
    assert damage.picture_faults(folder / FILE_NAME) == []
    with closing(sqlite3.connect(folder / FILE_NAME)) as opened:
        assert opened.execute("PRAGMA integrity_check").fetchone() == ("ok",)


def test_a_copy_from_before_is_sound_as_it_is(tmp_path):
    path = old_shop(tmp_path / "old") / FILE_NAME
    assert damage.digests_in(path) == set()
    assert damage.picture_faults(path) == damage.chain_faults(path) == []


def test_files_go_back_into_the_database_of_before(tmp_path):
    folder = old_shop(tmp_path / "old")
    path = folder / FILE_NAME
    with closing(sqlite3.connect(path)) as opened:
        before = opened.execute("SELECT id, jpeg, small FROM pictures ORDER BY id").fetchall()
    engine = database.create_engine(f"sqlite:///{path}")
    config = database._config()
    for to in (command.upgrade, command.downgrade):
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            to(config, "0017" if to is command.upgrade else "0016")
    engine.dispose()
    with closing(sqlite3.connect(path)) as opened:
        assert (
            opened.execute("SELECT id, jpeg, small FROM pictures ORDER BY id").fetchall() == before
        )
        assert opened.execute("SELECT data FROM picture_originals").fetchone() == (RAW,)
