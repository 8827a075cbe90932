"""The record in words: each entry as one line, newest first, with what can be undone."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import singledispatch

from cold_arc.core import ballast
from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car.condition import HAZE_GRADES
from cold_arc.core.car.front import Front, Key
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import entries as rec
from cold_arc.core.job.record import Unreadable
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering import readings
from cold_arc.core.units import (
    say_clock_angle,
    say_degrees,
    say_lux,
    say_minutes,
    say_mm,
    say_number,
    say_percent,
    say_time,
)
from cold_arc.core.work import interlocks, proof
from cold_arc.core.work.diagnosis import faults
from cold_arc.core.work.extras import extras
from cold_arc.store.jobs import Job

SHOWN = 8


@dataclass(frozen=True)
class HistoryLine:
    """One entry as shown."""

    id: int
    at: dt.datetime
    text: str
    about: str
    undone: bool
    can_undo: bool


def history(job: Job, most: int, skip: int = 0) -> list[HistoryLine]:
    """The entries, newest first, undone ones among them: *most* of them after *skip*."""
    upto = len(job.entries) - skip
    shown = job.entries[max(upto - most, 0) : max(upto, 0)]
    founding = job.entries[0].id if job.entries else 0
    return [
        HistoryLine(
            entry.id,
            entry.at,
            describe(entry.payload),
            _about(job.record.front, entry.about),
            entry.undone_at is not None,
            entry.id != founding,
        )
        for entry in reversed(shown)
    ]


def _about(front: Front, keys: frozenset[Key]) -> str:
    """What an entry is about, short: "low beam both, headlamp left"."""
    sides: dict[str, list[str]] = {}
    for key in sorted(keys, key=str):
        words = front.words(key) if front.has(key) else key.name
        sides.setdefault(words.lower(), []).append(key.side.value)
    return ", ".join(
        f"{words} {held[0] if len(held) == 1 else 'both'}" for words, held in sides.items()
    )


@singledispatch
def describe(payload: object) -> str:
    """What an entry says, in a few words."""
    raise TypeError(f"no words for {type(payload).__name__}")


@describe.register
def _(payload: rec.Booking) -> str:
    return f"Booking: {payload.vehicle}"


@describe.register
def _(payload: Unreadable) -> str:
    return f"Unreadable entry ({payload.kind}): kept, and of no account"


@describe.register
def _(payload: rec.FrontSet) -> str:
    return f"Front: {', '.join(unit.words.lower() for unit in payload.front.units)}"


@describe.register
def _(payload: rec.WorkChosen) -> str:
    return "Work chosen"


@describe.register
def _(payload: rec.OldBulbMeasured) -> str:
    return f"Old bulb measured: light centre {say_mm(payload.bulb.lcl_mm)}"


@describe.register
def _(payload: rec.Identified) -> str:
    return f"Identified: {payload.base}, {payload.optic.label.lower()}"


@describe.register
def _(payload: rec.Inspected) -> str:
    return f"Inspected: haze {payload.seen.haze}, {HAZE_GRADES[payload.seen.haze].lower()}"


@describe.register
def _(payload: rec.Read) -> str:
    return (
        f"Read {payload.phase}: {readings.words(payload.reading.point).lower()}, "
        f"{say_lux(payload.reading.lux)}"
    )


@describe.register
def _(payload: rec.Rastered) -> str:
    return f"Raster {payload.phase}: {len(payload.readings)} readings from {payload.name}"


@describe.register
def _(payload: rec.WarmStarted) -> str:
    return f"Warm-up run {payload.phase} started"


@describe.register
def _(payload: rec.WarmRead) -> str:
    return f"Warm-up {payload.phase}: {say_lux(payload.lux)}"


@describe.register
def _(payload: rec.Warmed) -> str:
    return f"Warm-up run {payload.phase}: {len(payload.samples)} readings"


@describe.register
def _(payload: rec.Tried) -> str:
    place = readings.words(payload.reading.point).lower()
    return (
        f"Shoot-out, turn {payload.turn}, {payload.source}: {place}, {say_lux(payload.reading.lux)}"
    )


@describe.register
def _(payload: rec.ShootOutEnded) -> str:
    return "Shoot-out ended"


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
def _(payload: rec.ExtraWork) -> str:
    known = [
        extra.text[0].lower() + extra.text[1:]
        for name in payload.extras
        if (extra := extras().get(name))
    ]
    return f"Extra work: {'; '.join(known) or 'none'}"


@describe.register
def _(payload: rec.Ordered) -> str:
    when = (
        f", due {payload.due.day} {payload.due:%b}" if payload.due and not payload.arrived else ""
    )
    return f"{payload.what} {'arrived' if payload.arrived else 'on order'}{when}"


@describe.register
def _(payload: rec.PlannedFor) -> str:
    if payload.day is None:
        return "Taken off the day plan"
    return f"Planned for {payload.day.day} {payload.day:%b}, {say_time(payload.starts_min)}"


@describe.register
def _(payload: rec.PlanKept) -> str:
    return f"Plan kept: {say_minutes(payload.minutes)}, {len(payload.steps)} steps"


_TICKS = {"route": "opened", "close": "closed", "extra": "extra work", "fit": "fitted"}


@describe.register
def _(payload: rec.Ticked) -> str:
    what = payload.step.partition(":")[0]
    by = f" by {payload.who}" if payload.who else ""
    return (
        "Step ticked "
        f"({_TICKS.get(what, what)}){by}{f': {payload.reason}' if payload.reason else ''}"
    )


@describe.register
def _(payload: rec.ClockRan) -> str:
    return f"Clock {'started' if payload.running else 'stopped'}"


@describe.register
def _(payload: rec.Checked) -> str:
    return (
        f"{payload.check}: "
        f"{'right' if payload.right else 'not right'}{f', {payload.note}' if payload.note else ''}"
    )


@describe.register
def _(payload: rec.Pictured) -> str:
    return f"Picture {payload.phase} a step"


@describe.register
def _(payload: rec.Interlocked) -> str:
    text = interlocks.interlocks()[payload.interlock].text
    return f"{text}: {'as it should' if payload.right else 'not so'}"


@describe.register
def _(payload: rec.FastenerBack) -> str:
    gone = [f"{count} {word}" for count, word in _gone(payload) if count]
    return f"Fasteners: {', '.join([f'{payload.back} {payload.kind} back', *gone])}"


def _gone(fasteners: rec.FastenerBack) -> list[tuple[int, str]]:
    return [(fasteners.broken, "broken"), (fasteners.noted - fasteners.broken, "noted")]


@describe.register
def _(payload: rec.Clocked) -> str:
    return f"Clocking: stopped {say_clock_angle(payload.stopped_deg)}"


@describe.register
def _(payload: rec.Proved) -> str:
    cell = proof.Cell(payload.function, payload.side.value, payload.engine)
    return f"{cell.words}: {proof.RESULTS[payload.result].lower()}"


@describe.register
def _(payload: rec.FaultSought) -> str:
    symptom = faults().symptoms[payload.symptom].text
    return f"Fault sought: {symptom[0].lower()}{symptom[1:]}, {len(payload.answers)} tests"


@describe.register
def _(payload: rec.FaultFound) -> str:
    cause = faults().causes[payload.cause].text
    return f"Fault {'cured' if payload.cured else 'found'}: {cause[0].lower()}{cause[1:]}"


@describe.register
def _(payload: rec.NotOnCar) -> str:
    return (
        f"{proof.FUNCTIONS[payload.function]}: "
        f"{'not on this car' if payload.absent else 'on this car'}"
    )


@describe.register
def _(payload: rec.Aimed) -> str:
    return f"Aim as {payload.phase}: {say_percent(payload.slope, 2)}{_practised(payload)}"


@describe.register
def _(payload: rec.WallLaid) -> str:
    uneven = ", floor as measured" if payload.floor else ""
    heights = dict.fromkeys(payload.of(side).height_m for side in Side)
    off, *high = (f"{say_number(height_m)}\u00a0m" for height_m in (payload.distance_m, *heights))
    return f"Wall for aiming: {off} off, lamps {' and '.join(high)} high{uneven}"


@describe.register
def _(payload: rec.AdjustersTold) -> str:
    return (
        "One adjuster moves low and high beam"
        if payload.shared
        else "Low and high beam have an adjuster each"
    )


@describe.register
def _(payload: rec.Readied) -> str:
    return f"Before aiming: {len(payload.done)} of {len(CHECKS)} checked"


@describe.register
def _(payload: rec.WallPhotographed) -> str:
    if payload.found is None:
        return f"Photograph of the wall as {payload.phase}{_practised(payload)}"
    stands = say_degrees(payload.found.aim_deg[0], 2, signed=True)
    return f"Photograph as {payload.phase}: {stands}{_practised(payload)}"


def _practised(payload: rec.Aimed | rec.WallPhotographed) -> str:
    return ", simulated" if payload.simulated else ""


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
