"""Aim by photographs of the wall: taken, marked, measured, laid over one another; recorded as an
aim when wished.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from flask import Blueprint, abort, redirect, request, url_for
from flask import Response as FlaskResponse
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import FieldList, Form, FormField, HiddenField, RadioField

from cold_arc.core.beam.report import beam_of
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.entries.aim import Aimed, OriginalsDeleted, WallPhotographed
from cold_arc.core.job.entries.kind import AIM_PHASES, AimPhase
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import say_offset
from cold_arc.core.units.quantities import Distance, Offset, Quantity
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.isolux import LuxReading
from cold_arc.formats import photo
from cold_arc.formats.photo import PhotoError
from cold_arc.store import jobs, pictures
from cold_arc.web.forms import fields
from cold_arc.web.job.aim import wall_photos
from cold_arc.web.job.aim.examining import (
    Examined,
    Photographed,
    examined,
    examined_again,
    simulated_photo,
)
from cold_arc.web.job.aim.in_use import in_use, usual
from cold_arc.web.job.aim.photo_wall import figures, findings_of, photo_wall
from cold_arc.web.job.aim.wall import axis_m, floor_of
from cold_arc.web.job.front_builder import TAP, is_tap
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.job.wall_light import modelled, turned_deg
from cold_arc.web.scope import Scope
from cold_arc.web.shell.apart import TooHeavyError, apart
from cold_arc.web.shell.db import session, writable

bp = Blueprint("aim_photo", __name__)
TINTS = {"found": (255, 190, 110), "left": (225, 236, 255)}
LEAST_MARKS, MOST_MARKS = 4, 12
# Where crosses are put on a wall, as a rule: m right of the lamp's centre line and up from the
# floor.
USUAL_CROSSES = ((-1.3, 1.2), (1.3, 1.2), (-1.3, 0.15), (1.3, 0.15))
ACROSS = Offset(-5, 5, id="mark-across")
UP = Distance(0, 5, id="mark-up")
CALIBRATION = Quantity(0.1, 200_000, "lx")


class TakenForm(FlaskForm):
    """A photograph to keep: of which lamp, when, where the wall is; the axis as the wall was laid,
    if not told.

    It is put in beforehand where it is one height for both lamps at any distance.
    """

    lamp = RadioField("Lamp")
    phase = fields.one_of("Taken", AIM_PHASES, AimPhase.FOUND)
    distance = fields.distance("Distance, lamp to wall", 1, 40)
    height = fields.distance("Lamp's axis above the floor", 0.2, 3, required=False)

    def axis_of(self, page: StagePage, key: BeamKey) -> float:
        """How high the lamp's axis meets the wall."""
        return float(self.height.data or axis_m(page, key, self.distance.data))


class MarkForm(Form):
    """One mark: where it is in the picture, and on the wall."""

    px = HiddenField()
    across = fields.TypedField("Right of the lamp's centre line", ACROSS)
    up = fields.TypedField("Up from the floor", UP)

    def mark(self) -> PhotoMark | None:
        """The mark; None, with the field marked, where it was not placed."""
        try:
            u, v = (float(number) for number in (self.px.data or "").split(","))
        except ValueError:
            self.across.errors = ["Put its cross on the picture."]
            return None
        return PhotoMark((u, v), (100 * self.across.data, 100 * self.up.data))


class MarksForm(FlaskForm):
    """The marks of one photograph; a meter's reading, if one was taken."""

    marks = FieldList(FormField(MarkForm), min_entries=LEAST_MARKS, max_entries=MOST_MARKS)
    lux = fields.TypedField("Meter read", CALIBRATION, required=False)
    lux_across = fields.TypedField("Right of the lamp's centre line", ACROSS, required=False)
    lux_up = fields.TypedField("Up from the floor", UP, required=False)

    def reading(self) -> LuxReading | None:
        """The meter's reading; None where there is none."""
        if self.lux.data is None or self.lux_across.data is None or self.lux_up.data is None:
            return None
        return LuxReading(self.lux.data, (100 * self.lux_across.data, 100 * self.lux_up.data))

    def told(self) -> list[PhotoMark] | None:
        """The marks; None where one is missing."""
        if not self.validate() or not self._reading_is_whole():
            return None
        marks = [mark for entry in self.marks if (mark := entry.form.mark())]
        return marks if len(marks) == len(self.marks) else None

    def _reading_is_whole(self) -> bool:
        """Whether a meter's reading has its place, and a place its reading; else said beside it."""
        place = (self.lux_across, self.lux_up)
        unsaid = [figure for figure in place if figure.data is None]
        if self.lux.data is not None and unsaid:
            unsaid[0].errors = ["Say where it was held."]
            return False
        if self.lux.data is None and len(unsaid) < len(place):
            self.lux.errors = ["Say what it read."]
            return False
        return True


def taken_of(page: StagePage) -> dict[int, tuple[BeamKey, WallPhotographed]]:
    """The photographs of the lamps in scope, each as it was recorded last, by the number of the
    picture shown.
    """
    beams = page.beams_alike
    return {
        photograph.shown: (key, photograph)
        for key in beams
        for photograph in page.record.all(WallPhotographed, key)
    }


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim/photo", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The photographs taken, and one more."""
    page = open_stage(job_id, scope, Stage.AIM)
    if not page.beams:
        return page.render((), template="aim-photo", form=None)
    beams = page.beams_alike
    known = usual(page, beams)
    axes = {key.side: axis_m(page, key, known["distance"]) for key in beams}
    form = TakenForm(data=known | {"height": _one_axis(page, beams, axes)})
    form.lamp.choices = fields.choices({str(key): key.side.value.capitalize() for key in beams})
    wrong = ""
    if form.validate_on_submit():
        key = next(key for key in beams if str(key) == form.lamp.data)
        try:
            return redirect(_take(page, key, form), 303)
        except (PhotoError, TooHeavyError) as error:
            wrong = str(error)
    return page.render(
        (),
        ["glare"],
        template="aim-photo",
        form=form,
        taken=taken_of(page),
        wrong=wrong,
        phases=AIM_PHASES,
        axes_laid=", ".join(
            f"{side.value} {say_offset(axis_m, fields.unit_system())}"
            for side, axis_m in axes.items()
        ),
    )


def _one_axis(page: StagePage, beams: Sequence[BeamKey], axes: dict[Side, float]) -> float | None:
    """The lamps' axis where it is one height at any distance, m."""
    stands_alike = len(set(axes.values())) == 1 and floor_of(page, beams) is None
    return axes[beams[0].side] if stands_alike else None


def _take(page: StagePage, key: BeamKey, form: TakenForm) -> str:
    """Keeps what was sent; measures it at once where the printed target is seen. Returns where to
    go on.
    """
    simulated = request.form.get("camera") == "simulated"
    files = (
        [_simulated(page, key, form)]
        if simulated
        else [upload.read() for upload in request.files.getlist("photos")]
    )
    new = WallPhotographed(
        AimPhase(form.phase.data),
        (),
        form.distance.data,
        form.axis_of(page, key),
        simulated=simulated,
    )
    came = apart(examined, files, new, _of(page, key))
    writable(anyway=True)
    new = wall_photos.kept(page, came)
    jobs.append(writable(), page.job.id, new, [key])
    writable().commit()
    if came.why:
        after_save(came.why)
    return url_for("aim_photo.one", job_id=page.job.id, scope=page.scope, number=new.shown)


def _of(page: StagePage, key: BeamKey) -> Photographed:
    """What is photographed, by the rule in use."""
    line = in_use(page, key).here.rule.line
    return Photographed(key.side, key.function, page.market.traffic, line)


def _simulated(page: StagePage, key: BeamKey, form: TakenForm) -> bytes:
    """What a simulated camera sees of the lamp as it is modelled, aimed as it was read last, its
    target hung up.
    """
    present, chosen = modelled(page, key)
    setup = present if form.phase.data == AimPhase.FOUND else chosen or present
    if setup is None:
        raise PhotoError("This lamp can't be modelled: no simulated camera sees it.")
    aimed = page.record.aimed(key, AimPhase(form.phase.data)) or page.record.aimed(
        key, AimPhase.FOUND
    )
    turned = turned_deg(setup, aimed.slope, aimed.sideways) if aimed else (0.0, 0.0)
    wall = form.distance.data, form.axis_of(page, key)
    return apart(simulated_photo, beam_of(setup), wall, turned, key.side)


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim/photo/<int:number>", methods=["GET", "POST"])
def one(job_id: int, scope: Scope, number: int) -> ResponseReturnValue:
    """One photograph: its marks, what it says, another laid over it."""
    page = open_stage(job_id, scope, Stage.AIM)
    taken = taken_of(page) if page.beams else {}
    if number not in taken:
        abort(404)
    key, photograph = taken[number]
    form = MarksForm(data=None if request.method == "POST" else _form_of(photograph))
    here = url_for("aim_photo.one", job_id=job_id, scope=scope, number=number)
    wrong = ""
    done = {"aim": _record_aim, "delete": _delete_originals}.get(request.form.get("do", ""))
    if done:
        return done(page, key, photograph, here)
    if is_tap():
        _tapped(form, photograph)
    elif request.method == "POST" and (marks := form.told()):
        came = _again(page, key, photograph, _marked(form, photograph, marks))
        if not came.why:
            page.refuse_stale([(came.taken, frozenset([key]))])  # before anything is written
            return page.save(wall_photos.kept(page, came), about=[key], back=here, merged=True)
        wrong = came.why
    other = taken.get(request.args.get("with", 0, type=int), (None, None))[1]
    return page.render(
        findings_of(page, key, photograph),
        ["glare"],
        template="aim-photo-one",
        form=form,
        photograph=photograph,
        key=key,
        wall=photo_wall(page, key, photograph, other) if photograph.found else None,
        other=other,
        here=here,
        figures=figures(photograph),
        taken=taken,
        wrong=wrong,
        has_originals=wall_photos.has_originals(page, photograph),
        phases=AIM_PHASES,
    )


def _again(
    page: StagePage, key: BeamKey, photograph: WallPhotographed, marked: WallPhotographed
) -> Examined:
    """A photograph measured by other marks; as it was, with the reason, where it can't be."""
    originals = wall_photos.originals(page, photograph)
    if not originals:
        why = "The picture as it came from the camera was deleted: it can't be measured again."
        return Examined(photograph, why=why)
    try:
        return apart(examined_again, originals, marked, _of(page, key))
    except (PhotoError, TooHeavyError) as error:
        return Examined(photograph, why=str(error))


def _marked(
    form: MarksForm, photograph: WallPhotographed, marks: Sequence[PhotoMark]
) -> WallPhotographed:
    """The photograph by the marks sent, or by the printed target's, with the meter's reading."""
    if request.form.get("do") == "target":
        return replace(photograph, lux=form.reading())
    return replace(photograph, marks=tuple(marks), lux=form.reading(), by_target=False)


def _tapped(form: MarksForm, photograph: WallPhotographed) -> None:
    """One more mark, in the middle of the picture, or one fewer."""
    if request.form[TAP] == "mark" and len(form.marks) < MOST_MARKS:
        form.marks.append_entry({"px": f"{photograph.across / 2:.2f},{photograph.down / 2:.2f}"})
    elif request.form[TAP] == "fewer" and len(form.marks) > LEAST_MARKS:
        form.marks.pop_entry()


def _form_of(photograph: WallPhotographed) -> dict[str, object]:
    """A photograph's marks as the form holds them; the usual crosses, near the corners, where there
    are none yet.
    """
    corners = [(0.14, 0.12), (0.86, 0.12), (0.14, 0.88), (0.86, 0.88)]
    start = [
        PhotoMark((u * photograph.across, v * photograph.down), (100 * x, 100 * y))
        for (u, v), (x, y) in zip(corners, USUAL_CROSSES, strict=True)
    ]
    marks = photograph.marks if photograph.marks and not photograph.by_target else start
    values: dict[str, object] = {"marks": [_row(mark) for mark in marks]}
    if photograph.lux:
        values |= {
            "lux": photograph.lux.lux,
            "lux_across": photograph.lux.wall_cm[0] / 100,
            "lux_up": photograph.lux.wall_cm[1] / 100,
        }
    return values


def _row(mark: PhotoMark) -> dict[str, object]:
    (u, v), (x, y) = mark.px, mark.wall_cm
    return {"px": f"{u:.2f},{v:.2f}", "across": x / 100, "up": y / 100}


def _delete_originals(
    page: StagePage, key: BeamKey, photograph: WallPhotographed, here: str
) -> Response:
    """The pictures as they came from the camera deleted, with an entry that says so."""
    gone = pictures.delete_originals(writable(), page.job.id, photograph.pictures)
    if not gone:
        after_save("They are deleted already, or were never kept. Nothing was changed.")
        return redirect(here, 303)
    after_save("Deleted. What was measured in them stays; it can't be measured again.")
    return page.save(OriginalsDeleted(photograph.shown, gone), about=[key], back=here, merged=True)


def _record_aim(page: StagePage, key: BeamKey, photograph: WallPhotographed, _: str) -> Response:
    """What a photograph says, recorded as one reading of the aim."""
    aimed = aim_of(page, key, photograph)
    if aimed is None:
        abort(404)
    answer = page.save(aimed, about=[key])
    after_save("Recorded as the aim.")
    return answer


def aim_of(page: StagePage, key: BeamKey, photograph: WallPhotographed) -> Aimed | None:
    """The reading of aim a measured photograph gives: the cut-off's height, the elbow's or hot
    spot's side.
    """
    if photograph.found is None:
        return None
    return in_use(page, key).aimed(
        photograph.phase,
        photograph.distance_m,
        *photograph.found.aim_slopes,
        "from a photograph",
        photograph.simulated,
    )


@bp.get("/jobs/<int:job_id>/wall-picture/<int:number>.jpg")
def wall_picture(job_id: int, number: int) -> FlaskResponse:
    """A photograph laid flat on the wall, in the colour of its phase."""
    tint = TINTS.get(request.args.get("phase", ""))
    data = pictures.picture(session(), job_id, number, small=False)
    if tint is None or data is None:
        abort(404)
    headers = {"Cache-Control": "private, max-age=31536000"}
    return FlaskResponse(photo.tinted(data, tint), mimetype="image/jpeg", headers=headers)
