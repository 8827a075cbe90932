"""Stage 8, Aim: the rule's lines on the wall; where the cut-off stands, as found and as left."""

from __future__ import annotations

from typing import Any

from flask import Blueprint
from flask_wtf import FlaskForm
from wtforms import RadioField, SelectField, StringField

from cold_arc.core import aim, units
from cold_arc.core.aim import AimRule, OutsideRule, ScrewStep, Target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.lamps import Function, Housing, LampKey
from cold_arc.core.record import Aimed
from cold_arc.core.stages import Stage
from cold_arc.core.units import say_number, say_offset, say_percent
from cold_arc.web import fields
from cold_arc.web.parts.wall import Wall, WallLamp, build_wall
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, open_desk

bp = Blueprint("aim", __name__)
DEFAULT_DISTANCE_M = {"us": units.FOOT_M * 25}
DEFAULT_HEIGHT_M = 0.65
PHASES = {"found": "As found", "left": "As left"}


class AimForm(FlaskForm):
    """One reading of where a cut-off or hot spot stands."""

    rule = SelectField("Rule", validate_choice=True)
    lamp = RadioField("Lamp")
    phase = fields.one_of("Reading", PHASES, "found")
    height = fields.distance("Lamp height", 0.2, 2.5, "between 0.2 and 2.5 m")
    distance = fields.distance("Distance", 1, 40, "between 1 and 40 m")
    spacing = fields.distance("Lamp spacing", 0.3, 2.5, "between 0.3 and 2.5 m", required=False)
    stands = StringField("Cut-off stands", [fields.needed("Say where the cut-off stands.")])
    sideways = StringField("Sideways")
    turns = fields.number("Turns made", -50, 50, "between −50 and 50 turns", required=False)

    slope: float
    sideways_slope: float | None = None

    def understand(self, rules: dict[str, AimRule]) -> bool:
        """Parses the two readings against the distance, and asks the rule whether it has this height."""
        self._understand_stands()
        self._understand_sideways()
        try:
            rules[self.rule.data].target(self.height.data)
        except OutsideRule as error:
            self.height.errors = [str(error)]
        return not self.errors

    def _understand_stands(self) -> None:
        try:
            self.slope = units.parse_slope(self.stands.data, self.distance.data, fields.bare_offset())
        except units.NotUnderstood as error:
            self.stands.errors = [str(error)]

    def _understand_sideways(self) -> None:
        if not (self.sideways.data or "").strip():
            return
        try:
            self.sideways_slope = parse_sideways(self.sideways.data, self.distance.data)
        except units.NotUnderstood as error:
            self.sideways.errors = [str(error)]

    def aimed(self) -> Aimed:
        """The reading entered."""
        return Aimed(
            phase=self.phase.data,
            rule=self.rule.data,
            height_m=self.height.data,
            distance_m=self.distance.data,
            slope=self.slope,
            typed=self.stands.data.strip(),
            sideways=self.sideways_slope,
            turns=self.turns.data,
            spacing_m=self.spacing.data,
        )


def parse_sideways(text: str, distance_m: float) -> float:
    """A sideways slope, right positive, from "4 cm right", "2 in left", "-3 cm"; bare is to the right."""
    words = text.lower()
    left, right = "left" in words, "right" in words
    bare = words.replace("left", "").replace("right", "").strip()
    if left and right:
        raise units.NotUnderstood("Write left or right, not both.")
    metres = units.parse_length(bare, fields.bare_offset())
    if metres < 0 and (left or right):
        raise units.NotUnderstood("Write either a sign or left/right, not both.")
    return (-metres if left else metres) / distance_m


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Records aim readings; draws the wall; says in or out."""
    desk = open_desk(job_id, scope, Stage.AIM)
    beams = [key for key in desk.keys if key.function.is_road_beam and key.function is desk.first.function]
    if not beams:
        return desk.render((), ["glare"], form=None)
    rules = {rule.id: rule for rule in aim.rules_for(desk.job.booking.market, beams[0].function)}
    form = AimForm(data=_defaults(desk, beams))
    form.rule.choices = fields.choices({rule.id: rule.name for rule in rules.values()})
    form.lamp.choices = fields.choices({str(key): key.side.value.capitalize() for key in beams})
    if form.validate_on_submit() and form.understand(rules):
        return desk.save(form.aimed(), lamps=[LampKey.parse(form.lamp.data)])
    rule = rules.get(form.rule.data) or next(iter(rules.values()))
    return _render(desk, form, rule, beams)


def _defaults(desk: Desk, beams: list[LampKey]) -> dict[str, Any]:
    """The set-up used last on these lamps, and the reading that comes next."""
    last = [aimed for key in beams for aimed in desk.record.all(Aimed, key)]
    found = [key for key in beams if desk.record.aimed(key, "found") is None]
    wanting = found or [key for key in beams if desk.record.aimed(key, "left") is None] or beams
    usual = {"lamp": str(wanting[0]), "phase": "found" if found else "left"}
    if last:
        return usual | {
            "rule": last[-1].rule,
            "height": last[-1].height_m,
            "distance": last[-1].distance_m,
            "spacing": last[-1].spacing_m,
        }
    distance = DEFAULT_DISTANCE_M.get(desk.job.booking.market, 10.0)
    return usual | {"height": DEFAULT_HEIGHT_M, "distance": distance}


def _render(desk: Desk, form: AimForm, rule: AimRule, beams: list[LampKey]) -> Any:
    distance_m = form.distance.data or DEFAULT_DISTANCE_M.get(desk.job.booking.market, 10.0)
    height_m = form.height.data or DEFAULT_HEIGHT_M
    target = _target_or_none(rule, height_m)
    return desk.render(
        [finding for key in beams for finding in _findings(desk, key)],
        ["glare"],
        form=form,
        rule=rule,
        target=target,
        drops=_drops(target, distance_m) if target else [],
        distance_m=distance_m,
        wall=_wall(desk, beams, distance_m, height_m, target, form.spacing.data),
        readings={key: {phase: desk.record.aimed(key, phase) for phase in PHASES} for key in beams},
        phases=PHASES,
    )


def _target_or_none(rule: AimRule, height_m: float) -> Target | None:
    try:
        return rule.target(height_m)
    except OutsideRule:
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


def _findings(desk: Desk, key: LampKey) -> list[Finding]:
    """What the rule says of the newest reading of a lamp, and how far there is to turn."""
    aimed = desk.record.aimed(key, "left") or desk.record.aimed(key, "found")
    if aimed is None:
        return []
    target, system = aim.rules()[aimed.rule].target(aimed.height_m), fields.unit_system()
    name = f"{key.side.value.capitalize()}, {PHASES[aimed.phase].lower()}"
    found = [aim.judge(target, aimed.slope, aimed.distance_m, system)]
    if aimed.sideways is not None:
        found.append(aim.judge_sideways(target, aimed.sideways, aimed.distance_m, system))
    found = [finding.named(name) for finding in found]
    if more := _turns_finding(desk, key, target):
        found.append(more)
    return found


def _turns_finding(desk: Desk, key: LampKey, target: Target) -> Finding | None:
    taken = desk.record.all(Aimed, key)
    if len(taken) < 2 or not taken[-1].turns:
        return None
    go = aim.turns_to_go([ScrewStep(taken[-1].turns, taken[-2].slope, taken[-1].slope)], target)
    if go is None:
        return Finding(Level.CAUTION, f"{key.side.value.capitalize()}: the adjuster moved nothing.")
    if abs(go) < 0.1:
        return None
    way = "the same way" if go * taken[-1].turns > 0 else "back"
    return Finding(
        Level.NOTE,
        f"{key.side.value.capitalize()}: {say_number(abs(go), 2)} turns {way} to mid-band.",
        f"last: {say_number(taken[-1].turns, 2)} turns moved it "
        f"{say_percent(taken[-1].slope - taken[-2].slope, 2, signed=True)}",
    )


def _wall(
    desk: Desk,
    beams: list[LampKey],
    distance_m: float,
    height_m: float,
    target: Target | None,
    spacing_m: float | None,
) -> Wall:
    lamps = []
    for key in beams:
        found, left = desk.record.aimed(key, "found"), desk.record.aimed(key, "left")
        newest = left or found
        lamps.append(
            WallLamp(
                key.side,
                newest.height_m if newest else height_m,
                found.slope if found else None,
                left.slope if left else None,
                (found.sideways or 0.0) if found else 0.0,
                (left.sideways or 0.0) if left else 0.0,
                target,
            )
        )
    plain = desk.record.lamp(beams[0]).housing is Housing.LENS_OPTIC or desk.job.booking.market == "us"
    elbow = beams[0].function is Function.LOW and not plain
    return build_wall(lamps, distance_m, fields.unit_system(), spacing_m, desk.market.traffic, elbow)
