"""Match's options: bulb, assembly, projector or the original; for HID the three schools, and the
ballast test.
"""

from __future__ import annotations

from flask import Blueprint
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core import ballast
from cold_arc.core.ballast import AFTER_SWAP, FAULTS, BallastTest
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Present
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.match import BallastTested
from cold_arc.core.job.stages import Stage
from cold_arc.core.match.options import REVERSES, compare
from cold_arc.core.work.access import minutes_one_side
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.match.shortlist import shortlist_for
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

    def test(self) -> BallastTest | None:
        """The test as entered; None, with an error beside its field, while the swap is to be
        made.
        """
        after = (self.after_swap.data or "") if ballast.needs_swap(self.fault.data) else ""
        test = BallastTest(
            self.fault.data, after, self.feed_volts.data, (self.note.data or "").strip()
        )
        try:
            ballast.cause(test)
        except ValueError as error:
            self.after_swap.errors = [str(error)]
            return None
        return test


@bp.route("/jobs/<int:job_id>/<scope:scope>/match/options", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The ways to go side by side; keeps the ballast test."""
    page = open_stage(job_id, scope, Stage.MATCH)
    shortlist = shortlist_for(page)
    tested = page.record.latest(BallastTested, page.first)
    form = BallastForm(data=vars(tested.test) if tested else None)
    if form.validate_on_submit() and (test := form.test()):
        return page.save(BallastTested(test), back=shortlist.here())
    way = page.record.ways.get(page.first.of_unit)
    ranked = [candidate.ranked for candidate in shortlist.candidates]
    access_min = minutes_one_side(way) if way else None
    options = compare(shortlist.setting, ranked, shortlist.lamps, access_min)
    is_hid = shortlist.setting.socket.present is Present.HID
    return page.render(
        _findings(page, shortlist.pattern, tested),
        ["high-voltage", "law"] if is_hid else ["law"],
        "match-options",
        shortlist=shortlist,
        options=options,
        reverses=REVERSES,
        candidates={candidate.id: candidate for candidate in shortlist.candidates},
        form=form if is_hid else None,
        tested=tested,
        cause=ballast.CAUSES[ballast.cause(tested.test, page.job.booking.volts)] if tested else "",
        has_route=way is not None,
        has_rate=_has_rate(shortlist.setting.condition),
    )


def _findings(
    page: StagePage, pattern: Finding | None, tested: BallastTested | None
) -> list[Finding]:
    """What the ballast test says, and whether the housing is worth a bulb."""
    findings = ballast.findings(tested.test, page.job.booking.volts) if tested else []
    return findings + ([pattern] if pattern else [])


def _has_rate(seen: UnitCondition | None) -> bool:
    """Whether the labour's rate was told at Inspect."""
    return seen is not None and seen.labour_rate is not None
