"""What a job's record is made of: one kind of entry for each thing that is said of a car.

Each stage has a module; a kind is declared there, whole: its id and version, what it is about, what
is plausible, its words. A new kind is a new class there and nothing else.
"""

from __future__ import annotations

from types import ModuleType

from cold_arc.core.job.entries import (
    aim,
    book_in,
    fit,
    hand_over,
    inspect,
    later,
    match,
    plan,
    prove,
    readings,
    stages,
    wall_read,
)
from cold_arc.core.job.entries.kind import Payload

STAGES: tuple[ModuleType, ...] = (
    book_in,
    inspect,
    readings,
    match,
    plan,
    fit,
    prove,
    aim,
    wall_read,
    hand_over,
    later,
    stages,
)


def _declared(module: ModuleType) -> list[type[Payload]]:
    """The kinds a stage's module declares."""
    return [
        value
        for value in vars(module).values()
        if isinstance(value, type)
        and issubclass(value, Payload)
        and value.__module__ == module.__name__
    ]


# Every kind by its id.
KINDS = {kind.ENTRY.id: kind for module in STAGES for kind in _declared(module)}
