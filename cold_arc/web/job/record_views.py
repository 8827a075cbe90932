"""Views on the record itself: finishing and reopening stages, undo and redo."""

from __future__ import annotations

from collections.abc import Iterable

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from cold_arc.core.car.keys import Key
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.stages import Passed, Reopened
from cold_arc.core.job.known import known_facts
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage, Status
from cold_arc.store import jobs
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.forms.plain_numbers import own_path, whole
from cold_arc.web.job.history import history
from cold_arc.web.job.stage_page import StagePage, build_action, next_place, open_stage
from cold_arc.web.scope import Scope, scope_at, stage_url
from cold_arc.web.shell.db import session, writable

bp = Blueprint("record", __name__)
LONGEST_REASON = 300
A_PAGE = 100


def _stage(text: str) -> Stage:
    try:
        return Stage(text)
    except ValueError:
        abort(404)


@bp.get("/jobs/<int:job_id>")
def job(job_id: int) -> Response:
    """Goes to the stage the job waits on."""
    loaded = jobs.load(session(), job_id)
    if loaded is None:
        abort(404)
    progress = loaded.record.once(Progress)
    waits_on = progress.waits_on
    if waits_on is None:
        stage = Stage.HAND_OVER if loaded.record.sockets else Stage.BOOK_IN
        return redirect(stage_url(job_id, Scope(), stage))
    return redirect(stage_url(job_id, scope_at(progress, Scope(), waits_on), waits_on))


@bp.get("/jobs/<int:job_id>/record")
def entries(job_id: int) -> str:
    """Every entry of the record, each with its undo, a page at a time."""
    loaded = jobs.load(session(), job_id)
    if loaded is None:
        abort(404)
    pages = max(1, -(-len(loaded.entries) // A_PAGE))
    shown = min(max(whole(request.args.get("page")) or 1, 1), pages)
    here = url_for("record.entries", job_id=job_id, page=shown if shown > 1 else None)
    lines = history(loaded, A_PAGE, (shown - 1) * A_PAGE)
    return render_template(
        "record.html",
        job=loaded,
        history=lines,
        back=here,
        shown=shown,
        pages=pages,
        known=known_facts(loaded.record, unit_system()) if shown == 1 else [],
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/<stage>/finish")
def finish(job_id: int, scope: Scope, stage: str) -> Response:
    """Finishes a stage for the things in scope that stand at it; asks for a reason when something
    is missing.
    """
    page = open_stage(job_id, scope, _stage(stage))
    action, reason = build_action(page), request.form.get("reason", "").strip()
    if action.mode not in {"finish", "skip"}:
        flash("Nothing in hand is at this stage.")
        return redirect(page.url, 303)
    if action.mode == "skip" and not reason:
        flash("Say why it is skipped: " + "; ".join(action.missing) + ".")
        return redirect(page.url, 303)
    if len(reason) > LONGEST_REASON:
        flash(f"Keep the reason under {LONGEST_REASON} characters.")
        return redirect(page.url, 303)
    return _pass(page, reason if action.mode == "skip" else "")


def _pass(page: StagePage, reason: str) -> Response:
    keys: Iterable[Key] = page.keys
    if page.stage is Stage.MATCH:
        keys = at_lamp.with_taken_over(page.record, page.sockets)
    ready = [key for key in keys if page.progress.status(page.stage, key) is Status.OPEN]
    jobs.append(writable(), page.job.id, Passed(page.stage.value, reason), ready)
    _settle(page.job.id)
    writable().commit()
    return redirect(
        stage_url(page.job.id, *next_place(open_stage(page.job.id, page.scope, page.stage))), 303
    )


def _settle(job_id: int) -> None:
    """Closes the job when its last socket is handed over, and opens it again when not."""
    loaded = jobs.load(writable(), job_id)
    assert loaded is not None
    over = bool(loaded.record.sockets) and loaded.record.once(Progress).waits_on is None
    jobs.set_closed(writable(), job_id, over)


@bp.post("/jobs/<int:job_id>/<scope:scope>/<stage>/reopen")
def reopen(job_id: int, scope: Scope, stage: str) -> Response:
    """Goes back to a stage for the things in scope."""
    page = open_stage(job_id, scope, _stage(stage))
    jobs.append(writable(), job_id, Reopened(page.stage.value), page.keys)
    _settle(job_id)
    writable().commit()
    return redirect(page.url, 303)


@bp.post("/jobs/<int:job_id>/entries/<int:entry_id>/<any(undo, redo):what>")
def undo(job_id: int, entry_id: int, what: str) -> Response:
    """Takes an entry out of account, or brings it back."""
    try:
        (jobs.undo if what == "undo" else jobs.redo)(writable(), job_id, entry_id)
        _settle(job_id)
        writable().commit()
    except KeyError:
        abort(404)
    except jobs.CannotUndoError as error:
        flash(str(error))
    return redirect(_back(job_id), 303)


def _back(job_id: int) -> str:
    """The page the button stood on, if it is one of this job's."""
    home = url_for("record.job", job_id=job_id)
    back = own_path(request.form.get("back"), home)
    return back if back.startswith(home + "/") else home
