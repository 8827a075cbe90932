"""The school's questions and their answers, by learner; what somebody was given to practise.

A question is written when it is posed and answered once; what was answered stays.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.plausible import read_or_none
from cold_arc.core.school.exercise import LEVELS, Posed
from cold_arc.core.school.memory import Sure
from cold_arc.core.school.rounds import Answered
from cold_arc.core.school.skills import skills
from cold_arc.store.jobs import now
from cold_arc.store.models import SchoolQuestionRow, SchoolTaskRow

# How long a round that was left may be gone on with.
OPEN_FOR = dt.timedelta(days=2)
MOST_ANSWERS, MOST_LEARNERS = 1000, 200


@dataclass(frozen=True)
class PosedQuestion:
    """One question as it is kept: where it stands, what was posed; *answer* and *answered*: None
    while it is open. *lamp*: the shop's own lamp it is made from.
    """

    round: str
    number: int
    learner: str
    posed: Posed
    lamp: SetUp | None
    answer: str
    answered: Answered | None


@dataclass(frozen=True)
class GivenSkills:
    """What somebody was given: skills, and those of them not practised since."""

    id: int
    learner: str
    skills: tuple[str, ...]
    ahead: tuple[str, ...]
    given_at: dt.datetime


def pose(
    session: Session, learner: str, round_id: str, number: int, posed: Posed, lamp: SetUp | None
) -> None:
    """Writes a question down, where none stands there yet."""
    if _row(session, round_id, number) is not None:
        return
    session.add(
        SchoolQuestionRow(
            learner=learner,
            round=round_id,
            number=number,
            skill=posed.skill,
            level=posed.level,
            seed=posed.seed,
            lamp=to_plain(lamp) if lamp else None,
            asked_at=now(),
        )
    )
    session.flush()


def question(session: Session, round_id: str, number: int) -> PosedQuestion | None:
    """One question; None where there is none that can be read."""
    row = _row(session, round_id, number)
    return _question(row) if row else None


def _row(session: Session, round_id: str, number: int) -> SchoolQuestionRow | None:
    query = select(SchoolQuestionRow).filter_by(round=round_id, number=number)
    return session.scalars(query).one_or_none()


def answer(session: Session, asked: PosedQuestion, text: str, given: Answered) -> bool:
    """Writes an answer down; False where the question was answered before, and nothing is
    changed.
    """
    row = _row(session, asked.round, asked.number)
    if row is None or row.answered_at is not None:
        return False
    row.answer, row.answered_at, row.right = text, given.at, given.right
    row.sure, row.guessed, row.taken_for = given.sure.value, given.guessed, given.taken_for
    session.flush()
    return True


def round_of(session: Session, round_id: str) -> list[PosedQuestion]:
    """The questions of a round, in order."""
    query = select(SchoolQuestionRow).filter_by(round=round_id).order_by(SchoolQuestionRow.number)
    return _read(session.scalars(query))


def answers_of(session: Session, learner: str, most: int = MOST_ANSWERS) -> list[Answered]:
    """What somebody answered last, the oldest first; so many at *most*."""
    asked = SchoolQuestionRow
    query = (
        select(*(getattr(asked, name) for name in ANSWER_COLUMNS))
        .where(asked.learner == learner, asked.answered_at.is_not(None))
        .order_by(asked.id.desc())
        .limit(most)
    )
    rows = session.execute(query).all()
    return [_answered(row) for row in reversed(rows) if _is_known(row.skill, row.level)]


def left_open(session: Session, learner: str) -> PosedQuestion | None:
    """The newest question somebody left unanswered, of late; None for none."""
    query = (
        select(SchoolQuestionRow)
        .where(
            SchoolQuestionRow.learner == learner,
            SchoolQuestionRow.answered_at.is_(None),
            SchoolQuestionRow.asked_at > now() - OPEN_FOR,
        )
        .order_by(SchoolQuestionRow.id.desc())
        .limit(1)
    )
    return next(iter(_read(session.scalars(query))), None)


def learners(session: Session) -> list[str]:
    """Everybody who answered a question or was given any, by name; MOST_LEARNERS at most."""
    asked = select(SchoolQuestionRow.learner).union(select(SchoolTaskRow.learner)).subquery()
    query = select(asked.c.learner).order_by(func.lower(asked.c.learner)).limit(MOST_LEARNERS)
    return list(session.scalars(query))


def give(session: Session, learner: str, given: Sequence[str]) -> None:
    """Gives somebody skills to practise, in place of what was given before."""
    for row in session.scalars(select(SchoolTaskRow).filter_by(learner=learner)):
        session.delete(row)
    if given:
        session.add(SchoolTaskRow(learner=learner, skills=list(given), given_at=now()))
    session.flush()


def task_of(session: Session, learner: str, answers: Sequence[Answered]) -> GivenSkills | None:
    """What somebody was given last, and what of it is still ahead; None for nothing."""
    query = select(SchoolTaskRow).filter_by(learner=learner).order_by(SchoolTaskRow.id.desc())
    row = session.scalars(query.limit(1)).one_or_none()
    if row is None or not isinstance(row.skills, list):
        return None
    given = tuple(name for name in row.skills if name in skills())
    since = {answered.skill for answered in answers if answered.at >= row.given_at}
    ahead = tuple(name for name in given if name not in since)
    return GivenSkills(row.id, learner, given, ahead, row.given_at)


def _read(rows: Iterable[SchoolQuestionRow]) -> list[PosedQuestion]:
    """The questions that can be read; those of a skill this version does not know are left out."""
    return [known for row in rows if (known := _question(row))]


def _is_known(skill: str, level: int) -> bool:
    """Whether this version knows a question's skill and level."""
    return skill in skills() and level in LEVELS


def _question(row: SchoolQuestionRow) -> PosedQuestion | None:
    if not _is_known(row.skill, row.level):
        return None
    lamp = read_or_none(row.lamp, SetUp) if row.lamp else None
    if row.lamp and lamp is None:
        return None
    return PosedQuestion(
        row.round,
        row.number,
        row.learner,
        Posed(row.skill, row.level, row.seed),
        lamp,
        row.answer,
        _answered(row) if row.answered_at else None,
    )


# What an answer is read from.
ANSWER_COLUMNS = ("skill", "level", "guessed", "answered_at", "right", "sure", "taken_for")
SURE = {sure.value: sure for sure in Sure}


def _answered(row: Any) -> Answered:
    """An answer, of a row or of its columns above."""
    how = Sure.THOUGHT if row.sure is None else SURE.get(row.sure, Sure.THOUGHT)
    right = bool(row.right)
    return Answered(row.skill, row.level, row.guessed, row.answered_at, right, how, row.taken_for)
