"""A car over its jobs: what is in which socket since when, every visit, how it comes back, a
claim.
"""

from __future__ import annotations

from flask import Blueprint, abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import Field, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core.car import identity
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.job.car_history import CarVisit, SocketNow, sockets_now
from cold_arc.core.job.entries.later import (
    CLAIMS,
    MOST_HOURS,
    SETTLED,
    VISITS,
    WORK,
    Claimed,
    HoursLit,
)
from cold_arc.core.job.in_socket import by_the_shop
from cold_arc.core.job.later import recheck_due
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.store import cars, jobs
from cold_arc.web.forms import fields
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.shell.db import session, writable

bp = Blueprint("car", __name__)
LONGEST_NOTE = 300


class ClaimForm(FlaskForm):
    """A claim on what was fitted."""

    source = fields.listed("On", {}, "")
    reasons = fields.several("Why", CLAIMS)
    settled = fields.listed("Settled", SETTLED, "open")
    note = StringField("Note", [Length(max=LONGEST_NOTE)])

    def validate_reasons(self, field: Field) -> None:
        """One reason at least."""
        if not field.data:
            raise ValidationError("Say what is wrong with it.")

    def claimed(self) -> Claimed:
        """The entry entered."""
        note = (self.note.data or "").strip()
        return Claimed(self.source.data, tuple(self.reasons.data), self.settled.data, note)


class HoursForm(FlaskForm):
    """How long the lamps were lit since the car left."""

    hours = fields.number("Lit since it left, about", 1, MOST_HOURS, "h")


def in_hand(record: Record) -> dict[str, list[SocketKey]]:
    """What jobs put into this car, by name, with the sockets each is in."""
    by_name: dict[str, list[SocketKey]] = {}
    for key in record.sockets:
        if (source := by_the_shop(record, key)) is not None:
            by_name.setdefault(source.name, []).append(key)
    return by_name


@bp.route("/jobs/<int:job_id>/car", methods=["GET", "POST"])
def page(job_id: int) -> ResponseReturnValue:
    """The car of a job; records a claim on what is in it."""
    visits = cars.visits(session(), job_id)
    if not visits:
        abort(404)
    here = next(visit for visit in visits if visit.job_id == job_id)
    fitted = in_hand(here.record)
    form = ClaimForm()
    form.source.choices = [(name, name) for name in fitted]
    if fitted and form.validate_on_submit():
        claim = form.claimed()
        jobs.append(writable(), job_id, claim, fitted[claim.source])
        writable().commit()
        return redirect(url_for("car.page", job_id=job_id), 303)
    return _render(visits, here, form if fitted else None)


def _render(visits: list[CarVisit], here: CarVisit, form: ClaimForm | None) -> ResponseReturnValue:
    now: list[SocketNow] = sockets_now(visits)
    page = render_template(
        "car.html",
        visits=visits[::-1],
        here=here,
        newest=visits[-1],
        now=now,
        references={visit.job_id: visit.booking.reference for visit in visits},
        due=recheck_due(visits[-1].record),
        form=form,
        visit_words=VISITS,
    )
    return page, 422 if request.method == "POST" else 200


@bp.post("/jobs/<int:job_id>/again")
def again(job_id: int) -> ResponseReturnValue:
    """Books the car in again, for more work or to look at what was done."""
    visit, job = request.form.get("visit", ""), jobs.load(session(), job_id)
    if visit not in VISITS or job is None:
        abort(404)
    if job.closed_at is None:
        flash("It has not left yet: hand it over first.")
        return redirect(url_for("car.page", job_id=job_id), 303)
    number = cars.come_back(writable(), job_id, visit)
    writable().commit()
    flash("Booked in with what is known of the car; nothing of it is asked again.")
    if visit == WORK:
        return redirect(stage_url(number, Scope(), Stage.BOOK_IN) + "?edit=1", 303)
    return redirect(url_for("record.job", job_id=number), 303)


@bp.get("/cars/known")
def known() -> str:
    """Whether a car with this plate or number was here before, as a line under the fields."""
    vin, plate = (identity.plain(request.args.get(name, "")) for name in ("vin", "plate"))
    numbers = cars.known(session(), vin, plate)
    job = jobs.load(session(), numbers[0]) if numbers else None
    return render_template("fragments/known_car.html", job=job, count=len(numbers))


@bp.post("/jobs/<int:job_id>/hours")
def hours(job_id: int) -> ResponseReturnValue:
    """Keeps how long the lamps of a car were lit since it left."""
    if jobs.load(session(), job_id) is None:
        abort(404)
    form = HoursForm()
    if form.validate_on_submit():
        jobs.append(writable(), job_id, HoursLit(form.hours.data))
        writable().commit()
    else:
        flash(f"Hours lit: {form.hours.errors[0]}")
    return redirect(stage_url(job_id, Scope(), Stage.VERIFY), 303)
