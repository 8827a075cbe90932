"""Stage 10, Hand over: the customer sheet, and the close of the job."""

from __future__ import annotations

import datetime as dt
from typing import Any

from flask import Blueprint, render_template
from flask_wtf import FlaskForm
from wtforms import BooleanField, DateField, StringField, TextAreaField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core import aim as aim_rules
from cold_arc.core import law
from cold_arc.core.access import cautions
from cold_arc.core.findings import Finding
from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Aimed, Chosen, HandedOver, Passed
from cold_arc.core.stages import Stage
from cold_arc.store.catalogue import setting
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, open_desk
from cold_arc.web.stages.verify import balance_findings, compare

bp = Blueprint("hand_over", __name__)
RECHECK_DAYS = 90
CUSTOMER_CAUTIONS = ("glare", "eyes", "law", "mercury")


class HandOverForm(FlaskForm):
    """What is said and agreed at the end."""

    technician = StringField("Technician", [fields.needed("Sign with your name."), Length(max=60)])
    cautions = fields.several("Cautions told", {key: cautions()[key] for key in CUSTOMER_CAUTIONS})
    law_told = BooleanField("The law note was read out and accepted")
    old_parts_kept = BooleanField("Old bulbs or lamps went back to the customer", default=True)
    recheck = DateField("Re-check on", [fields.needed("Set a date to look at it again.")])
    warranty_end = DateField("Warranty ends", [Optional()])
    switching = TextAreaField("Switching, changed", [Length(max=300)])
    note = TextAreaField("What to watch, notes", [Length(max=500)])

    def validate_recheck(self, field: Any) -> None:
        """A re-check lies ahead."""
        if field.data and field.data < dt.date.today():
            raise ValidationError("The re-check must not lie in the past.")

    def validate_law_told(self, field: Any) -> None:
        """The law note is not optional."""
        if not field.data:
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
        )


def _defaults(desk: Desk) -> dict[str, Any]:
    said = desk.record.latest(HandedOver)
    if said:
        return vars(said)
    today = dt.date.today()
    years = [
        chosen.source.warranty_years
        for key in desk.record.lamp_keys
        if (chosen := desk.record.latest(Chosen, key)) and chosen.source
    ]
    warranty = today + dt.timedelta(days=round(365.25 * min(years))) if years else None
    return {"recheck": today + dt.timedelta(days=RECHECK_DAYS), "warranty_end": warranty}


def _law_findings(desk: Desk) -> list[Finding]:
    """The market's word on everything chosen."""
    road_use = desk.job.booking.road_use
    kinds = {
        (chosen.source.kind, road_use and not chosen.off_road)
        for key in desk.record.lamp_keys
        if (chosen := desk.record.latest(Chosen, key)) and chosen.source
    }
    return [law.judge(desk.market, kind, on_road) for kind, on_road in sorted(kinds)]


@bp.route("/jobs/<int:job_id>/<scope:scope>/hand-over", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Completes the customer sheet."""
    desk = open_desk(job_id, scope, Stage.HAND_OVER)
    form = HandOverForm(data=_defaults(desk))
    if form.validate_on_submit():
        return desk.save(form.handed_over(), lamps=())
    return desk.render(
        _law_findings(desk), ["glare"], form=form, said=desk.record.latest(HandedOver), sheet=_lamp_rows(desk)
    )


def _lamp_rows(desk: Desk) -> list[dict[str, Any]]:
    """What the sheet says of each lamp."""
    return [_lamp_row(desk, key) for key in desk.record.lamp_keys]


def _lamp_row(desk: Desk, key: LampKey) -> dict[str, Any]:
    left = desk.record.aimed(key, "left")
    return {
        "key": key,
        "lamp": desk.record.lamp(key),
        "chosen": desk.record.latest(Chosen, key),
        "comparison": compare(desk.record, key),
        "left": left,
        "aim": _aim_finding(left),
    }


def _aim_finding(left: Aimed | None) -> Finding | None:
    if left is None:
        return None
    target = aim_rules.rules()[left.rule].target(left.height_m)
    return aim_rules.judge(target, left.slope, left.distance_m, fields.unit_system())


@bp.get("/jobs/<int:job_id>/sheet")
def sheet(job_id: int) -> str:
    """The customer sheet, to print."""
    desk = open_desk(job_id, Scope(), Stage.HAND_OVER)
    record = desk.record
    return render_template(
        "sheet.html",
        desk=desk,
        rows=_lamp_rows(desk),
        balance=balance_findings(record, record.lamp_keys),
        law=_law_findings(desk),
        said=record.latest(HandedOver),
        skipped=[passed for passed in record.all(Passed) if passed.reason],
        shop=setting(session(), "shop_name", "Cold Arc"),
        contact=setting(session(), "shop_contact"),
    )
