"""Measured off the old bulb: a guided page takes caliper readings, which serve as the base's
figures for this job.
"""

from __future__ import annotations

from flask import Blueprint, abort, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm

from cold_arc.core.car.bases import Base, MeasuredBulb
from cold_arc.core.job.entries.book_in import OldBulbMeasured
from cold_arc.core.job.stages import Stage
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.scope import Scope, stage_url

bp = Blueprint("measure", __name__)
LONGEST_MM = 150
# What is measured, in the order of the hands: field, what to do with the caliper.
GUIDE = {
    "start_mm": "Caliper's foot on the reference plane, the face of the rim that sits in the "
    "lamp; sight "
    "across the "
    "glass to where the filament starts.",
    "end_mm": "The same, to where it ends. Read both twice; half a millimetre matters.",
    "second_start_mm": "Of a dual bulb, the same to the start of the high-beam filament.",
    "second_end_mm": "And to its end.",
    "rim_mm": "Across the rim, without its tabs.",
    "length_mm": "From the reference plane to the tip of the glass.",
    "tail_mm": (
        "From the reference plane back to the end of plug and boot: what the tail takes behind."
    ),
}
DUAL_ONLY = ("second_start_mm", "second_end_mm")


class MeasureForm(FlaskForm):
    """What the caliper says."""

    start_mm = fields.millimetres(
        "Reference plane to filament, start", 0, LONGEST_MM, required=True
    )
    end_mm = fields.millimetres("Reference plane to filament, end", 0, LONGEST_MM, required=True)
    second_start_mm = fields.millimetres("High-beam filament, start", 0, LONGEST_MM)
    second_end_mm = fields.millimetres("High-beam filament, end", 0, LONGEST_MM)
    rim_mm = fields.millimetres("Rim across", 0, LONGEST_MM)
    length_mm = fields.millimetres("Whole length", 0, LONGEST_MM)
    tail_mm = fields.millimetres("Tail behind", 0, LONGEST_MM)

    def bulb(self) -> MeasuredBulb | None:
        """The bulb measured; None, with the errors beside their fields, where it can't be."""
        bulb = MeasuredBulb(**{name: self[name].data for name in GUIDE})
        for name, message in bulb.faults().items():
            self[name].errors = [message]
        return None if self.errors else bulb


@bp.route("/jobs/<int:job_id>/<scope:scope>/measure", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Takes the readings for the sockets of a scope; leads back to Book in."""
    page = open_stage(job_id, scope, Stage.BOOK_IN)
    keys = page.sockets
    base = _base_of(page, scope)
    known = page.record.latest(OldBulbMeasured, keys[0])
    form = MeasureForm(data=vars(known.bulb) if known else None)
    if form.validate_on_submit() and (bulb := form.bulb()):
        return page.save(
            OldBulbMeasured(bulb),
            about=keys,
            back=url_for("measure.page", job_id=job_id, scope=scope),
        )
    return render_template(
        "measure.html",
        page=page,
        form=form,
        guide=_guide(base),
        base=base,
        said=_said(base),
        back=stage_url(job_id, Scope(), Stage.BOOK_IN),
    ), 422 if request.method == "POST" else 200


def _said(base: Base) -> list[tuple[str, float | None]]:
    """The base's own figures as they serve in this job."""
    return [
        ("Light centre", base.lcl_mm),
        ("Filament", base.filament_mm),
        ("High-beam filament ahead of it", base.high_offset_mm[2] if base.high_offset_mm else None),
        ("Rim across", base.diameter_mm),
        ("Tip ahead of the reference plane", base.measured.length_mm if base.measured else None),
        ("Tail behind", base.measured.tail_mm if base.measured else None),
    ]


def _guide(base: Base) -> dict[str, str]:
    """How each figure of such a bulb is taken."""
    return {name: words for name, words in GUIDE.items() if base.is_dual or name not in DUAL_ONLY}


def _base_of(page: StagePage, scope: Scope) -> Base:
    """The base of the sockets measured; back to Book in where there is none."""
    base = page.record.base(page.first) if page.sockets and scope.name else None
    if base is None:
        abort(redirect(stage_url(page.job.id, Scope(), Stage.BOOK_IN)))
    return base
