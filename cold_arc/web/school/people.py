"""Who can do what, for whoever teaches; what is given; a round on a lamp of the shop's own."""

from __future__ import annotations

import datetime as dt
import secrets
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from random import Random

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.law import traffic_of
from cold_arc.core.match import measuring
from cold_arc.core.school.ability import Ability, ability
from cold_arc.core.school.memory import memories
from cold_arc.core.school.rounds import Answered, next_question
from cold_arc.core.school.skills import Skill, kinds, skills
from cold_arc.school import beam_faults
from cold_arc.store import board, jobs
from cold_arc.store import school as kept
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.school import learner
from cold_arc.web.school.ahead import prepare
from cold_arc.web.shell.db import session, writable

bp = Blueprint("school_people", __name__)
MOST_SHOWN, LAMPS_SHOWN, MOST_GIVEN = 30, 6, 12
# By how many of somebody's answers what they can do is told: earlier ones tell next to nothing.
OF_LATE = 120


@dataclass(frozen=True)
class KindCell:
    """How somebody does in one kind of exercise: right of so many, and the level that fits."""

    right: int
    count: int
    level: int


@dataclass(frozen=True)
class Row:
    """One learner: a cell by kind (None: nothing answered), and when the last answer was."""

    name: str
    cells: tuple[KindCell | None, ...]
    last: dt.datetime | None


@dataclass(frozen=True)
class Confused:
    """What one skill was taken for, and how often of how many."""

    skill: Skill
    taken_for: Skill
    times: int
    count: int


def row_of(name: str, answers: Sequence[Answered]) -> Row:
    """One learner's row."""
    able = ability([answered.scored for answered in answers])
    cells = tuple(_cell(kind, answers, able) for kind in kinds())
    return Row(name, cells, answers[-1].at if answers else None)


def _cell(kind: str, answers: Sequence[Answered], able: Ability) -> KindCell | None:
    of_kind = [answered.right for answered in answers if answered.kind == kind]
    if not of_kind:
        return None
    return KindCell(sum(of_kind), len(of_kind), able.level(kind, kinds()[kind].guessed))


def confusions(answers: Sequence[Answered]) -> list[Confused]:
    """What was confused with what, the most frequent first."""
    asked = Counter(answered.skill for answered in answers)
    taken = Counter(
        (answered.skill, answered.taken_for)
        for answered in answers
        if answered.taken_for in skills() and answered.taken_for != answered.skill
    )
    return [
        Confused(skills()[skill], skills()[other], times, asked[skill])
        for (skill, other), times in taken.most_common(MOST_SHOWN)
    ]


@bp.get("/school/people")
def page() -> str:
    """Everybody who practised, by kind of exercise; one of them closer."""
    names = kept.learners(session())[:MOST_SHOWN]
    rows = [row_of(name, kept.answers_of(session(), name, OF_LATE)) for name in names]
    name = learner.tidy(request.args["of"]) if "of" in request.args else None
    answers = kept.answers_of(session(), name) if name is not None else []
    now = jobs.now()
    return render_template(
        "school/people.html",
        rows=rows,
        of_late=OF_LATE,
        kinds=kinds(),
        skills=skills(),
        name=name,
        words=learner.words,
        confused=confusions(answers),
        memories=memories((answered.practised for answered in answers), now),
        counts=Counter(answered.skill for answered in answers),
        task=kept.task_of(session(), name, answers) if name is not None else None,
        lamps=list(_lamps()),
    )


@bp.post("/school/people")
def give() -> Response:
    """Gives somebody skills to practise; none takes back what was given."""
    name = learner.tidy(request.form.get("name", ""))
    given = [skill for skill in request.form.getlist("skill") if skill in skills()][:MOST_GIVEN]
    kept.give(writable(), name, given)
    writable().commit()
    flash(f"Given to {learner.words(name)}: {len(given)}." if given else "Nothing is given now.")
    return redirect(url_for("school_people.page", of=name), 303)


@dataclass(frozen=True)
class OwnLamp:
    """A lamp of one of the shop's jobs: which, in words, and as the model has it."""

    job_id: int
    beam: BeamKey
    words: str
    setup: SetUp


def _lamps() -> list[OwnLamp]:
    """Lamps of the newest jobs whose beam can be modelled."""
    today = dt.date.today()
    cards = [card for lane in board.LANES for card in board.lane(session(), lane, today, 2)]
    cards += board.handed_over(session(), LAMPS_SHOWN)
    lamps = [lamp for card in cards[:LAMPS_SHOWN] for lamp in lamps_of(card.id)]
    return lamps[:LAMPS_SHOWN]


def lamps_of(job_id: int) -> list[OwnLamp]:
    """The lamps of a job that can be read on the school's wall, without its customer."""
    job = jobs.load(session(), job_id)
    if job is None:
        return []
    traffic, lamps = traffic_of(job.booking.market), []
    for key in job.record.road_beams:
        setup = measuring.setup_at(job.record, job.booking, key, Phase.AFTER, traffic)
        if setup is not None and not setup.high:
            words = f"{job.booking.make} {job.booking.model}, {job.record.front.words(key)}"
            lamps.append(OwnLamp(job_id, key, words, as_good(setup)))
    return lamps


def as_good(setup: SetUp) -> SetUp:
    """A lamp with nothing wrong with it: its bulb seated, its lens clear, aimed."""
    return replace(setup, clock=0.0, axial=0.0, haze=0.0, aim_v=0.0, aim_h=0.0)


@bp.post("/school/own")
def own() -> Response:
    """Begins a round whose first question is a lamp of the shop's own, with something wrong."""
    job_id, name = whole(request.form.get("job")), learner.current()
    lamp = next(
        (lamp for lamp in lamps_of(job_id or 0) if str(lamp.beam) == request.form.get("beam")), None
    )
    if lamp is None:
        abort(404)
    round_id = secrets.token_hex(8)
    wrong = Random(round_id).choice([beam_faults.FINE, *beam_faults.offered(lamp.setup)])
    answers = kept.answers_of(session(), name)
    posed = next_question(answers, jobs.now(), round_id, (), [wrong])
    kept.pose(writable(), name, round_id, 1, posed, lamp.setup)
    writable().commit()
    prepare(lambda: posed, lamp.setup)
    return redirect(url_for("school.question", round_id=round_id, number=1), 303)
