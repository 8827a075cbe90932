"""Stage 9, Verify: the same points again; gain, balance, stray light, verdict."""

from __future__ import annotations

from flask import Blueprint
from flask.typing import ResponseReturnValue

from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.later import HoursLit
from cold_arc.core.job.in_socket import phase_findings
from cold_arc.core.job.later import fade_findings, returned
from cold_arc.core.job.outcome import compare, gain_findings
from cold_arc.core.job.stages import Stage
from cold_arc.web.job.car import HoursForm
from cold_arc.web.job.stage_page import open_stage
from cold_arc.web.job.stages.readings_view import shown
from cold_arc.web.job.stages.wall_readings import ReadingsForm, save_readings
from cold_arc.web.scope import Scope

bp = Blueprint("verify", __name__)


@bp.route("/jobs/<int:job_id>/<scope:scope>/verify", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Records readings after; compares them with the baseline."""
    page = open_stage(job_id, scope, Stage.VERIFY)
    if not page.beams:
        return page.render()
    form = ReadingsForm(page, Phase.AFTER)
    if saved := save_readings(page, form):
        return saved
    comparisons = {key: compare(page.record, key) for key in page.beams}
    return page.render(
        [
            *phase_findings(page.record, page.beams, Phase.AFTER),
            *fade_findings(page.record, page.beams),
            *gain_findings(page.record, page.beams),
        ],
        ["eyes", "engine"],
        back=returned(page.record) if page.record.is_recheck else None,
        hours=HoursForm(data=vars(lit) if (lit := page.record.latest(HoursLit)) else None),
        **shown(page, form, comparisons),
    )
