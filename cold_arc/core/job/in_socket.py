"""What is in each socket now, and where that was told: what the lamp came with until the source
chosen for it is put in at Fit, which binds every stage that reads or judges a beam.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.facts import fitted_before
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded
from cold_arc.core.work import fitting


@dataclass(frozen=True)
class InSocket:
    """What is in a socket now, in *words*; *origin*: where that was told; *assumed*: nobody told
    it; *source*: the light source put in, None for what the lamp came with.
    """

    words: str
    origin: str
    assumed: bool = False
    source: LightSource | None = None


def in_socket(record: Record, key: SocketKey) -> InSocket:
    """What is in a socket now."""
    put_in, chosen = _last_put_in(record, key)
    if put_in == "own":
        return _own(record, key)
    if put_in == "new" and chosen and chosen.source:
        return InSocket(chosen.source.name, "told at Fit", source=chosen.source)
    wanted = record.latest(Chosen, key)
    if wanted and wanted.source and record.once(Progress).passed(Stage.FIT, key):
        origin = "assumed: Fit was finished without its steps"
        return InSocket(wanted.source.name, origin, assumed=True, source=wanted.source)
    return _own(record, key)


def by_the_shop(record: Record, key: SocketKey) -> LightSource | None:
    """The light source this job, or an earlier one, put into a socket; None for what the lamp came
    with.
    """
    before = fitted_before(record, key)
    return in_socket(record, key).source or (before.source if before else None)


def _last_put_in(record: Record, key: SocketKey) -> tuple[str, Chosen | None]:
    """Whether the "new" source or the lamp's "own" was put in last, and what was chosen then; a
    choice made since has not been put in.
    """
    last, at_that_time, chosen = "", None, None
    for entry in record.entries:
        if key not in entry.about:
            continue
        if isinstance(entry.payload, Chosen):
            chosen = entry.payload
        elif isinstance(entry.payload, Ticked) and (put := fitting.puts_in(entry.payload.step)):
            last, at_that_time = put, chosen
    return last, at_that_time


def _own(record: Record, key: SocketKey) -> InSocket:
    """What a lamp came with: what an earlier job put in, or what was told of it."""
    if before := fitted_before(record, key):
        return InSocket(before.source.name, f"fitted by {before.reference}")
    socket, identified = record.socket(key), record.is_identified(key)
    if not socket.words:
        return InSocket("not known", "not told yet", assumed=True)
    origin = "told at Book in" if identified else "assumed, as this front usually has"
    return InSocket(socket.words, origin, assumed=not identified)


def phase_findings(record: Record, beams: Sequence[BeamKey], phase: Phase) -> list[Finding]:
    """A caution where what is in a beam's lamp now is not what a reading *phase* ("before",
    "after") is about; a note where the beam was read before in time.
    """
    findings = (
        _new_is_in(record, key, beam) if phase == Phase.BEFORE else _new_is_not_in(record, key)
        for beam in beams
        for key in record.givers(beam)
    )
    return [finding for finding in dict.fromkeys(findings) if finding]


def _new_is_in(record: Record, key: SocketKey, beam: BeamKey) -> Finding | None:
    now = in_socket(record, key)
    if now.source is None:
        return None
    return Finding(
        "read-not-before",
        Level.NOTE if record.readings(beam, Phase.BEFORE) else Level.CAUTION,
        worded("{lamp}: what is read now is no reading before.", lamp=record.front.named(key)),
        PRACTICE,
        worded("{now}, {origin}", now=now.words, origin=now.origin),
        advice="Put its own source back in to read it before; else record it at Verify.",
    )


def _new_is_not_in(record: Record, key: SocketKey) -> Finding | None:
    now, wanted = in_socket(record, key), record.latest(Chosen, key)
    if wanted is None or wanted.source is None or now.source == wanted.source:
        return None
    return Finding(
        "chosen-not-in",
        Level.CAUTION,
        worded("{lamp}: what was chosen is not in yet.", lamp=record.front.named(key)),
        PRACTICE,
        worded("{now}, {origin}", now=now.words, origin=now.origin),
        worded("{source}, chosen at Match", source=wanted.source.name),
        "Fit it first: a reading after is one with it in.",
    )
