"""What the shop measured of each source, kept beside the jobs it comes from, so that Match finds it
at once.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core import law
from cold_arc.core.car.keys import BeamKey, parse_key
from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.match import experience
from cold_arc.core.match.experience import KnownSource, MeasuredGain
from cold_arc.store.jobs import Job
from cold_arc.store.models import JobRow, OutcomeRow


@dataclass(frozen=True)
class Outcome:
    """One measurement as kept: where it comes from, and what the model predicted for it (None: not
    worked out yet).
    """

    id: int
    job_id: int
    reference: str
    beam: BeamKey
    measured: MeasuredGain
    predicted: Mapping[str, float] | None


Measurements = list[tuple[BeamKey, MeasuredGain]]


def measured(job: Job) -> Measurements:
    """What a job's record has measured, by beam."""
    return list(experience.measured_of(job.record, job.booking, law.traffic_of(job.booking.market)))


def keep(session: Session, job_id: int, taken: Measurements) -> None:
    """Keeps what a job's record has measured, in place of what was kept of it; predictions of the
    same stay.
    """
    by_row = {_row_key(str(key), outcome): (key, outcome) for key, outcome in taken}
    rows = session.scalars(select(OutcomeRow).where(OutcomeRow.job_id == job_id)).all()
    stood = {_key_of(row): row for row in rows}
    for gone in stood.keys() - by_row.keys():
        session.delete(stood[gone])
    for name, (key, outcome) in by_row.items():
        row = stood.get(name)
        if row is None:
            row = OutcomeRow(
                job_id=job_id,
                beam=str(key),
                source=outcome.source,
                base=outcome.base,
                optic=outcome.optic,
                function=outcome.function,
            )
            session.add(row)
        row.facts = to_plain(outcome)
    session.flush()


def _row_key(beam: str, measured: MeasuredGain) -> tuple[str, ...]:
    return beam, measured.by, *measured.kind


def _key_of(row: OutcomeRow) -> tuple[str, ...]:
    by = row.facts.get("by", "") if isinstance(row.facts, dict) else ""
    return row.beam, by, row.source, row.base, row.optic, row.function


def known(session: Session, base: str, optic: str, function: str) -> dict[str, KnownSource]:
    """What is known of every source in one kind of lamp, by the source's name."""
    query = select(OutcomeRow.facts).filter_by(base=base, optic=optic, function=function)
    by_source: dict[str, list[MeasuredGain]] = {}
    for facts in session.scalars(query):
        measured = plausible.read_or_none(facts, MeasuredGain)
        if measured is not None:
            by_source.setdefault(measured.source, []).append(measured)
    agreed = {source: experience.known_of(taken) for source, taken in by_source.items()}
    return {source: agreement for source, agreement in agreed.items() if agreement is not None}


def outcomes(session: Session, most: int) -> list[Outcome]:
    """The newest measurements, *most* of them."""
    query = (
        select(OutcomeRow, JobRow)
        .join(JobRow, JobRow.id == OutcomeRow.job_id)
        .order_by(OutcomeRow.id.desc())
        .limit(most)
    )
    listed = []
    for row, job in session.execute(query):
        measured = plausible.read_or_none(row.facts, MeasuredGain)
        key = _beam(row.beam)
        if measured is not None and key is not None:
            reference = str(job.board.get("reference", "")) if isinstance(job.board, dict) else ""
            listed.append(
                Outcome(
                    row.id,
                    row.job_id,
                    reference or f"Job {row.job_id}",
                    key,
                    measured,
                    _ratios(row.predicted),
                )
            )
    return listed


def _beam(text: str) -> BeamKey | None:
    try:
        key = parse_key(text)
    except ValueError:
        return None
    return key if isinstance(key, BeamKey) else None


def _ratios(stored: Any) -> dict[str, float] | None:
    """Predicted ratios as kept; None where there are none, or damaged ones."""
    if not isinstance(stored, dict):
        return None
    return {
        str(name): float(ratio)
        for name, ratio in stored.items()
        if isinstance(ratio, int | float) and 0 < ratio < 1e6
    }


def note_predicted(session: Session, outcome_id: int, ratios: Mapping[str, float]) -> None:
    """Keeps what the model predicted for a measurement."""
    row = session.get(OutcomeRow, outcome_id)
    if row is not None:
        row.predicted = dict(ratios)
        session.flush()
