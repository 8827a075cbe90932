"""Timeline: what is done when and by whom, what runs without hands meanwhile. Drawn 1000 wide, a
row a person.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.work.schedule import Slot, Task, ends

WIDTH, ROW, GAP, TOP = 1000.0, 34.0, 8.0, 22.0
# A tick every so many minutes, the first that leaves no more than so many of them.
TICKS_MIN, MOST_TICKS = (5, 10, 15, 30, 60, 120, 240), 14
# Sorts of task by how their ids begin.
SORTS = ("open", "close", "fit", "prove", "aim", "verify")


@dataclass(frozen=True)
class Bar:
    """One task as drawn, in the units of the drawing; *number* in the list beside it."""

    x: float
    y: float
    width: float
    height: float
    sort: str
    number: int
    said: str

    @property
    def shows_number(self) -> bool:
        """Whether there is room for its number."""
        return self.width >= 16


@dataclass(frozen=True)
class Timeline:
    """The whole drawing."""

    bars: tuple[Bar, ...]
    ticks: tuple[tuple[float, str], ...]
    rows: tuple[tuple[float, str], ...]
    height: float
    minutes: float
    slots: tuple[Slot, ...]

    @property
    def cures(self) -> bool:
        """Whether anything cures without hands."""
        return any(slot.task.cures for slot in self.slots)


def build_timeline(slots: Sequence[Slot], people: int) -> Timeline:
    """The drawing of a schedule; the row under the people's is for what cures."""
    minutes = max([ends(slots), *(slot.cured for slot in slots)], default=0.0)
    scale = WIDTH / minutes if minutes else 0.0
    cures = any(slot.task.cures for slot in slots)
    rows = [
        (TOP + person * (ROW + GAP), f"Person {person + 1}" if people > 1 else "Hands")
        for person in range(people)
    ]
    rows += [(TOP + people * (ROW + GAP), "Curing")] if cures else []
    bars = []
    for number, slot in enumerate(slots, 1):
        words = f"{slot.task.text}: from {slot.start:.0f} to {slot.end:.0f} min"
        for person in slot.by:
            bars.append(
                Bar(
                    slot.start * scale,
                    rows[person][0],
                    slot.task.minutes * scale,
                    ROW,
                    _sort(slot.task),
                    number,
                    words,
                )
            )
        if slot.task.cures:
            words = f"{slot.task.text}: cures until {slot.cured:.0f} min"
            bars.append(
                Bar(
                    slot.end * scale,
                    rows[-1][0],
                    slot.task.cures * scale,
                    ROW,
                    "cure",
                    number,
                    words,
                )
            )
    return Timeline(
        tuple(bars),
        _ticks(minutes, scale),
        tuple(rows),
        rows[-1][0] + ROW + 4,
        minutes,
        tuple(slots),
    )


def _ticks(minutes: float, scale: float) -> tuple[tuple[float, str], ...]:
    step = next(
        (step_min for step_min in TICKS_MIN if minutes / step_min <= MOST_TICKS), TICKS_MIN[-1]
    )
    return tuple(
        (number * step * scale, f"{number * step}")
        for number in range(math.floor(minutes / step) + 1)
    )


def _sort(task: Task) -> str:
    return next((sort for sort in SORTS if task.id.startswith(sort)), "extra")
