"""The bench: try a source in a housing, freely; see the wall, the road, the section, the numbers;
keep and compare.
"""

from __future__ import annotations

import base64
import math
from dataclasses import asdict
from pathlib import PurePath
from typing import Any

from flask import Blueprint, Response, abort, flash, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage
from werkzeug.wrappers import Response as AnyResponse

from cold_arc.core import units
from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.beam import model, nominal
from cold_arc.core.beam.derived import meter_lux, wall_place, yardsticks
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.report import beam_of, report_of, report_on, rough_of, yardstick_for
from cold_arc.core.beam.setup import FACTS, SetUp, SetUpError
from cold_arc.core.car.lamps import Traffic
from cold_arc.formats import READERS, WRITERS, picture
from cold_arc.formats import road as road_view
from cold_arc.formats.onto_grid import to_beam
from cold_arc.store import bench as kept
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields as form_fields
from cold_arc.web.forms.plain_numbers import bounded, whole
from cold_arc.web.parts.beam_wall import (
    build_beam_wall,
    measured_line,
    picture_url,
    seat_urls,
    yardstick_marks,
)
from cold_arc.web.parts.ray_section import build_ray_section
from cold_arc.web.parts.wall import View, Wall, WallPoint
from cold_arc.web.setup_query import parse_setup, query
from cold_arc.web.shell.db import session, writable

bp = Blueprint("bench", __name__)
MOST_COMPARED = 3
LONGEST_NAME = 80
# What a picture of a wall may show: how far off its middle, m; how small; how tall for its width;
# how many lamps.
FARTHEST_M, LEAST_FRAME_M, MOST_TALL, MOST_LAMPS = 100.0, 0.05, 2.0, 4
# While a slider is dragged: source elements, and pixels across.
COARSE_POINTS, COARSE_ACROSS = 120, 400
# How far a slider goes, and its step: less than the field may hold, for what one tries by hand.
SLIDERS = {
    "clock": (-180, 180, 1),
    "axial": (-5, 5, 0.1),
    "radial_x": (-3, 3, 0.1),
    "radial_y": (-3, 3, 0.1),
    "tilt": (-10, 10, 0.5),
    "haze": (0, 1, 0.05),
}
SOURCE_FIELDS = (
    *("faces", "rows", "gap", "width", "length", "uneven", "flux", "droop"),
    *("volts", "rated_volts", "focus", "aim_v", "aim_h", "cct"),
)
HOUSING_FIELDS = ("focal", "opening", "opening_up", "hole", "gain", "widen")
EXPORTS = {".ies": "IES", ".ldt": "EULUMDAT", ".csv": "CSV", ".png": "PNG", ".svg": "SVG"}
MIME = {
    ".ies": "text/plain",
    ".ldt": "text/plain",
    ".csv": "text/csv",
    ".png": "image/png",
    ".svg": "image/svg+xml",
}
DEFAULT = SetUp(source="led")


@bp.get("/bench")
@in_turn
def page() -> ResponseReturnValue:
    """The bench at the set-up of the query."""
    errors: dict[str, str] = {}
    meanings: tuple[units.Meaning, ...] = ()
    try:
        setup = parse_setup(request.args) if request.args else DEFAULT
    except SetUpError as error:
        errors[error.field], meanings, setup = str(error), error.meanings, None
    typed = {
        **{name: _typed(value) for name, value in asdict(setup or DEFAULT).items()},
        **request.args.to_dict(),
    }
    context: dict[str, object] = {
        "setup": setup,
        "typed": typed,
        "errors": errors,
        "warm": model.is_warm(),
    }
    if setup and context["warm"]:
        context |= _results(setup)
    return render_template(
        "bench.html",
        **context,
        meanings=meanings,
        bases={name: name for name in nominal.BEAM_BASES},
        facts=FACTS,
        sliders=SLIDERS,
        source_fields=SOURCE_FIELDS,
        housing_fields=HOUSING_FIELDS,
        exports=EXPORTS,
        kept=kept.kept_setups(session()),
        query=query(setup) if setup else "",
    ), 422 if errors else 200


def warm() -> None:
    """Readies the computation and the bench's first set-up; takes a compiler's time on a new
    machine.
    """
    model.warm()
    for setup in (DEFAULT, DEFAULT.reference()):
        report_of(setup)


def _typed(value: object) -> str:
    if isinstance(value, bool):
        return "1" if value else ""
    return (
        ""
        if value is None
        else units.write_figure(value)
        if isinstance(value, float)
        else str(value)
    )


def _results(setup: SetUp) -> dict[str, object]:
    """Everything shown of a set-up."""
    return {
        "numbers": report_of(setup),
        "nominal": report_of(setup.reference()),
        "findings": beam_findings.findings(setup),
        "wall": _wall(setup),
        "section": build_ray_section(setup),
        "road_url": f"{url_for('bench.road')}?{query(setup)}",
        "seat_urls": seat_urls(setup.reference(), setup),
        "look": _look(),
    }


def _look() -> dict[str, Any]:
    """How the wall is shown: exposure, scale, contours, points, distance."""
    args = request.args
    exposure = bounded(args.get("exposure"), -6.0, 6.0, 0.0)
    return {
        "exposure": exposure,
        "log": args.get("log") == "1",
        "contours": args.get("contours") == "1",
        "points": args.get("points") == "1",
        "grid": args.get("grid", "deg"),
    }


def _distance_m() -> float:
    """How far the wall is; what is not understood is the usual distance."""
    try:
        return form_fields.WALL_DISTANCE.read(
            request.args.get("distance", ""), form_fields.unit_system(), {}
        )
    except units.NotUnderstoodError:
        return picture.VIEW_DISTANCE_M


def _view() -> View:
    """The wall's scales: degrees, or lengths where those were asked for."""
    return View(form_fields.unit_system(), degrees=request.args.get("grid") != "length")


def _wall(setup: SetUp) -> Wall:
    look, distance_m = _look(), _distance_m()
    shown = {
        "exposure": look["exposure"],
        "log": int(look["log"]),
        "contours": int(look["contours"]),
    }
    points: tuple[WallPoint, ...] = ()
    if look["points"]:
        table = yardsticks()[yardstick_for(setup)]
        flip = -1.0 if setup.traffic == Traffic.LEFT and table["mirrored"] else 1.0
        points = yardstick_marks(table["points"], report_of(setup).test_points, flip, distance_m)
    return build_beam_wall(
        setup.built_housing().cut_off,
        _view(),
        distance_m,
        points,
        before=picture_url(setup.reference(), **shown),
        after=picture_url(setup, **shown),
        found_line=measured_line(beam_of(setup.reference()), distance_m),
        left_line=measured_line(beam_of(setup), distance_m),
    )


def _asked() -> SetUp:
    """The set-up of the query, or an end to the request."""
    if not model.is_warm():
        abort(503)
    try:
        return parse_setup(request.args)
    except SetUpError:
        abort(404)


@bp.get("/bench/beam.png")
@in_turn
def beam() -> Response:
    """The beam's picture: one lamp's usual view, or the part of a wall and the lamps the address
    tells.
    """
    setup, look = _asked(), _look()
    where: dict[str, Any] = {}
    if "frame" in request.args:
        where = {
            "frame": _frame(),
            "lamps": _lamps(),
            "distance_m": bounded(request.args.get("at"), 0.3, 100.0, 10.0),
        }
    tone = (look["exposure"], look["log"], look["contours"])
    if request.args.get("coarse") == "1":
        rough = rough_of(setup, COARSE_POINTS)
        return _picture(picture.render(rough, *tone, **where, across=COARSE_ACROSS))
    return _picture(picture.render(beam_of(setup), *tone, **where))


def _figures(text: str, count: int) -> list[float]:
    """Figures parted by commas, as this program writes them in its own addresses; 404 for anything
    else.
    """
    figures = [bounded(part, -FARTHEST_M, FARTHEST_M, math.nan) for part in text.split(",")]
    if len(figures) != count or any(map(math.isnan, figures)):
        abort(404)
    return figures


def _frame() -> picture.Frame:
    frame = picture.Frame(*_figures(request.args["frame"], 4))
    width, height = frame.right - frame.left, frame.bottom - frame.top
    if not (width > LEAST_FRAME_M and LEAST_FRAME_M < height <= MOST_TALL * width):
        abort(404)
    return frame


def _lamps() -> list[picture.LampAxis]:
    lamps = request.args.get("lamps", "").split(";")
    if len(lamps) > MOST_LAMPS:
        abort(404)
    return [picture.LampAxis(*_figures(text, 4)) for text in lamps]


@bp.get("/bench/road.png")
@in_turn
def road() -> Response:
    """The road from above."""
    setup = _asked()
    return _picture(road_view.from_above(beam_of(setup)))


def _picture(pixels: bytes) -> Response:
    """A picture's answer: the same address always gives the same picture, so the browser may keep
    it a while.
    """
    return Response(
        pixels, mimetype="image/png", headers={"Cache-Control": "private, max-age=3600"}
    )


@bp.get("/bench/seat.png")
@in_turn
def seat() -> Response:
    """The road as the driver sees it."""
    setup = _asked()
    return _picture(road_view.from_the_seat(beam_of(setup), setup.traffic))


@bp.get("/bench/probe")
@in_turn
def probe() -> str:
    """Candela and lux towards one direction: a fragment."""
    setup = _asked()
    h, v = (bounded(request.args.get(name), -45.0, 45.0, math.nan) for name in ("h", "v"))
    if math.isnan(h + v):
        abort(404)
    distance_m = _distance_m()
    candela, old = float(beam_of(setup).at(h, v)), float(beam_of(setup.reference()).at(h, v))
    return render_template(
        "fragments/probe.html",
        h=h,
        v=v,
        candela=candela,
        old=old,
        lux=meter_lux(beam_of(setup), *wall_place(h, v, distance_m), distance_m),
        distance_m=distance_m,
    )


@bp.get("/bench/export<suffix>")
@in_turn
def export(suffix: str) -> Response:
    """The beam as a file."""
    setup = _asked()
    if suffix == ".svg":
        data: str | bytes = render_template(
            "export.svg", wall=_wall(setup), image=_inline(setup), setup=setup
        )
    elif suffix in WRITERS:
        data = WRITERS[suffix](beam_of(setup), f"{setup.base} {setup.source} in {setup.housing}")
    else:
        abort(404)
    name = f"beam-{setup.base}-{setup.housing}-{setup.source}{suffix}"
    return Response(
        data,
        mimetype=MIME[suffix],
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


def _inline(setup: SetUp) -> str:
    """The beam's picture as a data address, so that the file stands alone."""
    return "data:image/png;base64," + base64.b64encode(picture.render(beam_of(setup))).decode()


@bp.post("/bench/keep")
def keep() -> AnyResponse:
    """Keeps the set-up under a name."""
    name = request.form.get("name", "").strip()
    try:
        setup = parse_setup(request.form)
    except SetUpError:
        abort(404)
    if not name or len(name) > LONGEST_NAME:
        flash(f"Give the set-up a name of up to {LONGEST_NAME} characters.")
    else:
        kept.keep_setup(writable(), name, setup)
        writable().commit()
        flash(f"Kept as “{name}”.")
    return redirect(f"{url_for('bench.page')}?{query(setup)}", 303)


@bp.post("/bench/<int:setup_id>/drop")
def drop(setup_id: int) -> AnyResponse:
    """Forgets a kept set-up."""
    kept.drop_setup(writable(), setup_id)
    writable().commit()
    return redirect(url_for("bench.page"), 303)


@bp.route("/bench/file", methods=["GET", "POST"])
@in_turn
def file() -> ResponseReturnValue:
    """Lays a photometric file on the wall and measures it; nothing is kept."""
    upload, error, context = request.files.get("file"), "", {}
    traffic, high = (
        Traffic.LEFT if request.form.get("traffic") == "left" else Traffic.RIGHT,
        request.form.get("high") == "1",
    )
    if request.method == "POST":
        try:
            context = _laid_out(upload, traffic, high)
        except ValueError as wrong:
            error = str(wrong)
    return render_template(
        "bench_file.html", error=error, traffic=traffic, high=high, readers=READERS, **context
    ), 422 if error else 200


def _laid_out(upload: FileStorage | None, traffic: Traffic, high: bool) -> dict[str, object]:
    """What the page shows of a file; ValueError, in words, for one that can't be read."""
    name = (upload.filename or "") if upload else ""
    suffix = PurePath(name).suffix.lower()
    if upload is None or suffix not in READERS:
        raise ValueError(f"Choose a file that ends in {' or '.join(READERS)}.")
    beam = to_beam(READERS[suffix](upload.read()), traffic, high)
    if beam.flux_lm <= 0:
        raise ValueError("The file holds no light within 45° across and 20° down.")
    shown = picture.render(beam)
    image = "data:image/png;base64," + base64.b64encode(shown).decode()
    line = measured_line(beam)
    wall = build_beam_wall(
        CutOff("none"), View(form_fields.unit_system(), degrees=True), after=image, left_line=line
    )
    return {"name": name, "numbers": report_on(beam, traffic), "wall": wall}


@bp.get("/bench/compare")
@in_turn
def compare() -> ResponseReturnValue:
    """Up to three kept set-ups side by side."""
    known = kept.kept_setups(session())
    chosen = [
        known[number] for text in request.args.getlist("id") if (number := whole(text)) in known
    ]
    columns = []
    if model.is_warm():
        columns = [
            {"name": name, "setup": setup, "query": query(setup), **_results(setup)}
            for name, setup in chosen[:MOST_COMPARED]
        ]
    return render_template("bench_compare.html", columns=columns, kept=known, warm=model.is_warm())
