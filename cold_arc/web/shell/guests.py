"""Who of the shop's network is let in: a device tells the shop's code once and is known from then
on.

Asked where the network is let in at all (`serve --network`). The code is made from the shop's own
key, so it stays the same as long as that does; what knows a device is the signed cookie its browser
keeps.
"""

from __future__ import annotations

import base64
import datetime as dt
import hmac
from typing import Any

from flask import (
    Blueprint,
    Flask,
    abort,
    current_app,
    redirect,
    render_template,
    request,
    session,
    url_for,
)
from flask_wtf import FlaskForm
from wtforms import HiddenField, StringField

from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import own_path

bp = Blueprint("guests", __name__)
# The code asked for, among the app's settings; what a device that told it is known by, in its
# session, and how long.
CODE, KNOWN, KNOWN_FOR = "COLD_ARC_CODE", "told_the_code", dt.timedelta(days=365)
CODE_LETTERS = 8
# Pages open to all: what they are drawn with, this one, and the meter, which comes with a token of
# its own.
OPEN = ("static", "style", "guests.page", "meter.take")
# A calendar keeps no cookie: the code stands in its address.
BY_ADDRESS = "calendar.feed"
THIS_MACHINE = ("127.0.0.1", "::1")


class CodeForm(FlaskForm):
    """The shop's code, and where one wanted to go."""

    code = StringField("The shop's code", [fields.needed()])
    to = HiddenField()


def ask_for_code(app: Flask) -> str:
    """From now on devices of the network are asked for a code: returns it, in fours of letters and
    digits.
    """
    made = hmac.digest(
        app.config["SECRET_KEY"].encode(), b"devices of the shop's network", "sha256"
    )
    letters = base64.b32encode(made).decode()[:CODE_LETTERS]
    app.config[CODE] = "-".join(letters[at : at + 4] for at in range(0, CODE_LETTERS, 4))
    return str(app.config[CODE])


def code() -> str:
    """The code that is asked for; "" where none is."""
    return str(current_app.config.get(CODE, ""))


def known() -> Any:
    """Lets a request go on, or leads it to the code. https is for the network; http of this machine
    is its own.
    """
    own = request.remote_addr in THIS_MACHINE and not request.is_secure
    if not code() or own or request.endpoint in OPEN or session.get(KNOWN):
        return None
    if request.endpoint == BY_ADDRESS and _same(request.args.get("code")):
        return None
    if request.method != "GET":
        return _asked(CodeForm(), 401)
    return redirect(url_for("guests.page", to=request.full_path.rstrip("?")), 303)


def _same(typed: object) -> bool:
    """Whether that is the code, however it is spaced and written."""
    plain = "".join(letter for letter in str(typed or "").upper() if letter.isalnum())
    return hmac.compare_digest(plain.encode(), code().replace("-", "").encode())


def _asked(form: CodeForm, status: int = 200) -> tuple[str, int]:
    return render_template("code.html", form=form), status


@bp.route("/code", methods=["GET", "POST"])
def page() -> Any:
    """Asks for the code, where one is asked for; goes on to where one wanted to go."""
    if not code():
        abort(404)
    form = CodeForm(data={"to": request.args.get("to")})
    if not form.validate_on_submit():
        return _asked(form, 422 if form.is_submitted() else 200)
    if not _same(form.code.data):
        form.code.errors = ["That is not this shop's code: it stands on the Shop's page."]
        return _asked(form, 422)
    session[KNOWN] = session.permanent = True
    return redirect(own_path(form.to.data, url_for("home.page")), 303)
