"""What the shop's own work taught: what parts of a car really took, and how many fasteners broke.

Common practice, no published source: a plan's figure counts as one more job, a fifth of what breaks
as ten fasteners.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from cold_arc.core.work.access import RouteStep

PRIOR_FASTENERS = 10.0


@dataclass(frozen=True)
class Done:
    """What one part took in one job: minutes *planned* and *actual* (None: not timed), fasteners
    *out* and *broken*.
    """

    part: str
    planned: float
    actual: float | None
    out: int
    broken: int


@dataclass(frozen=True)
class Learnt:
    """What is known of a part of a car: *n* times timed, the mean *actual* minutes; of *out*
    fasteners, *broken*.
    """

    n: int
    actual: float
    out: int
    broken: int

    def minutes(self, planned: float) -> float:
        """What to plan with: the plan's figure counted as one more time.

        >>> Learnt(3, 12.0, 0, 0).minutes(8.0)
        11.0
        """
        return (planned + self.n * self.actual) / (1 + self.n)

    def spare_share(self, share: float) -> float:
        """Of its fasteners, the share to have spares of; *share* is what is planned with where
        nothing is known.
        """
        return (PRIOR_FASTENERS * share + self.broken) / (PRIOR_FASTENERS + self.out)


def part_of(step: RouteStep) -> str:
    """What a step is remembered by: the part it opens, or what is done."""
    return (step.opens or step.text).casefold()


def learnt(done: Iterable[Done]) -> dict[str, Learnt]:
    """What was done of one car, by part."""
    by_part: dict[str, list[Done]] = {}
    for work_done in done:
        by_part.setdefault(work_done.part, []).append(work_done)
    summaries = {}
    for part, them in by_part.items():
        timed = [work_done.actual for work_done in them if work_done.actual is not None]
        mean = sum(timed) / len(timed) if timed else 0.0
        summaries[part] = Learnt(
            len(timed),
            mean,
            sum(work_done.out for work_done in them),
            sum(work_done.broken for work_done in them),
        )
    return summaries


def with_learnt(steps: Iterable[RouteStep], known: Mapping[str, Learnt]) -> tuple[RouteStep, ...]:
    """The steps with the minutes to plan with."""
    return tuple(
        replace(step, minutes=known[part].minutes(step.minutes))
        if (part := part_of(step)) in known
        else step
        for step in steps
    )
