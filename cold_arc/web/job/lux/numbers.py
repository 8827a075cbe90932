"""Numbers and files of the readings: gains, their uncertainty, what they mean on the road, CSV in
and out, rasters.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import PurePath

from flask import Blueprint, Response, abort, redirect, request, url_for
from flask.typing import ResponseReturnValue

from cold_arc.core.beam import model
from cold_arc.core.beam.derived import MeasuredPoint
from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.report import yardstick_for
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Rastered, Read
from cold_arc.core.job.outcome import compare, gain_findings, lens_gain
from cold_arc.core.job.stages import Stage
from cold_arc.core.match import measuring, own_housing
from cold_arc.core.metering import meaning, readings, slips
from cold_arc.core.metering.comparing import Comparison, Gain
from cold_arc.core.metering.raster import Raster, RasterError, raster
from cold_arc.core.metering.readings import POINTS, WallReading, words
from cold_arc.core.units import say_percent
from cold_arc.formats import WRITERS, picture
from cold_arc.formats import readings as readings_file
from cold_arc.formats.photometric import MalformedFileError
from cold_arc.store import jobs
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.stage_page import StagePage, open_stage, phase_of
from cold_arc.web.job.wall_light import near_frame
from cold_arc.web.parts.beam_wall import build_beam_wall
from cold_arc.web.parts.gain_chart import GainChart, build_gain_chart
from cold_arc.web.parts.wall import View, Wall, WallPoint, lamp_wall
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import writable

bp = Blueprint("numbers", __name__)
# What a beam is said to reach to, lx on an upright surface (common practice: 3 lx recognises, 1 lx
# is seen at all).
REACH_LX = (3.0, 1.0)
BEAM_FILES = (".ies", ".ldt")
MIME = {".csv": "text/csv", ".json": "application/json", ".ies": "text/plain", ".ldt": "text/plain"}
LONGEST_NAME = 80
RESIDUALS_PX = 620.0


@dataclass(frozen=True)
class GainLine:
    """One place as the table tells it: its words, what was read, its gain."""

    name: str
    words: str
    before: WallReading | None
    after: WallReading | None
    gain: Gain | None


@dataclass(frozen=True)
class Foretold:
    """Predicted after against measured after at one place, cd."""

    words: str
    predicted_cd: float
    taken: WallReading

    @property
    def measured_cd(self) -> float:
        """What was measured."""
        return self.taken.candela

    @property
    def off(self) -> float:
        """Measured over predicted, less one."""
        return self.measured_cd / self.predicted_cd - 1


@dataclass(frozen=True)
class BeamNumbers:
    """Everything one beam's readings come to."""

    key: BeamKey
    told: Comparison
    rows: tuple[GainLine, ...]
    chart: GainChart | None
    lens: Comparison | None
    reach: tuple[tuple[float, float | None, float | None], ...]
    yardsticks: tuple[tuple[str, str, tuple[MeasuredPoint, ...]], ...]
    foretold: tuple[Foretold, ...]
    rasters: Mapping[Phase, Raster]
    walls: Mapping[Phase, Wall]
    faults: tuple[str, ...]
    fit: HousingFit | None
    can_fit: bool
    is_told: bool
    residuals: Wall | None


@bp.get("/jobs/<int:job_id>/<scope:scope>/numbers")
@in_turn
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The numbers of every beam in scope."""
    return _shown(open_stage(job_id, scope, Stage.VERIFY))


def _shown(page: StagePage, error: str = "", status: int = 200) -> ResponseReturnValue:
    numbers = [_numbers(page, key) for key in page.beams]
    collected = [
        *gain_findings(page.record, page.beams),
        *(finding for key in page.beams for finding in _road_findings(page, key)),
    ]
    shown = page.render(
        list(dict.fromkeys(collected)), template="numbers", told=numbers, error=error, phases=Phase
    )
    return (shown[0], status) if error else shown


def _numbers(page: StagePage, key: BeamKey) -> BeamNumbers:
    before, after = page.record.readings(key, Phase.BEFORE), page.record.readings(key, Phase.AFTER)
    comparison = compare(page.record, key)
    names = [*(name for name in POINTS if name in before or name in after), *_free(before, after)]
    rows = tuple(
        GainLine(
            name,
            words(name, key.function),
            before.get(name),
            after.get(name),
            comparison.gains.get(name),
        )
        for name in names
    )
    rasters, faults = _rasters(page, key)
    setup = measuring.setup_at(page.record, page.job.booking, key, Phase.AFTER, page.market.traffic)
    fit, can_fit = _fit(page, key)
    foretold = tuple(_foretold(page, key, after, fit))
    walls = {phase: _raster_wall(page, key, phase) for phase in rasters}
    return BeamNumbers(
        key,
        comparison,
        rows,
        build_gain_chart(rows, comparison.overall),
        lens_gain(page.record, key),
        tuple(_reach(before, after)),
        tuple(_yardsticks(page, setup, before, after, rasters)),
        foretold,
        rasters,
        walls,
        tuple(faults),
        fit,
        can_fit,
        _present(page, key) is not None,
        _residuals(foretold, key.function),
    )


def _free(before: Mapping[str, WallReading], after: Mapping[str, WallReading]) -> list[str]:
    return [name for name in dict.fromkeys([*before, *after]) if name not in POINTS]


def _reach(
    before: Mapping[str, WallReading], after: Mapping[str, WallReading]
) -> Iterator[tuple[float, float | None, float | None]]:
    for lux in REACH_LX:
        reached = [
            meaning.reach_m(taken["peak"].candela, lux) if "peak" in taken else None
            for taken in (before, after)
        ]
        yield lux, reached[0], reached[1]


def _rasters(page: StagePage, key: BeamKey) -> tuple[dict[Phase, Raster], list[str]]:
    """The rasters of a beam by phase; what can't be one is said."""
    rasters, faults = {}, []
    for phase in Phase:
        taken = [raster for raster in page.record.all(Rastered, key) if raster.phase == phase]
        if taken:
            try:
                rasters[phase] = raster(taken[-1].readings)
                rasters[phase].beam()
            except RasterError as error:
                faults.append(f"{taken[-1].name}: {error}")
                rasters.pop(phase, None)
    return rasters, faults


def _yardsticks(
    page: StagePage,
    setup: SetUp | None,
    before: Mapping[str, WallReading],
    after: Mapping[str, WallReading],
    rasters: Mapping[Phase, Raster],
) -> Iterator[tuple[str, str, tuple[MeasuredPoint, ...]]]:
    """The market's points: from the raster where there is one, else the nearest readings; by phase,
    and how they came."""
    if setup is None:
        return
    yardstick, traffic = yardstick_for(setup), page.market.traffic
    for phase, taken in zip(Phase, (before, after), strict=True):
        if phase in rasters:
            yield (
                phase,
                "from the raster",
                tuple(meaning.by_raster(rasters[phase], yardstick, traffic)),
            )
        elif points := meaning.by_nearest(taken, yardstick, traffic):
            yield phase, "from the nearest readings", tuple(points)


def _present(page: StagePage, key: BeamKey) -> SetUp | None:
    """The lamp with what was in it as it came; None where nobody told what that is, or it can't be
    modelled.
    """
    return measuring.setups(page.record, page.job.booking, key, page.market.traffic)[0]


def _fit(page: StagePage, key: BeamKey) -> tuple[HousingFit | None, bool]:
    """This car's own housing, where it was fitted already or that is asked for; and whether it can
    be.
    """
    present = _present(page, key)
    if present is None:
        return None, False
    compute = "fit" in request.args and model.is_warm()
    return own_housing.own_fit(page.record, key, present, compute)


def _foretold(
    page: StagePage, key: BeamKey, after: Mapping[str, WallReading], fit: HousingFit | None
) -> Iterator[Foretold]:
    """What the model said of the chosen source, at the places read; in this car's own housing where
    that is fitted.
    """
    source = measuring.chosen_for(page.record, key)
    setup = measuring.setup_with(
        page.record, page.job.booking, key, source, page.market.traffic, fit, by_now=True
    )
    if setup is None or not model.is_warm():
        return
    predicted = measuring.pattern(setup, key.function, page.market.traffic)
    for name, reading in after.items():
        if predicted.get(name) and reading.candela > 0:
            yield Foretold(words(name, key.function), predicted[name], reading)


def _residuals(foretold: Sequence[Foretold], function: Function) -> Wall | None:
    """What the prediction left over, place by place, on the wall."""
    if not foretold:
        return None
    distance_m = foretold[0].taken.distance_m
    points = [
        WallPoint(
            None,
            place.taken.point,
            *readings.held_at(place.taken, distance_m, function),
            after=say_percent(place.off, signed=True),
        )
        for place in foretold
    ]
    return lamp_wall(
        near_frame(distance_m), distance_m, View(unit_system()), points, RESIDUALS_PX
    ).finished()


def _raster_wall(page: StagePage, key: BeamKey, phase: Phase) -> Wall:
    """A raster drawn as light on the wall."""
    picture = url_for(
        "numbers.raster_picture",
        job_id=page.job.id,
        scope=key,
        phase=phase,
        v=page.job.entries[-1].id,
    )
    return build_beam_wall(CutOff("none"), View(unit_system(), degrees=True), after=picture)


@bp.get("/jobs/<int:job_id>/<scope:scope>/raster-<any(before, after):phase>.png")
@in_turn
def raster_picture(job_id: int, scope: Scope, phase: str) -> Response:
    """A raster's light as a picture."""
    page = open_stage(job_id, scope, Stage.VERIFY)
    rasters, _ = _rasters(page, _one_beam(page))
    taken_at = phase_of(phase)
    if taken_at not in rasters:
        abort(404)
    pixels = picture.render(rasters[taken_at].beam(page.market.traffic))
    return Response(
        pixels, mimetype="image/png", headers={"Cache-Control": "private, max-age=3600"}
    )


def _road_findings(page: StagePage, key: BeamKey) -> Iterator[Finding]:
    after = page.record.readings(key, Phase.AFTER)
    if key.function.value == "low":
        yield from meaning.glare_finding(after.get("stray"))
    source, whole = measuring.chosen_for(page.record, key), compare(page.record, key).overall
    present = _present(page, key)
    if source is not None and source.is_bulb and whole is not None and present is not None:
        doubt, lit = whole.budget.expanded, present.built_sources()
        before_lm = sum(one.flux_lm for one in lit)
        yield from meaning.lumens_finding(whole.ratio, doubt, before_lm, source.lumens_each)


def _one_beam(page: StagePage) -> BeamKey:
    if len(page.beams) != 1:
        abort(404)
    return page.beams[0]


@bp.get(
    "/jobs/<int:job_id>/<scope:scope>/readings-<any(before, after):phase>.<any(csv, json, "
    "ies, ldt):kind>"
)
def export(job_id: int, scope: Scope, phase: str, kind: str) -> Response:
    """One beam's readings of a phase as CSV or JSON, its raster too; the raster's beam as IES or
    EULUMDAT.
    """
    page = open_stage(job_id, scope, Stage.VERIFY)
    key, suffix = _one_beam(page), f".{kind}"
    taken = list(page.record.readings(key, phase_of(phase)).values())
    rastered = [raster for raster in page.record.all(Rastered, key) if raster.phase == phase]
    every = [*taken, *(rastered[-1].readings if rastered else ())]
    title = f"{page.job.booking.reference} {key} {phase}"
    if suffix == ".csv":
        data = readings_file.write_csv(every)
    elif suffix == ".json":
        data = readings_file.write_json({str(key): {phase: every}})
    elif suffix in BEAM_FILES and rastered:
        data = _beam_file(rastered[-1], suffix, title, page.market.traffic)
    else:
        abort(404)
    headers = {
        "Content-Disposition": f'attachment; filename="readings-{job_id}-{key}-{phase}{suffix}"'
    }
    return Response(data, mimetype=MIME[suffix], headers=headers)


def _beam_file(taken: Rastered, suffix: str, title: str, traffic: Traffic) -> bytes:
    try:
        return WRITERS[suffix](raster(taken.readings).beam(traffic), title)
    except RasterError:
        abort(404)


@bp.post("/jobs/<int:job_id>/<scope:scope>/readings")
def take_in(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Takes a file of readings in: named places become readings, nine or more others a raster."""
    page = open_stage(job_id, scope, Stage.VERIFY)
    key, phase = _one_beam(page), phase_of(request.form.get("phase", ""))
    upload = request.files.get("file")
    name = PurePath((upload.filename or "") if upload else "").name[:LONGEST_NAME]
    if upload is None or not name:
        return _shown(page, "Choose a CSV file of readings.", 422)
    try:
        file = readings_file.read_csv(upload.read(), key.function, page.market.traffic)
        entries = _entries(file, phase, name)
        if asked := [] if request.form.get("as_is") else _doubts(page, key, phase, entries):
            return _shown(
                page, f"{name}: {' '.join(asked)} Take it in as it is, if it is right.", 422
            )
    except (MalformedFileError, RasterError) as error:
        return _shown(page, f"{name}: {error}", 422)
    page.refuse_stale([(entry, frozenset([key])) for entry in entries])
    for entry in entries:
        jobs.append(writable(), page.job.id, entry, [key])
    writable().commit()
    return redirect(url_for("numbers.page", job_id=job_id, scope=scope), 303)


def _doubts(
    page: StagePage, key: BeamKey, phase: Phase, entries: Sequence[Read | Rastered]
) -> list[str]:
    """Slips that may have been made in a file's named places, with what stands already, in
    words.
    """
    new = {entry.reading.point: entry.reading for entry in entries if isinstance(entry, Read)}
    stands = {
        point: reading
        for point, reading in page.record.readings(key, phase).items()
        if point not in new
    }
    if not new:
        return []
    known = measuring.known(page.record, page.job.booking, key, phase, page.market.traffic, stands)
    return [slip.text for slip in slips.slips(stands | new, known)]


def _entries(file: readings_file.ReadFile, phase: Phase, name: str) -> Sequence[Read | Rastered]:
    """A file's named places as readings, repeats joined; the rest as a raster, checked to be
    one.
    """
    named = [reading for point, reading in file.by_point().items() if point in POINTS]
    rest = [reading for reading in file.readings if reading.point not in POINTS]
    entries: list[Read | Rastered] = [Read(phase, f"from {name}", reading) for reading in named]
    if rest:
        placed = tuple(
            replace(reading, point=f"free-{number}") for number, reading in enumerate(rest, 1)
        )
        raster(placed).beam()
        entries.append(Rastered(phase, name, placed))
    return entries
