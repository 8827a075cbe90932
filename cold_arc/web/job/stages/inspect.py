"""Stage 2, Inspect: the unit's condition, and what it allows."""

from __future__ import annotations

from typing import Any

from flask import Blueprint
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import BooleanField, Field

from cold_arc.core.car import condition
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.stages import Stage
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.scope import Scope

bp = Blueprint("inspect", __name__)


class ConditionForm(FlaskForm):
    """What was seen."""

    haze = fields.one_of(
        "Lens haze",
        {str(grade): f"{grade} {words}" for grade, words in condition.HAZE_GRADES.items()},
        required="Grade the haze: 0 when it is clear.",
    )
    condensation = fields.one_of("Condensation", condition.CONDENSATION, "none")
    crack = fields.one_of("Crack", condition.CRACK, "none")
    lens = fields.one_of_by_form("Lens", condition.LENS)
    mirror = fields.one_of("Mirror", condition.MIRROR, "good")
    finish = fields.one_of_by_form("Mirror of", condition.FINISHES)
    tint = fields.one_of_by_form("Glass or cap before it", condition.TINTS)
    seating = fields.one_of("Seat and tabs", condition.SEATING, "firm")
    strip_dead = BooleanField("Built-in LED strip is dead")
    room_mm = fields.millimetres("Room behind, to cap", 0, 500)
    opening_mm = fields.millimetres("Opening", 0, 300)
    opened = BooleanField("Opened and sealed before")
    patient = BooleanField("Finish at 4000 grit (patient)")
    replacement_price = fields.number("New assembly costs", 0, 1e6, required=False)
    labour_rate = fields.number("Labour an hour", 0, 1e5, required=False)

    def seen(self) -> UnitCondition:
        """The condition entered."""
        facts = {name: field.data for name, field in self._fields.items() if name != "csrf_token"}
        read: dict[str, Any] = {
            "haze": int(self.haze.data),
            "lens": self.lens.data or "plastic",
            "tint": self.tint.data or condition.CLEAR,
            "finish": self.finish.data or "",
        }
        return UnitCondition(**{**facts, **read})

    def validate_lens(self, field: Field) -> None:
        """Plastic, where nothing is said."""
        fields.must_choose(field, wanted=False)

    validate_tint = validate_finish = validate_lens


@bp.route("/jobs/<int:job_id>/<scope:scope>/inspect", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Records the condition of the units in scope; shows what follows from it."""
    page = open_stage(job_id, scope, Stage.INSPECT)
    seen = page.record.condition(page.first)
    form = ConditionForm(data={**vars(seen), "haze": str(seen.haze)} if seen else None)
    if form.validate_on_submit():
        return page.save(Inspected(form.seen()))
    return _shown(page, form, seen)


def _shown(page: StagePage, form: ConditionForm, seen: UnitCondition | None) -> ResponseReturnValue:
    """The page: what was seen, what follows; how to restore only what is worth it."""
    findings = condition.findings(seen) if seen else []
    verdict = condition.verdict(seen, findings) if seen else None
    kept = seen if verdict is not condition.Verdict.REPLACE else None
    return page.render(
        findings,
        ["dust"] if kept and kept.is_sanded else [],
        form=form,
        seen=seen,
        verdict=verdict,
        restoration=condition.restoration_of(kept) if kept else (),
        minutes=condition.restoration_minutes(kept) if kept else 0,
        differs=len({page.record.condition(key) for key in page.units}) > 1,
        is_there=_is_there(page),
    )


def _is_there(page: StagePage) -> bool:
    """Whether any of these lamps hung on the car before the work."""
    return not page.units or any(page.record.was_there(key) for key in page.units)
