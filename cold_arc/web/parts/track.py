"""Track: the ten stages: how many of each one's things are done, which is next, what waits for
what.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.job.needs import missing
from cold_arc.core.job.progress import Progress, Summary
from cold_arc.core.job.stages import About, Stage, Status
from cold_arc.web.scope import Scope, scope_at, stage_url


@dataclass(frozen=True)
class TrackStop:
    """One stage: its address, how far its things are, and whether one finished lacks something
    after all.
    """

    stage: Stage
    href: str
    here: bool
    marks: tuple[Status, ...]
    count: str
    words: str
    gap: bool


def build_track(progress: Progress, job_id: int, scope: Scope, here: Stage) -> list[TrackStop]:
    """The track of a job; each stop leads to the scope as that stage has it."""
    return [_stop(progress, job_id, scope, stage, here) for stage in Stage]


def _stop(progress: Progress, job_id: int, scope: Scope, stage: Stage, here: Stage) -> TrackStop:
    summary = progress.summary(stage)
    done = [key for key, status in summary.standing.items() if status is Status.DONE]
    gap = any(missing(progress, stage, key) for key in done)
    marks = tuple(summary.standing.values())
    href = stage_url(job_id, scope_at(progress, scope, stage), stage)
    count = (
        f"{summary.done}/{summary.total}" if summary.total and stage.about is not About.CAR else ""
    )
    return TrackStop(stage, href, stage is here, marks, count, _words(progress, summary, gap), gap)


def _words(progress: Progress, summary: Summary, gap: bool) -> str:
    """For those who can't see the marks, and on hovering: done, next, what waits."""
    if not summary.total:
        return "nothing to do"
    words = [f"{summary.done} of {summary.total} finished"]
    if summary.skipped:
        words.append(f"{summary.skipped} of them skipped")
    if summary.next:
        words.append(f"next: {progress.words(summary.next).lower()}")
    if summary.waits:
        waiting, stage, key = summary.waits
        words.append(
            f"{progress.words(waiting).lower()} waits for {stage.label} of "
            f"{progress.words(key).lower()}"
        )
    if gap:
        words.append("something is missing after all")
    return "; ".join(words)
