"""Track: the ten stages, where the lamps in scope stand, what waits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Record
from cold_arc.core.stages import Stage, Status, missing, statuses
from cold_arc.web.scope import Scope, stage_url

WORDS = {
    Status.DONE: "finished",
    Status.SKIPPED: "skipped",
    Status.OPEN: "here now",
    Status.AHEAD: "ahead",
}


@dataclass(frozen=True)
class TrackStop:
    """One stage: its address, the standing of each lamp in scope, and gaps found after it was finished."""

    stage: Stage
    href: str
    here: bool
    standings: tuple[tuple[str, Status], ...]
    gap: bool

    @property
    def words(self) -> str:
        """For those who can't see the marks."""
        each = ", ".join(f"{name} {WORDS[status]}" for name, status in self.standings)
        return f"{each}{'; something is missing' if self.gap else ''}"


def build_track(record: Record, job_id: int, scope: Scope, keys: Sequence[LampKey], here: Stage) -> list[TrackStop]:
    """The track for the lamps in scope."""
    standing = {key: statuses(record, key) for key in keys}
    stops = []
    for stage in Stage:
        marks = tuple((f"{key.function.value} {key.side.value}", standing[key][stage]) for key in keys)
        gap = any(standing[key][stage] is Status.DONE and bool(missing(record, key, stage)) for key in keys)
        href = stage_url(job_id, scope, stage)
        stops.append(TrackStop(stage, href, stage is here, marks, gap))
    return stops
