"""What every stage page shares: opening the job at its scope, the frame around the work, saving entries."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from flask import abort, flash, redirect, render_template, request
from werkzeug.wrappers import Response

from cold_arc.core import law
from cold_arc.core.access import cautions
from cold_arc.core.findings import Finding, worst_first
from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Payload, Record
from cold_arc.core.stages import Stage, Status, current, missing, statuses
from cold_arc.store import jobs
from cold_arc.web.db import session
from cold_arc.web.history import SHOWN, history
from cold_arc.web.parts.face import build_face
from cold_arc.web.parts.track import build_track
from cold_arc.web.scope import Scope, stage_url


@dataclass(frozen=True)
class Desk:
    """One stage of one job, for the lamps in scope: what a stage's view works with."""

    job: jobs.Job
    scope: Scope
    stage: Stage
    keys: list[LampKey]

    @property
    def record(self) -> Record:
        """The job's record."""
        return self.job.record

    @property
    def first(self) -> LampKey:
        """The lamp whose facts fill the forms."""
        return self.keys[0]

    @property
    def market(self) -> law.Market:
        """The car's market."""
        return law.markets()[self.job.booking.market]

    @property
    def url(self) -> str:
        """This page's address."""
        return stage_url(self.job.id, self.scope, self.stage)

    def save(self, *payloads: Payload, lamps: Iterable[LampKey] | None = None, back: str = "") -> Response:
        """Appends entries for the lamps in scope, commits, and shows the stage's page, or *back*, afresh."""
        for payload in payloads:
            jobs.append(session(), self.job.id, payload, self.keys if lamps is None else lamps)
        session().commit()
        return redirect(back or self.url, 303)

    def render(
        self, found: Sequence[Finding] = (), caution_ids: Iterable[str] = (), template: str = "", **context: Any
    ) -> Any:
        """The stage's template, or another of its pages, in its frame; 422 when a form was answered with errors."""
        status = 422 if request.method == "POST" else 200
        page = render_template(
            f"stages/{template or self.stage.value}.html",
            desk=self,
            face=build_face(self.record, self.job.id, self.stage, self.scope),
            track=build_track(self.record, self.job.id, self.scope, self.keys, self.stage),
            action=build_action(self),
            findings=worst_first(found),
            cautions=[cautions()[caution] for caution in dict.fromkeys(caution_ids)],
            history=history(self.job, SHOWN),
            **context,
        )
        return page, status


def open_desk(job_id: int, scope: Scope, stage: Stage) -> Desk:
    """The job at a scope and stage; 404 when there is no such job, Book in when the lamp is not worked on."""
    job = jobs.load(session(), job_id)
    if job is None:
        abort(404)
    keys = scope.keys(job.record.lamp_keys)
    if not keys and not (stage is Stage.BOOK_IN and scope.function is None):
        abort(redirect(stage_url(job_id, Scope(), Stage.BOOK_IN)))
    return Desk(job, scope, stage, keys)


@dataclass(frozen=True)
class Action:
    """The one main action of a stage page: finish it, or say what is missing; or reopen what is finished."""

    mode: str
    missing: tuple[str, ...] = ()
    go_to: str = ""
    go_label: str = ""
    note: str = ""


def build_action(desk: Desk) -> Action:
    """What the bottom bar offers for the lamps in scope."""
    if not desk.keys:
        return Action("blocked", ("no lamp is chosen",))
    at_stage = [key for key in desk.keys if current(desk.record, key) is desk.stage]
    if at_stage:
        wanting = _wanting(desk, at_stage)
        return Action("finish" if not wanting else "skip", wanting)
    standing = {statuses(desk.record, key)[desk.stage] for key in desk.keys}
    if Status.AHEAD in standing:
        key = next(key for key in desk.keys if statuses(desk.record, key)[desk.stage] is Status.AHEAD)
        waits_at = current(desk.record, key) or desk.stage
        go_to = stage_url(desk.job.id, desk.scope, waits_at)
        return Action("ahead", _wanting(desk, desk.keys), go_to, waits_at.label)
    return _finished_action(desk, standing)


def _finished_action(desk: Desk, standing: set[Status]) -> Action:
    """For a stage all lamps have left: on to the next, and a word when something is missing after all."""
    note = "Skipped." if Status.SKIPPED in standing else "Finished."
    wanting = _wanting(desk, desk.keys)
    if desk.stage.next is None:
        return Action("done", wanting, note=note)
    go_to = stage_url(desk.job.id, desk.scope, desk.stage.next)
    return Action("done", wanting, go_to, desk.stage.next.label, note)


def _wanting(desk: Desk, keys: Sequence[LampKey]) -> tuple[str, ...]:
    """What is missing, each thing once, naming the lamps when not all in scope want it."""
    wants: dict[str, list[LampKey]] = {}
    for key in keys:
        for text in missing(desk.record, key, desk.stage):
            wants.setdefault(text, []).append(key)
    return tuple(text if lamps == list(keys) else f"{text} ({_names(lamps)})" for text, lamps in wants.items())


def _names(keys: Sequence[LampKey]) -> str:
    return ", ".join(f"{key.function.label.lower()} {key.side.value}" for key in keys)


def after_save(message: str) -> None:
    """A short word shown once on the next page."""
    flash(message)
