"""Aim's wall: what to tape and hang where, on a level floor or one measured; kept with the job."""

from __future__ import annotations

from collections.abc import Sequence

from flask import Blueprint, Response, abort, render_template, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import Field

from cold_arc.core import law
from cold_arc.core.aim.taping import (
    CHECKS,
    LEVEL,
    Floor,
    FloorError,
    Tape,
    TapedLamp,
    floor_findings,
    height_on_wall_m,
    lamp_right_m,
    taping,
)
from cold_arc.core.beam.focusing import focus_of
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding
from cold_arc.core.job import stand
from cold_arc.core.job.entries.aim import Readied, WallLaid, target_of
from cold_arc.core.job.outcome import readied
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import say_distance, say_offset
from cold_arc.core.wallphoto.wall_target import PAPERS, WallTarget
from cold_arc.formats.wall_target import to_pdf, to_svg
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.job.aim.in_use import in_use, usual
from cold_arc.web.job.aim.rules_here import Here, rules_here
from cold_arc.web.job.aim.standing import HINTS as STANDING_HINTS
from cold_arc.web.job.aim.standing import StandingForm
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.job.wall_light import modelled_now
from cold_arc.web.scope import Scope

bp = Blueprint("aim_wall", __name__)
HINTS = STANDING_HINTS | {
    "rear": "0",
    "front": "+12",
    "wall": "−5",
    "rear_right": "as the left",
    "front_right": "as the left",
    "wall_right": "as the left",
    "wheelbase": "2.6 m",
    "overhang": "0.8 m",
    "track": "1.5 m",
}
HEIGHTS = ("rear", "rear_right", "front", "front_right", "wall", "wall_right")
LENGTHS = ("wheelbase", "overhang", "track")


class WallForm(StandingForm):
    """The lamps, the wall, and the floor where it is not level."""

    rear = fields.number("Left rear wheel, mm up", -300, 300, "mm", required=False)
    rear_right = fields.number("Right rear wheel, if otherwise", -300, 300, "mm", required=False)
    front = fields.number("Left front wheel, mm up", -300, 300, "mm", required=False)
    front_right = fields.number("Right front wheel, if otherwise", -300, 300, "mm", required=False)
    wall = fields.number("Wall below the left lamp, mm up", -300, 300, "mm", required=False)
    wall_right = fields.number(
        "Wall below the right lamp, if otherwise", -300, 300, "mm", required=False
    )
    wheelbase = fields.distance("Wheelbase", 1, 6, required=False)
    overhang = fields.distance("Front axle to lamps", 0.1, 2, required=False)
    track = fields.distance("Track, wheel to wheel", 0.8, 3, required=False)

    def typed(self) -> dict[str, str]:
        """What was typed into it, by field."""
        typed = (field for field in self if isinstance(field, fields.TypedField))
        return {field.name: field.typed for field in typed if field.typed}

    def floor(self) -> Floor | None:
        """The floor as measured; None, with the field marked, where it can't be."""
        values = {
            f"{name}_m": self[name].data / (1000 if name in HEIGHTS else 1)
            for name in (*HEIGHTS, *LENGTHS)
            if self[name].data is not None
        }
        try:
            floor = Floor(**values)
        except FloorError as error:
            self[error.field].errors = [str(error)]
            return None
        if floor.by_side and self.spacing.data is None:
            self.spacing.errors = [
                "Say how far apart the lamps are: left and right stand on other floor."
            ]
            return None
        return floor

    @property
    def floor_rows(self) -> list[list[Field]]:
        """The floor's fields as they are laid: left and right by each other, the lengths last."""
        names = [*(HEIGHTS[start : start + 2] for start in range(0, len(HEIGHTS), 2)), LENGTHS]
        return [[self[name] for name in row] for row in names]


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim/wall", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The taping of the wall for one function's lamps; kept with the job when asked."""
    page = open_stage(job_id, scope, Stage.AIM)
    if not page.beams:
        return page.render((), template="aim-wall", form=None)
    rules = rules_here(page, page.beams[0])
    asked = request.method == "POST"
    form = WallForm(data=None if asked else _known(page))
    form.offer(rules, page.beams_alike)
    here = rules.get(form.rule.data) or next(iter(rules.values()))
    laid = _laid(form, here, asked)
    if asked and laid:
        after_save("The wall is kept with the job.")
        return page.save(laid, about=page.beams, back=request.path)
    sides = [key.side for key in page.beams_alike]
    return page.render(
        _findings(page, laid),
        ["glare"],
        template="aim-wall",
        form=form,
        hints=HINTS,
        told={"rule": here.rule.id} | form.typed(),
        rule=here.rule,
        laid=laid,
        tapes=_tapes(laid),
        checks=CHECKS,
        ready=readied(page.record, page.beams[0]),
        papers=PAPERS,
        sides=sides,
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/aim/ready")
def ready(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Keeps which of the list before aiming hold."""
    page = open_stage(job_id, scope, Stage.AIM)
    if not page.beams:
        abort(404)
    ticked = request.form.getlist("done")
    back = (
        url_for("aim_wall.page", job_id=job_id, scope=scope)
        if request.form.get("back") == "wall"
        else ""
    )
    return page.save(
        Readied(tuple(check for check in CHECKS if check in ticked)), about=page.beams, back=back
    )


def _known(page: StagePage) -> dict[str, object]:
    """The wall as it was kept or used last."""
    known = usual(page, page.beams)
    floor = floor_of(page, page.beams)
    lengths = {name: getattr(floor, f"{name}_m") for name in (*HEIGHTS, *LENGTHS)} if floor else {}
    return known | {
        name: value * (1000 if name in HEIGHTS else 1)
        for name, value in lengths.items()
        if value is not None
    }


def floor_of(page: StagePage, beams: Sequence[BeamKey]) -> Floor | None:
    """The floor as it was measured last for these lamps; None for a level one."""
    kept = [wall for key in beams for wall in page.record.all(WallLaid, key)]
    return kept[-1].floor if kept else None


def axis_m(page: StagePage, key: BeamKey, distance_m: float) -> float:
    """How high a lamp's axis meets a wall so far off, above the floor there."""
    now = in_use(page, key)
    right = lamp_right_m(key.side, now.spacing_m)
    return height_on_wall_m(now.height_m, 0.0, distance_m, floor_of(page, [key]) or LEVEL, right)


def _laid(form: WallForm, here: Here, asked: bool) -> WallLaid | None:
    """The wall as the form tells it; None, with its fields marked, where it can't be."""
    if asked and not form.validate():
        return None
    floor = form.floor()
    if floor is None or form.targets(here.rule) is None:
        return None
    left, right = (form.height_of(side) for side in Side)
    return WallLaid(
        here.base,
        left,
        form.distance.data,
        form.spacing.data,
        None if floor.level else floor,
        form.mark.data,
        here.own,
        right if right != left else None,
    )


def _findings(page: StagePage, laid: WallLaid | None) -> list[Finding]:
    """What to mind of the floor, and of each lamp's height."""
    if laid is None:
        return []
    beams, market, system = page.beams_alike, page.job.booking.market, fields.unit_system()
    function = beams[0].function
    heights = dict.fromkeys(laid.of(key.side).height_m for key in beams)
    mounted = (
        finding
        for height_m in heights
        for finding in law.mounting_words(market, function, height_m, system)
    )
    assumed = () if _is_told(page, laid) else stand.assumed_findings(page.record, beams, system)
    return [*(floor_findings(laid.floor) if laid.floor else ()), *mounted, *assumed]


def _is_told(page: StagePage, laid: WallLaid) -> bool:
    """Whether the form tells other figures than those assumed."""
    beams = page.beams_alike
    heights = [(laid.of(key.side).height_m, stand.height(page.record, key)) for key in beams]
    figures = [*heights, (laid.distance_m, stand.distance(page.record, beams))]
    return not any(fact.assumed and fact.value == figure for figure, fact in figures)


def _tapes(laid: WallLaid | None) -> list[Tape]:
    """What to tape; nothing where the form has errors."""
    if laid is None:
        return []
    lamps = {side: TapedLamp(laid.of(side).height_m, target_of(laid.of(side))) for side in Side}
    return list(
        taping(lamps, laid.spacing_m, laid.distance_m, fields.unit_system(), laid.floor or LEVEL)
    )


@bp.get("/jobs/<int:job_id>/<scope:scope>/aim/focus")
@in_turn
def focus(job_id: int, scope: Scope) -> str:
    """The image's size over the focus screw's travel, of a lens-optic lamp that can be modelled; ""
    for any other.
    """
    page = open_stage(job_id, scope, Stage.AIM)
    setup = modelled_now(page, page.beams[0]) if page.beams else None
    if setup is None or setup.housing != "lens-optic":
        return ""
    distance_m = usual(page, page.beams)["distance"]
    return render_template(
        "parts/focus.html", focus=focus_of(setup, distance_m), distance_m=distance_m
    )


@bp.get("/jobs/<int:job_id>/<scope:scope>/aim/target-<any(left, right):side>.<any(pdf, svg):kind>")
def target(job_id: int, scope: Scope, side: str, kind: str) -> Response:
    """One lamp's printed target, full size: PDF over several sheets, or SVG."""
    page = open_stage(job_id, scope, Stage.AIM)
    if not page.beams:
        abort(404)
    rules = rules_here(page, page.beams[0])
    form = WallForm(request.args, meta={"csrf": False})
    form.offer(rules, page.beams_alike)
    laid = _laid(form, rules.get(form.rule.data) or next(iter(rules.values())), asked=True)
    if laid is None:
        abort(404)
    laid, booking = laid.of(Side(side)), page.job.booking
    right = lamp_right_m(Side(side), laid.spacing_m)
    height = height_on_wall_m(laid.height_m, 0.0, laid.distance_m, laid.floor or LEVEL, right)
    printed = WallTarget(
        Side(side),
        target_of(laid),
        laid.distance_m,
        (
            f"{booking.reference}, {side} lamp, wall at "
            f"{say_distance(laid.distance_m, fields.unit_system())}"
        ),
        f"{say_offset(height, fields.unit_system())} from the floor",
    )
    if kind == "svg":
        return Response(to_svg(printed), mimetype="image/svg+xml")
    paper = PAPERS.get(request.args.get("paper", ""), PAPERS["A4"])
    return Response(to_pdf(printed, paper), mimetype="application/pdf")
