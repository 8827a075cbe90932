"""The shop's key that signs its documents: made on the Shop's page, or kept elsewhere and named at
the start.
"""

from __future__ import annotations

import datetime as dt
import os
from pathlib import Path

from flask import Blueprint, Response, abort, current_app, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue

from cold_arc.formats.signing import ShopKey, SigningError, new_key, signed
from cold_arc.store import catalogue
from cold_arc.store.owned import write_for_owner
from cold_arc.web.shell.db import session

bp = Blueprint("signing", __name__)
FILE, ELSEWHERE, PASSWORD = "signing.p12", "COLD_ARC_SIGNING_KEY", "COLD_ARC_SIGNING_PASSWORD"


def _own() -> Path:
    folder: Path = current_app.extensions["cold_arc_folder"]
    return folder / FILE


def is_elsewhere() -> bool:
    """Whether the key is kept elsewhere, and so not made or given up here."""
    return bool(current_app.config.get(ELSEWHERE) or os.environ.get(ELSEWHERE))


def shop_key() -> ShopKey | None:
    """The key documents are signed with; None where there is none. SigningError for a file that is
    named and can't be read.
    """
    elsewhere = current_app.config.get(ELSEWHERE) or os.environ.get(ELSEWHERE)
    path = Path(elsewhere) if elsewhere else _own()
    if not elsewhere and not path.exists():
        return None
    password = os.environ.get(PASSWORD) if elsewhere else None
    try:
        return ShopKey(path.read_bytes(), password.encode() if password else None)
    except OSError as error:
        raise SigningError(f"The signing key can't be read ({error.strerror}).") from error


def as_signed(pdf: bytes, reason: str) -> bytes:
    """A document as it leaves the shop: signed where the shop has a key."""
    key = shop_key()
    return signed(pdf, key, reason) if key else pdf


def certificate_of() -> tuple[str, str]:
    """The key's fingerprint and what is wrong with it; both empty where there is none."""
    try:
        key = shop_key()
        return (key.fingerprint if key else "", "")
    except SigningError as error:
        return "", str(error)


@bp.post("/shop/signing")
def change() -> ResponseReturnValue:
    """Makes the shop a key, or gives it up."""
    pressed = request.form.get("do", "")
    if is_elsewhere() or pressed not in ("make", "drop"):
        abort(404)
    if pressed == "drop":
        _own().unlink(missing_ok=True)
        flash("Documents are not signed any more; those that are stay so.")
    elif not _own().exists():
        name = catalogue.setting(session(), "shop_name", "Cold Arc")
        write_for_owner(_own(), new_key(name, dt.datetime.now(dt.UTC)).data)
        flash("Documents are signed from now on.")
    return redirect(url_for("shell.shop") + "#signing", 303)


@bp.get("/shop/signing.pem")
def certificate() -> Response:
    """The key's certificate, to be given to whoever checks."""
    try:
        key = shop_key()
        pem = key.pem if key else b""
    except SigningError:
        pem = b""
    if not pem:
        abort(404)
    headers = {"Content-Disposition": 'attachment; filename="shop.pem"'}
    return Response(pem, mimetype="application/x-pem-file", headers=headers)
