"""A photograph of the wall read further: this lamp's own housing from the light of its own source,
and from the light after, how the new bulb sits in it.

The computation runs beside the pages; what it says is recorded when somebody keeps it.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from flask import Blueprint, abort, current_app, redirect, request, send_file, url_for
from flask.typing import ResponseReturnValue
from werkzeug.wrappers import Response

from cold_arc.core.beam import model, slices
from cold_arc.core.beam.derived import wall_place
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.inverse.housing import NAMED, typical
from cold_arc.core.inverse.light_map import H_CELL, V_CELL, LampBeside, beyond_doubt
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.kind import AIM_PHASES, AimPhase
from cold_arc.core.job.entries.wall_read import HousingRead, SeatRead
from cold_arc.core.job.stages import Stage
from cold_arc.core.match.wall_reading import WallAnswer, WallQuestion, answer, asked_of, lamp_beside
from cold_arc.core.references import MODEL
from cold_arc.core.units import raised, say_degrees, say_mm, say_number, say_percent
from cold_arc.core.wallphoto.directions import plan_frame
from cold_arc.core.work import clocking
from cold_arc.formats.light_maps import endings_for, write_map
from cold_arc.formats.picture import Frame, LampAxis
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.aim import wall_photos
from cold_arc.web.job.aim.examining import Photographed, mapped
from cold_arc.web.job.aim.in_use import in_use
from cold_arc.web.job.aim.photo import taken_of
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.parts.beam_wall import picture_url
from cold_arc.web.parts.dial import Dial, build_dial
from cold_arc.web.parts.labels import Rect
from cold_arc.web.parts.wall import View, Wall, lamp_wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell import tasks
from cold_arc.web.shell.apart import apart
from cold_arc.web.shell.tasks import LongTask, Progress

bp = Blueprint("read_wall", __name__)
# How bright what is foretold is drawn beside a photograph, stops.
EXPOSURE = -0.5


@dataclass(frozen=True)
class PhotoRead:
    """One photograph as it is read: its *question*, or *why_not*; the work on it, if any."""

    page: StagePage
    beam: BeamKey
    photograph: WallPhotographed
    question: WallQuestion | None
    why_not: str

    @property
    def of_housing(self) -> bool:
        """Whether the housing is read; else how the bulb sits."""
        return self.photograph.phase == AimPhase.FOUND

    @property
    def name(self) -> object:
        """What its work goes by."""
        shop = current_app.extensions["cold_arc_folder"]
        return shop, self.page.job.id, self.photograph.shown

    @property
    def beside(self) -> LampBeside | None:
        """The other lamp, whose light can be told apart where the housing is read and how far apart
        the two are was told.
        """
        if not self.of_housing:
            return None
        return lamp_beside(self.page.record, self.beam, self.photograph)

    def asked(self, both_lit: bool) -> WallQuestion:
        """What is asked where it can be: of this lamp alone, or *both_lit*."""
        assert self.question is not None
        return replace(self.question, beside=self.beside if both_lit else None)

    @property
    def task(self) -> LongTask | None:
        """The work on what is asked now."""
        if self.question is None:
            return None
        asked = (self.asked(both_lit) for both_lit in (False, True))
        return next((task for one in asked if (task := tasks.find(self.name, one))), None)

    @property
    def answer(self) -> WallAnswer | None:
        """What came of it."""
        task = self.task
        return task.answer if task else None

    @property
    def kept(self) -> HousingRead | SeatRead | None:
        """What is kept of this photograph's reading."""
        kind: type[HousingRead | SeatRead] = HousingRead if self.of_housing else SeatRead
        every = self.page.record.all(kind, self.beam)
        return next((kept for kept in every if kept.shown == self.photograph.shown), None)

    def work(self, question: WallQuestion) -> Callable[[Progress], WallAnswer]:
        """The computation of what is asked, bound to nothing of the request."""
        page, key, taken = self.page, self.beam, self.photograph
        originals, line = wall_photos.originals(page, taken), in_use(page, key).here.rule.line
        of = Photographed(key.side, key.function, page.market.traffic, line)

        def work(progress: Progress) -> WallAnswer:
            slices.leave_a_processor(True)
            return answer(question, apart(mapped, originals, taken, of), progress)

        return work


def _photo_read(page: StagePage, number: int) -> PhotoRead:
    """The photograph that goes by a number; the request ends with 404 where there is none."""
    taken = taken_of(page) if page.beams else {}
    if number not in taken:
        abort(404)
    key, photograph = taken[number]
    asked: WallQuestion | str = (
        asked_of(page.record, page.job.booking, key, photograph, page.market.traffic)
        if wall_photos.has_originals(page, photograph)
        else "The picture as it came from the camera was deleted: nothing is left to be read."
    )
    question, why_not = (None, asked) if isinstance(asked, str) else (asked, "")
    return PhotoRead(page, key, photograph, question, why_not)


@bp.route("/jobs/<int:job_id>/<scope:scope>/aim/photo/<int:number>/read", methods=["GET", "POST"])
def page(job_id: int, scope: Scope, number: int) -> ResponseReturnValue:
    """What one photograph is read for: begun, how far it is, what it says, kept."""
    page = open_stage(job_id, scope, Stage.AIM)
    reading = _photo_read(page, number)
    here = url_for(".page", job_id=job_id, scope=scope, number=number)
    wrong = ""
    if request.method == "POST" and reading.question:
        try:
            return _done(reading, reading.asked("both" in request.form), here)
        except tasks.TooManyError as error:
            wrong = str(error)
    return page.render(
        _findings(reading), ["glare"], template="read-wall", wrong=wrong, **_shown(reading, here)
    )


@bp.get(
    "/jobs/<int:job_id>/<scope:scope>/aim/photo/<int:number>/map.<any(json, csv, ies, ldt):ending>"
)
def light_map(job_id: int, scope: Scope, number: int, ending: str) -> Response:
    """The light of a photograph that was read, as a file for other programs."""
    reading = _photo_read(open_stage(job_id, scope, Stage.AIM), number)
    if reading.answer is None or f".{ending}" not in endings_for(reading.answer.seen):
        abort(404)
    title = f"{reading.page.job.booking.reference} {reading.beam} {reading.photograph.phase}"
    data = write_map(reading.answer.seen, f".{ending}", title)
    name = f"{reading.beam}-{reading.photograph.phase}.{ending}"
    return send_file(io.BytesIO(data), as_attachment=True, download_name=name)


def _shown(reading: PhotoRead, here: str) -> dict[str, object]:
    """What the page shows."""
    read = reading.answer
    return {
        "reading": reading,
        "task": reading.task,
        "kept": reading.kept,
        "of_housing": reading.of_housing,
        "ready": model.is_warm(),
        "apart_m": abs(reading.beside.right_m) if reading.beside else None,
        "here": here,
        "wall": _wall(reading.page, reading.photograph, read) if read else None,
        "rows": _rows(read.entry) if read else [],
        "dial": _dial(read),
        "phases": AIM_PHASES,
        "map_endings": [ending[1:] for ending in endings_for(read.seen)] if read else [],
    }


def _done(reading: PhotoRead, question: WallQuestion, here: str) -> Response:
    """What was pressed: begin, stop, keep."""
    pressed, page, task = request.form.get("do", ""), reading.page, reading.task
    if pressed == "keep" and reading.answer is not None:
        entry, about = reading.answer.entry, [reading.beam]
        page.refuse_stale([(entry, frozenset(about))])
        kept = page.save(entry, about=about, back=here, merged=True)
        after_save("Kept with this lamp.")
        return kept
    if pressed == "stop" and task is not None:
        task.stop()
    elif pressed == "begin" and model.is_warm():
        tasks.start(reading.name, question, reading.work(question))
    return redirect(here, 303)


def _findings(reading: PhotoRead) -> list[Finding]:
    """What is to be minded of a reading, in the findings' column."""
    entry = reading.answer.entry if reading.answer else reading.kept
    if isinstance(entry, SeatRead):
        return list(_of_seat(entry))
    if isinstance(entry, HousingRead):
        notes = [Finding("reading-note", Level.NOTE, note, MODEL) for note in entry.notes]
        return [*notes, *([] if entry.absolute else [NOT_BRIGHT])]
    return []


NOT_BRIGHT = Finding(
    "light-unscaled",
    Level.NOTE,
    "How bright it is the picture does not tell: its pattern is read, candela stay typical.",
    MODEL,
    advice="Read it with a meter at Baseline, or tell one reading beside the marks.",
)


def _of_seat(entry: SeatRead) -> Iterator[Finding]:
    yield entry.finding
    if entry.typical:
        yield Finding(
            "housing-typical",
            Level.CAUTION,
            "Read in a typical housing: this lamp's own was not read as it came.",
            MODEL,
            advice="Take the angle as a hint; turn, photograph again, and go by what changed.",
        )


@dataclass(frozen=True)
class ReadRow:
    """One figure of what was read, with its doubt, and what is usual."""

    what: str
    value: str
    doubt: str
    usual: str = ""


SEAT_NAMES = {
    "clock": "Clock, clockwise from behind",
    "axial": "Depth, forward",
    "radial_x": "Right",
    "radial_y": "Up",
    "tilt": "Tilt, nose up",
}


def _rows(entry: HousingRead | SeatRead) -> list[ReadRow]:
    """The figures of what was read."""
    if isinstance(entry, SeatRead):
        return [
            ReadRow(SEAT_NAMES[one.name], *_lengths(one.name, one.value, one.standard))
            for one in entry.figures
            if one.name in SEAT_NAMES
        ]
    usual = typical(entry.lamp.setup).usual_figures
    return [
        ReadRow(
            raised(NAMED[one.name]),
            say_number(one.value, 2),
            f"± {say_number(2 * one.standard, 2)}",
            say_number(usual[one.name], 2),
        )
        for one in entry.figures
        if entry.absolute or one.name != "gain"
    ]


def _lengths(name: str, value: float, standard: float) -> tuple[str, str]:
    if name in ("clock", "tilt"):
        return say_degrees(value, 1, signed=True), f"± {say_degrees(2 * standard, 1)}"
    return say_mm(value, signed=True), f"± {say_mm(2 * standard)}"


def _dial(read: WallAnswer | None) -> Dial | None:
    """The dial as the bulb was read to sit, where the likeliest explanation turns it."""
    if read is None or not isinstance(read.entry, SeatRead) or not read.entry.is_turned:
        return None
    return build_dial(clocking.preset(read.entry.clock_deg[0], 2))


def _wall(page: StagePage, photograph: WallPhotographed, read: WallAnswer) -> Wall:
    """The photograph on the Wall, what should be seen to be wiped over it, and where the two part
    beyond doubt.
    """
    left, right, up, down = plan_frame(photograph.distance_m)
    wall = lamp_wall(Frame(left, -up, right, -down), photograph.distance_m, View(unit_system()), ())
    wall.after = url_for(
        "aim_photo.wall_picture", job_id=page.job.id, number=photograph.wall, phase=photograph.phase
    )
    wall.before = picture_url(
        read.should, [LampAxis()], wall.metres, photograph.distance_m, exposure=EXPOSURE
    )
    wall.apart = list(_apart(read, wall.frame, photograph.distance_m))
    return wall.finished()


def _apart(read: WallAnswer, frame: Rect, distance_m: float) -> Iterator[Rect]:
    """The cells of a frame whose light is beyond doubt not what it should be."""
    share = beyond_doubt(read.seen, read.foretold)
    for row, column in zip(*np.nonzero(share), strict=True):
        h, v = float(read.seen.h[column]), float(read.seen.v[row])
        left, top = wall_place(h - H_CELL / 2, v + V_CELL / 2, distance_m)
        right, bottom = wall_place(h + H_CELL / 2, v - V_CELL / 2, distance_m)
        x, y = max(100 * left, frame.x), max(100 * top, frame.y)
        width = min(100 * right, frame.x + frame.width) - x
        height = min(100 * bottom, frame.y + frame.height) - y
        more = share[row, column]
        words = f"{say_percent(abs(more))} {'more' if more > 0 else 'less'} light than foretold"
        if width > 0 and height > 0:
            yield Rect(x, y, width, height, words, "more" if more > 0 else "")
