"""Stage 4, Match: candidates judged against this lamp, this car, this market; one chosen, with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, request
from flask_wtf import FlaskForm
from wtforms import BooleanField, RadioField, StringField, TextAreaField
from wtforms.validators import Length

from cold_arc.core import bases, light_source
from cold_arc.core.beam.setup import setup_of
from cold_arc.core.condition import Verdict
from cold_arc.core.findings import Finding, Level
from cold_arc.core.match import Match, Setting, judge, needs_override
from cold_arc.core.record import Chosen
from cold_arc.core.stages import Stage, condition_verdict
from cold_arc.store.catalogue import light_sources
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.parts.beam_wall import BeamWall
from cold_arc.web.parts.preview import build_preview
from cold_arc.web.parts.section import build_section
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, open_desk

bp = Blueprint("match", __name__)
STAY = "stay"


@dataclass(frozen=True)
class Candidate:
    """One row of the list: its catalogue id and what the rules say."""

    id: int
    match: Match


class ChoiceForm(FlaskForm):
    """The choice and its reasons."""

    choice = RadioField("Choice", validate_choice=False, validators=[fields.needed("Choose one.")])
    reason = TextAreaField("Why this one", [fields.needed("Say why, in a few words."), Length(max=400)])
    who = StringField("Chosen by", [Length(max=60)])
    override = TextAreaField("Reason to go against it", [Length(max=400)])
    told = BooleanField("The customer was told what the law says")


def _setting(desk: Desk) -> Setting:
    booking, key = desk.job.booking, desk.first
    return Setting(
        lamp=desk.record.lamp(key),
        condition=desk.record.condition(key),
        volts=booking.volts,
        earth_positive=booking.earth_positive,
        market=booking.market,
        road_use=booking.road_use,
    )


def _candidates(setting: Setting) -> list[Candidate]:
    """Everything on the shelf for this base, the better match first."""
    shelf = light_sources(session())
    fitting = {source_id: source for source_id, source in shelf.items() if bases.find(source.base) is setting.base}
    judged = [Candidate(source_id, judge(source, setting)) for source_id, source in fitting.items()]
    return sorted(judged, key=lambda candidate: candidate.match.order)


@bp.route("/jobs/<int:job_id>/<scope:scope>/match", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Shows the candidates; records the choice for the lamps in scope."""
    desk = open_desk(job_id, scope, Stage.MATCH)
    setting = _setting(desk)
    candidates = _candidates(setting) if setting.base else []
    form = ChoiceForm(data={"choice": request.args.get("look") or _chosen_id(desk, candidates)})
    looked = _looked_at(form, candidates)
    if form.validate_on_submit() and _allowed(form, looked, setting):
        source = looked.match.source if looked else None
        return desk.save(Chosen(source, form.reason.data.strip(), form.who.data or "", _override(form)))
    return desk.render(
        _page_findings(desk, looked),
        ["law", "high-voltage"] if setting.base and setting.base.kind == "hid" else ["law"],
        form=form,
        setting=setting,
        candidates=candidates,
        looked=looked,
        stay=form.choice.data == STAY,
        section=_section(setting, looked),
        preview=_preview(desk, setting, looked),
        needs_override=looked is not None and _needs_override(looked, setting),
        chosen=desk.record.latest(Chosen, desk.first),
        several=len({desk.record.lamp(key).base for key in desk.keys}) > 1,
        kinds=light_source.KINDS,
    )


def _preview(desk: Desk, setting: Setting, looked: Candidate | None) -> BeamWall | None:
    """The lamp's beam with its present source and with the candidate looked at."""
    lamp, seen, traffic = setting.lamp, setting.condition, desk.market.traffic
    candidate = setup_of(lamp, seen, looked.match.source, traffic) if looked and looked.match.source.is_bulb else None
    return build_preview(setup_of(lamp, seen, None, traffic), candidate)


def _section(setting: Setting, looked: Candidate | None) -> Any:
    if not looked or not setting.base:
        return None
    return build_section(setting.base, looked.match.source, setting.condition)


def _chosen_id(desk: Desk, candidates: list[Candidate]) -> str:
    """What the page opens on: the choice made, or the best candidate."""
    chosen = desk.record.latest(Chosen, desk.first)
    if chosen and chosen.source is None:
        return STAY
    names = {candidate.match.source.name: str(candidate.id) for candidate in candidates}
    if chosen and chosen.source and chosen.source.name in names:
        return names[chosen.source.name]
    return str(candidates[0].id) if candidates else STAY


def _looked_at(form: ChoiceForm, candidates: list[Candidate]) -> Candidate | None:
    return next((candidate for candidate in candidates if str(candidate.id) == form.choice.data), None)


def _needs_override(looked: Candidate, setting: Setting) -> bool:
    return looked.match.level is Level.STOP or needs_override(looked.match.source, setting)


def _allowed(form: ChoiceForm, looked: Candidate | None, setting: Setting) -> bool:
    """Whether the choice may be recorded; adds what is missing beside the field."""
    if looked is None and form.choice.data != STAY:
        form.choice.errors = [*form.choice.errors, "That is not on the shelf any more."]
    if looked and _needs_override(looked, setting) and not (form.override.data or "").strip():
        form.override.errors = ["A rule or the law speaks against it. Record the reason, or choose another."]
    if looked and needs_override(looked.match.source, setting) and not form.told.data:
        form.told.errors = ["Tell the customer first, then tick this."]
    return not form.errors


def _override(form: ChoiceForm) -> str:
    told = " The customer was told." if form.told.data else ""
    return ((form.override.data or "").strip() + told).strip()


def _page_findings(desk: Desk, looked: Candidate | None) -> list[Finding]:
    """The law first, then what the rules say of the candidate looked at, or of staying."""
    found = [looked.match.law, *looked.match.findings] if looked else []
    verdict = condition_verdict(desk.record, desk.first)
    if looked and looked.match.source.is_bulb and verdict is Verdict.REPLACE:
        found.append(
            Finding(
                Level.STOP,
                "This housing was judged fit to replace, not to refill.",
                advice="Choose a complete assembly, or record why not.",
            )
        )
    return found
