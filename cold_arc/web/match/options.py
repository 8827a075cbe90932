"""Match's options: bulb, assembly, projector or the original; for HID the three schools, and the
ballast test.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Self

from flask import Blueprint, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import BooleanField, Field, StringField
from wtforms.validators import Length

from cold_arc.core import ballast, law
from cold_arc.core.ballast import AFTER_SWAP, FAULTS, BallastTest
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Present
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.match import (
    ARC_TUBE,
    BALLAST,
    HIGHEST_PRICE,
    HOUSING,
    RENEWALS,
    SEAL,
    BallastTested,
    Renewed,
)
from cold_arc.core.job.stages import Stage
from cold_arc.core.match.options import REVERSES, Option, compare
from cold_arc.core.work.access import minutes_one_side
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.match.shortlist import Shortlist, shortlist_for
from cold_arc.web.scope import Scope

bp = Blueprint("match_options", __name__)


class BallastForm(FlaskForm):
    """The ballast test, step by step."""

    fault = fields.one_of(
        "1 · Which lamp is dark, pink or flickers?", FAULTS, required="Say which."
    )
    after_swap = fields.one_of_or_none("3 · Off, cold, bulbs swapped side to side:", AFTER_SWAP)
    feed_volts = fields.volts("2 · Volts into its ballast, lamp on", required=False)
    note = StringField("Note", [Length(max=200)])

    def test(self, volts: float) -> BallastTest | None:
        """The test as entered, of a car of so many *volts*; None, with an error beside its field,
        while the swap is to be made.
        """
        after = (self.after_swap.data or "") if ballast.needs_swap(self.fault.data) else ""
        test = BallastTest(
            self.fault.data, after, self.feed_volts.data, (self.note.data or "").strip()
        )
        if ballast.cause(test, volts) == "unswapped":
            self.after_swap.errors = ["Swap the bulbs first."]
            return None
        return test


class RenewForm(FlaskForm):
    """What is put in new like for like, each with its price."""

    housing = BooleanField(RENEWALS[HOUSING])
    housing_price = fields.number("Price, one", 0, HIGHEST_PRICE, required=False)
    seal = BooleanField(RENEWALS[SEAL])
    seal_price = fields.number("Price, one", 0, HIGHEST_PRICE, required=False)
    ballast = BooleanField(RENEWALS[BALLAST])
    ballast_price = fields.number("Price, one", 0, HIGHEST_PRICE, required=False)
    arc_tube = BooleanField(RENEWALS[ARC_TUBE])
    arc_tube_price = fields.number("Price, one", 0, HIGHEST_PRICE, required=False)
    asked: tuple[str, ...] = ()

    @classmethod
    def of(cls, known: Mapping[str, Renewed], is_hid: bool) -> Self:
        """The form as it stands; *known*: what is to be new already, by what."""
        facts: dict[str, object] = {_name(what): True for what in known}
        facts |= {f"{_name(what)}_price": part.price for what, part in known.items()}
        form = fields.as_sent(cls, "renew" in request.form, facts)
        form.asked = tuple(RENEWALS) if is_hid else (HOUSING, SEAL)
        return form

    @property
    def parts(self) -> list[tuple[Field, Field]]:
        """The tick and the price of each part that is asked for."""
        return [(self[_name(what)], self[f"{_name(what)}_price"]) for what in self.asked]

    def validate(self, extra_validators: fields.ExtraValidators = None) -> bool:
        """A price is told of what is new alone."""
        good = super().validate(extra_validators)
        for tick, price in self.parts:
            if price.data is not None and not tick.data:
                price.errors = ["Tick it as new, or leave the price out."]
                good = False
        return good

    @property
    def is_any(self) -> bool:
        """Whether anything is to be new."""
        return any(tick.data for tick, _ in self.parts)

    @property
    def words(self) -> str:
        """What is to be new."""
        named = [RENEWALS[what].lower() for what in self.asked if self[_name(what)].data]
        return ", ".join(named) or "nothing"

    def renewed(self, known: Mapping[str, Renewed]) -> list[Renewed]:
        """What is new, or not after all, that differs from what is *known*."""
        entries = []
        for what, (tick, price) in zip(self.asked, self.parts, strict=True):
            new = Renewed(what, price.data) if tick.data else Renewed(what, off=True)
            if (tick.data or what in known) and known.get(what) != new:
                entries.append(new)
        return entries


def _name(what: str) -> str:
    """A part's name as a field."""
    return what.replace(" ", "_")


def options_of(shortlist: Shortlist) -> list[Option]:
    """Every way open to the lamps in hand, with the way in as planned."""
    way = shortlist.page.record.ways.get(shortlist.page.first.of_unit)
    ranked = [candidate.ranked for candidate in shortlist.candidates]
    access_min = minutes_one_side(way) if way else None
    return compare(shortlist.setting, ranked, shortlist.lamps, access_min)


@bp.route("/jobs/<int:job_id>/<scope:scope>/match/options", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The ways to go side by side; keeps the ballast test."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    tested = page.record.latest(BallastTested, page.first)
    is_hid = shortlist.setting.socket.present is Present.HID
    renewing = RenewForm.of(page.record.renewed(page.sockets[0]), is_hid)
    form = _ballast_form(tested)
    if saved := _saved(page, form, renewing, shortlist.here()):
        return saved
    return page.render(
        _findings(page, shortlist.pattern, tested),
        ["high-voltage", "law"] if is_hid else ["law"],
        "match-options",
        shortlist=shortlist,
        options=options_of(shortlist),
        reverses=REVERSES,
        candidates={candidate.id: candidate for candidate in shortlist.candidates},
        form=form if is_hid else None,
        renewing=renewing,
        tested=tested,
        cause=ballast.CAUSES[ballast.cause(tested.test, page.job.booking.volts)] if tested else "",
        has_route=page.record.ways.get(page.first.of_unit) is not None,
        has_rate=_has_rate(shortlist.setting.condition),
    )


def _ballast_form(tested: BallastTested | None) -> BallastForm:
    """The ballast test as sent, or as it stands where another form of the page was."""
    known = vars(tested.test) if tested else None
    return fields.as_sent(BallastForm, "renew" not in request.form, known)


def _saved(page: StagePage, form: BallastForm, renewing: RenewForm, back: str) -> Response | None:
    """The answer to what was sent, where it was good: what is new, or the ballast test."""
    if "renew" in request.form:
        if not renewing.validate_on_submit():
            return None
        known = page.record.renewed(page.sockets[0])
        return page.save_each([(new, page.sockets) for new in renewing.renewed(known)], back)
    test = form.test(page.job.booking.volts) if form.validate_on_submit() else None
    return page.save(BallastTested(test), back=back) if test else None


def _findings(
    page: StagePage, pattern: Finding | None, tested: BallastTested | None
) -> list[Finding]:
    """What the ballast test says, and whether the housing is worth a bulb."""
    findings = ballast.findings(tested.test, page.job.booking.volts) if tested else []
    opened = any(page.record.is_opened(unit) for unit in page.units)
    findings += [law.opened(page.market, page.job.booking.road_use)] if opened else []
    return findings + ([pattern] if pattern else [])


def _has_rate(seen: UnitCondition | None) -> bool:
    """Whether the labour's rate was told at Inspect."""
    return seen is not None and seen.labour_rate is not None
