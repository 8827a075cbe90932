"""The chains as they are stored: whatever is changed, put in or taken out beside them is found; old
shops are chained as they open.
"""

import sqlite3
import time
from contextlib import closing

import pytest
from sqlalchemy import text

from cold_arc.cli import main
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Side
from cold_arc.core.job.chain import code_of
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.stages import Stage
from cold_arc.store import chain, jobs
from cold_arc.store.database import FILE_NAME, open_database
from tests.old_shops import write_old

LEFT = SocketKey("headlamp", 1, Side.LEFT)
BOOKING = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un")


@pytest.fixture
def job_id(sessions):
    with sessions.begin() as session:
        number = jobs.open_job(session, BOOKING, fronts.made("dual"), [LEFT])
        for reason in ("dark", "rain", "late"):
            jobs.append(session, number, Passed(Stage.BASELINE.value, reason), [LEFT])
        return number


def faults(sessions, job_id):
    with sessions() as session:
        return chain.faults(session, job_id)


def ids(sessions, job_id):
    with sessions() as session:
        return [entry.id for entry in jobs.load(session, job_id).entries]


def test_a_record_is_whole_through_undoing_and_bringing_back(sessions, job_id):
    last = ids(sessions, job_id)[-1]
    for act in (jobs.undo, jobs.undo, jobs.redo, jobs.redo, jobs.undo):
        with sessions.begin() as session:
            act(session, job_id, last)
        assert faults(sessions, job_id) == []
    with sessions() as session:
        assert [link.what for link in chain.links(session, job_id)] == [
            *["entry"] * 6,
            *("undo", "redo", "undo"),
        ]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ("UPDATE entries SET payload = replace(payload, 'rain', 'rai m') WHERE id = {4}", "5 "),
        ("UPDATE entries SET payload = replace(payload, ': ', ':') WHERE id = {4}", "5 "),
        ("UPDATE entries SET about = '[]' WHERE id = {4}", "5 "),
        ("UPDATE entries SET at = '2020-01-01 00:00:00.000000' WHERE id = {4}", "5 "),
        ("UPDATE entries SET kind = 'reopened' WHERE id = {4}", "5 "),
        ("UPDATE entries SET version = 2 WHERE id = {4}", "5 "),
        ("UPDATE entries SET undone_at = '2026-01-01 00:00:00.000000' WHERE id = {4}", "undone"),
        ("DELETE FROM links WHERE entry_id = {5}", "beside the chain"),
        ("DELETE FROM links WHERE entry_id = {4}", "changed, or one before"),
        ("DELETE FROM entries WHERE id = {4}", "taken out"),
        (
            "INSERT INTO entries (job_id, at, kind, version, about, payload) "
            "SELECT job_id, at, kind, version, about, payload FROM entries WHERE id = {4}",
            "beside the chain",
        ),
        (
            "UPDATE links SET digest = substr(digest, 2) || substr(digest, 1, 1) "
            "WHERE entry_id = {1}",
            "changed",
        ),
        ("UPDATE links SET late = 1 WHERE entry_id = {4}", "changed"),
    ],
)
def test_what_is_changed_beside_it_is_found(sessions, job_id, change, said):
    numbers = ids(sessions, job_id)
    assert faults(sessions, job_id) == []
    with sessions.begin() as session:
        session.execute(text("PRAGMA foreign_keys = OFF"))
        session.connection().exec_driver_sql("PRAGMA defer_foreign_keys = ON")
        session.execute(text(change.format(*numbers)))
        found = chain.faults(session, job_id)
        session.rollback()
    assert any(said in fault for fault in found), found


def test_every_byte_of_every_entry_counts(sessions, job_id):
    """Each character of what is stored put otherwise, one by one."""
    with sessions() as session:
        rows = session.execute(
            text("SELECT id, kind, about, payload FROM entries WHERE job_id = :job"),
            {"job": job_id},
        ).all()
        for number, *texts in rows:
            for column, stored in zip(("kind", "about", "payload"), texts, strict=True):
                for place in range(0, len(stored), 3):
                    other = "x" if stored[place] != "x" else "y"
                    changed = stored[:place] + other + stored[place + 1 :]
                    session.execute(
                        text(f"UPDATE entries SET {column} = :value WHERE id = :id"),
                        {"value": changed, "id": number},
                    )
                    assert chain.faults(session, job_id), (number, column, place)
                    session.rollback()


def test_a_sheet_s_code_finds_its_record_and_says_what_came_since(sessions, job_id):
    with sessions() as session:
        code = code_of(chain.head(session, job_id))
    with sessions.begin() as session:
        jobs.append(session, job_id, Passed(Stage.MATCH.value, ""), [LEFT])
        jobs.undo(session, job_id, ids(sessions, job_id)[-1])
    with sessions() as session:
        found = chain.find(session, code)
        assert (found.job_id, found.entries, found.since, found.faults) == (job_id, 6, 2, ())
        assert chain.find(session, "0000-0000-0000") is None


def test_an_old_shop_is_chained_as_it_opens(tmp_path):
    write_old(tmp_path)
    with open_database(tmp_path)() as session:
        for number in range(1, 6):
            assert chain.faults(session, number) == []
            links = chain.links(session, number)
            assert links
            assert all(link.late for link in links)


def test_ten_thousand_entries_are_checked_in_a_second(sessions, job_id):
    with sessions.begin() as session:
        each = [(Passed(Stage.BASELINE.value, f"{number}"), [LEFT]) for number in range(2_000)]
        jobs.append_each(session, job_id, each)
    begun = time.process_time()
    assert faults(sessions, job_id) == []
    assert (
        time.process_time() - begun
    ) * 5 < 1.0 * 3  # five times as many; three for a busy machine


def test_the_command_says_so_and_fails_where_it_was_changed(tmp_path, monkeypatch, capsys):
    monkeypatch.setenv("COLD_ARC_DATA", str(tmp_path))
    with open_database(tmp_path).begin() as session:
        number = jobs.open_job(session, BOOKING, fronts.made("dual"), [LEFT])
        code = code_of(chain.head(session, number))
    assert main(["check", "--sheet", code]) == 0
    assert "A-1, Velmar Dorin: 3 entries then, 0 added or undone since; unchanged" in (
        capsys.readouterr().out
    )
    with closing(sqlite3.connect(tmp_path / FILE_NAME)) as database:
        database.execute("UPDATE entries SET payload = replace(payload, 'Dorin', 'Dorim')")
        database.commit()
    assert main(["check", "--sheet", code, "--json"]) == 1
    assert '"unchanged": false' in capsys.readouterr().out
    assert main(["check", "--sheet", "0000-0000-0000"]) == 1
    assert main(["check", "--sheet", "nothing"]) == 1
    assert "one is like" in capsys.readouterr().err
