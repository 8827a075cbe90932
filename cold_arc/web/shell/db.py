"""One database session a request.

A posting request reads first, as any other does, and takes the write lock only when all is worked
out (`writable`): nothing is computed while others wait. Where the job it read has changed by then,
it is done again from the start (`Overtaken`). It is done once for the key its form carries.
"""

from __future__ import annotations

import re
import secrets
from contextlib import suppress
from typing import Any, cast

from flask import Flask, Response, abort, current_app, g, redirect, request
from flask import session as cookie
from sqlalchemy import event
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import ORMExecuteState, Session

from cold_arc.store import answers, board, jobs
from cold_arc.store.database import writing

KEY = re.compile(r"[\w-]{8,40}")
CARDS_KEPT = 4
# How often a request is done again because the job changed meanwhile, before it holds the lock from
# its start.
TRIES = 3


class Overtaken(Exception):  # noqa: N818 - no error: the request is done again
    """The job a request read was changed before it could write."""


class OnceMoreFlask(Flask):
    """An app that does a request again whose job was changed under it."""

    def dispatch_request(self) -> Any:
        """The view's answer, from what stands when it is saved."""
        for _ in range(TRIES):
            try:
                return super().dispatch_request()
            except Overtaken:
                _begin_again()
        writable()
        return super().dispatch_request()


def _begin_again() -> None:
    close_session(None)
    g.pop("read_state", None)
    cookie.pop("_flashes", None)
    for upload in (upload for sent in request.files.listvalues() for upload in sent):
        upload.seek(0)


def session() -> Session:
    """This request's session, to read; what is to be changed asks for `writable`."""
    if "session" not in g:
        g.session = current_app.extensions["cold_arc_sessions"]()
        event.listen(g.session, "after_commit", _saved)
        event.listen(g.session, "before_flush", _refuse_unlocked)
        event.listen(g.session, "do_orm_execute", _refuse_change_unlocked)
        if request.method == "POST":
            _answered_before(g.session)
    return cast(Session, g.session)


def writable(anyway: bool = False) -> Session:
    """This request's session with the write lock taken; the view commits.

    Raises Overtaken where the job read before has changed since, unless what is to be added holds
    *anyway*.
    """
    opened = session()
    if opened.info.get("locked"):
        return opened
    opened.rollback()
    writing(opened)
    opened.info["locked"] = True
    if key := _answered_before(opened):
        answers.note(opened, key)
    read = None if anyway else g.get("read_state")
    if read and jobs.state(opened, read[0]) != read[1]:
        raise Overtaken
    return opened


def reads_job(job: jobs.Job) -> None:
    """Notes the job, as it stands, that a posting request goes by."""
    if request.method == "POST":
        g.read_state = job.id, job.state


def _refuse_unlocked(opened: Session, *_: object) -> None:
    if not opened.info.get("locked") and (opened.new or opened.dirty or opened.deleted):
        raise RuntimeError("What is to be changed asks for `writable`.")


def _refuse_change_unlocked(state: ORMExecuteState) -> None:
    if not state.is_select and not state.session.info.get("locked"):
        raise RuntimeError("What is to be changed asks for `writable`.")


def _saved(opened: Session) -> None:
    opened.info["saved"] = opened.info.pop("locked", False) or opened.info.get("saved", False)


def form_key() -> str:
    """A key for one form of one page."""
    return secrets.token_urlsafe(9)


def _sent_key() -> str:
    key = request.form.get("once", "")
    return key if KEY.fullmatch(key) else ""


def _answered_before(opened: Session) -> str:
    """The key of the request's form; ends a request whose form was answered before with the answer
    it had then.
    """
    key = _sent_key()
    location = answers.answered(opened, key) if key else None
    if location is not None:
        opened.rollback()
        abort(redirect(location or request.path, 303))
    return key


def after_post(response: Response) -> Response:
    """Notes where a saved form led, says so to the page, and keeps the board's cards."""
    opened: Session | None = g.get("session")
    if request.method != "POST" or opened is None:
        return response
    opened.close()  # whatever it did not commit, the lock goes with it
    if response.status_code != 303 or not opened.info.get("saved"):
        return response
    sessions = current_app.extensions["cold_arc_sessions"]
    with suppress(OperationalError):
        with sessions() as reading:
            cards = board.worked_out(reading, CARDS_KEPT)
        with writing(sessions()) as fresh:
            if key := _sent_key():
                answers.led_to(fresh, key, response.location or "")
            board.keep(fresh, cards)
            fresh.commit()
    return response


def close_session(_: BaseException | None) -> None:
    """Gives the session back; whatever was not committed is dropped."""
    if opened := g.pop("session", None):
        opened.close()
