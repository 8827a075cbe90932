"""What a meter must say to be heard by this shop."""

from __future__ import annotations

import hmac
import secrets

from flask import current_app

from cold_arc.store import catalogue
from cold_arc.web.shell.db import session, writable

SETTING = "meter_token"


def token() -> str:
    """The shop's token; made when first asked for."""
    kept = catalogue.setting(session(), SETTING)
    if not kept:
        kept = secrets.token_hex(12)  # no sign the command could take for an option
        catalogue.set_setting(writable(), SETTING, kept)
        writable().commit()
    return kept


def is_token(typed: str) -> bool:
    """Whether a meter told the token; nothing is one before one was made.

    Read without the lock a posting request takes: displays come several times a second.
    """
    with current_app.extensions["cold_arc_sessions"]() as reading:
        kept = catalogue.setting(reading, SETTING)
    return bool(kept) and hmac.compare_digest(typed.encode("utf-8", "replace"), kept.encode())
