"""One database session a request."""

from __future__ import annotations

from typing import cast

from flask import current_app, g
from sqlalchemy.orm import Session


def session() -> Session:
    """This request's session; the view commits."""
    if "session" not in g:
        g.session = current_app.extensions["cold_arc_sessions"]()
    return cast(Session, g.session)


def close_session(_: BaseException | None) -> None:
    """Gives the session back; whatever was not committed is dropped."""
    if opened := g.pop("session", None):
        opened.close()
