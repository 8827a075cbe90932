"""Find the fault: from what is seen, by the test that tells most a minute, to cause and cure."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from flask import Blueprint, abort, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.wrappers import Response

from cold_arc.core.job.entries.prove import FaultFound, FaultSought
from cold_arc.core.job.stages import Stage
from cold_arc.core.references import PRACTICE
from cold_arc.core.work import diagnosis
from cold_arc.core.work.diagnosis import Case, Cause, Promise, faults
from cold_arc.store import faults as kept
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session

bp = Blueprint("fault", __name__)
MOST_SHOWN = 6


@dataclass(frozen=True)
class CaseView:
    """A case as shown: the causes left with their shares, the path so far, the tests ahead, the
    verdict.
    """

    case: Case

    @property
    def symptom(self) -> str:
        """What is seen, in words."""
        return faults().symptoms[self.case.symptom].text

    @cached_property
    def causes(self) -> list[tuple[Cause, float]]:
        """The likeliest causes."""
        return [(faults().causes[key], share) for key, share in diagnosis.left(self.case).items()][
            :MOST_SHOWN
        ]

    @property
    def path(self) -> list[tuple[str, str]]:
        """Each test made and what it answered."""
        tests = faults().tests
        return [
            (tests[test].text, tests[test].answers[answer]) for test, answer in self.case.answers
        ]

    @cached_property
    def ahead(self) -> list[Promise]:
        """The tests that tell anything still, the best first."""
        return diagnosis.promises(self.case)[:MOST_SHOWN]

    @cached_property
    def verdict(self) -> Cause | None:
        """The cause, where it is told."""
        return diagnosis.verdict(self.case)

    @property
    def count(self) -> int:
        """How often the shop found the verdict's cause before."""
        return dict(self.case.found).get(self.verdict.id, 0) if self.verdict else 0


@bp.route("/jobs/<int:job_id>/<scope:scope>/prove/fault", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The fault under hand; takes an answer, takes the last one back, records the cure."""
    page = open_stage(job_id, scope, Stage.PROVE)
    symptom = request.values.get("symptom", "")
    if symptom and symptom not in faults().symptoms:
        abort(404)
    if request.method == "POST":
        return _change(page, symptom) if symptom else abort(404)
    return _shown(page, symptom)


def _shown(page: StagePage, symptom: str) -> ResponseReturnValue:
    view = CaseView(_case(page, symptom)) if symptom else None
    cautions = [text for text in (view.verdict.caution if view and view.verdict else "",) if text]
    if view and view.ahead and view.ahead[0].test.caution:
        cautions.append(view.ahead[0].test.caution)
    return page.render(
        (),
        [*cautions, "engine"],
        template="fault",
        view=view,
        symptoms=faults().symptoms,
        url=_url(page),
        practice=PRACTICE,
        cured=page.record.all(FaultFound),
        causes=faults().causes,
    )


def _url(page: StagePage, **more: Any) -> str:
    return url_for("fault.page", job_id=page.job.id, scope=page.scope, **more)


def _case(page: StagePage, symptom: str) -> Case:
    """The case as recorded: what was answered since the last time it was cured."""
    answers: FaultSought | None = None
    for entry in page.record.entries:
        if isinstance(entry.payload, FaultSought) and entry.payload.symptom == symptom:
            answers = entry.payload
        elif isinstance(entry.payload, FaultFound) and entry.payload.symptom == symptom:
            answers = None
    sought = answers or FaultSought(symptom)
    return Case(symptom, sought.answers, kept.found(session()), sought.tried)


def _change(page: StagePage, symptom: str) -> Response:
    what, _, argument = request.form.get("do", "").partition(":")
    case, back = _case(page, symptom), _url(page, symptom=symptom)
    if request.form.get("made") != str(len(case.answers)):
        flash("Somebody answered meanwhile. Look, then tap again.")
        return redirect(back, 303)
    entry = _entry(case, what, argument)
    if entry is None:
        abort(404)
    return page.save(
        entry,
        about=page.sockets,
        back=_url(page) if isinstance(entry, FaultFound) else back,
        merged=True,
    )


def _entry(case: Case, what: str, argument: str) -> FaultSought | FaultFound | None:
    """The entry a button stands for; None for what is none."""
    if what == "back" and case.answers:
        return FaultSought(case.symptom, case.answers[:-1], case.tried)
    if what in ("cured", "not-cured") and argument in faults().causes:
        if what == "cured":
            return FaultFound(case.symptom, argument)
        return FaultSought(case.symptom, case.answers, (*case.tried, argument))
    name, _, number = argument.partition(":")
    test, answer = faults().tests.get(name), whole(number)
    if what == "answer" and test and answer is not None and answer < len(test.answers):
        sought = case.answered(name, answer)
        return FaultSought(sought.symptom, sought.answers, sought.tried)
    return None
