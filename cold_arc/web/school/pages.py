"""A round of ten: begun, answered question by question, looked back on."""

from __future__ import annotations

import datetime as dt
import re
import secrets
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, TypedDict

from flask import Blueprint, Response, abort, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response as AnyResponse

from cold_arc.core.beam import model
from cold_arc.core.beam.report import beam_of, stands_deg
from cold_arc.core.school.exercise import LONGEST_ANSWER, Exercise, Judgement, NoAnswerError, Posed
from cold_arc.core.school.memory import Kept, Sure, memories
from cold_arc.core.school.rounds import A_ROUND, Answered, next_question
from cold_arc.core.school.skills import kinds, skills
from cold_arc.core.work.diagnosis import Test
from cold_arc.formats import picture as drawing
from cold_arc.school import wall as at_wall
from cold_arc.school.making import judge, make
from cold_arc.store import jobs
from cold_arc.store import school as kept
from cold_arc.store.school import PosedQuestion
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import bounded, whole
from cold_arc.web.parts.dial import Dial
from cold_arc.web.parts.wall import Wall
from cold_arc.web.school import learner, showing, stepwise
from cold_arc.web.school.ahead import prepare
from cold_arc.web.shell import cookies
from cold_arc.web.shell.db import session, writable

bp = Blueprint("school", __name__)
ROUND = re.compile(r"[0-9a-f]{16}")
A_DAY = dt.timedelta(days=1)
# Kinds of exercise that are answered under what is looked at: it is what is answered on.
UNDERNEATH = ("collar", "fault", "take", "track")


@dataclass(frozen=True)
class SkillLine:
    """A skill as the start page shows it: how it is remembered, None where it was not begun."""

    id: str
    title: str
    kept: Kept | None
    is_due: bool


@bp.get("/school")
def page() -> str:
    """Where one begins: a round, or what was left of one; every skill and how it is remembered."""
    name = learner.current()
    answers, now = kept.answers_of(session(), name), jobs.now()
    task = kept.task_of(session(), name, answers)
    opened = kept.left_open(session(), name)
    remembered = memories((answered.practised for answered in answers), now)
    round_id = secrets.token_hex(8)
    if opened is None:
        prepare(partial(_first, answers, now, round_id, task.ahead if task else ()))
    lines = [
        SkillLine(skill.id, skill.title, known := remembered.get(skill.id), _is_due(known, now))
        for skill in skills().values()
    ]
    return render_template(
        "school/start.html",
        name=name,
        learners=list(filter(None, kept.learners(session()))),
        opened=opened,
        round_id=round_id,
        task=task,
        kinds=kinds(),
        lines=lines,
        due=sum(line.is_due for line in lines),
        answers=answers,
        today=sum(answered.at > now - A_DAY for answered in answers),
        a_round=A_ROUND,
    )


def _is_due(known: Kept | None, now: dt.datetime) -> bool:
    return known is not None and known.due <= now


def _given_ahead(name: str, answers: list[Answered]) -> tuple[str, ...]:
    """The skills somebody was given that were not asked since."""
    task = kept.task_of(session(), name, answers)
    return task.ahead if task else ()


def _first(
    answers: list[Answered], now: dt.datetime, round_id: str, wanted: tuple[str, ...]
) -> Posed:
    return next_question(answers, now, f"{round_id} 1", (), wanted)


@bp.post("/school")
def begin() -> AnyResponse:
    """Begins a round under a name, and keeps the name in this browser."""
    name = learner.tidy(request.form.get("name", ""))
    round_id = request.form.get("round", "")
    if not ROUND.fullmatch(round_id):
        abort(404)
    back = redirect(url_for("school.question", round_id=round_id, number=1), 303)
    cookies.keep(back, learner.COOKIE, name)
    if kept.question(session(), round_id, 1) is not None:
        return back
    answers = kept.answers_of(session(), name)
    posed = _first(answers, jobs.now(), round_id, _given_ahead(name, answers))
    kept.pose(writable(), name, round_id, 1, posed, None)
    writable().commit()
    prepare(lambda: posed)
    return back


def _asked(round_id: str, number: int) -> tuple[PosedQuestion, Exercise]:
    """A question and its exercise; 404 for one there is not, 503 while beams can't be computed."""
    asked = kept.question(session(), round_id, number) if ROUND.fullmatch(round_id) else None
    if asked is None:
        abort(404)
    if not model.is_warm():
        abort(503)
    return asked, make(asked.posed, asked.lamp)


class LineForm(FlaskForm):
    """Where the cut-off stands on a wall at a distance."""

    distance = fields.TypedField("Distance", fields.WALL_DISTANCE)
    stands = fields.slope("The line stands")


class CollarForm(FlaskForm):
    """Where the collar is preset."""

    turned = fields.clock_angle("Preset the collar", "Say where it is preset.")


@bp.get("/school/<round_id>/<int:number>")
@in_turn
def question(round_id: str, number: int) -> ResponseReturnValue:
    """One question, open or answered."""
    if not model.is_warm():
        return render_template("school/preparing.html")
    asked, exercise = _asked(round_id, number)
    return _shown(asked, exercise)


def _shown(
    asked: PosedQuestion, exercise: Exercise, error: str = "", form: FlaskForm | None = None
) -> ResponseReturnValue:
    step_form = stepwise.form_of(exercise)
    answer, error = _so_far(asked, exercise, step_form, error)
    form = form or _form(exercise)
    view = _view(asked, exercise, answer)
    wrong = bool(error) or any(one.errors for one in (form, step_form) if one)
    return render_template(
        "school/question.html",
        asked=asked,
        exercise=exercise,
        judged=_judged(asked, exercise),
        skill=skills()[exercise.posed.skill],
        view=view,
        beside=_stands_beside(asked, exercise, view),
        made=answer,
        error=error,
        form=form,
        step_form=step_form,
        sure=list(Sure)[::-1],
        a_round=A_ROUND,
        picked=request.form.getlist("pick"),
        here=url_for("school.question", round_id=asked.round, number=asked.number),
    ), 422 if wrong else 200


def _judged(asked: PosedQuestion, exercise: Exercise) -> Judgement | None:
    """How an answer was, as it was judged then; None for a question that is open."""
    if asked.answered is None:
        return None
    try:
        judged = judge(exercise, asked.answer)
    except NoAnswerError:  # written by a version that asked otherwise
        judged = Judgement(
            asked.answered.right, "an answer that can't be read any more", exercise.why
        )
    return replace(judged, right=asked.answered.right)


def _so_far(
    asked: PosedQuestion, exercise: Exercise, form: stepwise.StepForm | None, error: str
) -> tuple[str, str]:
    """The answer given, or what was made of one so far; and what is wrong with it."""
    if asked.answered:
        return asked.answer, error
    made = request.values.get("made", "")[:LONGEST_ANSWER]
    more, wrong = stepwise.so_far(exercise, form, made)
    return more, error or wrong


def _stands_beside(asked: PosedQuestion, exercise: Exercise, view: QuestionView) -> bool:
    """Whether the answer is given beside what is looked at, and not under it."""
    wide = len(view["walls"]) > 1 or exercise.posed.kind in UNDERNEATH
    return asked.answered is None and not wide


def _form(exercise: Exercise) -> FlaskForm | None:
    if exercise.posed.kind == "line":
        return LineForm(formdata=None, data={"distance": at_wall.DISTANCE_M})
    return CollarForm(formdata=None) if exercise.posed.kind == "collar" else None


class QuestionView(TypedDict):
    """What is looked at, by the name of the part that draws it."""

    walls: list[showing.CaptionedWall]
    line: Wall | None
    face: showing.FaceView | None
    dial: Dial | None
    track: list[showing.StopShown]
    screws: showing.ScrewsView | None
    meter: showing.MeterView | None
    case: showing.CaseView | None
    tests: list[Test]


def _view(asked: PosedQuestion, exercise: Exercise, answer: str) -> QuestionView:
    try:
        stepped = showing.stepped(exercise, asked, answer)
    except NoAnswerError:
        stepped = showing.stepped(exercise, asked, "")
    return {
        "walls": showing.walls(exercise, asked),
        "line": showing.line_wall(exercise, asked),
        "face": showing.face_view(exercise, asked),
        "dial": showing.dial_view(exercise, asked),
        "track": showing.track_view(exercise, asked, request.form.getlist("pick")),
        "screws": stepped.screws,
        "meter": stepped.meter,
        "case": stepped.case,
        "tests": showing.tests_of(exercise),
    }


@bp.post("/school/<round_id>/<int:number>")
@in_turn
def answer(round_id: str, number: int) -> ResponseReturnValue:
    """Takes an answer, once; poses what comes next. An answered question is only shown."""
    asked, exercise = _asked(round_id, number)
    here = url_for("school.question", round_id=round_id, number=number)
    if asked.answered:
        return redirect(here, 303)
    form = _sent_form(exercise)
    if form is not None and not form.validate_on_submit():
        return _shown(asked, exercise, form=form)
    try:
        text = _answer_text(exercise, form)
        given = _given(exercise, judge(exercise, text))
    except NoAnswerError as wrong:
        return _shown(asked, exercise, str(wrong), form)
    posed = _next(asked, given)
    opened = writable()
    if kept.answer(opened, asked, text, given) and posed:
        kept.pose(opened, asked.learner, round_id, number + 1, posed, None)
    opened.commit()
    if posed:
        prepare(lambda: posed)
    return redirect(here, 303)


def _sent_form(exercise: Exercise) -> FlaskForm | None:
    return {"line": LineForm, "collar": CollarForm}.get(exercise.posed.kind, lambda: None)()


def _answer_text(exercise: Exercise, form: FlaskForm | None) -> str:
    """An answer as it is judged and kept."""
    if isinstance(form, LineForm):
        return f"{form.stands.data:.6f}"
    if isinstance(form, CollarForm):
        return f"{form.turned.data:.3f}"
    if exercise.posed.kind in stepwise.FORMS:
        return request.form.get("made", "")
    if exercise.posed.kind == "fault":
        return f"{request.form.get('made', '')}|{request.form.get('pick', '')}"
    return ",".join(request.form.getlist("pick"))


def _given(exercise: Exercise, judged: Judgement) -> Answered:
    sure = whole(request.form.get("sure"))
    if sure not in list(Sure):
        raise NoAnswerError("Say how sure you are.")
    return Answered(
        exercise.posed.skill,
        exercise.posed.level,
        exercise.guessed,
        jobs.now(),
        judged.right,
        Sure(sure),
        judged.taken_for,
    )


def _next(asked: PosedQuestion, given: Answered) -> Posed | None:
    """What is asked after an answer; None at a round's end."""
    if asked.number >= A_ROUND:
        return None
    answers = [*kept.answers_of(session(), asked.learner), given]
    given_ahead = _given_ahead(asked.learner, answers)
    so_far = [known.posed.skill for known in kept.round_of(session(), asked.round)]
    luck = f"{asked.round} {asked.number + 1}"
    return next_question(answers, jobs.now(), luck, so_far, given_ahead)


@bp.get("/school/<round_id>/<int:number>/<int:which>.png")
@in_turn
def picture(round_id: str, number: int, which: int) -> Response:
    """One of a question's pictures; its address tells nothing of what is in it."""
    asked, exercise = _asked(round_id, number)
    setup = showing.picture_setup(exercise, asked, which)
    if setup is None:
        abort(404)
    beam = beam_of(setup)
    where: dict[str, Any] = {}
    if exercise.posed.kind in showing.FRAMES:
        where = {"frame": showing.FRAMES[exercise.posed.kind], "distance_m": at_wall.DISTANCE_M}
    if exercise.posed.kind == "screws":
        up, right = (bounded(request.args.get(name), -6.0, 6.0, 0.0) for name in ("up", "right"))
        where["lamps"] = (drawing.LampAxis(0.0, 0.0, right, up - stands_deg(setup)),)
    pixels = drawing.render(beam, **where)
    headers = {"Cache-Control": "private, max-age=3600"}
    return Response(pixels, mimetype="image/png", headers=headers)


@bp.get("/school/<round_id>")
def looked_back(round_id: str) -> str:
    """A round looked back on: each question, what was said, what is true."""
    asked = kept.round_of(session(), round_id) if ROUND.fullmatch(round_id) else []
    done = [known for known in asked if known.answered]
    if not done:
        abort(404)
    return render_template(
        "school/round.html",
        done=done,
        skills=skills(),
        right=sum(known.answered.right for known in done if known.answered),
    )
