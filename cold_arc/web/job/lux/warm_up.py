"""A warm-up run: the source read over time until it has settled; it goes on while the page is
left.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

from flask import Blueprint, abort, flash, redirect, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core.beam import model
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Warmed, WarmRead, WarmStarted
from cold_arc.core.job.record import Entry
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering import warming
from cold_arc.core.metering.warming import Sample, WarmUp, warm_up
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.forms import fields
from cold_arc.web.forms.fields import WARM_READING
from cold_arc.web.job.lux.stand import brightest_place, lit_set_up, stand
from cold_arc.web.job.stage_page import StagePage, open_stage, phase_of
from cold_arc.web.parts.warm_chart import build_warm_chart
from cold_arc.web.scope import Scope

bp = Blueprint("warm_up", __name__)
DEVICES = {
    "": "typed by hand",
    "feed": "connected meter",
    "simulated": "simulated meter, to practise",
}
# How often a simulated meter is read, s of the lamp's time, and at how many moments at most.
EVERY_S, MOST_MOMENTS = 5.0, 240


class StartForm(FlaskForm):
    """What the run is read with."""

    device = fields.one_of("Read with", DEVICES, "")


class ReadForm(FlaskForm):
    """One typed reading of a run."""

    lux = fields.TypedField("The meter shows", WARM_READING)


@dataclass(frozen=True)
class Run:
    """A run under way or recorded: *started* entry None for one recorded; its samples and what they
    say.
    """

    started: Entry | None
    device: str
    samples: tuple[Sample, ...]
    told: WarmUp | None
    fault: str = ""

    @property
    def seconds(self) -> float:
        """How long it has run."""
        return self.samples[-1][0] if self.samples else 0.0


@dataclass(frozen=True)
class WarmUpBeam:
    """The beam and the phase a run is about."""

    page: StagePage
    key: BeamKey
    phase: Phase

    @property
    def url(self) -> str:
        """The run's page."""
        return url_for("warm_up.page", job_id=self.page.job.id, scope=self.key, phase=self.phase)


def _where(job_id: int, scope: Scope) -> WarmUpBeam:
    page = open_stage(job_id, scope, Stage.VERIFY)
    phase = phase_of(request.args.get("phase", Phase.AFTER))
    return WarmUpBeam(page, page.beams[0], phase) if page.beams else abort(404)


@bp.get("/jobs/<int:job_id>/<scope:scope>/warm-up")
@in_turn
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The run under way, or the last one recorded; another is started here."""
    return _shown(_where(job_id, scope), StartForm(), ReadForm())


def _shown(where: WarmUpBeam, start: StartForm, read: ReadForm) -> ResponseReturnValue:
    run = _run(where)
    collected = warming.warm_up_findings(run.told) if run and run.told else []
    return where.page.render(
        collected,
        ["eyes", "engine"],
        template="warm_up",
        where=where,
        run=run,
        start=start,
        read=read,
        chart=build_warm_chart(run.samples, run.told) if run else None,
        devices=DEVICES,
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/warm-up")
def start(job_id: int, scope: Scope) -> ResponseReturnValue:
    """Starts a run: the source is switched on cold now."""
    where, form = _where(job_id, scope), StartForm()
    if not form.validate_on_submit():
        return _shown(where, form, ReadForm())
    if _started(where) is not None:  # a page from before: what was read since is not thrown away
        flash("A run is under way already. Record it before another is started.")
        return redirect(where.url, 303)
    return where.page.save(
        WarmStarted(where.phase, form.device.data), about=[where.key], back=where.url
    )


@bp.post("/jobs/<int:job_id>/<scope:scope>/warm-up/read")
def read(job_id: int, scope: Scope) -> ResponseReturnValue:
    """One typed reading of the run under way."""
    where, form = _where(job_id, scope), ReadForm()
    if not form.validate_on_submit() or _started(where) is None:
        return _shown(where, StartForm(), form)
    entry = WarmRead(where.phase, str(form.lux.raw_data[0]).strip(), form.lux.data)
    return where.page.save(entry, about=[where.key], back=where.url)


@bp.post("/jobs/<int:job_id>/<scope:scope>/warm-up/record")
def record(job_id: int, scope: Scope) -> Response:
    """Records the run under way as it stands."""
    where = _where(job_id, scope)
    run = _run(where)
    if run is None or run.started is None or run.told is None:
        flash("There is nothing to record yet: a run needs eight readings over twenty seconds.")
        return redirect(where.url, 303)
    entry = Warmed(where.phase, run.samples[-warming.MOST_SAMPLES :], run.device)
    return where.page.save(entry, about=[where.key], back=where.url)


def _started(where: WarmUpBeam) -> Entry | None:
    """The start of the run under way: none recorded since, and not so old that nobody reads it any
    more.
    """
    for entry in reversed(where.page.record.entries):
        about_it = where.key in entry.about
        if about_it and isinstance(entry.payload, Warmed) and entry.payload.phase == where.phase:
            return None
        if (
            about_it
            and isinstance(entry.payload, WarmStarted)
            and entry.payload.phase == where.phase
        ):
            return entry if time.time() - entry.at.timestamp() < warming.LONGEST_S else None
    return None


def _run(where: WarmUpBeam) -> Run | None:
    started = _started(where)
    if started is not None:
        assert isinstance(started.payload, WarmStarted)
        samples = _samples(where, started, started.payload.device)
        return _told(started, started.payload.device, samples)
    kept = [run for run in where.page.record.all(Warmed, where.key) if run.phase == where.phase]
    return _told(None, kept[-1].device, kept[-1].samples) if kept else None


def _told(started: Entry | None, device: str, samples: tuple[Sample, ...]) -> Run:
    try:
        return Run(started, device, samples, warm_up(samples))
    except ValueError as error:
        return Run(started, device, samples, None, str(error))


def _samples(where: WarmUpBeam, started: Entry, device: str) -> tuple[Sample, ...]:
    """What was read since the start: of the feed, of the simulated meter at every moment so far, or
    as typed.
    """
    since = started.at.timestamp()
    if device == "feed":
        return _rising(stand().feed.since(since))
    if device == "simulated":
        return _simulated(where, time.time() - since)
    typed = [
        (entry.at.timestamp() - since, entry.payload.lux)
        for entry in where.page.record.entries
        if isinstance(entry.payload, WarmRead)
        and where.key in entry.about
        and entry.id > started.id
    ]
    return _rising(typed)


def _rising(samples: list[Sample]) -> tuple[Sample, ...]:
    """Samples of light in rising time."""
    rising: list[Sample] = []
    for at, lux in samples:
        if lux > 0 and (not rising or at > rising[-1][0]):
            rising.append((round(at, 2), lux))
    return tuple(rising)


def _simulated(where: WarmUpBeam, seconds: float) -> tuple[Sample, ...]:
    setup = (
        lit_set_up(where.page.job, where.key, where.phase, where.page.market.traffic)
        if model.is_warm()
        else None
    )
    if setup is None:
        return ()
    meter, lit = (
        stand().simulated(where.page.job, where.key, setup, where.phase),
        seconds * stand().pace,
    )
    every = max(EVERY_S, lit / MOST_MOMENTS)
    moments = [index * every for index in range(int(min(lit, warming.LONGEST_S) / every) + 1)]
    place = brightest_place(meter)
    return _rising([(at, meter.reading_at(at, place)) for at in moments])
