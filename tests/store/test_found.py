"""Jobs found by their words, and by what they wait for."""

import datetime as dt

import pytest

from cold_arc.store import board
from cold_arc.store.database import open_database
from cold_arc.store.models import JobRow

TODAY = dt.date.today()


@pytest.fixture
def shop(demo_folder):
    with open_database(demo_folder).begin() as session:
        board.keep(session, board.worked_out(session, 100))
        yield session


def found(session, text, which="open", most=48):
    return [card.reference for card in board.found(session, text, which, TODAY, most)]


@pytest.mark.parametrize(
    ("text", "references"),
    [
        ("h11", ["TL-321"]),
        ("H11 kestrin", ["TL-321"]),
        ("tl-32", ["TL-321", "TL-322"]),
        ("saloon 1952", ["TL-309"]),
        ("yellow fogs", ["TL-322"]),
        ("brighter looks", ["TL-322"]),
        ("kestrin h7", []),
        ("%", []),
        ("_", []),
        ("wall", []),
        (board.WALL + "h11", ["TL-321"]),
    ],
)
def test_every_word_typed_must_be_there(shop, text, references):
    assert sorted(found(shop, text)) == references


def test_what_is_due_stands_first_and_what_has_no_date_last(shop):
    shop.get_one(JobRow, 2).due = None
    shop.flush()
    references = found(shop, "")
    assert references[-1] == "TL-321"
    dues = [card.due for card in board.found(shop, "", "open", TODAY, 48) if card.due]
    assert dues == sorted(dues)
    assert found(shop, "", most=2) == references[:2]


def test_jobs_by_what_they_wait_for(shop):
    """Job 1 stands at Verify and 3 before Match; 4 at Aim. A closed job is found only among those
    handed over.
    """
    wall = found(shop, "", "wall")
    assert {"TL-318", "TL-309"} <= set(wall)
    assert "TL-316" not in wall
    shop.get_one(JobRow, 1).closed_at = dt.datetime.now(dt.UTC)
    shop.flush()
    assert "TL-318" not in found(shop, "")
    assert found(shop, "", "closed") == ["TL-318", "TL-287"]


def test_due_by_today_leaves_out_what_is_due_later(shop):
    shop.get_one(JobRow, 3).due = TODAY
    shop.get_one(JobRow, 4).due = TODAY + dt.timedelta(days=1)
    shop.flush()
    due = found(shop, "", "due")
    assert "TL-316" in due
    assert "TL-309" not in due
