"""Stage 3, Baseline: what the wall shows before anything is taken apart."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from cold_arc.core import photometry, readings
from cold_arc.core.beam.setup import SetUp, setup_of
from cold_arc.core.stages import Stage
from cold_arc.web.parts.preview import build_preview
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, open_desk
from cold_arc.web.stages.wall_readings import ReadingsForm, build_readings_wall, save_readings

bp = Blueprint("baseline", __name__)
DRAWN_DISTANCE_M = 10.0


def _present(desk: Desk) -> SetUp | None:
    """The lamp with its present source, where it can be modelled."""
    key = desk.first
    return setup_of(desk.record.lamp(key), desk.record.condition(key), None, desk.market.traffic)


@bp.route("/jobs/<int:job_id>/<scope:scope>/baseline", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Records readings before; shows them as candela."""
    desk = open_desk(job_id, scope, Stage.BASELINE)
    form = ReadingsForm(desk, "before")
    if saved := save_readings(desk, form):
        return saved
    taken = [reading for key in desk.keys for reading in desk.record.readings(key, "before").values()]
    found = list(dict.fromkeys(finding for reading in taken for finding in readings.reading_findings(reading)))
    distance_m = form.set_up.distance.data or DRAWN_DISTANCE_M
    return desk.render(
        found,
        form=form,
        wall=build_readings_wall(desk, distance_m),
        preview=build_preview(_present(desk), None),
        reference_volts=photometry.reference_volts(desk.job.booking.volts),
        points=readings.POINTS,
    )
