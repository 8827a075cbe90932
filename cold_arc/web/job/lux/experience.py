"""What the shop measured, and how far the model was off: predicted against measured over all
jobs.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from flask import Blueprint, redirect, render_template, url_for
from flask.typing import ResponseReturnValue

from cold_arc.core import law
from cold_arc.core.beam import model
from cold_arc.core.job.entries.later import CLAIMS, Claimed
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import experience, measuring
from cold_arc.core.match.experience import Agreement
from cold_arc.core.metering.readings import POINTS
from cold_arc.store import cars, catalogue, housings, jobs, outcomes
from cold_arc.store.housings import KnownHousing
from cold_arc.store.outcomes import Outcome
from cold_arc.web.bench.beams import in_turn
from cold_arc.web.scope import Scope, stage_url
from cold_arc.web.shell.db import session, writable

bp = Blueprint("experience", __name__)
MOST_SHOWN, AT_ONCE_S = 200, 2.0


@dataclass(frozen=True)
class OutcomeLine:
    """One measurement as shown, with the address of its Verify."""

    outcome: Outcome
    href: str


@dataclass(frozen=True)
class HousingLine:
    """One housing read from its wall, with the address of its Match."""

    known: KnownHousing
    href: str


@dataclass(frozen=True)
class ClaimLine:
    """What was claimed of one source: how often, for which reasons, in which jobs: their references
    by their ids.
    """

    source: str
    count: int
    reasons: Counter[str]
    jobs: dict[int, str]


@bp.get("/measured")
def page() -> str:
    """Every measurement, the model's record by place, and what is still to be worked out."""
    shown = outcomes.outcomes(session(), MOST_SHOWN)
    rows = [
        OutcomeLine(outcome, stage_url(outcome.job_id, Scope.of(outcome.beam), Stage.VERIFY))
        for outcome in shown
    ]
    waiting = sum(outcome.predicted is None for outcome in shown)
    by_place = {
        name: agreement
        for name in POINTS
        if (agreement := experience.agreement(_pairs(shown, name))) is not None
    }
    return render_template(
        "experience.html",
        rows=rows,
        waiting=waiting,
        ready=model.is_warm(),
        by_place=by_place,
        whole=_whole(shown),
        points=POINTS,
        claims=_claims(),
        housings=[
            HousingLine(known, stage_url(known.job_id, Scope.of(known.beam), Stage.MATCH))
            for known in housings.housings(session())
        ],
    )


def _claims() -> list[ClaimLine]:
    """Every source anything was claimed of, the most first."""
    by_source: dict[str, list[tuple[int, Claimed]]] = {}
    every = list(cars.claims(session()))
    booked = jobs.bookings(session(), {job_id for job_id, _ in every})
    for job_id, claim in every:
        by_source.setdefault(claim.source, []).append((job_id, claim))
    lines = [
        ClaimLine(
            source,
            len(made),
            Counter(CLAIMS[reason].lower() for _, claim in made for reason in claim.reasons),
            {
                job_id: booked[job_id].reference if job_id in booked else f"Job {job_id}"
                for job_id, _ in made
            },
        )
        for source, made in by_source.items()
    ]
    return sorted(lines, key=lambda line: -line.count)


def _pairs(shown: list[Outcome], place: str) -> list[tuple[float, float]]:
    return [
        (outcome.predicted[place], outcome.measured.ratios[place])
        for outcome in shown
        if outcome.predicted and place in outcome.predicted and place in outcome.measured.ratios
    ]


def _whole(shown: list[Outcome]) -> Agreement | None:
    """Of all places but stray together."""
    return experience.agreement(
        [pair for name in POINTS if name != "stray" for pair in _pairs(shown, name)]
    )


@bp.post("/measured/predict")
@in_turn
def predict() -> ResponseReturnValue:
    """Works out what the model predicted for measurements that have none, for some two seconds, and
    keeps it.
    """
    until = time.monotonic() + AT_ONCE_S
    if model.is_warm():
        for outcome, ratios in list(_worked_out(until)):
            outcomes.note_predicted(writable(), outcome.id, ratios)
    writable().commit()
    return redirect(url_for("experience.page"), 303)


def _worked_out(until: float) -> Iterator[tuple[Outcome, dict[str, float]]]:
    shelf = {source.name: source for source in catalogue.light_sources(session()).values()}
    for outcome in outcomes.outcomes(session(), MOST_SHOWN):
        if outcome.predicted is None and time.monotonic() < until:
            yield outcome, _predicted(outcome, shelf)


def _predicted(outcome: Outcome, shelf: dict[str, LightSource]) -> dict[str, float]:
    """The model's ratios for one measurement; none where its source or its lamp can't be
    modelled.
    """
    job = jobs.load(session(), outcome.job_id)
    if job is None or not job.record.front.has(outcome.beam) or not job.record.givers(outcome.beam):
        return {}
    traffic = law.traffic_of(job.booking.market)
    chosen = measuring.chosen_for(job.record, outcome.beam)
    source = (
        chosen
        if chosen is not None and chosen.name == outcome.measured.source
        else shelf.get(outcome.measured.source)
    )
    own, new = (
        measuring.setup_with(job.record, job.booking, outcome.beam, which, traffic)
        for which in (None, source)
    )
    if source is None or own is None or new is None:
        return {}
    return experience.predicted_ratios(
        new, own, outcome.beam.function, traffic, outcome.measured.ratios
    )
