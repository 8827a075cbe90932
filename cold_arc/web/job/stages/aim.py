"""Stage 8, Aim: the rule's lines on the wall; where the cut-off stands, as found and as left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from flask import Blueprint, abort, request
from flask.typing import ResponseReturnValue
from wtforms import Field, RadioField

from cold_arc.core.aim.rims import rim_findings
from cold_arc.core.aim.rules import AimRule, OutsideRuleError, Target, target_for
from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car.keys import BeamKey, UnitKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job import stand
from cold_arc.core.job.entries.aim import AdjustersTold, Aimed
from cold_arc.core.job.entries.kind import AIM_PHASES, AimPhase
from cold_arc.core.job.later import drift_findings
from cold_arc.core.job.outcome import (
    aim_findings,
    combined_findings,
    combined_with,
    housing_of_both,
    one_adjuster,
    others_of,
    parallel_findings,
    readied,
    ready_findings,
)
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import say_offset, say_percent
from cold_arc.web.forms import fields
from cold_arc.web.job.aim.in_use import InUse, in_use, usual
from cold_arc.web.job.aim.rims import RimForm, is_vintage, kept_rim, rim_form, rims_of
from cold_arc.web.job.aim.rules_here import Here, rules_here
from cold_arc.web.job.aim.standing import HINTS, StandingForm
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.job.wall_light import add_light, aimed_lamp, has_elbow
from cold_arc.web.parts.wall import View, Wall, WallPoint, draggable, pair_wall
from cold_arc.web.scope import Scope

bp = Blueprint("aim", __name__)
STANDS = {
    Function.LOW: "Cut-off stands",
    Function.FOG: "Cut-off stands",
    Function.HIGH: "Hot spot stands",
}
OTHERS = {Function.LOW: "High beam", Function.HIGH: "Low beam"}


class AimForm(StandingForm):
    """One reading of where a cut-off or hot spot stands."""

    lamp = RadioField("Lamp")
    phase = fields.one_of("Reading", AIM_PHASES, AimPhase.FOUND)
    stands = fields.slope("Cut-off stands", required=False)
    sideways = fields.sideways("Sideways")
    other_stands = fields.slope("Other beam stands", required=False)
    other_sideways = fields.sideways("Sideways")
    turns = fields.number("Height screw turned", -50, 50, "turns", required=False)
    turns_side = fields.number("Side screw turned", -50, 50, "turns", required=False)

    def name_beams(self, page: StagePage, beams: Sequence[BeamKey]) -> None:
        """Names what stands where; asks for the other beam the adjuster moves, if any, and then for
        either.
        """
        self.stands.label.text = STANDS[beams[0].function]
        for field, what in ((self.other_stands, "stands"), (self.other_sideways, "sideways")):
            field.label.text = f"{OTHERS.get(beams[0].function, '')} {what}"
        self.stands.flags.required = not others_of(page.record, beams)
        if self.stands.flags.required:
            del self.other_stands, self.other_sideways

    @property
    def under_hand(self) -> Side:
        """The side of the lamp to be read."""
        return Side.RIGHT if (self.lamp.data or "").endswith(Side.RIGHT.value) else Side.LEFT

    def readings(
        self, page: StagePage, beams: Sequence[BeamKey], here: Here
    ) -> list[tuple[Aimed, list[BeamKey]]]:
        """What was read: of the lamp's beam, of the other on its adjuster, or of both; none where
        the rule fails it.
        """
        key = next(key for key in beams if str(key) == self.lamp.data)
        targets = self.targets(here.rule, [key.side])
        if targets is None:
            return []
        now = InUse(
            here,
            targets[key.side],
            self.height_of(key.side),
            self.distance.data,
            self.spacing.data,
            self.mark.data,
        )
        read = (
            [] if self.stands.is_blank else [(self._read(now, self.stands, self.sideways), [key])]
        )
        other = combined_with(page.record, key) if "other_stands" in self else None
        if other and not self.other_stands.is_blank:
            its = in_use(page, other)
            try:
                target_for(its.here.rule, now.height_m, its.mark)
            except OutsideRuleError as error:
                self.height_field(key.side).errors = [str(error)]
                return []
            now = replace(now, here=its.here, mark=its.mark)
            read.append((self._read(now, self.other_stands, self.other_sideways), [other]))
        return read

    def _read(self, now: InUse, stands: Field, sideways: Field) -> Aimed:
        """One beam's reading; the screws were turned before either was read."""
        typed = stands.typed.strip()
        aimed = now.aimed(
            AimPhase(self.phase.data),
            now.distance_m,
            stands.data,
            sideways.data,
            typed,
            simulated=False,
        )
        return replace(aimed, turns=self.turns.data, turns_side=self.turns_side.data)

    def validate(self, extra_validators: fields.ExtraValidators = None) -> bool:
        """One of the beams of a bulb is enough; how far aside without how high is not."""
        fine: bool = super().validate(extra_validators)
        pairs = [(self.stands, self.sideways)]
        pairs += [(self.other_stands, self.other_sideways)] if "other_stands" in self else []
        wanting = [stands for stands, aside in pairs if stands.is_blank and not aside.is_blank]
        if not wanting and all(stands.is_blank for stands, _ in pairs):
            wanting = [self.stands]
        for stands in wanting:
            stands.errors = ["Say where it stands."]
        return fine and not wanting


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Records aim readings; draws the wall; says in or out."""
    page = open_stage(job_id, scope, Stage.AIM)
    beams = page.beams_alike
    if not beams:
        return page.render((), ["glare"], form=None)
    rules = rules_here(page, beams[0])
    of_rim = request.form.get("part") == "rim"
    rims = rim_form(page, of_rim)
    if of_rim and (kept := kept_rim(page, rims)):
        return kept
    form = fields.as_sent(AimForm, not of_rim, usual(page, beams))
    form.offer(rules, beams)
    form.name_beams(page, beams)
    form.lamp.choices = fields.choices({str(key): key.side.value.capitalize() for key in beams})
    sent = not of_rim and form.validate_on_submit()
    if sent and (read := form.readings(page, beams, rules[form.rule.data])):
        return page.save_each(read)
    rule = (rules.get(form.rule.data) or next(iter(rules.values()))).rule
    return _render(page, form, rule, beams, rims)


@bp.post("/jobs/<int:job_id>/<scope:scope>/aim/adjusters")
def adjusters(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps whether one adjuster moves both beams of the lamps' housings."""
    page = open_stage(job_id, scope, Stage.AIM)
    housings, shared = _housings(page), request.form.get("shared")
    if not housings or shared not in ("0", "1"):
        abort(404)
    return page.save(AdjustersTold(shared == "1"), about=housings)


def _housings(page: StagePage) -> list[UnitKey]:
    """The housings of the lamps in scope that hold low and high beam, a bulb for each."""
    return [housing for key in page.beams_alike if (housing := housing_of_both(page.record, key))]


def _render(
    page: StagePage, form: AimForm, rule: AimRule, beams: list[BeamKey], rims: RimForm
) -> ResponseReturnValue:
    distance_m = form.distance.data or stand.distance(page.record, beams).value
    targets = {
        key: _target_or_none(rule, form.height_of(key.side), form.mark.data) for key in beams
    }
    target = {str(key): each for key, each in targets.items()}.get(
        form.lamp.data, targets[beams[0]]
    )
    others = others_of(page.record, beams)
    system, shown = fields.unit_system(), [*beams, *others]
    findings = [finding for key in shown for finding in aim_findings(page.record, key, system)]
    return page.render(
        [
            *drift_findings(page.record, beams),
            *combined_findings(page.record, beams, system),
            *findings,
            *parallel_findings(page.record, shown, system),
            *ready_findings(page.record, beams[0]),
            *stand.assumed_findings(page.record, beams, system),
            *rim_findings(rims_of(page, beams)),
        ],
        ["glare"],
        form=form,
        rule=rule,
        hints=HINTS,
        checks=CHECKS,
        ready=readied(page.record, beams[0]),
        drops=_drops(target, distance_m) if target else [],
        distance_m=distance_m,
        wall=_wall(page, form, targets),
        readings=_aims(page, shown),
        housings=_housings(page),
        shared=one_adjuster(page.record, beams[0]),
        other=OTHERS[beams[0].function] if others else "",
        phases=AIM_PHASES,
        vintage=is_vintage(page, beams[0]),
        rim_form=rims,
    )


def _target_or_none(rule: AimRule, height_m: float, mark: float | None) -> Target | None:
    try:
        return target_for(rule, height_m, mark)
    except OutsideRuleError:
        return None


def _drops(target: Target, distance_m: float) -> list[tuple[str, str, str]]:
    """The rule's lines as offsets from the lamp's height: what, offset, slope."""
    lines = []
    for what, band in (("Keep", target.keep), ("Set", target.set)):
        edges = (
            [band.high]
            if band.low == float("-inf")
            else sorted({band.high, band.low}, reverse=True)
        )
        offsets = " to ".join(
            say_offset(slope * distance_m, fields.unit_system()) for slope in edges
        )
        lines.append(
            (
                what,
                offsets,
                band.words if len(edges) > 1 or "lower" in band.words else say_percent(edges[0], 2),
            )
        )
    return lines


def _aims(page: StagePage, beams: list[BeamKey]) -> dict[BeamKey, dict[str, Aimed | None]]:
    """The newest aim of each beam, as found and as left."""
    record = page.record
    return {key: {phase: record.aimed(key, phase) for phase in AimPhase} for key in beams}


def _wall(page: StagePage, form: AimForm, targets: dict[BeamKey, Target | None]) -> Wall:
    """Both lamps with the rule's bands, their lines as found and as left, and one line to drag: the
    reading to make.
    """
    beams = list(targets)
    distance_m = form.distance.data or stand.distance(page.record, beams).value
    lamps = [aimed_lamp(page, key, form.height_of(key.side), targets[key]) for key in beams]
    elbow = has_elbow(page, beams[0])
    view, traffic = (
        View(fields.unit_system(), degrees=request.args.get("scale") == "deg"),
        page.market.traffic,
    )
    points = [point for key in beams if (point := _hot_spot(page, key, distance_m))]
    wall = pair_wall(lamps, distance_m, view, form.spacing.data, traffic, elbow, points)
    lamp = dict(zip(map(str, beams), lamps, strict=True)).get(form.lamp.data, lamps[0])
    known = (form.stands.data, lamp.left, lamp.found, _middle(lamp.target))
    slope = next(stands for stands in known if stands is not None)
    wall.drag = draggable(wall, lamp.side, slope, form.sideways.data or 0.0, traffic, elbow)
    add_light(wall, page, beams, after=any(lamp.left is not None for lamp in lamps))
    return wall.finished()


def _hot_spot(page: StagePage, key: BeamKey, distance_m: float) -> WallPoint | None:
    """Where the high beam on a low beam's adjuster stands; None where there is none, or it was not
    read.
    """
    high = combined_with(page.record, key)
    if high is None or high.function is not Function.HIGH:
        return None
    aimed = page.record.aimed(high, AimPhase.LEFT) or page.record.aimed(high, AimPhase.FOUND)
    if aimed is None:
        return None
    return WallPoint(
        key.side, "high beam", (aimed.sideways or 0.0) * distance_m, -aimed.slope * distance_m
    )


def _middle(target: Target | None) -> float:
    return target.nominal if target else 0.0
