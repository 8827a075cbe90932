"""A day's work as a timeline: who does what when, what runs without hands meanwhile.

List scheduling: in the order given, each task is taken up as soon as what it comes after is done
and enough people are free (R. L. Graham, Bounds on multiprocessing timing anomalies, SIAM J. Appl.
Math. 17, 1969: never worse than twice the best; recalled from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.errors import ColdArcError


@dataclass(frozen=True)
class Task:
    """One piece of work: *minutes* of *people*, then *cures* minutes of no one. *after*: what must
    be done before; *cured*: what must also have cured. *dark*: it needs a dark wall."""

    id: str
    text: str
    minutes: float
    people: int = 1
    cures: float = 0.0
    after: tuple[str, ...] = ()
    cured: tuple[str, ...] = ()
    dark: bool = False


@dataclass(frozen=True)
class Slot:
    """When a task is done, minutes from the start, and by which people, counted from 0."""

    task: Task
    start: float
    by: tuple[int, ...]

    @property
    def end(self) -> float:
        """When the hands leave it."""
        return self.start + self.task.minutes

    @property
    def cured(self) -> float:
        """When it has cured."""
        return self.end + self.task.cures


class ScheduleError(ColdArcError, ValueError):
    """Tasks that come after each other in a ring, or after one that is not there."""


def schedule(tasks: Sequence[Task], people: int, dark_from: float = 0.0) -> list[Slot]:
    """When each task is done, *people* at hand; those that need the dark not before *dark_from*,
    minutes.

    A task for more people than there are takes all of them. ScheduleError for a ring.

    >>> polish, cap = Task("polish", "Polish", 40, cures=60), Task("cap", "Cap off", 5)
    >>> aim = Task("aim", "Aim", 10, after=("cap",), cured=("polish",))
    >>> [(it.task.id, it.start) for it in schedule([polish, cap, aim], 1)]
    [('polish', 0.0), ('cap', 40.0), ('aim', 100.0)]
    """
    free_at = [0.0] * people
    done: dict[str, Slot] = {}
    waiting = list(tasks)
    while waiting:
        ready = [
            task for task in waiting if all(other in done for other in (*task.after, *task.cured))
        ]
        if not ready:
            raise ScheduleError(f"“{waiting[0].text}” waits for itself.")
        slot = min(
            (_slot(task, done, free_at, dark_from) for task in ready), key=lambda slot: slot.start
        )
        done[slot.task.id] = slot
        waiting.remove(slot.task)
        for person in slot.by:
            free_at[person] = slot.end
    return list(done.values())


def _slot(task: Task, done: dict[str, Slot], free_at: list[float], dark_from: float) -> Slot:
    """The earliest a task can be done, by those free first."""
    hands = sorted(range(len(free_at)), key=lambda hand: (free_at[hand], hand))[
        : min(task.people, len(free_at))
    ]
    waits = [done[earlier].end for earlier in task.after] + [
        done[earlier].cured for earlier in task.cured
    ]
    start = max([free_at[hand] for hand in hands] + waits + [dark_from if task.dark else 0.0])
    return Slot(task, start, tuple(sorted(hands)))


def ends(slots: Sequence[Slot]) -> float:
    """When the last hand leaves, minutes."""
    return max((slot.end for slot in slots), default=0.0)


def hands(slots: Sequence[Slot]) -> float:
    """Minutes of hands, each person's counted."""
    return sum(slot.task.minutes * len(slot.by) for slot in slots)
