"""Identify: from what can be seen on the old bulb to its base, in any order; for a lamp of a job,
or just to know.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import Blueprint, abort, render_template, request, url_for
from flask.typing import ResponseReturnValue

from cold_arc.core.car import identify
from cold_arc.core.car.bases import Base, catalogue, usual
from cold_arc.core.car.identify import QUESTIONS, Question
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.store import jobs
from cold_arc.web.parts.base_face import DrawnBase, build_base_face
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.shell.db import session

bp = Blueprint("identify", __name__)


@dataclass(frozen=True)
class AskedOption:
    """One answer to tap: whether it is given, and how many bases it leaves."""

    value: str
    words: str
    given: bool
    leaves: int


@dataclass(frozen=True)
class Asked:
    """One question as shown: its options or what was typed, whether it splits best, what is wrong
    with the answer.
    """

    question: Question
    options: tuple[AskedOption, ...]
    typed: str
    best: bool
    error: str


@dataclass(frozen=True)
class BaseCard:
    """A base that remains, as drawn, and where choosing it leads."""

    base: Base
    drawn: DrawnBase
    href: str


@bp.get("/bases")
def page() -> ResponseReturnValue:
    """Finds a base, for no lamp in particular."""
    return _render(url_for("identify.page"), lambda _: "")


@bp.get("/jobs/<int:job_id>/<scope:scope>/identify")
def for_socket(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Finds the base of a job's sockets; choosing one carries it back to Book in."""
    job = jobs.load(session(), job_id)
    if job is None or not scope.name or not scope.sockets(job.record.once(Progress)):
        abort(404)
    name = str(scope)
    back = stage_url(job_id, Scope(), Stage.BOOK_IN)
    here = url_for("identify.for_socket", job_id=job_id, scope=scope)

    def chosen(base: Base) -> str:
        book_in = stage_url(job_id, Scope(), Stage.BOOK_IN, **{f"{name}-base": base.name})
        return f"{book_in}#identify-{name}"

    return _render(here, chosen, job=job, scope=scope, back=back)


def _render(here: str, href: Callable[[Base], str], **context: object) -> ResponseReturnValue:
    answers = {question.id: request.args.get(question.id, "") for question in QUESTIONS}
    given, wrong = identify.read(answers)
    identification = identify.identify(given)
    shown = identification.remaining or identification.closest
    return render_template(
        "identify.html",
        here=here,
        found=identification,
        given=given,
        asked=[
            _asked(question, answers, given, identification, wrong.get(question.id, ""))
            for question in QUESTIONS
        ],
        cards=[BaseCard(base, build_base_face(base), href(base)) for base in shown],
        all_bases=len(
            usual() if not any(base.rare for base in identification.remaining) else catalogue()
        ),
        **context,
    ), 422 if wrong else 200


def _asked(
    question: Question,
    answers: dict[str, str],
    given: dict[str, str],
    identification: identify.Identification,
    error: str,
) -> Asked:
    answer = answers[question.id].strip()
    others = {name: text for name, text in given.items() if name != question.id}
    return Asked(
        question,
        tuple(
            AskedOption(
                value,
                words,
                answer == value,
                len(identify.narrow({**others, question.id: value})),
            )
            for value, words in question.options.items()
        ),
        answers[question.id],
        identification.next is not None and identification.next.question is question,
        error,
    )
