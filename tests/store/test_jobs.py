"""Jobs in the store: nothing is overwritten, everything is dated, undone and brought back."""

import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Drive, Optic, Present, Side
from cold_arc.core.job.entries.book_in import Booking, FrontSet, Identified, WorkChosen
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.stages import Stage
from cold_arc.store import board, jobs

TODAY = dt.date(2026, 11, 25)
LEFT, RIGHT = SocketKey("headlamp", 1, Side.LEFT), SocketKey("headlamp", 1, Side.RIGHT)
FRONT = fronts.made("dual")
BOOKING = Booking("A-1", "Velmar", "Dorin", Drive.LEFT, "un", due=dt.date(2026, 12, 1))


@pytest.fixture
def job_id(sessions):
    with sessions.begin() as session:
        return jobs.open_job(session, BOOKING, FRONT, [LEFT, RIGHT])


def load(sessions, job_id):
    with sessions() as session:
        return jobs.load(session, job_id)


def test_a_job_reads_back_as_it_was_opened(sessions, job_id):
    job = load(sessions, job_id)
    assert job.booking == BOOKING
    assert job.record.sockets == [LEFT, RIGHT]
    assert job.entries[0].at.tzinfo is not None
    assert abs(job.entries[0].at - jobs.now()) < dt.timedelta(minutes=1)


def test_undo_and_redo(sessions, job_id):
    with sessions.begin() as session:
        entry = jobs.append(
            session, job_id, Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), [LEFT]
        )
    with sessions.begin() as session:
        jobs.undo(session, job_id, entry)
    job = load(sessions, job_id)
    assert job.record.socket(LEFT).base is None
    assert job.entries[-1].undone_at is not None
    with sessions.begin() as session:
        jobs.redo(session, job_id, entry)
    assert load(sessions, job_id).record.socket(LEFT).base == "H7"


def test_the_founding_booking_stays(sessions, job_id):
    first = load(sessions, job_id).entries[0].id
    with sessions() as session, pytest.raises(jobs.CannotUndoError):
        jobs.undo(session, job_id, first)


@pytest.mark.parametrize("place", [1, 2])
def test_the_only_front_and_work_stay(sessions, job_id, place):
    only = load(sessions, job_id).entries[place].id
    with sessions() as session, pytest.raises(jobs.CannotUndoError):
        jobs.undo(session, job_id, only)
    with sessions.begin() as session:
        newer = jobs.append(
            session, job_id, *((FrontSet(FRONT),) if place == 1 else (WorkChosen(), [LEFT]))
        )
    with sessions.begin() as session:
        jobs.undo(session, job_id, newer)


def test_an_entry_of_another_job_can_not_be_undone(sessions, job_id):
    with sessions.begin() as session:
        other = jobs.open_job(session, BOOKING, FRONT, [LEFT])
    entry = load(sessions, job_id).entries[1].id
    with sessions() as session, pytest.raises(KeyError):
        jobs.undo(session, other, entry)


def test_closed_jobs_leave_the_board(sessions, job_id):
    with sessions.begin() as session:
        jobs.append(session, job_id, Passed("hand-over"), [LEFT, RIGHT])
        jobs.set_closed(session, job_id, True)
    with sessions() as session:
        assert sum(board.count(session, name, TODAY) for name in board.LANES) == 0
        assert [card.id for card in board.handed_over(session, 9)] == [job_id]
    with sessions.begin() as session:
        jobs.set_closed(session, job_id, False)
    with sessions() as session:
        assert sum(board.count(session, name, TODAY) for name in board.LANES) == 1


def test_what_was_not_committed_is_not_there(sessions, job_id):
    with sessions() as session:
        jobs.append(session, job_id, Passed("book-in"), [LEFT])
    assert len(load(sessions, job_id).entries) == 3


def test_no_such_job(sessions):
    assert load(sessions, 99) is None


@pytest.mark.parametrize(
    ("days", "name"),
    [
        (-1, "Overdue"),
        (0, "Today"),
        (1, "Next seven days"),
        (7, "Next seven days"),
        (8, "Later"),
        (None, "No date"),
    ],
)
def test_lanes(sessions, days, name):
    due = None if days is None else TODAY + dt.timedelta(days=days)
    with sessions.begin() as session:
        jobs.open_job(session, replace(BOOKING, due=due), FRONT, [LEFT])
    with sessions() as session:
        assert [lane for lane in board.LANES if board.count(session, lane, TODAY)] == [name]
        (card,) = board.lane(session, name, TODAY, 9)
    assert (card.reference, card.due) == ("A-1", due)


def test_the_board_follows_a_booking_its_undoing_and_every_entry(sessions, job_id):
    later = dt.date(2027, 2, 1)
    with sessions.begin() as session:
        board.keep(session, board.worked_out(session, 9))
        changed = jobs.append(session, job_id, replace(BOOKING, reference="B-2", due=later))
        jobs.append(session, job_id, Passed("book-in"), [LEFT, RIGHT])
    with sessions() as session:
        (card,) = board.lane(session, "Later", TODAY, 9)
    assert (card.reference, card.due, card.waits_on) == ("B-2", later, Stage.INSPECT)
    with sessions.begin() as session:
        board.keep(session, board.worked_out(session, 9))
        jobs.undo(session, job_id, changed)
    with sessions() as session:
        (card,) = board.lane(session, "Next seven days", TODAY, 9)
    assert (card.reference, card.due) == ("A-1", BOOKING.due)


def test_what_is_kept_is_what_would_be_worked_out(sessions, job_id):
    with sessions() as session:
        before = board.lane(session, "Next seven days", TODAY, 9)
    with sessions.begin() as session:
        (worked,) = board.worked_out(session, 9)
        board.keep(session, [worked])
        assert board.worked_out(session, 9) == []
    with sessions() as session:
        assert board.lane(session, "Next seven days", TODAY, 9) == before
