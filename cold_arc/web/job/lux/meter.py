"""What a meter sends and what a page asks of it, as JSON; where to go on searching the brightest
point.
"""

from __future__ import annotations

from flask import Blueprint, abort, jsonify, request
from flask.typing import ResponseReturnValue
from werkzeug.wrappers import Response

from cold_arc.core.beam import derived, model
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.stages import Stage
from cold_arc.core.light import photometry
from cold_arc.core.match import measuring
from cold_arc.core.metering.peak import Taken
from cold_arc.core.metering.peak import search as search_peak
from cold_arc.core.metering.readings import RANGE_FACTORS
from cold_arc.core.units import NotUnderstoodError, say_degrees
from cold_arc.devices.meter import UNITS, Display, DisplayError, parse
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import bounded
from cold_arc.web.job.lux.stand import lit_set_up, stand
from cold_arc.web.job.stage_page import StagePage, open_stage, phase_of
from cold_arc.web.scope import Scope
from cold_arc.web.shell.meter_token import is_token

bp = Blueprint("meter", __name__)
WALL_M = 10.0
MOST_TAKEN = 40
NO_METER = "Nothing comes from a meter. Start cold-arc meter, or look at the Shop's page."
NO_LAMP = (
    "This lamp can't be modelled, so no meter can be simulated before it. Tell its optic and base "
    "at Book in."
)


@bp.post("/meter")
def take() -> ResponseReturnValue:
    """Takes a meter's display: JSON with a bearer token."""
    if not is_token(request.headers.get("Authorization", "").removeprefix("Bearer ").strip()):
        return jsonify(error="The token is not this shop's: it stands on the Shop's page."), 401
    try:
        stand().feed.take(parse(request.get_json(silent=True)))
    except (DisplayError, RecursionError) as error:
        return jsonify(error=str(error)), 422
    return Response(status=204)


@bp.get("/meter")
def shown() -> ResponseReturnValue:
    """What the connected meter shows."""
    return jsonify(_said(stand().feed.display()))


def _said(display: Display | None) -> dict[str, object]:
    return (
        display.plain() if display else {"value": None, "lux": None, "typed": "", "error": NO_METER}
    )


def _phase() -> Phase:
    return phase_of(request.args.get("phase", ""))


def _beam(job_id: int, scope: Scope) -> tuple[StagePage, BeamKey]:
    """The page's job and the one beam it is about; 404 for anything else."""
    page = open_stage(job_id, scope, Stage.VERIFY)
    return (page, page.beams[0]) if len(page.beams) == 1 else abort(404)


def _distance_m() -> float:
    try:
        return fields.WALL_DISTANCE.read(request.args.get("distance", ""), fields.unit_system(), {})
    except NotUnderstoodError:
        return WALL_M


@bp.get("/jobs/<int:job_id>/<scope:scope>/meter")
@in_turn
def live(job_id: int, scope: Scope) -> ResponseReturnValue:
    """What the meter shows: the connected one, or the simulated one with its head held at x, y (cm
    right and down).
    """
    page, key = _beam(job_id, scope)
    if request.args.get("device") == "feed":
        return jsonify(_said(stand().feed.display()))
    setup = lit_set_up(page.job, key, _phase(), page.market.traffic) if model.is_warm() else None
    if setup is None:
        return jsonify(
            _said(None)
            | {"error": NO_LAMP if model.is_warm() else "The beam model is being prepared."}
        )
    meter = stand().simulated(page.job, key, setup, _phase())
    meter.distance_m = _distance_m()
    meter.ambient_lx = bounded(request.args.get("ambient"), 0.0, 1000.0, 0.0)
    meter.move(*(bounded(request.args.get(name), -500.0, 500.0, 0.0) / 100 for name in ("x", "y")))
    factor = bounded(request.args.get("range"), 1.0, 100.0, 1.0)
    meter.range = factor if factor in RANGE_FACTORS else 1.0
    meter.unit = unit if (unit := request.args.get("unit")) in UNITS else "lx"
    held = request.args.get("hold") == "1"
    if held is not meter.display().hold:
        meter.hold(held)
    return jsonify(meter.display().plain() | {"lit_s": round(meter.lit_s, 1)})


@bp.get("/jobs/<int:job_id>/<scope:scope>/meter/search")
@in_turn
def search(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Where the brightest point is by the readings so far ("x,y,lux; ...", cm right and down), and
    where to read next."""
    page, key = _beam(job_id, scope)
    setup = lit_set_up(page.job, key, _phase(), page.market.traffic) if model.is_warm() else None
    if setup is None:
        return jsonify(error="This lamp can't be modelled: look for it by eye.")
    distance_m = _distance_m()
    taken = [
        reading
        for text in request.args.get("taken", "").split(";")[:MOST_TAKEN]
        if (reading := _taken(text, distance_m))
    ]
    result = search_peak(measuring.likeness(setup), taken)
    here, ahead = ((result.h_deg, result.v_deg), (result.next_h_deg, result.next_v_deg))
    places = [
        [round(100 * coordinate, 1) for coordinate in derived.wall_place(*place, distance_m)]
        for place in (here, ahead)
    ]
    sureness = f"within {say_degrees(result.sure_deg, 1)} after {result.readings}"
    words = (
        f"Found: {sureness}. Record it here."
        if result.found and taken
        else f"Surest {sureness}. Read here next."
    )
    return jsonify(
        found=result.found and bool(taken),
        x=places[0][0],
        y=places[0][1],
        next_x=places[1][0],
        next_y=places[1][1],
        sure_deg=round(result.sure_deg, 2),
        words=words,
    )


def _taken(text: str, distance_m: float) -> Taken | None:
    """One reading so far; None for what is none."""
    parts = [bounded(part, -1e6, 1e6, float("nan")) for part in text.split(",")]
    if len(parts) != 3 or any(part != part for part in parts) or parts[2] < 0:
        return None
    across, down = parts[0] / 100, parts[1] / 100
    h, v = derived.wall_direction(across, down, distance_m)
    return Taken(float(h), float(v), photometry.candela(parts[2], distance_m, across, down))
