"""Who writes in one process does so in turn, and no way out of a transaction keeps the turn."""

import threading

import pytest
from sqlalchemy import event, text
from sqlalchemy.exc import OperationalError

from cold_arc.store import answers, database

WRITERS, EACH = 6, 5


@pytest.fixture
def impatient(empty_folder):
    """Sessions whose SQLite refuses at once where another has its lock."""
    sessions = database.open_database(empty_folder)
    engine = sessions.kw["bind"]
    engine.dispose()
    event.listen(engine, "connect", lambda raw, _: raw.execute("PRAGMA busy_timeout=0"))
    yield sessions
    engine.dispose()


def note(sessions, key):
    with database.writing(sessions()) as session:
        answers.note(session, key)
        session.commit()


def test_many_who_save_at_once_all_do(impatient):
    """None meets the lock of another of this process, though SQLite would let it wait for none."""
    together, failed = threading.Barrier(WRITERS), []

    def write(number):
        together.wait()
        for turn in range(EACH):
            try:
                note(impatient, f"{number}-{turn}-key")
            except OperationalError as error:
                failed.append(error)

    writers = [threading.Thread(target=write, args=(number,)) for number in range(WRITERS)]
    for writer in writers:
        writer.start()
    for writer in writers:
        writer.join()
    assert not failed
    with impatient() as session:
        keys = [f"{number}-{turn}-key" for number in range(WRITERS) for turn in range(EACH)]
        assert all(answers.answered(session, key) is not None for key in keys)


def commits(session):
    answers.note(session, "committed")
    session.commit()


def fails(session):
    with pytest.raises(OperationalError):
        session.execute(text("SELECT nothing"))


@pytest.mark.parametrize("leave", [commits, fails, lambda session: session.rollback()])
def test_every_way_out_passes_the_turn_on(impatient, leave):
    with database.writing(impatient()) as session:
        leave(session)
    note(impatient, "the-next-one")
    with impatient() as session:
        assert answers.answered(session, "the-next-one") is not None


def test_a_lock_of_another_program_passes_the_turn_on_too(impatient):
    with impatient.kw["bind"].connect() as elsewhere:
        elsewhere.exec_driver_sql("ROLLBACK")
        elsewhere.exec_driver_sql("BEGIN IMMEDIATE")
        with pytest.raises(OperationalError):
            note(impatient, "refused")
    note(impatient, "the-next-one")
