"""What tells entries of one kind apart: a later one about the same takes the place of the one
before.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from cold_arc.core.job.entries import (
    Aimed,
    Checked,
    ClockRan,
    FastenerBack,
    FaultFound,
    FaultSought,
    Interlocked,
    NotOnCar,
    Ordered,
    Passed,
    Pictured,
    PlanKept,
    Proved,
    Rastered,
    Read,
    Reopened,
    Ticked,
    Tried,
    WallPhotographed,
    Warmed,
    WarmRead,
    WarmStarted,
)


def _of_read(read: Read) -> tuple[object, ...]:
    alone = (id(read),) if read.repeat else ()  # a repeat takes no other's place
    return read.phase, read.reading.point, read.reading.lens, *alone


# What tells entries of a kind apart; of any other kind the newest counts.
_SUBJECTS: dict[type, Callable[[Any], tuple[object, ...]]] = {
    Read: _of_read,
    Rastered: lambda entry: (entry.phase,),
    WallPhotographed: lambda entry: (entry.shown,),
    WarmStarted: lambda entry: (entry.phase,),
    WarmRead: lambda entry: (id(entry),),
    Warmed: lambda entry: (entry.phase,),
    Tried: lambda entry: (entry.turn, entry.reading.point),
    Aimed: lambda entry: (entry.phase,),
    Proved: lambda entry: (entry.stage_pass, entry.function, entry.side, entry.engine),
    FastenerBack: lambda entry: (entry.step, entry.kind, entry.place),
    Ticked: lambda entry: (entry.step,),
    Ordered: lambda entry: (entry.what,),
    PlanKept: lambda entry: (id(entry),),
    ClockRan: lambda entry: (id(entry),),
    Checked: lambda entry: (entry.check,),
    Pictured: lambda entry: (entry.picture,),
    Interlocked: lambda entry: (entry.stage_pass, entry.interlock),
    FaultSought: lambda entry: (entry.symptom,),
    FaultFound: lambda entry: (entry.symptom,),
    NotOnCar: lambda entry: (entry.function,),
    Passed: lambda entry: (entry.stage,),
    Reopened: lambda entry: (entry.stage,),
}


def subject(payload: object) -> tuple[object, ...]:
    """What an entry is about: a later one about the same takes its place."""
    apart_by = _SUBJECTS.get(type(payload))
    return (type(payload), *(apart_by(payload) if apart_by else ()))
