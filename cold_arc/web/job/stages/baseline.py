"""Stage 3, Baseline: what the wall shows before anything is taken apart."""

from __future__ import annotations

from flask import Blueprint
from flask.typing import ResponseReturnValue

from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.in_socket import phase_findings
from cold_arc.core.job.stages import Stage
from cold_arc.core.light import photometry
from cold_arc.core.metering import readings
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.job.stages.readings_view import shown
from cold_arc.web.job.stages.wall_readings import ReadingsForm, save_readings
from cold_arc.web.scope import Scope

bp = Blueprint("baseline", __name__)


def _follows_supply(page: StagePage) -> bool:
    """Whether the first beam's present source follows the supply."""
    present = [
        page.record.socket(key).present
        for beam in page.beams[:1]
        for key in page.record.givers(beam)
    ]
    return any(source is not None and source.follows_supply for source in present)


@bp.route("/jobs/<int:job_id>/<scope:scope>/baseline", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Records readings before; shows them as candela."""
    page = open_stage(job_id, scope, Stage.BASELINE)
    if not page.beams:
        return page.render()
    form = ReadingsForm(page, Phase.BEFORE)
    if saved := save_readings(page, form):
        return saved
    taken = [
        reading
        for key in page.beams
        for reading in page.record.readings(key, Phase.BEFORE).values()
    ]
    of_readings = (finding for reading in taken for finding in readings.reading_findings(reading))
    findings = [*phase_findings(page.record, page.beams, Phase.BEFORE), *dict.fromkeys(of_readings)]
    return page.render(
        findings,
        **shown(page, form),
        reference_volts=photometry.reference_volts(page.job.booking.volts),
        follows_supply=_follows_supply(page),
    )
