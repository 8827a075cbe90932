"""One database session a request.

A posting request takes the write lock first, so that what it reads is what it changes, and is done
once for the key its form carries.
"""

from __future__ import annotations

import re
import secrets
from contextlib import suppress
from typing import cast

from flask import Response, abort, current_app, g, redirect, request
from sqlalchemy import event
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from cold_arc.store import answers, board
from cold_arc.store.database import writing

KEY = re.compile(r"[\w-]{8,40}")
CARDS_KEPT = 4


def session() -> Session:
    """This request's session; the view commits."""
    if "session" not in g:
        g.session = current_app.extensions["cold_arc_sessions"]()
        if request.method == "POST":
            event.listen(g.session, "after_commit", _saved)
            writing(g.session)
            _once(g.session)
    return cast(Session, g.session)


def _saved(opened: Session) -> None:
    opened.info["saved"] = True


def form_key() -> str:
    """A key for one form of one page."""
    return secrets.token_urlsafe(9)


def _sent_key() -> str:
    key = request.form.get("once", "")
    return key if KEY.fullmatch(key) else ""


def _once(opened: Session) -> None:
    """Ends a request whose form was answered before with the answer it had then."""
    key = _sent_key()
    if not key:
        return
    location = answers.answered(opened, key)
    if location is not None:
        opened.rollback()
        abort(redirect(location or request.path, 303))
    answers.note(opened, key)


def after_post(response: Response) -> Response:
    """Notes where a saved form led, says so to the page, and keeps the board's cards."""
    opened: Session | None = g.get("session")
    if request.method != "POST" or opened is None:
        return response
    opened.close()  # whatever it did not commit, the lock goes with it
    if response.status_code != 303 or not opened.info.get("saved"):
        return response
    with (
        suppress(OperationalError),
        writing(current_app.extensions["cold_arc_sessions"]()) as fresh,
    ):
        if key := _sent_key():
            answers.led_to(fresh, key, response.location or "")
        board.keep(fresh, CARDS_KEPT)
        fresh.commit()
    return response


def close_session(_: BaseException | None) -> None:
    """Gives the session back; whatever was not committed is dropped."""
    if opened := g.pop("session", None):
        opened.close()
