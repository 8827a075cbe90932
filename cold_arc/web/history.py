"""The record in words: each entry as one line, newest first, with what can be undone."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import singledispatch

from cold_arc.core import ballast, proof, readings
from cold_arc.core import record as rec
from cold_arc.core.condition import HAZE_GRADES
from cold_arc.core.lamps import LampKey
from cold_arc.core.stages import Stage
from cold_arc.core.units import say_clock_angle, say_lux, say_percent
from cold_arc.store.jobs import Job

SHOWN = 8


@dataclass(frozen=True)
class Line:
    """One entry as shown."""

    id: int
    at: dt.datetime
    text: str
    lamps: str
    undone: bool
    can_undo: bool


def history(job: Job, most: int | None = None) -> list[Line]:
    """The entries, newest first, undone ones among them; the *most* newest alone when given."""
    shown = job.entries if most is None else job.entries[-most:]
    founding = job.entries[0].id
    return [
        Line(
            entry.id,
            entry.at,
            describe(entry.payload),
            _lamps(entry.lamps),
            entry.undone_at is not None,
            entry.id != founding,
        )
        for entry in reversed(shown)
    ]


def _lamps(keys: frozenset[LampKey]) -> str:
    """The lamps of an entry, short: "low both, high left"."""
    by_function: dict[str, list[str]] = {}
    for key in sorted(keys):
        by_function.setdefault(key.function.value, []).append(key.side.value)
    return ", ".join(f"{name} {sides[0] if len(sides) == 1 else 'both'}" for name, sides in by_function.items())


@singledispatch
def describe(payload: object) -> str:
    """What an entry says, in a few words."""
    raise TypeError(f"no words for {type(payload).__name__}")


@describe.register
def _(payload: rec.Booking) -> str:
    return f"Booking: {payload.vehicle}"


@describe.register
def _(payload: rec.LampsChosen) -> str:
    return "Lamps chosen"


@describe.register
def _(payload: rec.Identified) -> str:
    return f"Identified: {payload.base}, {payload.housing.label.lower()}"


@describe.register
def _(payload: rec.Inspected) -> str:
    return f"Inspected: haze {payload.seen.haze}, {HAZE_GRADES[payload.seen.haze].lower()}"


@describe.register
def _(payload: rec.Read) -> str:
    return f"Read {payload.phase}: {readings.POINTS[payload.reading.point].lower()}, {say_lux(payload.reading.lux)}"


@describe.register
def _(payload: rec.Chosen) -> str:
    return f"Chosen: {payload.source.name if payload.source else 'stay with the original'}"


@describe.register
def _(payload: rec.Refused) -> str:
    return f"Refused: {payload.source}"


@describe.register
def _(payload: rec.Supplied) -> str:
    return "Facts of the feed"


@describe.register
def _(payload: rec.BallastTested) -> str:
    return f"Ballast test: {ballast.CAUSES[ballast.cause(payload.test)].lower().rstrip('.')}"


@describe.register
def _(payload: rec.Routed) -> str:
    return f"Route: {payload.name}, {len(payload.steps)} steps"


@describe.register
def _(payload: rec.Ticked) -> str:
    return f"Step ticked ({payload.step.partition(':')[0]})"


@describe.register
def _(payload: rec.FastenerBack) -> str:
    noted = f", {payload.noted} noted" if payload.noted else ""
    return f"Fasteners: {payload.back} {payload.kind} back{noted}"


@describe.register
def _(payload: rec.Clocked) -> str:
    return f"Clocking: stopped {say_clock_angle(payload.stopped_deg)}"


@describe.register
def _(payload: rec.Proved) -> str:
    cell = proof.Cell(payload.function, payload.side.value, payload.engine)
    return f"{cell.words}: {proof.RESULTS[payload.result].lower()}"


@describe.register
def _(payload: rec.NotOnCar) -> str:
    return f"{proof.FUNCTIONS[payload.function]}: {'not on this car' if payload.absent else 'on this car'}"


@describe.register
def _(payload: rec.Aimed) -> str:
    return f"Aim as {payload.phase}: {say_percent(payload.slope, 2)}"


@describe.register
def _(payload: rec.HandedOver) -> str:
    return f"Customer sheet by {payload.technician}"


@describe.register
def _(payload: rec.Passed) -> str:
    label = Stage(payload.stage).label
    return f"{label} skipped: {payload.reason}" if payload.reason else f"{label} finished"


@describe.register
def _(payload: rec.Reopened) -> str:
    return f"{Stage(payload.stage).label} reopened"
