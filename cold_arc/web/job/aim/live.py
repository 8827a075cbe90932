"""Aim by a live camera: picture after picture, by the printed target, where the cut-off stands
while a screw is turned.

The camera is this device's own (a browser lends it to a page on a secure address or on the machine
itself), or a simulated one before simulated screws.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from urllib.parse import urlsplit

from flask import Blueprint, abort, current_app, jsonify, request
from flask import Response as FlaskResponse
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm

from cold_arc.core.aim.judging import judge, judge_sideways
from cold_arc.core.aim.rules import Target
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.stages import Stage
from cold_arc.core.wallphoto.camera import find_camera
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.measure import follow
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from cold_arc.core.wallphoto.wall_target import covered, find_marks
from cold_arc.devices.simulated_screws import SimulatedScrews
from cold_arc.devices.wall_camera import LiveCamera
from cold_arc.formats.photo import PhotoError, read_pixels
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.job.aim.in_use import in_use
from cold_arc.web.job.aim.wall import axis_m
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.job.wall_light import has_elbow, modelled_now, turned_deg
from cold_arc.web.parts.wall import View, WallLamp, draggable, pair_wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.guests import SECURE_PORT

bp = Blueprint("aim_live", __name__)
MOST_TURNS = 50.0


class LiveForm(FlaskForm):
    """What the live camera last said, to be recorded."""

    distance = fields.distance("Distance", 1, 40)
    stands = fields.slope("Cut-off stands")
    sideways = fields.sideways("Sideways")


def _open(job_id: int, scope: Scope) -> tuple[StagePage, BeamKey]:
    """The stage and the one lamp followed: the first in scope, or the one asked for."""
    page = open_stage(job_id, scope, Stage.AIM)
    beams = page.beams_alike
    key = next(
        (key for key in beams if str(key) == request.values.get("lamp")),
        beams[0] if beams else None,
    )
    return (page, key) if key else abort(404)


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim/live", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The Wall with the line that follows; what it says last, recorded as left."""
    page, key = _open(job_id, scope)
    now = in_use(page, key)
    form = LiveForm(data={"distance": now.distance_m})
    if form.validate_on_submit():
        typed = form.distance.data, form.stands.data, form.sideways.data
        simulated = request.form.get("camera") == "simulated"
        answer = page.save(
            now.aimed(AimPhase.LEFT, *typed, "by the live camera", simulated), about=[key]
        )
        after_save("Recorded as the aim.")
        return answer
    lamps = [WallLamp(key.side, now.height_m, target=now.target)]
    elbow, traffic = has_elbow(page, key), page.market.traffic
    wall = pair_wall(
        lamps, now.distance_m, View(fields.unit_system()), now.spacing_m, traffic, elbow
    )
    wall.live = draggable(
        wall, key.side, now.target.nominal if now.target else 0.0, 0.0, traffic, elbow
    )
    return page.render(
        (),
        ["glare"],
        template="aim-live",
        form=form,
        wall=wall.finished(),
        key=key,
        beams=page.beams_alike,
        distance_m=now.distance_m,
        can_simulate=modelled_now(page, key) is not None,
        secure=_secure_address(),
    )


def _secure_address() -> str:
    """This page on https, where that is served: a browser lends it the camera there."""
    port = current_app.config.get(SECURE_PORT)
    here = urlsplit(request.url)
    return here._replace(scheme="https", netloc=f"{here.hostname}:{port}").geturl() if port else ""


@bp.post("/jobs/<int:job_id>/<scope:scope>/aim/live/frame")
def frame(job_id: int, scope: Scope) -> FlaskResponse:
    """Where the cut-off stands in one picture: degrees, its place on the wall, in or out; or why it
    can't be told.
    """
    page, key = _open(job_id, scope)
    now = in_use(page, key)
    sent = request.files.get("frame")
    axis = axis_m(page, key, now.distance_m)
    hung = covered(key.side, 100 * axis)
    subject = Subject(
        now.distance_m, axis, key.function, page.market.traffic, hung, now.here.rule.line
    )
    try:
        pixels = read_pixels(sent.read() if sent else b"")
        camera = find_camera(
            find_marks(pixels, key.side, 100 * axis), (pixels.shape[1], pixels.shape[0])
        )
        slope, side = follow(light_of(pixels), camera, subject)
    except (PhotoUnusableError, PhotoError) as error:
        return jsonify(why=str(error))
    findings = list(_judged(now.target, slope, side, now.distance_m))
    aside = "" if side is None else f"{100 * side:+.2f}%"
    return jsonify(
        up=slope,
        right=side,
        words=[f"{finding.number}. {finding.words}" for finding in findings],
        stands=f"{100 * slope:+.2f}%",
        level=max((finding.level for finding in findings), default=Level.NOTE).word,
        sideways=aside,
    )


def _judged(
    target: Target | None, slope: float, side: float | None, distance_m: float
) -> Iterator[Finding]:
    """What the rule says of where a beam stands."""
    if target is None:
        return
    yield judge(target, slope, distance_m, fields.unit_system())
    if side is not None:
        yield judge_sideways(target, side, distance_m, fields.unit_system())


@lru_cache(maxsize=4)
def _camera(setup: SetUp, distance_m: float, axis_m: float, side: Side) -> LiveCamera:
    return LiveCamera(beam_of(setup), distance_m, axis_m, side)


@bp.get("/jobs/<int:job_id>/<scope:scope>/aim/live/simulated.jpg")
@in_turn
def simulated(job_id: int, scope: Scope) -> FlaskResponse:
    """What a simulated camera sees after so many turns of two simulated screws."""
    page, key = _open(job_id, scope)
    setup = modelled_now(page, key)
    if setup is None:
        abort(404)
    now, screws = in_use(page, key), SimulatedScrews()
    screws.turn(*(_turns(request.args.get(name, "0")) for name in ("height", "side")))
    axis = axis_m(page, key, now.distance_m)
    taken = _camera(setup, now.distance_m, axis, key.side).frame(
        turned_deg(setup, screws.up, screws.right)
    )
    headers = {"Cache-Control": "no-store"}
    return FlaskResponse(taken, mimetype="image/jpeg", headers=headers)


def _turns(text: str) -> float:
    try:
        turns = float(text)
    except ValueError:
        abort(404)
    return turns if abs(turns) <= MOST_TURNS else abort(404)
