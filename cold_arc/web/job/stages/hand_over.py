"""Stage 10, Hand over: the customer sheet, and the close of the job."""

from __future__ import annotations

import datetime as dt

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import BooleanField, DateField, Field, StringField, TextAreaField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core.findings import Finding
from cold_arc.core.job import later
from cold_arc.core.job.at_lamp import left_open
from cold_arc.core.job.entries.hand_over import (
    LEVELLING,
    LONGEST_DRIVE_MIN,
    HandedOver,
    TestDriven,
)
from cold_arc.core.job.entries.kind import HIGHEST_PRICE
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.outcome import drive_findings, drive_words, quoted_findings
from cold_arc.core.job.settled import price_findings, quoted_price, time_taken
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import warranty_end
from cold_arc.core.work.access import cautions
from cold_arc.store.catalogue import setting
from cold_arc.web.forms import fields
from cold_arc.web.job.proof import stamp_of
from cold_arc.web.job.sheet import (
    CustomerSheet,
    dazzles,
    is_replaced,
    law_findings,
)
from cold_arc.web.job.sheet_rows import socket_rows
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session
from cold_arc.web.shell.place import shop_currency

bp = Blueprint("hand_over", __name__)
RECHECK_DAYS = 90
CUSTOMER_CAUTIONS = ("glare", "eyes", "law", "mercury")


class HandOverForm(FlaskForm):
    """What is said and agreed at the end; *only_looked_at*: of a re-check, which fits nothing."""

    only_looked_at = False
    technician = StringField("Technician", [fields.needed("Sign with your name."), Length(max=60)])
    cautions = fields.several("Cautions told", {})
    law_told = BooleanField("The law note was read out and accepted")
    old_parts_kept = BooleanField("Old bulbs or lamps went back to the customer", default=True)
    recheck = DateField("Re-check on", [fields.needed("Set a date to look at it again.")])
    warranty_end = DateField("Warranty ends", [Optional()])
    switching = TextAreaField("Switching, changed", [Length(max=300)])
    note = TextAreaField("What to watch, notes", [Length(max=500)])
    asked = fields.number("Asked, with taxes", 0, HIGHEST_PRICE, required=False)
    marks = StringField("Approval marks read on the new lamps", [Length(max=120)])

    def validate_recheck(self, field: Field) -> None:
        """A re-check lies ahead."""
        if field.data and field.data < dt.date.today():
            raise ValidationError("The re-check must not lie in the past.")

    def validate_law_told(self, field: Field) -> None:
        """The law note is not optional where anything was done."""
        if not field.data and not self.only_looked_at:
            raise ValidationError("Read the law note to the customer, then tick this.")

    def handed_over(self) -> HandedOver:
        """The entry entered."""
        return HandedOver(
            technician=self.technician.data.strip(),
            cautions=tuple(self.cautions.data),
            law_told=self.law_told.data,
            old_parts_kept=self.old_parts_kept.data,
            recheck=self.recheck.data,
            warranty_end=self.warranty_end.data,
            switching=(self.switching.data or "").strip(),
            note=(self.note.data or "").strip(),
            marks=(self.marks.data or "").strip(),
            asked=self.asked.data,
        )


class DriveForm(FlaskForm):
    """The test drive."""

    who = StringField("Who drove", [fields.needed("Say who drove."), Length(max=60)])
    minutes = fields.number("Minutes", 0.5, LONGEST_DRIVE_MIN, "min")
    where = StringField("Where", [fields.needed("Say where."), Length(max=80)])
    flashed = BooleanField("Somebody flashed")
    heard = BooleanField("A fan or a hum was heard")
    wet = BooleanField("In the wet")
    levelling = fields.listed("Levelling under load", LEVELLING, "none")
    note = StringField("What else", [Length(max=200)], id="drive-note")

    def driven(self) -> TestDriven:
        """The entry entered."""
        return TestDriven(
            self.who.data.strip(),
            self.minutes.data,
            self.where.data.strip(),
            self.flashed.data,
            self.heard.data,
            self.wet.data,
            self.levelling.data,
            (self.note.data or "").strip(),
        )


def _cautions(page: StagePage) -> list[str]:
    """The cautions to tell: mercury's where an arc tube holds it."""
    bases = (page.record.base(key) for key in page.record.sockets)
    has_mercury = any(base is not None and base.contains_mercury for base in bases)
    return [key for key in CUSTOMER_CAUTIONS if key != "mercury" or has_mercury]


def _defaults(page: StagePage) -> dict[str, object]:
    handed_over = page.record.latest(HandedOver)
    if handed_over:
        return vars(handed_over)
    today = dt.date.today()
    years = [
        chosen.source.warranty_years
        for key in page.record.sockets
        if (chosen := page.record.latest(Chosen, key)) and chosen.source
    ]
    warranty = warranty_end(today, min(years)) if years else None
    return {"recheck": today + dt.timedelta(days=RECHECK_DAYS), "warranty_end": warranty}


def _findings(page: StagePage) -> list[Finding]:
    """What is to be told before the car leaves."""
    record = page.record
    lamps = (finding.named(page.progress.words(key)) for key, finding in left_open(record))
    prices = price_findings(record, shop_currency())
    of_record = (*lamps, *drive_findings(record), *quoted_findings(record), *prices)
    return [*dazzles(page), *of_record, *law_findings(page)]


def _has_assembly(page: StagePage) -> bool:
    """Whether a whole lamp or a module was chosen for a road, whose own marks it goes by."""
    chosen = (page.record.latest(Chosen, key) for key in page.record.sockets)
    return page.job.booking.road_use and any(
        choice and choice.source and choice.source.takes_place and not choice.off_road
        for choice in chosen
    )


@bp.route("/jobs/<int:job_id>/<scope:scope>/hand-over", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Completes the customer sheet."""
    page = open_stage(job_id, scope, Stage.HAND_OVER)
    driven = page.record.latest(TestDriven)
    known = vars(driven) if driven else None
    is_drive = request.form.get("do") == "drive:"
    drive = fields.as_sent(DriveForm, is_drive, known)
    form = fields.as_sent(HandOverForm, not is_drive, _defaults(page))
    form.only_looked_at = page.record.is_recheck
    form.cautions.choices = [(key, cautions()[key]) for key in _cautions(page)]
    if is_drive and drive.validate_on_submit():
        return page.save(drive.driven(), about=())
    if not is_drive and form.validate_on_submit():
        return page.save(form.handed_over(), about=())
    return page.render(
        _findings(page),
        ["glare"],
        form=form,
        has_assembly=_has_assembly(page),
        is_replaced=is_replaced(page.record),
        said=page.record.latest(HandedOver),
        drive=drive,
        driven=drive_words(driven) if driven else "",
        taken=time_taken(page.record),
        quoted=quoted_price(page.record),
        warranties=later.warranties(page.record),
        sockets=socket_rows(page),
    )


# The documents on paper: kind, paper, label.
PDFS = (
    ("customer", "a4", "A4"),
    ("customer", "letter", "Letter"),
    ("workshop", "a4", "Workshop, A4"),
    ("workshop", "letter", "Workshop, Letter"),
    ("card", "card", "Card"),
)


@bp.get("/jobs/<int:job_id>/sheet")
def sheet(job_id: int) -> str:
    """The customer sheet, to print."""
    page = open_stage(job_id, Scope(), Stage.HAND_OVER)
    return render_template(
        "sheet.html",
        sheet=CustomerSheet(page),
        stamp=stamp_of(page.job),
        pdfs=PDFS,
        shop=setting(session(), "shop_name", "Cold Arc"),
        contact=setting(session(), "shop_contact"),
    )
