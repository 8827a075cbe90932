"""Prove's page for the rear: brake, tail and reversing bulbs done along the way, named, fitted,
proved.
"""

from __future__ import annotations

from flask import Blueprint, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core.car import bases
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import proofs
from cold_arc.core.job.entries.prove import REAR, REAR_RESULTS, RearDone
from cold_arc.core.job.stages import Stage
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.scope import Scope

bp = Blueprint("rear", __name__)
BOTH = "both"
SIDES = {BOTH: "Both", **{side.value: side.value.capitalize() for side in Side}}
LONGEST_NAME = 80


class RearForm(FlaskForm):
    """One lamp at the rear, or a pair."""

    function = fields.one_of("Which", REAR, required="Say which.")
    side = fields.one_of("Side", SIDES, BOTH, required="Say which side.")
    base = StringField("Base", [fields.needed("Its base, as printed."), Length(max=20)])
    fitted = StringField("Fitted", [fields.needed("What was fitted?"), Length(max=LONGEST_NAME)])
    result = fields.one_of("Now it", REAR_RESULTS, required="Switch it on and say what it does.")

    def validate_base(self, field: StringField) -> None:
        """One of the catalogue; a cap's name is asked back."""
        if bases.find(field.data.strip()) is None:
            raise ValidationError(bases.why_unknown(field.data.strip()))

    def payloads(self) -> list[RearDone]:
        """What was done, a side each."""
        sides = list(Side) if self.side.data == BOTH else [Side(self.side.data)]
        base = bases.find(self.base.data.strip())
        assert base is not None
        fitted, result = self.fitted.data.strip(), self.result.data
        return [RearDone(self.function.data, side, base.name, fitted, result) for side in sides]


@bp.route("/jobs/<int:job_id>/<scope:scope>/prove/rear", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps what was done at the rear."""
    page = open_stage(job_id, scope, Stage.PROVE)
    form = RearForm()
    if form.validate_on_submit():
        return page.save(*form.payloads(), about=(), back=request.path)
    return page.render(
        template="rear", form=form, done=proofs.rear_done(page.record), caution_ids=["hot"]
    )
