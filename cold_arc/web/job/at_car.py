"""At the car, beside the step under hand: the tray, pictures, what a seat does to the beam, what
others did.
"""

from __future__ import annotations

from dataclasses import replace

from flask import Blueprint, abort, jsonify, redirect, render_template, request
from flask import Response as FlaskResponse
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.at_lamp import clocked_as
from cold_arc.core.job.entries.fit import Clocked, FastenerBack, Pictured
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import TrayRow
from cold_arc.core.match import measuring
from cold_arc.core.metering import readings
from cold_arc.core.work.access import MOST_FASTENERS
from cold_arc.formats.photo import PhotoError, read_photo
from cold_arc.store import jobs, pictures
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.stage_page import after_save, open_stage, phase_of
from cold_arc.web.job.wall_light import modelled
from cold_arc.web.parts.beam_wall import picture_url
from cold_arc.web.parts.tray import TrayLine, build_tray
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.shell.db import session, writable

bp = Blueprint("at_car", __name__)
LONGEST_NOTE = 100


class ClockForm(FlaskForm):
    """Where the bulb stopped."""

    stopped = fields.clock_angle("Stopped at")
    depth = fields.number("Depth of the chips, by caliper", 5, 100, "mm", required=False)


def _is_road_beam(beam: BeamKey) -> bool:
    return beam.function.is_road_beam


@bp.get("/jobs/<int:job_id>/<scope:scope>/fit/seat")
@in_turn
def seat(job_id: int, scope: Scope) -> str:
    """What a seat does to the beam, while it is typed or dragged: the Wall, and the light at its
    places.
    """
    page = open_stage(job_id, scope, Stage.FIT)
    key = next((key for key in page.sockets if str(key) == request.args.get("key")), None)
    if key is None:
        abort(404)
    form = ClockForm(request.args, prefix=str(key), meta={"csrf": False})
    beam = next(filter(_is_road_beam, page.record.front.beams_of(key)), None)
    chosen = modelled(page, beam)[1] if form.validate() and beam else None
    if chosen is None or beam is None:
        return ""
    stopped = clocked_as(page.record, key, Clocked(form.stopped.data)).stopped_deg
    upright, sits = (
        measuring.seated(chosen, 0.0, None),
        measuring.seated(chosen, stopped, form.depth.data),
    )
    function, traffic = beam.function, page.market.traffic
    should, does = (
        measuring.pattern(each_setup, function, traffic) for each_setup in (upright, sits)
    )
    return render_template(
        "parts/seat_light.html",
        pictures=[("As it should sit", picture_url(upright)), ("As it sits", picture_url(sits))],
        rows=[(readings.words(name), should[name], does[name]) for name in should],
    )


@bp.get("/jobs/<int:job_id>/seen")
def seen(job_id: int) -> FlaskResponse:
    """The state of a job's record, for pages that follow what others do."""
    state = jobs.state(session(), job_id)
    return jsonify(state=state) if state != jobs.NO_RECORD else abort(404)


@bp.post("/jobs/<int:job_id>/<scope:scope>/fit/picture")
def take_picture(job_id: int, scope: Scope) -> Response:
    """Keeps a picture taken before or after a step."""
    page = open_stage(job_id, scope, Stage.FIT)
    phase = phase_of(request.form.get("phase", ""))
    try:
        taken = kept_picture(job_id, phase, request.form.get("step", "")[:LONGEST_NOTE])
    except PhotoError as error:
        return redirect(stage_url(job_id, scope, Stage.FIT, **{"picture-error": str(error)}), 303)
    return page.save(taken, about=page.units, merged=True)


def kept_picture(job_id: int, phase: Phase, step: str) -> Pictured:
    """The picture sent, kept; PhotoError for none, or one that can't be read."""
    sent = request.files.get("picture")
    photo = read_photo(sent.read() if sent else b"")
    return Pictured(pictures.keep(writable(), job_id, photo.jpeg, photo.small), phase, step)


@bp.get("/jobs/<int:job_id>/pictures/<int:number>.jpg")
def picture(job_id: int, number: int) -> FlaskResponse:
    """A picture of a job; ?small=1 for a small one."""
    jpeg = pictures.picture(session(), job_id, number, bool(request.args.get("small")))
    if jpeg is None:
        abort(404)
    return FlaskResponse(
        jpeg, mimetype="image/jpeg", headers={"Cache-Control": "private, max-age=31536000"}
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/<any(fit, prove):stage>/tray")
def tray(job_id: int, scope: Scope, stage: str) -> Response:
    """Accounts for one group of fasteners: all back, one more back, one lost or broken, where they
    lie.
    """
    page = open_stage(job_id, scope, Stage(stage))
    back = stage_url(job_id, scope, Stage(stage))
    known = {line.id: line for line in build_tray(page.record, page.units).lines}
    line = known.get(request.form.get("row", ""))
    if line is None:
        after_save("Those fasteners are on this way in no more. Nothing was changed.")
        return redirect(back, 303)
    if request.form.get("stood", line.state) != line.state:
        after_save(f"Somebody counted them meanwhile: {line.state}. Look, then press again.")
        return redirect(back, 303)
    what, note = request.form.get("do", ""), request.form.get("note", "").strip()[:LONGEST_NOTE]
    if what == "count":
        return _count(line, job_id, back, note)
    entry = counted(line.row, what, note)
    if entry:
        jobs.append(writable(), job_id, entry, line.owners)
        writable().commit()
    return redirect(back, 303)


def _count(line: TrayLine, job_id: int, back: str, typed: str) -> Response:
    """How many there were of what the plan told a range of, now that they are in hand."""
    number = whole(typed)
    if not number or number > MOST_FASTENERS:
        after_save(f"“{typed}” is no count: type how many {line.row.fasteners.kind} came out.")
        return redirect(back, 303)
    entry = replace(line.row.said, counted=number)
    jobs.append(writable(), job_id, entry, line.owners)
    writable().commit()
    return redirect(back, 303)


def counted(row: TrayRow, what: str, note: str) -> FastenerBack | None:
    """The entry for one button of a group; None where nothing is loose or the button says
    nothing.
    """
    if what not in ("all", "one", "lost", "broken", "ordered", "lies") or not (
        row.loose or what == "ordered"
    ):
        return None
    counts = row.said
    gone = what in ("lost", "broken")
    return FastenerBack(
        row.step,
        row.fasteners.kind,
        {"all": counts.back + row.loose, "one": counts.back + 1}.get(what, counts.back),
        counts.noted + gone,
        note if gone and note else counts.note,
        row.fasteners.place,
        counts.broken + (what == "broken"),
        counts.ordered or what == "ordered",
        note if what == "lies" else counts.lies,
        counts.counted,
    )
