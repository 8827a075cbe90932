"""Stage 8, Aim: the rule's lines on the wall; where the cut-off stands, as found and as left."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, request
from flask_wtf import FlaskForm
from wtforms import RadioField, SelectField

from cold_arc.core import aim, units
from cold_arc.core.aim import AimRule, OutsideRuleError, Target
from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries import Aimed
from cold_arc.core.job.outcome import AIM_PHASES, aim_findings, shared_aim
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import say_offset, say_percent
from cold_arc.web.forms import fields
from cold_arc.web.job.scope import Scope
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.job.wall_light import add_light, aimed_lamp, has_elbow
from cold_arc.web.parts.wall import View, Wall, draggable, pair_wall

bp = Blueprint("aim", __name__)
DEFAULT_DISTANCE_M = {"us": units.FOOT_M * 25}
DEFAULT_HEIGHT_M = 0.65


class AimForm(FlaskForm):
    """One reading of where a cut-off or hot spot stands."""

    rule = SelectField("Rule", validate_choice=True)
    lamp = RadioField("Lamp")
    phase = fields.one_of("Reading", AIM_PHASES, "found")
    height = fields.distance("Lamp height", 0.2, 2.5)
    distance = fields.distance("Distance", 1, 40)
    spacing = fields.distance("Lamp spacing", 0.3, 2.5, required=False)
    stands = fields.slope("Cut-off stands")
    sideways = fields.sideways("Sideways")
    turns = fields.number("Height screw turned", -50, 50, "turns", required=False)
    turns_side = fields.number("Side screw turned", -50, 50, "turns", required=False)

    def has_height(self, rules: dict[str, AimRule]) -> bool:
        """Asks the rule whether it has this height."""
        try:
            rules[self.rule.data].target(self.height.data)
        except OutsideRuleError as error:
            self.height.errors = [str(error)]
        return not self.errors

    def aimed(self) -> Aimed:
        """The reading entered."""
        return Aimed(
            phase=self.phase.data,
            rule=self.rule.data,
            height_m=self.height.data,
            distance_m=self.distance.data,
            slope=self.stands.data,
            typed=self.stands.raw_data[0].strip(),
            sideways=self.sideways.data,
            turns=self.turns.data,
            turns_side=self.turns_side.data,
            spacing_m=self.spacing.data,
        )


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Records aim readings; draws the wall; says in or out."""
    page = open_stage(job_id, scope, Stage.AIM)
    beams = [key for key in page.beams if key.function is page.beams[0].function]
    if not beams:
        return page.render((), ["glare"], form=None)
    rules = {rule.id: rule for rule in aim.rules_for(page.job.booking.market, beams[0].function)}
    form = AimForm(data=usual(page, beams))
    form.rule.choices = fields.choices({rule.id: rule.name for rule in rules.values()})
    form.lamp.choices = fields.choices({str(key): key.side.value.capitalize() for key in beams})
    if form.validate_on_submit() and form.has_height(rules):
        return page.save(form.aimed(), about=[key for key in beams if str(key) == form.lamp.data])
    rule = rules.get(form.rule.data) or next(iter(rules.values()))
    return _render(page, form, rule, beams)


def usual(page: StagePage, beams: list[BeamKey]) -> dict[str, Any]:
    """The set-up used last on these lamps, and the reading that comes next."""
    last = [aimed for key in beams for aimed in page.record.all(Aimed, key)]
    found = [key for key in beams if page.record.aimed(key, "found") is None]
    wanting = found or [key for key in beams if page.record.aimed(key, "left") is None] or beams
    next_one = {"lamp": str(wanting[0]), "phase": "found" if found else "left"}
    if last:
        return next_one | {
            "rule": last[-1].rule,
            "height": last[-1].height_m,
            "distance": last[-1].distance_m,
            "spacing": last[-1].spacing_m,
        }
    distance = DEFAULT_DISTANCE_M.get(page.job.booking.market, 10.0)
    return next_one | {"height": DEFAULT_HEIGHT_M, "distance": distance}


def _render(page: StagePage, form: AimForm, rule: AimRule, beams: list[BeamKey]) -> Any:
    distance_m = form.distance.data or DEFAULT_DISTANCE_M.get(page.job.booking.market, 10.0)
    height_m = form.height.data or DEFAULT_HEIGHT_M
    target = _target_or_none(rule, height_m)
    found = [finding for key in beams for finding in aim_findings(page.record, key, fields.unit_system())]
    return page.render(
        [*shared_aim(page.record, beams[0]), *found],
        ["glare"],
        form=form,
        rule=rule,
        target=target,
        drops=_drops(target, distance_m) if target else [],
        distance_m=distance_m,
        wall=_wall(page, form, beams, target),
        readings={key: {phase: page.record.aimed(key, phase) for phase in AIM_PHASES} for key in beams},
        phases=AIM_PHASES,
    )


def _target_or_none(rule: AimRule, height_m: float) -> Target | None:
    try:
        return rule.target(height_m)
    except OutsideRuleError:
        return None


def _drops(target: Target, distance_m: float) -> list[tuple[str, str, str]]:
    """The rule's lines as offsets from the lamp's height: what, offset, slope."""
    lines = []
    for what, band in (("Keep", target.keep), ("Set", target.set)):
        edges = [band.high] if band.low == float("-inf") else sorted({band.high, band.low}, reverse=True)
        offsets = " to ".join(say_offset(slope * distance_m, fields.unit_system()) for slope in edges)
        lines.append(
            (
                what,
                offsets,
                band.words if len(edges) > 1 or "lower" in band.words else say_percent(edges[0], 2),
            )
        )
    return lines


def _wall(page: StagePage, form: AimForm, beams: list[BeamKey], target: Target | None) -> Wall:
    """Both lamps with the rule's bands, their lines as found and as left, and one line to drag: the reading to make."""
    distance_m = form.distance.data or DEFAULT_DISTANCE_M.get(page.job.booking.market, 10.0)
    lamps = [aimed_lamp(page, key, form.height.data or DEFAULT_HEIGHT_M, target) for key in beams]
    elbow = has_elbow(page, beams[0])
    view, traffic = View(fields.unit_system(), degrees=request.args.get("scale") == "deg"), page.market.traffic
    wall = pair_wall(lamps, distance_m, view, form.spacing.data, traffic, elbow)
    lamp = next((it for it, key in zip(lamps, beams, strict=True) if str(key) == form.lamp.data), lamps[0])
    last = lamp.left if lamp.left is not None else lamp.found
    slope = form.stands.data if form.stands.data is not None else last if last is not None else _middle(target)
    wall.drag = draggable(wall, lamp.side, slope, form.sideways.data or 0.0, traffic, elbow)
    add_light(wall, page, beams, after=any(it.left is not None for it in lamps))
    return wall.finished()


def _middle(target: Target | None) -> float:
    return target.nominal if target else 0.0
