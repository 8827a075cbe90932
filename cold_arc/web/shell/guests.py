"""Who of the shop's network is let in: a device tells the shop's code once and is known from then
on, until it is thrown out.

Asked where the network is let in at all (`serve --network`). The code is taken on the secure
address or on the shop's own machine only, and can be renewed; what knows a device is a token of its
own in the signed cookie its browser keeps. A calendar keeps no cookie: its address carries a token
that lets it read the days and nothing else.
"""

from __future__ import annotations

import base64
import datetime as dt
import hmac
import logging
import secrets
from typing import Any

from flask import (
    Blueprint,
    Flask,
    abort,
    current_app,
    flash,
    redirect,
    render_template,
    request,
    session,
    url_for,
)
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session, sessionmaker
from werkzeug.wrappers import Response
from wtforms import HiddenField, StringField

from cold_arc.core.units import say_count
from cold_arc.store import catalogue, devices
from cold_arc.store.database import writing
from cold_arc.store.models import DeviceRow
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import own_path
from cold_arc.web.shell import db

bp = Blueprint("guests", __name__)
_log = logging.getLogger(__name__)
# Among the app's settings: whether devices are asked for the code, and the port of the secure
# address; what a device that told it is known by, in its session, and how long.
ASKED, SECURE_PORT = "COLD_ARC_ASKED", "COLD_ARC_SECURE_PORT"
KNOWN, KNOWN_FOR = "device", dt.timedelta(days=365)
# The shop's settings that hold the code and the calendar's token.
CODE, CALENDAR = "network_code", "calendar_token"
CODE_LETTERS, CODE_BYTES = 8, 10
# Pages open to all: what they are drawn with, this one, and the meter, which comes with a token of
# its own.
OPEN = ("static", "style", "guests.page", "meter.take")
BY_ADDRESS = "calendar.feed"
THIS_MACHINE = ("127.0.0.1", "::1")


class CodeForm(FlaskForm):
    """The shop's code, and where one wanted to go."""

    code = StringField("The shop's code", [fields.needed()])
    to = HiddenField()


def ask_for_code(app: Flask) -> str:
    """From now on devices of the network are asked for the shop's code: returns it."""
    app.config[ASKED] = True
    sessions: sessionmaker[Session] = app.extensions["cold_arc_sessions"]
    with writing(sessions()) as opened:
        for name, made in ((CODE, _new_code), (CALENDAR, secrets.token_urlsafe)):
            if not catalogue.setting(opened, name):
                catalogue.set_setting(opened, name, made())
        opened.commit()
        return catalogue.setting(opened, CODE)


def _new_code() -> str:
    """A code that was never one before, in fours of letters and digits."""
    letters = base64.b32encode(secrets.token_bytes(CODE_BYTES)).decode()[:CODE_LETTERS]
    return "-".join(letters[at : at + 4] for at in range(0, CODE_LETTERS, 4))


def is_asked() -> bool:
    """Whether devices of the network are asked for a code."""
    return bool(current_app.config.get(ASKED))


def code() -> str:
    """The code that is asked for; "" where none is."""
    return catalogue.setting(db.session(), CODE) if is_asked() else ""


def calendar_token() -> str | None:
    """What the calendar's address carries; None where nothing is asked."""
    return catalogue.setting(db.session(), CALENDAR) if is_asked() else None


def known() -> ResponseReturnValue | None:
    """Lets a request go on, or leads it to the code, before anything of its form is read. https is
    for the network; http of this machine is its own.
    """
    if not is_asked() or _is_own() or request.endpoint in OPEN or _is_known(session.get(KNOWN)):
        return None
    if request.endpoint == BY_ADDRESS and _is_calendar(request.args.get("token", "")):
        return None
    if request.method != "GET":
        return _asked(CodeForm(formdata=None), 401)
    return redirect(url_for("guests.page", to=request.full_path.rstrip("?")), 303)


def takes_large(app: Flask, environ: dict[str, object]) -> bool:
    """Whether a large body is taken in with a request, told by its head alone: of the shop's own
    machine, and of devices that are let in.
    """
    with app.request_context(environ):
        return not is_asked() or _is_own() or _is_known(session.get(KNOWN))


def _is_own() -> bool:
    """Whether the shop's own machine asks, on its plain address."""
    return request.remote_addr in THIS_MACHINE and not request.is_secure


def _is_known(token: object) -> bool:
    return isinstance(token, str) and devices.is_known(db.session(), token)


def _is_calendar(token: str) -> bool:
    kept = catalogue.setting(db.session(), CALENDAR)
    return bool(kept) and hmac.compare_digest(token.encode("utf-8", "replace"), kept.encode())


def _same(typed: object) -> bool:
    """Whether that is the code, however it is spaced and written."""
    plain = "".join(letter for letter in str(typed or "").upper() if letter.isalnum())
    return hmac.compare_digest(plain.encode(), code().replace("-", "").encode())


def _asked(form: CodeForm, status: int = 200) -> tuple[str, int]:
    return render_template("code.html", form=form, secure=secure_address("guests.page")), status


def secure_address(endpoint: str, **more: Any) -> str:
    """A page's address by https, where there is one and this is not it; else ""."""
    port = current_app.config.get(SECURE_PORT)
    if not port or request.is_secure or _is_own():
        return ""
    return f"https://{request.host.partition(':')[0]}:{port}{url_for(endpoint, **more)}"


@bp.route("/code", methods=["GET", "POST"])
def page() -> ResponseReturnValue:
    """Asks for the code, where one is asked for; goes on to where one wanted to go. On a plain
    address of the network it is not taken.
    """
    if not is_asked():
        abort(404)
    wanted = request.args.get("to")
    if secure := secure_address("guests.page", to=wanted):
        if request.method == "GET":
            return redirect(secure, 303)
        return _asked(CodeForm(formdata=None), 403)
    form = CodeForm(data={"to": wanted})
    if not form.validate_on_submit():
        return _asked(form, 422 if form.is_submitted() else 200)
    if not _same(form.code.data):
        _log.warning("a wrong code was told from %s", request.remote_addr)
        form.code.errors = ["That is not this shop's code: it stands on the Shop's page."]
        return _asked(form, 422)
    session[KNOWN] = devices.let_in(db.writable(), _name())
    session.permanent = True
    db.writable().commit()
    return redirect(own_path(form.to.data, url_for("home.page")), 303)


def _name() -> str:
    """What a device may be told by: its address and what its browser says of itself."""
    browser = "".join(sign for sign in request.user_agent.string if sign.isprintable())
    return f"{request.remote_addr}, {browser}"


def let_in() -> list[DeviceRow]:
    """The devices that are let in; none where nothing is asked."""
    return devices.let_in_now(db.session()) if is_asked() else []


@bp.post("/shop/network")
def change() -> Response:
    """Renews the code or the calendar's address, throws one device out or all."""
    what, _, number = request.form.get("do", "").partition(":")
    opened = db.writable()
    if what == "renew":
        catalogue.set_setting(opened, CODE, _new_code())
        flash("A new code. Devices that are let in stay; the old code lets nobody in.")
    elif what == "calendar":
        catalogue.set_setting(opened, CALENDAR, secrets.token_urlsafe())
        flash("The calendar has a new address; the old one shows nothing.")
    elif what == "out":
        gone = devices.throw_out(opened, int(number) if number.isdecimal() else None)
        flash(f"{say_count(gone, 'device')} thrown out.")
    else:
        abort(404)
    opened.commit()
    return redirect(url_for("shell.shop"), 303)
