"""The shop itself: its name on the sheet, and the preferences of the top bar."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask_wtf import FlaskForm
from flask_wtf.csrf import generate_csrf
from werkzeug.wrappers import Response
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core.units import UnitSystem
from cold_arc.store import catalogue
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import own_path
from cold_arc.web.meter.pages import token
from cold_arc.web.shell.db import session

bp = Blueprint("shell", __name__)
A_YEAR = 60 * 60 * 24 * 365


class ShopForm(FlaskForm):
    """What the sheet says of the shop."""

    shop_name = StringField("Shop name", [fields.needed(), Length(max=80)])
    shop_contact = StringField("Address and telephone, one line", [Length(max=200)])


@bp.route("/shop", methods=["GET", "POST"])
def shop() -> Any:
    """The shop's name and contact."""
    kept = {name: catalogue.setting(session(), name) for name in ("shop_name", "shop_contact")}
    form = ShopForm(data=kept)
    stale = any(request.form.get(f"was_{name}", text) != text for name, text in kept.items())
    if request.method == "POST" and stale and form.validate():
        theirs = " and ".join(f"“{text}”" for text in kept.values())
        form.shop_name.errors = [f"Changed meanwhile to {theirs}. Save again to keep yours."]
    elif form.validate_on_submit():
        for name in ("shop_name", "shop_contact"):
            catalogue.set_setting(session(), name, (form[name].data or "").strip())
        session().commit()
        flash("Saved.")
        return redirect(url_for("shell.shop"), 303)
    return render_template("shop.html", form=form, kept=kept, token=token()), 422 if form.errors else 200


@bp.get("/token")
def form_token() -> Response:
    """A fresh token for the forms of a page whose own was too old."""
    return Response(generate_csrf(), mimetype="text/plain")


@bp.post("/preferences")
def preferences() -> Response:
    """Keeps the theme or the units of this browser, and returns to the page."""
    answer = redirect(own_path(request.form.get("back"), "/"), 303)
    if request.form.get("theme") in {"night", "day"}:
        answer.set_cookie("theme", request.form["theme"], max_age=A_YEAR, samesite="Lax")
    if request.form.get("units") in list(UnitSystem):
        answer.set_cookie("units", request.form["units"], max_age=A_YEAR, samesite="Lax")
    return answer
