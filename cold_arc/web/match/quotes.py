"""The quote: two or three ways to go for the lamps in hand, each with its beam, price, time and
law; the customer chooses and signs.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import urlencode

from flask import Blueprint, Response, abort, redirect, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import HiddenField, RadioField, StringField
from wtforms.validators import Length, Regexp

from cold_arc.core.beam import model
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Level
from cold_arc.core.job.entries.match import (
    DRAWN,
    LONGEST_DRAWN,
    MOST_TAX,
    MOST_WAYS,
    Quoted,
    QuotedWay,
)
from cold_arc.core.job.stages import Stage
from cold_arc.core.match.options import REVERSES, Option
from cold_arc.core.units import (
    say_candela,
    say_glare,
    say_minutes,
    say_number,
    say_percent,
    say_price,
)
from cold_arc.formats import picture
from cold_arc.formats.document import (
    PAPERS,
    Document,
    DocumentPart,
    DrawnSign,
    Part,
    PictureOf,
    to_pdf,
)
from cold_arc.store import catalogue
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.job.documents import whole
from cold_arc.web.job.sheet import CustomerSheet
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.match.options import options_of
from cold_arc.web.match.shortlist import Candidate, Shortlist, shortlist_for
from cold_arc.web.parts.preview import build_preview
from cold_arc.web.parts.wall import Wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session, writable
from cold_arc.web.shell.place import shop_currency
from cold_arc.web.shell.signing_key import as_signed

bp = Blueprint("match_quote", __name__)
TAX = "tax_pct"
# How long a PDF waits for its beams, and between asking for them, s.
LONGEST_WAIT_S, PAUSE_S = 20.0, 0.05
STAY = "stay"
CHANGED = "The ways changed since they were shown: look again, then sign."


class QuoteForm(FlaskForm):
    """What the customer takes, and their signature."""

    way = RadioField("The customer takes", [fields.needed("Say which way.")])
    tax = fields.number("Taxes", 0.0, MOST_TAX, "%")
    signed = StringField("Signed by", [fields.needed("Say who signs."), Length(max=60)])
    shown = HiddenField()
    drawn = HiddenField(
        validators=[
            Length(max=LONGEST_DRAWN, message="Draw it with fewer strokes."),
            Regexp(DRAWN.pattern + r"\Z", message="Draw it again."),
        ]
    )


@dataclass(frozen=True)
class ShownWay:
    """One way as it is shown: as it would be quoted, its set-up, whether it can go back."""

    quoted: QuotedWay
    option: Option
    candidate: Candidate | None
    present: SetUp | None

    @property
    def preview(self) -> Wall | None:
        """Its beam over the lamp's own, on the wall."""
        return build_preview(self.present, self.candidate.setup if self.candidate else None)

    @property
    def goes_back(self) -> str:
        """How it can be undone."""
        return REVERSES[self.option.kind.reverses]


def ways(shortlist: Shortlist) -> list[ShownWay]:
    """The ways worth quoting: what the ranking has first, at most two, and to stay. What the law
    stops comes last; none that is closed.
    """
    candidates = {candidate.id: candidate for candidate in shortlist.candidates}
    places = {candidate.id: place for place, candidate in enumerate(shortlist.candidates)}
    open_ways = [option for option in options_of(shortlist) if _is_worth_quoting(option)]
    open_ways.sort(key=lambda option: _place(option, places))
    stays = [option for option in open_ways if option.kind.id == STAY]
    others = [option for option in open_ways if option.kind.id != STAY]
    kept = [*others[: MOST_WAYS - len(stays)], *stays]
    return [_shown(shortlist, option, candidates) for option in kept]


def _is_worth_quoting(option: Option) -> bool:
    """Whether a way is open, and stands for something with a price."""
    if option.out:
        return False
    if option.kind.renews:
        return option.parts is not None
    return option.kind.id == STAY or option.best is not None


def _place(option: Option, places: dict[int, int]) -> tuple[int, int]:
    """What the law stops comes last; then as ranked."""
    stopped = int(option.law.level is Level.STOP)
    return stopped, places.get(option.best.judged.id, len(places)) if option.best else len(places)


def _shown(shortlist: Shortlist, option: Option, candidates: dict[int, Candidate]) -> ShownWay:
    best = candidates.get(option.best.judged.id) if option.best else None
    quoted = QuotedWay(
        option.kind.id,
        option.kind.name,
        best.source.name if best else "",
        option.parts,
        option.labour,
        option.minutes,
        _beam_words(shortlist, best),
        f"{option.law.text} {option.law.advice}".strip(),
    )
    return ShownWay(quoted, option, best, shortlist.present)


def _beam_words(shortlist: Shortlist, best: Candidate | None) -> str:
    """A way's beam against what is in the lamp: how much brighter, within what; its glare."""
    now = shortlist.as_it_is
    if best is None:
        if now is None or not shortlist.weighed.is_told:
            return "As it is."
        return f"As it is: {say_candela(now.peak_cd)}, {say_glare(now.de_boer)}."
    after = best.prediction
    if after is None or now is None:
        return f"Not predicted: {best.no_beam}." if best.no_beam else "Not predicted yet."
    spread = best.range(after.peak_cd)
    low, high = (say_percent(x / now.peak_cd - 1, 0, True) for x in (spread.low, spread.high))
    gain = say_percent(after.peak_cd / now.peak_cd - 1, 0, signed=True)
    return (
        f"Hot spot {gain} (from {low} to {high}) against {shortlist.own}; "
        f"{say_glare(after.de_boer)} at an oncoming eye, {shortlist.own} "
        f"{say_number(now.de_boer, 2)} (9 is just noticed, 1 not to be borne)."
    )


@bp.route("/jobs/<int:job_id>/<scope:scope>/match/quote", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The ways to go, to be chosen from and signed: what is kept is what was shown."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    shown = ways(shortlist)
    known = page.record.latest(Quoted, page.first)
    form = QuoteForm(data={"way": known.chosen if known else "", "tax": tax_pct()})
    form.way.choices = fields.choices({way.quoted.id: way.quoted.name for way in shown})
    seen = _sum_of(shown)
    if form.validate_on_submit():
        if form.shown.data == seen:
            return _signed(page, form, shown, shortlist.here())
        form.way.errors = [CHANGED]
    form.shown.data = seen
    return page.render(
        (),
        ["law"],
        "match-quote",
        shortlist=shortlist,
        ways=shown,
        form=form,
        known=known,
        price=price,
    )


def _sum_of(shown: list[ShownWay]) -> str:
    """A word for the ways as they are shown."""
    plain = repr([way.quoted for way in shown])
    return hashlib.sha256(plain.encode()).hexdigest()


def _signed(
    page: StagePage, form: QuoteForm, shown: list[ShownWay], back: str
) -> ResponseReturnValue:
    entry = Quoted(
        tuple(way.quoted for way in shown),
        form.way.data,
        form.tax.data,
        form.signed.data.strip(),
        form.drawn.data or "",
    )
    page.refuse_stale([(entry, frozenset(page.keys))])
    catalogue.set_setting(writable(), TAX, f"{form.tax.data:g}")
    return page.save(entry, back=back)


def tax_pct() -> float:
    """The shop's taxes, per cent, as told last."""
    try:
        tax = float(catalogue.setting(session(), TAX) or 0.0)
    except ValueError:
        return 0.0
    return tax if 0 <= tax <= MOST_TAX else 0.0


@bp.get("/jobs/<int:job_id>/<scope:scope>/match/quote-<paper>.pdf")
def pdf(job_id: int, scope: Scope, paper: str) -> ResponseReturnValue:
    """The quote as PDF, its beams worked out: as it was signed, else as it stands."""
    if paper not in PAPERS or paper == "card":
        abort(404)
    if "go" not in request.args:
        return redirect(f"{request.path}?{urlencode({**request.args, 'go': 1})}", 303)
    page = open_stage(job_id, scope, Stage.MATCH)
    model.warm()
    until = time.monotonic() + LONGEST_WAIT_S
    shortlist = shortlist_for(page)
    while shortlist.waiting and time.monotonic() < until:
        time.sleep(PAUSE_S)  # where others compute, it has no place yet
        shortlist = shortlist_for(page)
    headers = {"Content-Disposition": f'inline; filename="quote-{job_id}.pdf"'}
    return Response(_printed(page, shortlist, paper), mimetype="application/pdf", headers=headers)


@in_turn
def _printed(page: StagePage, shortlist: Shortlist, paper: str) -> bytes:
    """The quote on paper, its beams drawn in their turn."""
    document = _document(page, ways(shortlist))
    return as_signed(to_pdf(document, paper), document.title)


def _document(page: StagePage, shown: list[ShownWay]) -> Document:
    sheet = CustomerSheet(open_stage(page.job.id, Scope(), Stage.HAND_OVER))
    signed = page.record.latest(Quoted, page.first)
    tax = signed.tax_pct if signed else tax_pct()
    quoted = signed.ways if signed else tuple(way.quoted for way in shown)
    by_id = {way.quoted.id: way for way in shown}
    sections = [
        DocumentPart(f"{place}. {way.name}", tuple(_of_way(way, by_id.get(way.id), tax)))
        for place, way in enumerate(quoted, 1)
    ]
    if signed:
        taken = f"{signed.way.name}. Signed by {signed.signed}."
        strokes = tuple(map(tuple, signed.strokes))
        drawn = (DrawnSign(strokes, f"Signed by {signed.signed}"),) if strokes else ()
        sections.insert(0, DocumentPart("Taken", (taken, *drawn)))
    return whole(sheet, "Quote", iter(sections), () if signed else ("Shop", "Customer"))


def _of_way(way: QuotedWay, shown: ShownWay | None, tax: float) -> Iterator[Part]:
    if way.source:
        yield f"**Source**: {way.source}"
    yield f"**Beam**: {way.beam}"
    yield f"**Price**: {price(way, tax)}"
    yield f"**Time**: {say_minutes(way.minutes)} for all lamps in hand"
    yield f"**Law**: {way.law}"
    if shown is not None:
        yield f"**Goes back**: {shown.goes_back.lower()}"
        if shown.candidate and shown.candidate.setup and shown.present:
            before, after = (
                picture.render(beam_of(setup)) for setup in (shown.present, shown.candidate.setup)
            )
            yield (PictureOf(before, "As it is, modelled"), PictureOf(after, "Predicted"))


def price(way: QuotedWay, tax: float) -> str:
    """What a way costs, in words, in the shop's currency."""
    if way.parts is None:
        return "parts to be asked for"
    currency = shop_currency()
    parts = f"parts {say_price(way.parts, currency)}"
    asked = way.asked(tax)
    if way.labour is None or asked is None:
        return f"{parts}, and labour"
    taxes = f", taxes of {say_number(tax)} % in it" if tax else ""
    labour = say_price(way.labour, currency)
    return f"{say_price(asked, currency)}: {parts}, labour {labour}{taxes}"
