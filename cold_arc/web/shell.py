"""The shop itself: its name on the sheet, its light sources, and the preferences of the top bar."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import BooleanField, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core import bases, light_source
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import UnitSystem
from cold_arc.store import catalogue
from cold_arc.web import fields
from cold_arc.web.db import session

bp = Blueprint("shell", __name__)
A_YEAR = 60 * 60 * 24 * 365


class ShopForm(FlaskForm):
    """What the sheet says of the shop."""

    shop_name = StringField("Shop name", [fields.needed(), Length(max=80)])
    shop_contact = StringField("Address and telephone, one line", [Length(max=200)])


class LightSourceForm(FlaskForm):
    """One light source as its maker describes it."""

    name = StringField("Name", [fields.needed("Name it."), Length(max=80)])
    kind = fields.one_of("Kind", light_source.KINDS, next(iter(light_source.KINDS)))
    base = StringField("Base", [fields.needed("Name its base.")])
    watts = fields.number("Watts, one bulb", 0.1, 200, "between 0.1 and 200 W")
    claimed_lm = fields.number("Claimed lumens, one bulb", 1, 50000, "between 1 and 50 000 lm")
    colour = fields.one_of("Colour", light_source.COLOURS, next(iter(light_source.COLOURS)))
    cct_k = fields.number("Colour temperature, K", 1667, 25000, "between 1667 and 25 000 K", required=False)
    faces = fields.number("Faces", 1, 6, "between 1 and 6", required=False)
    rows = fields.number("Rows of chips", 1, 2, "1 or 2", required=False)
    gap_mm = fields.millimetres("Gap between faces", 0, 20, "between 0 and 20 mm")
    emitter_mm = fields.millimetres("Lit length", 0.5, 30, "between 0.5 and 30 mm")
    lcl_mm = fields.millimetres("Light centre length", 5, 60, "between 5 and 60 mm")
    tail_mm = fields.millimetres("Tail length behind the base", 0, 200, "between 0 and 200 mm")
    tail_width_mm = fields.millimetres("Tail width", 0, 120, "between 0 and 120 mm")
    dip_shield = BooleanField("Shield under the low row")
    supply_min_v = fields.volts("Supply from")
    supply_max_v = fields.volts("Supply to")
    polarity = fields.one_of("Polarity", light_source.POLARITY, next(iter(light_source.POLARITY)))
    driver = fields.listed("Driver", light_source.DRIVERS)
    cooling = fields.one_of("Cooling", light_source.COOLING, next(iter(light_source.COOLING)))
    earth_insulated = BooleanField("Body insulated from earth")
    monitor_proof = BooleanField("Answers bulb-out monitoring")
    price = fields.number("Price, one bulb", 0, 1e6, "zero or more")
    warranty_years = fields.number("Warranty, years", 0, 50, "between 0 and 50 years", default=1.0)
    approval = StringField("Approval marks", [Length(max=80)])

    def validate_base(self, field: Any) -> None:
        """The base must be in the catalogue."""
        if bases.find(field.data) is None:
            raise ValidationError(f"“{field.data.strip()}” is not a base in the catalogue.")

    def validate_supply_max_v(self, field: Any) -> None:
        """A range runs upward."""
        if field.data and self.supply_min_v.data and field.data < self.supply_min_v.data:
            raise ValidationError("Must not be below where the supply starts.")

    def validate_faces(self, field: Any) -> None:
        """Faces are counted."""
        if field.data is not None and field.data != int(field.data):
            raise ValidationError("Must be a whole number.")

    validate_rows = validate_faces

    def light_source(self) -> LightSource:
        """The source entered."""
        facts = {name: field.data for name, field in self._fields.items() if name != "csrf_token"}
        base = bases.find(facts["base"])
        facts["base"] = base.name if base else facts["base"]
        facts["faces"] = int(facts["faces"]) if facts["faces"] is not None else None
        facts["rows"] = int(facts["rows"] or 1)
        return LightSource(**facts)


@bp.route("/shop", methods=["GET", "POST"])
def shop() -> Any:
    """The shop's name and contact."""
    form = ShopForm(data={name: catalogue.setting(session(), name) for name in ("shop_name", "shop_contact")})
    if form.validate_on_submit():
        for name in ("shop_name", "shop_contact"):
            catalogue.set_setting(session(), name, (form[name].data or "").strip())
        session().commit()
        flash("Saved.")
        return redirect(url_for("shell.shop"), 303)
    return render_template("shop.html", form=form), 422 if form.errors else 200


@bp.get("/light-sources")
def shelf() -> str:
    """The light sources on the shelf, and those retired."""
    return render_template(
        "shelf.html",
        on_shelf=catalogue.light_sources(session()),
        retired=catalogue.light_sources(session(), retired=True),
        kinds=light_source.KINDS,
        colours=light_source.COLOURS,
    )


@bp.route("/light-sources/new", methods=["GET", "POST"])
def new_source() -> Any:
    """Adds a light source."""
    form = LightSourceForm()
    if form.validate_on_submit():
        catalogue.add_light_source(session(), form.light_source())
        session().commit()
        return redirect(url_for("shell.shelf"), 303)
    return render_template("light_source.html", form=form, catalogue=bases.catalogue()), 422 if form.errors else 200


@bp.route("/light-sources/<int:source_id>", methods=["GET", "POST"])
def source(source_id: int) -> Any:
    """Changes a light source."""
    known = catalogue.light_sources(session()).get(source_id)
    if known is None:
        abort(404)
    form = LightSourceForm(data=vars(known))
    if form.validate_on_submit():
        catalogue.change_light_source(session(), source_id, form.light_source())
        session().commit()
        return redirect(url_for("shell.shelf"), 303)
    return render_template("light_source.html", form=form, catalogue=bases.catalogue()), 422 if form.errors else 200


@bp.post("/light-sources/<int:source_id>/<any(retire, restore):what>")
def retire(source_id: int, what: str) -> Response:
    """Takes a light source off the shelf, or puts it back."""
    known = catalogue.light_sources(session()) | catalogue.light_sources(session(), retired=True)
    if source_id not in known:
        abort(404)
    catalogue.retire_light_source(session(), source_id, what == "retire")
    session().commit()
    return redirect(url_for("shell.shelf"), 303)


@bp.post("/preferences")
def preferences() -> Response:
    """Keeps the theme or the units of this browser, and returns to the page."""
    back = request.form.get("back", "/")
    answer = redirect(back if back.startswith("/") and not back.startswith("//") else "/", 303)
    if request.form.get("theme") in {"night", "day"}:
        answer.set_cookie("theme", request.form["theme"], max_age=A_YEAR, samesite="Lax")
    if request.form.get("units") in list(UnitSystem):
        answer.set_cookie("units", request.form["units"], max_age=A_YEAR, samesite="Lax")
    return answer
