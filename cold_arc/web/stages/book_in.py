"""Stage 1, Book in: the car, the wish, the lamps, and what each lamp is."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from typing import Any

from flask import Blueprint, redirect, render_template, request
from flask_wtf import FlaskForm
from werkzeug.datastructures import MultiDict
from wtforms import BooleanField, DateField, StringField, TextAreaField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core import bases, law
from cold_arc.core.findings import Finding
from cold_arc.core.identify import against_housing, mistaken_for
from cold_arc.core.lamps import ALL_LAMPS, Drive, Function, Housing, LampKey, Present
from cold_arc.core.record import Booking, Identified, LampsChosen
from cold_arc.core.stages import Stage
from cold_arc.store import jobs
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.parts.face import choosing_face
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.stage_page import Desk, open_desk

bp = Blueprint("book_in", __name__)

WISHES = {
    "brighter": "Brighter",
    "whiter": "Whiter",
    "match": "Match other LED lamps",
    "life": "Longer life",
    "looks": "Looks",
}
VOLTS = {"6": "6 V", "12": "12 V", "24": "24 V"}


class BookingForm(FlaskForm):
    """The car and the terms."""

    reference = StringField("Customer reference", [fields.needed("Give the job a reference."), Length(max=60)])
    make = StringField("Make", [fields.needed("Say what car it is."), Length(max=60)])
    model = StringField("Model", [Length(max=60)])
    year = fields.number("Year", 1890, dt.date.today().year + 2, "a year from 1890 on", required=False)
    drive = fields.one_of("Steering wheel", {"left": "Left", "right": "Right"}, "left")
    market = fields.one_of("Market", {market.id: market.name for market in law.markets().values()}, "un")
    road_use = fields.one_of("Use", {"road": "Road", "show": "Off-road or show only"}, "road")
    volts = fields.one_of("Supply", VOLTS, "12")
    earth_positive = BooleanField("Positive earth")
    wishes = fields.several("Wish", WISHES)
    complaint = TextAreaField("Complaint, in the customer's words", [Length(max=500)])
    tampered = StringField("Already changed (kit, clear coat)", [Length(max=200)])
    due = DateField("Due", [Optional()])
    lamps = fields.several("Lamps", {str(key): str(key) for key in ALL_LAMPS})

    def validate_year(self, field: Any) -> None:
        """A year is a whole number."""
        if field.data is not None and field.data != int(field.data):
            raise ValidationError("Must be a whole year.")

    def validate_lamps(self, field: Any) -> None:
        """At least one lamp."""
        if not field.data:
            raise ValidationError("Tap at least one lamp on the face.")

    def booking(self) -> Booking:
        """The booking entered."""
        return Booking(
            reference=self.reference.data.strip(),
            make=self.make.data.strip(),
            model=(self.model.data or "").strip(),
            drive=Drive(self.drive.data),
            market=self.market.data,
            road_use=self.road_use.data == "road",
            year=int(self.year.data) if self.year.data is not None else None,
            volts=float(self.volts.data),
            earth_positive=self.earth_positive.data,
            wishes=tuple(self.wishes.data),
            complaint=(self.complaint.data or "").strip(),
            tampered=(self.tampered.data or "").strip(),
            due=self.due.data,
        )

    def keys(self) -> list[LampKey]:
        """The lamps tapped."""
        return [LampKey.parse(text) for text in self.lamps.data]


def _booking_data(booking: Booking, keys: Iterable[LampKey]) -> dict[str, Any]:
    """A booking as the form holds it."""
    return {
        **vars(booking),
        "drive": booking.drive.value,
        "road_use": "road" if booking.road_use else "show",
        "volts": f"{booking.volts:g}",
        "lamps": [str(key) for key in keys],
    }


@bp.route("/jobs/new", methods=["GET", "POST"])
def new() -> Any:
    """Books a car in."""
    form = BookingForm()
    if form.validate_on_submit():
        job_id = jobs.open_job(session(), form.booking(), form.keys())
        session().commit()
        return redirect(stage_url(job_id, Scope(), Stage.BOOK_IN), 303)
    status = 422 if request.method == "POST" else 200
    return render_template("new_job.html", form=form, face=choosing_face()), status


class IdentifyForm(FlaskForm):
    """What the lamps of one function are."""

    housing = fields.one_of("Housing", {it.value: it.label for it in Housing}, required="This is needed.")
    base = StringField("Base", [fields.needed("Name the base, or find it by the questions.")])
    present = fields.one_of("Present source", {it.value: it.label for it in Present}, required="This is needed.")

    def validate_base(self, field: Any) -> None:
        """The base must be in the catalogue."""
        if bases.find(field.data) is None:
            raise ValidationError(f"“{field.data.strip()}” is not in the catalogue. Use the questions to find it.")

    def identified(self) -> Identified:
        """The facts entered; the base under its catalogue name."""
        base = bases.find(self.base.data)
        assert base is not None
        return Identified(Housing(self.housing.data), base.name, Present(self.present.data))


@bp.route("/jobs/<int:job_id>/<scope:scope>/book-in", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Shows and corrects the booking; identifies lamps."""
    desk = open_desk(job_id, scope, Stage.BOOK_IN)
    if request.method == "POST" and (name := request.form.get("identify")):
        return _identify(desk, name)
    form = BookingForm(data=_booking_data(desk.job.booking, desk.record.lamp_keys))
    if form.validate_on_submit():
        jobs.append(session(), job_id, form.booking())
        if set(form.keys()) != set(desk.record.lamp_keys):
            jobs.append(session(), job_id, LampsChosen(), form.keys())
        session().commit()
        return redirect(stage_url(job_id, Scope(), Stage.BOOK_IN), 303)
    return _render(desk, form, {})


def _identify(desk: Desk, name: str) -> Any:
    keys = Scope.parse(name).keys(desk.record.lamp_keys) if name in _function_names(desk) else []
    form = IdentifyForm(prefix=name)
    if keys and form.validate():
        return desk.save(form.identified(), lamps=keys)
    return _render(
        desk,
        BookingForm(MultiDict(), data=_booking_data(desk.job.booking, desk.record.lamp_keys)),
        {name: form},
    )


def _function_names(desk: Desk) -> list[str]:
    return [function.value for function in dict.fromkeys(key.function for key in desk.record.lamp_keys)]


def _base_findings(desk: Desk, name: str) -> list[Finding]:
    """What the base of one function's lamps is mistaken for, and whether it belongs in their housing."""
    lamp = desk.record.lamp(Scope(Function(name)).keys(desk.record.lamp_keys)[0])
    base = bases.find(lamp.base) if lamp.base else None
    return [*against_housing(base, lamp.housing), *mistaken_for(base)] if base else []


def _render(desk: Desk, form: BookingForm, answered: dict[str, IdentifyForm]) -> Any:
    identify = {}
    for name in _function_names(desk):
        first = Scope(Function(name)).keys(desk.record.lamp_keys)[0]
        lamp = desk.record.lamp(first)
        known = {
            "housing": lamp.housing.value if lamp.housing else None,
            "base": request.args.get(f"{name}-base") or lamp.base,
            "present": lamp.present.value if lamp.present else None,
        }
        identify[name] = answered.get(name) or IdentifyForm(MultiDict(), prefix=name, data=known)
    found = [finding for name in identify for finding in _base_findings(desk, name)]
    return desk.render(
        found,
        form=form,
        identify=identify,
        choosing=choosing_face(desk.job.booking.drive),
        editing=bool(form.errors) or request.args.get("edit") == "1",
        catalogue=bases.catalogue(),
        wish_words=WISHES,
    )
