"""The school's questions are written once, answered once, and read whatever stands beside them."""

import datetime as dt

from sqlalchemy import text

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.school.exercise import Posed
from cold_arc.core.school.memory import Sure
from cold_arc.core.school.rounds import Answered
from cold_arc.store import school
from cold_arc.store.database import open_database, writing

ROUND = "0" * 16
POSED = Posed("read.clock", 2, 7)


def given(skill="read.clock", right=True, at=None):
    at = at or dt.datetime.now(dt.UTC)
    return Answered(skill, 2, 0.25, at, right, Sure.KNEW, "" if right else "read.depth")


def opened(folder):
    return writing(open_database(folder)())


def test_a_question_is_answered_once(empty_folder):
    with opened(empty_folder) as session:
        school.pose(session, "Mira", ROUND, 1, POSED, SetUp(housing="projector", base="H7"))
        asked = school.question(session, ROUND, 1)
        assert asked.posed == POSED
        assert asked.lamp == SetUp(housing="projector", base="H7")
        assert asked.answered is None
        assert school.answer(session, asked, "read.clock", given())
        assert not school.answer(session, asked, "read.depth", given(right=False))
        assert school.question(session, ROUND, 1).answer == "read.clock"
        assert [one.right for one in school.answers_of(session, "Mira")] == [True]
        assert school.answers_of(session, "") == []


def test_a_question_stands_as_it_was_posed_first(empty_folder):
    with opened(empty_folder) as session:
        school.pose(session, "Mira", ROUND, 1, POSED, None)
        school.pose(session, "Mira", ROUND, 1, Posed("tell.law", 1, 2), None)
        assert school.question(session, ROUND, 1).posed == POSED


def test_what_was_left_is_gone_on_with_for_two_days(empty_folder):
    with opened(empty_folder) as session:
        school.pose(session, "Mira", ROUND, 1, POSED, None)
        assert school.left_open(session, "Mira").number == 1
        assert school.left_open(session, "Otto") is None
        session.execute(text("UPDATE school_questions SET asked_at = '2020-01-01 00:00:00'"))
        assert school.left_open(session, "Mira") is None


def test_a_task_is_ahead_until_each_of_it_was_asked_once(empty_folder):
    with opened(empty_folder) as session:
        school.give(session, "Mira", ["read.clock", "tell.law"])
        task = school.task_of(session, "Mira", [])
        assert task.ahead == ("read.clock", "tell.law")
        later = task.given_at + dt.timedelta(minutes=1)
        before = task.given_at - dt.timedelta(minutes=1)
        answers = [given("tell.law", at=before), given(at=later)]
        assert school.task_of(session, "Mira", answers).ahead == ("tell.law",)
        school.give(session, "Mira", [])
        assert school.task_of(session, "Mira", []) is None
        assert school.learners(session) == []


def test_one_question_that_can_not_be_read_keeps_no_other_from_it(empty_folder):
    with opened(empty_folder) as session:
        for number in (1, 2, 3, 4):
            school.pose(session, "Mira", ROUND, number, POSED, None)
            school.answer(session, school.question(session, ROUND, number), "x", given())
        session.execute(text("UPDATE school_questions SET skill = 'gone' WHERE number = 1"))
        session.execute(text("UPDATE school_questions SET level = 9 WHERE number = 2"))
        session.execute(text("UPDATE school_questions SET sure = 7, lamp = '{}' WHERE number = 3"))
        assert school.question(session, ROUND, 1) is None
        assert len(school.answers_of(session, "Mira")) in (1, 2)
        assert len(school.round_of(session, ROUND)) in (1, 2)
