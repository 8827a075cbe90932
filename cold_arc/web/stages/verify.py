"""Stage 9, Verify: the same points again; gain, balance, stray light, verdict."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from cold_arc.core import readings
from cold_arc.core.findings import Finding
from cold_arc.core.lamps import LampKey
from cold_arc.core.readings import Comparison
from cold_arc.core.record import Record
from cold_arc.core.stages import Stage
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, open_desk
from cold_arc.web.stages.baseline import DRAWN_DISTANCE_M
from cold_arc.web.stages.wall_readings import ReadingsForm, build_readings_wall, save_readings

bp = Blueprint("verify", __name__)


def compare(record: Record, key: LampKey) -> Comparison:
    """One lamp before and after."""
    present = record.lamp(key).present
    follows = present is not None and present.follows_supply
    return readings.compare(record.readings(key, "before"), record.readings(key, "after"), follows)


def balance_findings(record: Record, keys: list[LampKey]) -> list[Finding]:
    """Left against right, after, at the brightest point and the edge, for each pair in *keys*."""
    found = []
    for key in keys:
        if key.side.value == "left" and key.other_side in keys:
            left, right = record.readings(key, "after"), record.readings(key.other_side, "after")
            found += [
                readings.balance(left[point], right[point])
                for point in ("peak", "edge")
                if point in left and point in right
            ]
    return found


def _findings(desk: Desk, comparisons: dict[LampKey, Comparison]) -> list[Finding]:
    """Each finding once, then left against right."""
    each = (finding for comparison in comparisons.values() for finding in comparison.findings)
    return [*dict.fromkeys(each), *balance_findings(desk.record, desk.keys)]


@bp.route("/jobs/<int:job_id>/<scope:scope>/verify", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Records readings after; compares them with the baseline."""
    desk = open_desk(job_id, scope, Stage.VERIFY)
    form = ReadingsForm(desk, "after")
    if saved := save_readings(desk, form):
        return saved
    comparisons = {key: compare(desk.record, key) for key in desk.keys}
    distance_m = form.set_up.distance.data or DRAWN_DISTANCE_M
    return desk.render(
        _findings(desk, comparisons),
        ["eyes", "engine"],
        form=form,
        comparisons=comparisons,
        wall=build_readings_wall(desk, distance_m),
        points=readings.POINTS,
    )
