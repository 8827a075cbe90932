"""What a meter must say to be heard by this shop."""

from __future__ import annotations

import hmac
import secrets

from flask import current_app
from sqlalchemy.orm import Session, sessionmaker

from cold_arc.store import catalogue
from cold_arc.store.database import writing
from cold_arc.web.shell.db import session

SETTING = "meter_token"


def make_token(sessions: sessionmaker[Session]) -> None:
    """Makes the shop's token before anybody is let in, where there is none yet."""
    with writing(sessions()) as opened:
        if not catalogue.setting(opened, SETTING):
            made = secrets.token_hex(12)  # no sign the command could take for an option
            catalogue.set_setting(opened, SETTING, made)
            opened.commit()


def token() -> str:
    """The shop's token."""
    return catalogue.setting(session(), SETTING)


def is_token(typed: str) -> bool:
    """Whether a meter told the token; nothing is one before one was made.

    Read without the lock a posting request takes: displays come several times a second.
    """
    with current_app.extensions["cold_arc_sessions"]() as reading:
        kept = catalogue.setting(reading, SETTING)
    return bool(kept) and hmac.compare_digest(typed.encode("utf-8", "replace"), kept.encode())
