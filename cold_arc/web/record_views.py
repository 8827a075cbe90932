"""Views on the record itself: finishing and reopening stages, undo and redo."""

from __future__ import annotations

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from cold_arc.core.record import Passed, Reopened
from cold_arc.core.stages import Stage, current, least
from cold_arc.store import jobs
from cold_arc.web.db import session
from cold_arc.web.history import history
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.stage_page import Desk, build_action, open_desk

bp = Blueprint("record", __name__)
LONGEST_REASON = 300


def _stage(text: str) -> Stage:
    try:
        return Stage(text)
    except ValueError:
        abort(404)


@bp.get("/jobs/<int:job_id>")
def job(job_id: int) -> Response:
    """Goes to the stage the job waits on."""
    found = jobs.load(session(), job_id)
    if found is None:
        abort(404)
    waits_on = least(found.record)
    if waits_on is None:
        stage = Stage.HAND_OVER if found.record.lamp_keys else Stage.BOOK_IN
        return redirect(stage_url(job_id, Scope(), stage))
    key = next(key for key in found.record.lamp_keys if current(found.record, key) is waits_on)
    return redirect(stage_url(job_id, Scope(key.function), waits_on))


@bp.get("/jobs/<int:job_id>/record")
def whole(job_id: int) -> str:
    """Every entry of the record, each with its undo."""
    found = jobs.load(session(), job_id)
    if found is None:
        abort(404)
    here = url_for("record.whole", job_id=job_id)
    return render_template("record.html", job=found, history=history(found), back=here)


@bp.post("/jobs/<int:job_id>/<scope:scope>/<stage>/finish")
def finish(job_id: int, scope: Scope, stage: str) -> Response:
    """Finishes a stage for the lamps in scope that stand at it; asks for a reason when something is missing."""
    desk = open_desk(job_id, scope, _stage(stage))
    action, reason = build_action(desk), request.form.get("reason", "").strip()
    if action.mode not in {"finish", "skip"}:
        flash("These lamps are not at this stage.")
        return redirect(desk.url, 303)
    if action.mode == "skip" and not reason:
        flash("Say why it is skipped: " + "; ".join(action.missing) + ".")
        return redirect(desk.url, 303)
    if len(reason) > LONGEST_REASON:
        flash(f"Keep the reason under {LONGEST_REASON} characters.")
        return redirect(desk.url, 303)
    return _pass(desk, reason if action.mode == "skip" else "")


def _pass(desk: Desk, reason: str) -> Response:
    at_stage = [key for key in desk.keys if current(desk.record, key) is desk.stage]
    jobs.append(session(), desk.job.id, Passed(desk.stage.value, reason), at_stage)
    _settle(desk.job.id)
    session().commit()
    if desk.stage.next is None:
        return redirect(desk.url, 303)
    return redirect(stage_url(desk.job.id, desk.scope, desk.stage.next), 303)


def _settle(job_id: int) -> None:
    """Closes the job when its last lamp is handed over, and opens it again when not."""
    found = jobs.load(session(), job_id)
    assert found is not None
    over = bool(found.record.lamp_keys) and least(found.record) is None
    jobs.set_closed(session(), job_id, over)


@bp.post("/jobs/<int:job_id>/<scope:scope>/<stage>/reopen")
def reopen(job_id: int, scope: Scope, stage: str) -> Response:
    """Goes back to a stage for the lamps in scope."""
    desk = open_desk(job_id, scope, _stage(stage))
    jobs.append(session(), job_id, Reopened(desk.stage.value), desk.keys)
    _settle(job_id)
    session().commit()
    return redirect(desk.url, 303)


@bp.post("/jobs/<int:job_id>/entries/<int:entry_id>/<any(undo, redo):what>")
def undo(job_id: int, entry_id: int, what: str) -> Response:
    """Takes an entry out of account, or brings it back."""
    try:
        (jobs.undo if what == "undo" else jobs.redo)(session(), job_id, entry_id)
        _settle(job_id)
        session().commit()
    except KeyError:
        abort(404)
    except jobs.CannotUndo as error:
        flash(str(error))
    return redirect(_back(job_id), 303)


def _back(job_id: int) -> str:
    """The page the button stood on, if it is one of this job's."""
    back = request.form.get("back", "")
    home = url_for("record.job", job_id=job_id)
    return back if back.startswith(home + "/") else home
