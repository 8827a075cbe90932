"""The shop itself: its name on the sheet, and the preferences of the top bar."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from flask_wtf.csrf import generate_csrf
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core.job.tables import TABLES
from cold_arc.core.units import UnitSystem
from cold_arc.core.work import choosing
from cold_arc.core.work.access import MOST_PEOPLE
from cold_arc.core.work.dark import PlaceError, ShopPlace
from cold_arc.store import catalogue
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import own_path
from cold_arc.web.forms.stale import is_stale, state_of
from cold_arc.web.shell import cookies, guests
from cold_arc.web.shell.db import session, writable
from cold_arc.web.shell.meter_token import token
from cold_arc.web.shell.place import (
    DARK_BAY,
    PEOPLE,
    PLACE,
    PREFERS,
    has_dark_bay,
    plan_prefers,
    shop_people,
    shop_place,
)
from cold_arc.web.shell.signing_key import certificate_of, is_elsewhere

bp = Blueprint("shell", __name__)
# Where each field is kept.
SETTINGS = {
    "shop_name": "shop_name",
    "shop_contact": "shop_contact",
    "currency": "currency",
    **{name: f"place_{name}" for name in PLACE},
    "people": PEOPLE,
    "prefers": PREFERS,
    "dark_bay": DARK_BAY,
}
OF_WORDS = ("shop_name", "shop_contact", "currency")
A_YEAR = 60 * 60 * 24 * 365


class ShopForm(FlaskForm):
    """What the sheet says of the shop."""

    shop_name = StringField("Shop name", [fields.needed(), Length(max=80)])
    shop_contact = StringField("Address and telephone, one line", [Length(max=200)])
    currency = StringField("Currency, like EUR or £", [Length(max=6)])
    latitude = fields.number("Latitude, north positive", -90, 90, required=False)
    longitude = fields.number("Longitude, east positive", -180, 180, required=False)
    zone = StringField("Time zone, like Europe/Paris", [Length(max=60)])
    people = fields.number(
        "People for the work at the cars", 1, MOST_PEOPLE, required=False, whole=True
    )
    prefers = fields.one_of("Of several ways in, propose", choosing.PREFERS)
    dark_bay = fields.one_of(
        "Wall work", {"0": "After dusk", "1": "In a dark bay, at any hour"}, "0"
    )

    def kept(self) -> dict[str, str]:
        """Everything as it is kept: settings by name."""
        typed = {setting: self[name].data for name, setting in SETTINGS.items()}
        typed[PEOPLE] = int(self.people.data or 1)
        return {name: "" if value is None else str(value).strip() for name, value in typed.items()}

    def tell_theirs(self, stands: dict[str, str]) -> None:
        """Says beside each field what somebody saved there meanwhile."""
        mine = self.kept()
        for name, setting in SETTINGS.items():
            if stands[setting] != mine[setting]:
                self[name].errors = [
                    f"Changed meanwhile to “{stands[setting]}”. Save again to keep yours."
                ]

    def validate(self, extra_validators: fields.ExtraValidators = None) -> bool:
        """A place is told whole, or not at all."""
        good = super().validate(extra_validators)
        filled = [
            name
            for name in PLACE
            if str(self[name].data if self[name].data is not None else "").strip()
        ]
        if not good or not filled:
            return good
        try:
            if len(filled) < len(PLACE):
                missing = next(name for name in PLACE if name not in filled)
                raise PlaceError(missing, "A place has latitude, longitude and time zone.")
            ShopPlace(self.latitude.data, self.longitude.data, self.zone.data.strip())
        except PlaceError as error:
            self[error.field].errors = [str(error)]
            return False
        return True


@bp.route("/shop", methods=["GET", "POST"])
def shop() -> ResponseReturnValue:
    """The shop's name and contact."""
    form = ShopForm(data=_known())
    if form.validate_on_submit():
        stands = _stands(writable())
        if not is_stale(stands) or stands == form.kept():
            for name, text in form.kept().items():
                catalogue.set_setting(writable(), name, text)
            writable().commit()
            flash("Saved.")
            return redirect(url_for("shell.shop"), 303)
        form.tell_theirs(stands)
    page = render_template(
        "shop.html",
        form=form,
        made_from=state_of(_stands(session())),
        code=guests.code(),
        devices=guests.let_in(),
        feed=url_for(guests.BY_ADDRESS, token=guests.calendar_token()),
        token=token(),
        tables=TABLES,
        signing=certificate_of(),
        key_elsewhere=is_elsewhere(),
    )
    return page, 422 if form.errors else 200


def _stands(opened: Session) -> dict[str, str]:
    """The shop's settings as they stand, by name."""
    return {name: catalogue.setting(opened, name) for name in SETTINGS.values()}


def _known() -> dict[str, object]:
    """Where the shop is and how it works, as kept."""
    place = shop_place()
    return {
        **{name: catalogue.setting(session(), name) for name in OF_WORDS},
        **(vars(place) if place else {}),
        DARK_BAY: "1" if has_dark_bay() else "0",
        "people": shop_people(),
        "prefers": plan_prefers(),
    }


@bp.get("/token")
def form_token() -> Response:
    """A fresh token for the forms of a page whose own was too old."""
    return Response(generate_csrf(), mimetype="text/plain")


@bp.post("/preferences")
def preferences() -> Response:
    """Keeps the theme or the units of this browser, and returns to the page."""
    answer = redirect(own_path(request.form.get("back"), "/"), 303)
    if request.form.get("theme") in {"night", "day"}:
        cookies.keep(answer, "theme", request.form["theme"])
    if request.form.get("units") in list(UnitSystem):
        cookies.keep(answer, "units", request.form["units"])
    return answer
