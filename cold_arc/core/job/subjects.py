"""What tells entries of one kind apart: a later one about the same takes the place of the one before."""

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


def _of_read(it: Read) -> tuple[object, ...]:
    alone = (id(it),) if it.repeat else ()  # a repeat takes no other's place
    return it.phase, it.reading.point, it.reading.lens, *alone


# What tells entries of a kind apart; of any other kind the newest counts.
_SUBJECTS: dict[type, Callable[[Any], tuple[object, ...]]] = {
    Read: _of_read,
    Rastered: lambda it: (it.phase,),
    WallPhotographed: lambda it: (it.shown,),
    WarmStarted: lambda it: (it.phase,),
    WarmRead: lambda it: (id(it),),
    Warmed: lambda it: (it.phase,),
    Tried: lambda it: (it.turn, it.reading.point),
    Aimed: lambda it: (it.phase,),
    Proved: lambda it: (it.stage_pass, it.function, it.side, it.engine),
    FastenerBack: lambda it: (it.step, it.kind, it.place),
    Ticked: lambda it: (it.step,),
    Ordered: lambda it: (it.what,),
    PlanKept: lambda it: (id(it),),
    ClockRan: lambda it: (id(it),),
    Checked: lambda it: (it.check,),
    Pictured: lambda it: (it.picture,),
    Interlocked: lambda it: (it.stage_pass, it.interlock),
    FaultSought: lambda it: (it.symptom,),
    FaultFound: lambda it: (it.symptom,),
    NotOnCar: lambda it: (it.function,),
    Passed: lambda it: (it.stage,),
    Reopened: lambda it: (it.stage,),
}


def subject(payload: object) -> tuple[object, ...]:
    """What an entry is about: a later one about the same takes its place."""
    told = _SUBJECTS.get(type(payload))
    return (type(payload), *(told(payload) if told else ()))
