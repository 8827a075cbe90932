"""Jobs in the store: nothing is overwritten, everything is dated, undone and brought back."""

import datetime as dt

import pytest

from cold_arc.core.lamps import Drive, Function, Housing, LampKey, Present, Side
from cold_arc.core.record import Booking, Identified, Passed
from cold_arc.store import jobs

LEFT, RIGHT = LampKey(Function.LOW, Side.LEFT), LampKey(Function.LOW, Side.RIGHT)
BOOKING = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un", due=dt.date(2026, 12, 1))


@pytest.fixture
def job_id(sessions):
    with sessions.begin() as session:
        return jobs.open_job(session, BOOKING, [LEFT, RIGHT])


def load(sessions, job_id):
    with sessions() as session:
        return jobs.load(session, job_id)


def test_a_job_reads_back_as_it_was_opened(sessions, job_id):
    job = load(sessions, job_id)
    assert job.booking == BOOKING
    assert job.record.lamp_keys == [LEFT, RIGHT]
    assert job.entries[0].at.tzinfo is not None
    assert abs(job.entries[0].at - jobs.now()) < dt.timedelta(minutes=1)


def test_undo_and_redo(sessions, job_id):
    with sessions.begin() as session:
        entry = jobs.append(session, job_id, Identified(Housing.REFLECTOR, "H7", Present.HALOGEN), [LEFT])
    with sessions.begin() as session:
        jobs.undo(session, job_id, entry)
    job = load(sessions, job_id)
    assert job.record.lamp(LEFT).base is None
    assert job.entries[-1].undone_at is not None
    with sessions.begin() as session:
        jobs.redo(session, job_id, entry)
    assert load(sessions, job_id).record.lamp(LEFT).base == "H7"


def test_the_founding_booking_stays(sessions, job_id):
    first = load(sessions, job_id).entries[0].id
    with sessions() as session, pytest.raises(jobs.CannotUndo):
        jobs.undo(session, job_id, first)


def test_an_entry_of_another_job_can_not_be_undone(sessions, job_id):
    with sessions.begin() as session:
        other = jobs.open_job(session, BOOKING, [LEFT])
    entry = load(sessions, job_id).entries[1].id
    with sessions() as session, pytest.raises(KeyError):
        jobs.undo(session, other, entry)


def test_closed_jobs_leave_the_board(sessions, job_id):
    with sessions.begin() as session:
        jobs.append(session, job_id, Passed("hand-over"), [LEFT, RIGHT])
        jobs.set_closed(session, job_id, True)
    with sessions() as session:
        assert jobs.open_jobs(session) == []
        assert [job.id for job in jobs.closed_jobs(session)] == [job_id]
    with sessions.begin() as session:
        jobs.set_closed(session, job_id, False)
    with sessions() as session:
        assert len(jobs.open_jobs(session)) == 1


def test_what_was_not_committed_is_not_there(sessions, job_id):
    with sessions() as session:
        jobs.append(session, job_id, Passed("book-in"), [LEFT])
    assert len(load(sessions, job_id).entries) == 2


def test_no_such_job(sessions):
    assert load(sessions, 99) is None
