"""Stage 4, Match: candidates judged, predicted and ranked for this socket, car and market; one
chosen, with reasons.
"""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import BooleanField, RadioField, StringField, TextAreaField
from wtforms.validators import Length

from cold_arc.core import light_source
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.findings import Finding
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.match import Chosen, Refused
from cold_arc.core.job.later import claim_findings
from cold_arc.core.job.pairs import pair_findings
from cold_arc.core.job.stages import Stage
from cold_arc.core.match import Match, Setting
from cold_arc.core.match.choice import (
    cautions_of,
    must_be_told,
    of_present,
    other_beams,
    reason_wanted,
    speaks_against,
    staying,
)
from cold_arc.core.match.light import own_through_tint
from cold_arc.core.match.ranking import CRITERIA, HEAVIEST, USUAL_WEIGHTS
from cold_arc.core.work.access import cautions
from cold_arc.store import cars
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.match.shortlist import Candidate, Shortlist, keep_weights, shortlist_for, weights
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.setup_query import query
from cold_arc.web.shell.db import session, writable

bp = Blueprint("match", __name__)
STAY = "stay"
MOST_BESIDE = 4
WEIGHTS_SAID = {"kept": "Weights kept.", "usual": "Usual weights in force."}
AGAINST = {
    "off-road": "Off-road or show use only",
    "override": "Fit it all the same, with a reason",
    "refuse": "Refuse to fit it",
}


class ChoiceForm(FlaskForm):
    """The choice and its reasons."""

    choice = RadioField("Choice", validate_choice=False, validators=[fields.needed("Choose one.")])
    reason = TextAreaField(
        "Why this one", [fields.needed("Say why, in a few words."), Length(max=400)]
    )
    who = StringField("Chosen by", [Length(max=60)])
    accepted = fields.several("Cautions the customer accepted", {})
    accepted_all = BooleanField("All of them, each read out")
    against = fields.one_of_or_none("A rule or the law speaks against it", AGAINST)
    override = TextAreaField("Reason to go against it", [Length(max=400)])
    told = BooleanField("The customer was told what the law says")


@bp.route("/jobs/<int:job_id>/<scope:scope>/match", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Shows the candidates, best first; records the choice, or the refusal, for the sockets in
    scope.
    """
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    asked = request.args.get("look")
    form = ChoiceForm(data={"choice": asked or _chosen_id(shortlist)})
    looked = shortlist.find(form.choice.data)
    ids = cautions_of(shortlist.setting, looked.source if looked else None)
    form.accepted.choices = [(key, cautions()[key]) for key in ids]
    several = len({at_lamp.what_hangs(page.record, key) for key in page.sockets}) > 1
    if form.validate_on_submit() and not several and _allowed(form, looked, shortlist):
        against = looked is not None and speaks_against(looked.match, shortlist.setting)
        payload = _payload(form, looked, against)
        return page.save(payload, about=_about(page, looked))
    return page.render(
        _page_findings(shortlist, looked),
        ids,
        form=form,
        shortlist=shortlist,
        setting=shortlist.setting,
        looked=looked,
        asked=asked,
        stay=form.choice.data == STAY,
        section=shortlist.section(looked),
        preview=shortlist.preview(looked),
        needs_override=looked is not None and speaks_against(looked.match, shortlist.setting),
        chosen=page.record.latest(Chosen, page.first),
        refused=page.record.all(Refused, page.first),
        several=several,
        kinds=light_source.KINDS,
        criteria=CRITERIA,
        weights=weights(),
        weights_said=WEIGHTS_SAID.get(request.args.get("weights", ""), ""),
        heaviest=HEAVIEST,
        most_beside=MOST_BESIDE,
        bench_query=query,
        seat_urls=shortlist.seats(looked),
    )


def _about(page: StagePage, looked: Candidate | None) -> list[SocketKey]:
    """The sockets a choice is for: those in scope; a complete assembly takes the place of its
    unit's sockets all, or of those that give what it takes over.
    """
    if looked is None or looked.source.kind != "assembly":
        return page.sockets
    return list(at_lamp.taken_over(page.record, page.sockets, looked.source))


def _chosen_id(shortlist: Shortlist) -> str:
    """What the page opens on: the choice made, or the best candidate once that is known."""
    chosen = shortlist.page.record.latest(Chosen, shortlist.page.first)
    if chosen and chosen.source is None:
        return STAY
    names = {candidate.source.name: str(candidate.id) for candidate in shortlist.candidates}
    if chosen and chosen.source and chosen.source.name in names:
        return names[chosen.source.name]
    if shortlist.waiting and shortlist.candidates:
        return ""
    return str(shortlist.candidates[0].id) if shortlist.candidates else STAY


def _allowed(form: ChoiceForm, looked: Candidate | None, shortlist: Shortlist) -> bool:
    """Whether the choice may be recorded; adds what is missing beside the field."""
    if looked is None and form.choice.data != STAY:
        form.choice.errors = [*form.choice.errors, "That is not on the shelf any more."]
    if looked and request.form.get(f"facts-{looked.id}", looked.state) != looked.state:
        form.choice.errors = [
            *form.choice.errors,
            "Its facts were changed meanwhile. Look at it again, then choose.",
        ]
    if looked and speaks_against(looked.match, shortlist.setting):
        _check_against(form, looked.match, shortlist.setting)
    return not form.errors


def _check_against(form: ChoiceForm, match: Match, setting: Setting) -> None:
    """Says beside its field what a choice that is spoken against lacks."""
    way = form.against.data
    if way not in AGAINST:
        form.against.errors = ["Say which it is: it can't be chosen silently."]
        return
    if not (form.override.data or "").strip() and (why := reason_wanted(way, match)):
        form.override.errors = [why]
    if not form.told.data and must_be_told(way, match, setting):
        form.told.errors = ["Tell the customer first, then tick this."]


def _override(form: ChoiceForm) -> str:
    """The reason recorded against a rule, and that the customer was told, as sentences."""
    reason = (form.override.data or "").strip().rstrip(".")
    sentences = [reason, "The customer was told" if form.told.data else ""]
    return " ".join(f"{sentence}." for sentence in sentences if sentence)


def _accepted(form: ChoiceForm) -> tuple[str, ...]:
    """The cautions the customer accepted, by id."""
    if form.accepted_all.data:
        return tuple(key for key, _ in form.accepted.choices)
    return tuple(form.accepted.data or ())


def _payload(form: ChoiceForm, looked: Candidate | None, against: bool) -> Chosen | Refused:
    """What is chosen; an override is one only where something speaks *against* it."""
    reason, who = form.reason.data.strip(), (form.who.data or "").strip()
    if looked and form.against.data == "refuse":
        return Refused(looked.source.name, reason, who)
    return Chosen(
        looked.source if looked else None,
        reason,
        who,
        _override(form) if against else "",
        bool(looked) and form.against.data == "off-road",
        _accepted(form),
    )


def _page_findings(shortlist: Shortlist, looked: Candidate | None) -> list[Finding]:
    """The housing's own pattern first, then the law, then what the rules say of the candidate
    looked at.
    """
    page, setting = shortlist.page, shortlist.setting
    first, last = shortlist.of_housing(looked.source if looked else None)
    first = [*first, *of_present(setting)]
    if looked is None:
        return [*first, *staying(setting), *own_through_tint(setting), *last]
    others = other_beams(setting, shortlist.function, looked.source, page.market.traffic)
    claimed = claim_findings(cars.claims_on(session(), looked.source.name))
    own = [looked.match.law, *looked.match.findings, *looked.predicted_findings(), *claimed]
    pairs = pair_findings(page.record, page.sockets, looked.source)
    return [*first, *own, *others, *pairs, *last]


@bp.post("/jobs/<int:job_id>/<scope:scope>/match/weights")
def weigh(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps the shop's weights, or goes back to the usual ones."""
    open_stage(job_id, scope, Stage.MATCH)
    chosen = {name: request.form.get(name, "") for name in USUAL_WEIGHTS}
    usual = "usual" in request.form
    keep_weights(
        {
            name: min(HEAVIEST, int(text))
            if text.isdecimal() and len(text) < 3 and not usual
            else USUAL_WEIGHTS[name]
            for name, text in chosen.items()
        }
    )
    writable().commit()
    asked = {name: request.form[name] for name in ("look", "lens") if request.form.get(name)}
    return redirect(
        stage_url(job_id, scope, Stage.MATCH, weights="usual" if usual else "kept", **asked), 303
    )


@bp.get("/jobs/<int:job_id>/<scope:scope>/match/beside")
def beside(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Up to four candidates side by side: wall, section, numbers, findings."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    asked = list(dict.fromkeys(request.args.getlist("id")))
    chosen = [candidate for text in asked if (candidate := shortlist.find(text))][:MOST_BESIDE]
    return render_template(
        "match_beside.html",
        page=page,
        shortlist=shortlist,
        chosen=chosen,
        too_many=len(asked) > MOST_BESIDE,
        most_beside=MOST_BESIDE,
        kinds=light_source.KINDS,
        back=shortlist.at("match.page"),
    )
