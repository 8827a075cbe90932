"""Aim's wall: what to tape where, on a level floor or one measured; nothing of it is kept."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, request
from flask_wtf import FlaskForm
from wtforms import SelectField

from cold_arc.core import aim
from cold_arc.core.aim import OutsideRuleError
from cold_arc.core.job.stages import Stage
from cold_arc.core.taping import CHECKS, Floor, FloorError, Tape, taping
from cold_arc.web.forms import fields
from cold_arc.web.job.scope import Scope
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.job.stages.aim import usual

bp = Blueprint("aim_wall", __name__)
FLOOR = {"rear": "rear_m", "front": "front_m", "wall": "wall_m", "wheelbase": "wheelbase_m", "overhang": "overhang_m"}


class WallForm(FlaskForm):
    """The lamps, the wall, and the floor where it is not level."""

    rule = SelectField("Rule")
    height = fields.distance("Lamp height", 0.2, 2.5)
    spacing = fields.distance("Lamp spacing", 0.3, 2.5, required=False)
    distance = fields.distance("Distance, lamp to wall", 1, 40)
    rear = fields.number("Floor under the rear axle, mm up", -300, 300, "mm", required=False)
    front = fields.number("Floor under the front axle, mm up", -300, 300, "mm", required=False)
    wall = fields.number("Floor at the wall, mm up", -300, 300, "mm", required=False)
    wheelbase = fields.distance("Wheelbase", 1, 6, required=False)
    overhang = fields.distance("Front axle to lamps", 0.1, 2, required=False)

    def floor(self) -> Floor | None:
        """The floor as measured; None, with the field marked, where it can't be."""
        scale = {"rear": 1e-3, "front": 1e-3, "wall": 1e-3}
        told = {it: self[name].data * scale.get(name, 1) for name, it in FLOOR.items() if self[name].data is not None}
        try:
            return Floor(**told)
        except FloorError as error:
            self[error.field].errors = [str(error)]
            return None


@bp.get("/jobs/<int:job_id>/<scope:scope>/aim/wall")
def page(job_id: int, scope: Scope) -> Any:
    """The taping of the wall for one function's lamps."""
    page = open_stage(job_id, scope, Stage.AIM)
    if not page.beams:
        return page.render((), template="aim-wall", form=None)
    rules = {rule.id: rule for rule in aim.rules_for(page.job.booking.market, page.beams[0].function)}
    asked = "height" in request.args
    known = None if asked else usual(page, page.beams)
    form = WallForm(request.args if asked else None, data=known, meta={"csrf": False})
    form.rule.choices = fields.choices({rule.id: rule.name for rule in rules.values()})
    rule = rules.get(form.rule.data) or next(iter(rules.values()))
    tapes = _tapes(form, rule, asked)
    return page.render((), ["glare"], template="aim-wall", form=form, rule=rule, tapes=tapes, checks=CHECKS)


def _tapes(form: WallForm, rule: aim.AimRule, asked: bool) -> list[Tape]:
    """What to tape; nothing where the form has errors."""
    if asked and not form.validate():
        return []
    floor = form.floor()
    if floor is None:
        return []
    try:
        target = rule.target(form.height.data)
    except OutsideRuleError as error:
        form.height.errors = [str(error)]
        return []
    return list(taping(form.height.data, form.spacing.data, target, form.distance.data, fields.unit_system(), floor))
