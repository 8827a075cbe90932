"""Stage 1, Book in: the car, the wish, what its front is made of, what is worked on, and what each
socket is.
"""

from __future__ import annotations

import datetime as dt

from flask import Blueprint, abort, redirect, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.datastructures import MultiDict
from wtforms import BooleanField, DateField, Field, HiddenField, StringField, TextAreaField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core import law
from cold_arc.core.car import bases, identity
from cold_arc.core.car.front import Front
from cold_arc.core.car.identify import against_optic, mistaken_for, not_known
from cold_arc.core.car.keys import Key, SocketKey, parse_key
from cold_arc.core.car.lamps import Drive, Holds, Optic, Present, Side
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.book_in import Booking, FrontSet, Identified, WorkChosen
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.later import returned
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.references import say
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job import front_builder
from cold_arc.web.job.front_builder import Builder
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.scope import Scope, pairs, stage_url
from cold_arc.web.shell.db import writable

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

    reference = StringField(
        "Customer reference", [fields.needed("Give the job a reference."), Length(max=60)]
    )
    make = StringField("Make", [fields.needed("Say what car it is."), Length(max=60)])
    model = StringField("Model", [Length(max=60)])
    year = fields.number("Year", 1890, dt.date.today().year + 2, whole=True, required=False)
    drive = fields.one_of("Steering wheel", {"left": "Left", "right": "Right"}, "left")
    market = fields.one_of(
        "Market", {market.id: market.name for market in law.markets().values()}, "un"
    )
    road_use = fields.one_of("Use", {"road": "Road", "show": "Off-road or show only"}, "road")
    volts = fields.one_of("Supply", VOLTS, "12")
    earth_positive = BooleanField("Positive earth")
    wishes = fields.several("Wish", WISHES)
    complaint = TextAreaField("Complaint, in the customer's words", [Length(max=500)])
    tampered = StringField("Already changed (kit, clear coat)", [Length(max=200)])
    due = DateField("Due", [Optional()])
    plate = StringField("Plate", [Optional(), Length(max=identity.LONGEST_PLATE)])
    vin = StringField("Vehicle number (VIN)", [Optional(), Length(max=identity.LONGEST_NUMBER)])
    vin_stands = BooleanField("It stands so on the car")
    front = HiddenField("Front")

    def validate_front(self, field: Field) -> None:
        """A front, and at least one socket of it to work on."""
        try:
            built = front_builder.read(field.data or "")
        except ValueError as error:
            raise ValidationError(f"The front can't be read: {error}") from error
        if not built.units:
            raise ValidationError("Say what the front is made of: tap the one that is like it.")
        if not front_builder.chosen(built):
            raise ValidationError("Tap at least one lamp to work on.")

    def validate_vin(self, field: Field) -> None:
        """What speaks against a car's number is asked back."""
        doubt = identity.doubt(field.data or "", int(self.year.data) if self.year.data else None)
        if doubt and not self.vin_stands.data:
            raise ValidationError(
                f"{doubt} Correct it, or tick that it stands so on the car "
                f"({say(identity.SOURCES)})."
            )

    def built(self) -> Front:
        """The front entered."""
        return front_builder.read(self.front.data or "")

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
            plate=(self.plate.data or "").strip(),
            vin=(self.vin.data or "").strip(),
        )


def _booking_data(booking: Booking, front: Front) -> dict[str, object]:
    """A booking as the form holds it."""
    return {
        **vars(booking),
        "drive": booking.drive.value,
        "road_use": "road" if booking.road_use else "show",
        "volts": f"{booking.volts:g}",
        "front": front_builder.write(front),
    }


@bp.route("/jobs/new", methods=["GET", "POST"])
def new() -> ResponseReturnValue:
    """Books a car in."""
    form = BookingForm()
    if front_builder.is_tap():
        return render_template("new_job.html", form=form, builder=front_builder.tapped(form.front))
    if form.validate_on_submit():
        front = form.built()
        job_id = jobs.open_job(writable(), form.booking(), front, front_builder.chosen(front))
        writable().commit()
        return redirect(stage_url(job_id, Scope(), Stage.BOOK_IN), 303)
    status = 422 if request.method == "POST" else 200
    return render_template(
        "new_job.html", form=form, builder=front_builder.shown(form.front.data)
    ), status


# What makes the pattern of what holds no bulb, where nothing else is told.
USUAL_OPTIC = {Holds.MODULE: Optic.PLAIN, Holds.LAMP: Optic.SEALED, Holds.NOTHING: Optic.PLAIN}
LONGEST_HELD = 80


class IdentifyForm(FlaskForm):
    """What a socket is, on one side or both: a bulb with its base, or what hangs there instead."""

    holds = fields.one_of_by_form("What hangs in it", {holds.value: holds.label for holds in Holds})
    optic = fields.one_of_by_form("Optic", {optic.value: optic.label for optic in Optic})
    base = StringField("Base")
    present = fields.one_of_by_form(
        "Present source", {present.value: present.label for present in Present}
    )
    plug = StringField("Plug", [Length(max=LONGEST_HELD)])
    wires = StringField("Its wires, by colour", [Length(max=LONGEST_HELD)])
    fasteners = StringField("Held by", [Length(max=LONGEST_HELD)])
    outline = StringField("Outline", [Length(max=LONGEST_HELD)])

    @property
    def held(self) -> Holds:
        """What hangs in it, as entered."""
        return Holds(self.holds.data) if self.holds.data in set(Holds) else Holds.BULB

    def validate_holds(self, field: Field) -> None:
        """One of what may hang there; a bulb, where nothing is said."""
        fields.must_choose(field, wanted=False)

    def validate_optic(self, field: Field) -> None:
        """What makes a bulb's pattern must be told."""
        fields.must_choose(field, wanted=self.held is Holds.BULB)

    def validate_present(self, field: Field) -> None:
        """What is there has a kind of source."""
        fields.must_choose(field, wanted=self.held is not Holds.NOTHING)

    def validate_base(self, field: Field) -> None:
        """A bulb's base must be in the catalogue."""
        if self.held is not Holds.BULB:
            return
        if not (typed := (field.data or "").strip()):
            raise ValidationError("Name the base, or find it by the questions.")
        if bases.find(typed) is None:
            raise ValidationError(bases.why_unknown(typed))

    def identified(self) -> Identified:
        """The facts entered; a bulb's base under its catalogue name."""
        held = self.held
        present = Present(self.present.data) if self.present.data else None
        optic = Optic(self.optic.data) if self.optic.data else USUAL_OPTIC[held]
        if held is Holds.BULB:
            base = bases.find(self.base.data)
            assert base is not None
            return Identified(optic, base.name, present)
        hangs = {name: (self[name].data or "").strip() for name in HELD}
        return Identified(optic, "", present if held is not Holds.NOTHING else None, held, **hangs)


# How what holds no bulb hangs, as the form asks it.
HELD = ("plug", "wires", "fasteners", "outline")


@bp.route("/jobs/<int:job_id>/<scope:scope>/book-in", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Shows and corrects the booking and the front; identifies sockets."""
    page = open_stage(job_id, scope, Stage.BOOK_IN)
    if request.method == "POST" and (name := request.form.get("identify")):
        return _identify(page, name)
    form = BookingForm(data=_booking_data(page.job.booking, page.record.front))
    if front_builder.is_tap():
        return _render(page, form, {}, front_builder.tapped(form.front))
    if form.validate_on_submit():
        return _correct(page, form)
    return _render(page, form, {})


def _correct(page: StagePage, form: BookingForm) -> ResponseReturnValue:
    """Saves the booking and, where they were changed, the front and what is worked on."""
    front = form.built()
    work = front_builder.chosen(front)
    changed: list[tuple[Payload, frozenset[Key]]] = [(form.booking(), frozenset())]
    if front.units != page.record.front.units:
        changed.append((FrontSet(front), frozenset()))
    if set(work) != set(page.record.sockets):
        changed.append((WorkChosen(), frozenset(work)))
    page.refuse_stale(changed)
    for payload, about in changed:
        jobs.append(writable(), page.job.id, payload, about)
    writable().commit()
    return redirect(stage_url(page.job.id, Scope(), Stage.BOOK_IN), 303)


def _identify(page: StagePage, name: str) -> ResponseReturnValue:
    """Records what the sockets of a scope are."""
    if name not in {str(scope) for scope in _scopes(page.record)}:
        abort(404)
    form = IdentifyForm(prefix=name)
    keys = Scope.parse(name).sockets(page.progress)
    if form.validate():
        return page.save(form.identified(), about=keys)
    data = _booking_data(page.job.booking, page.record.front)
    return _render(page, BookingForm(MultiDict(), data=data), {name: form})


def _scopes(record: Record) -> list[Scope]:
    """What is identified together: a pair, or its sides where they are known to differ or were
    parted.
    """
    scopes = []
    for pair in pairs(record.sockets):
        keys = [key for key in record.sockets if key.name == pair.name]
        known = {record.latest(Identified, key) for key in keys}
        apart = len(known) > 1 or request.args.get("apart") == pair.name
        scopes += [Scope.of(key) for key in keys] if apart and len(keys) > 1 else [pair]
    return scopes


def _first(record: Record, scope: Scope) -> SocketKey:
    side = scope.side or next(key.side for key in record.sockets if key.name == scope.name)
    key = parse_key(f"{scope.name}-{side.value}")
    assert isinstance(key, SocketKey)
    return key


def _base_findings(record: Record, scope: Scope) -> list[Finding]:
    """What the base of a socket is mistaken for, and whether it belongs in its optic."""
    socket = record.socket(_first(record, scope))
    base = record.base(socket.key)
    return (
        [*against_optic(base, socket.optic), *not_known(base), *mistaken_for(base)] if base else []
    )


def _identify_form(record: Record, scope: Scope) -> IdentifyForm:
    """What is known of a scope's sockets, to be changed."""
    socket, name = record.socket(_first(record, scope)), str(scope)
    known = {
        "optic": socket.optic.value if socket.optic else None,
        "base": request.args.get(f"{name}-base") or socket.base,
        "present": socket.present.value if socket.present else None,
        "holds": socket.holds.value,
        **{name: getattr(socket, name) for name in HELD},
    }
    return IdentifyForm(MultiDict(), prefix=name, data=known)


def _render(
    page: StagePage,
    form: BookingForm,
    answered: dict[str, IdentifyForm],
    builder: Builder | None = None,
) -> ResponseReturnValue:
    """The page; *builder*: the front under change, shown with the booking open."""
    record = page.record
    identify = {
        scope: answered.get(str(scope)) or _identify_form(record, scope)
        for scope in _scopes(record)
    }
    return page.render(
        [finding for scope in identify for finding in _base_findings(record, scope)],
        form=form,
        identify=identify,
        builder=builder or _builder(form, record),
        editing=bool(builder or form.errors) or request.args.get("edit") == "1",
        catalogue=bases.catalogue(),
        wish_words=WISHES,
        back=returned(record),
        both_sides={scope.name for scope in identify if _is_pair(record, scope)},
    )


def _builder(form: BookingForm, record: Record) -> Builder:
    """The front as it is told; the work of the record, but where the form says otherwise."""
    return front_builder.shown(form.front.data, None if form.errors else set(record.sockets))


def _is_pair(record: Record, scope: Scope) -> bool:
    """Whether a scope is about the sockets of both sides at once."""
    sides = {key.side for key in record.sockets if key.name == scope.name}
    return scope.side is None and len(sides) == len(Side)
