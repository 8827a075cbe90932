"""What is done at one lamp: its steps at Fit, how its bulb sits, the checks made there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from cold_arc.core import ballast
from cold_arc.core.car import condition
from cold_arc.core.car.keys import Key, SocketKey, UnitKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.fit import Checked, Clocked
from cold_arc.core.job.entries.match import HOUSING, SEAL, BallastTested, Chosen
from cold_arc.core.job.entries.wall_read import SeatRead
from cold_arc.core.job.facts import (
    ballast_cause,
    leaves_with,
    pair_of,
    setting_of,
    supply_facts,
    wired,
    wires_of,
)
from cold_arc.core.job.record import Record, once_a_record
from cold_arc.core.light_source import LightSource
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded
from cold_arc.core.wiring import working
from cold_arc.core.work import clocking, fitting, seating
from cold_arc.core.work.access import PLUGGED
from cold_arc.core.work.extras import Extra, extras
from cold_arc.core.work.tick import Tick, TickKind

# What was a guess before it was joined, and is none once it was seen to work.
PROVING_SETTLES = {"wires-unmeasured"}
# What is new for a whole lamp, whichever of its sockets it was told for.
OF_LAMP = {HOUSING, SEAL}


def sockets_of(record: Record, unit: UnitKey) -> list[SocketKey]:
    """The sockets of a unit that are worked on."""
    return [key for key in record.sockets if key.of_unit == unit]


def fitted_together(record: Record, units: Iterable[UnitKey]) -> list[list[SocketKey]]:
    """The sockets of some units as they are fitted: one by one, but all that a whole lamp takes
    over at once, first.
    """
    fitted: list[list[SocketKey]] = []
    for unit in units:
        sockets = sockets_of(record, unit)
        whole = [key for key in sockets if record.is_taken_over(key)]
        fitted += [whole] if whole else []
        fitted += [[key] for key in sockets if key not in whole]
    return fitted


def taken_over(
    record: Record, sockets: Iterable[SocketKey], source: LightSource
) -> Iterator[SocketKey]:
    """The worked-on sockets whose place a whole lamp takes, chosen for some *sockets*: those, and
    of their units what gives nothing else than it gives; all of them where that is not told.
    """
    asked = list(sockets)
    units = {key.of_unit for key in asked}
    for key in record.sockets:
        given = not source.functions or all(map(source.gives, record.socket(key).functions))
        if key in asked or (key.of_unit in units and given):
            yield key


def with_taken_over(record: Record, sockets: Iterable[SocketKey]) -> list[SocketKey]:
    """Some sockets, and those whose place the whole lamps chosen for them take besides."""
    asked = list(sockets)
    chosen = {
        choice.source
        for key in asked
        if (choice := record.latest(Chosen, key)) and choice.source and record.is_taken_over(key)
    }
    given = (key for source in chosen for key in taken_over(record, asked, source))
    more = [key for key in given if record.is_taken_over(key)]
    return list(dict.fromkeys([*asked, *more]))


def what_hangs(record: Record, key: SocketKey) -> tuple[object, ...]:
    """What a choice for several sockets at once must find alike in them."""
    socket = record.socket(key)
    return socket.holds, socket.base, socket.functions if not socket.holds_bulb else ()


def keeps_ballast(record: Record, socket: SocketKey) -> bool:
    """Whether a gas discharge lamp's ballast is still there, and live, once it is fitted."""
    source = leaves_with(record, socket)
    return record.is_gas_discharge(socket) and (source is None or source.driver == "ballast")


def covers(record: Record, unit: UnitKey) -> set[str]:
    """What of a lamp the way in to it takes off, whether it unplugs it, whether the whole lamp
    leaves."""
    steps = record.ways.get(unit, ())
    plugged = {PLUGGED} if any(step.kind == PLUGGED for step in steps) else set()
    leaving = {fitting.LEAVES} if record.leaves(unit) else set()
    opened = {fitting.OPENED} if record.is_opened(unit) else set()
    return plugged | leaving | opened | {step.cover for step in steps if step.cover}


def renewed(record: Record, key: SocketKey) -> set[str]:
    """What is put in new at a socket like for like, its lamp's housing and seal among it."""
    unit, of_lamp = key.of_unit, set()
    if record.has_new_housing(unit):
        of_lamp.add(HOUSING)
    if record.is_opened(unit):
        of_lamp.add(SEAL)
    return of_lamp | (set(record.renewed(key)) - OF_LAMP)


def way_findings(record: Record, unit: UnitKey) -> list[Finding]:
    """A caution where a whole lamp leaves the car by a way in that does not take it out."""
    steps = record.ways.get(unit, ())
    out = record.leaves(unit) or record.is_opened(unit)
    if not (steps and out) or "housing" in covers(record, unit):
        return []
    why = "The whole lamp leaves the car" if record.leaves(unit) else "The lamp is opened"
    return [
        Finding(
            "way-in-too-short",
            Level.CAUTION,
            worded("{why}; this way in does not take it out.", why=why),
            PRACTICE,
            advice="Take a way with the housing out, or add a step with its fasteners: what is not "
            "in the plan is not counted in the tray.",
        )
    ]


@once_a_record
def fit_steps(record: Record, key: SocketKey) -> tuple[fitting.FitStep, ...]:
    """The fitting steps of one socket, what is put in along its wiring before its plug, those at
    closing last.
    """
    chosen = record.latest(Chosen, key)
    steps = fitting.steps(
        record.socket(key),
        record.condition_worked_on(key.of_unit),
        chosen.source if chosen else None,
        covers(record, key.of_unit)
        | {f"new-{what.replace(' ', '-')}" for what in renewed(record, key)}
        | ({fitting.MAPPED} if wires_of(record, key).wires else set()),
    )
    steps = [_by_map(record, key, step) for step in steps]
    before = [step.id for step in steps]
    plug = next((before.index(name) for name in ("connect", "refit-old") if name in before), 0)
    wiring = [
        fitting.FitStep(part.id, part.text, (), caution=part.caution) for part in wired(record, key)
    ]
    return (*steps[:plug], *wiring, *steps[plug:])


def _by_map(record: Record, key: SocketKey, step: fitting.FitStep) -> fitting.FitStep:
    """A step that joins wires, saying which; any other as it is."""
    wires = wires_of(record, key)
    if step.id != fitting.JOINS or not wires.wires:
        return step
    last = " Reversed it is destroyed: measure first." if wires.reversed == "kills" else ""
    return replace(step, text=f"{step.text}. {wires.words}{last}")


def steps_to_tick(record: Record, key: SocketKey) -> list[Tick]:
    """The ids of every step at Fit, in order: the way in, then the fitting; not what is closed."""
    way_in = [Tick.of(TickKind.ROUTE, step.id) for step in record.ways.get(key.of_unit, ())]
    return way_in + [
        Tick.of(TickKind.FIT, step.id) for step in fit_steps(record, key) if not step.at_closing
    ]


def at_fit(record: Record, extra: Extra, unit: UnitKey) -> bool:
    """Whether a step at Fit of a unit stands for extra work on it."""
    return any(
        step.id == extra.fit for key in sockets_of(record, unit) for step in fit_steps(record, key)
    )


def extra_work(record: Record, unit: UnitKey) -> list[Extra]:
    """All extra work on a unit: what was asked for, and what a step at Fit stands for though nobody
    asked: a hazed lens is restored either way, and takes as long.
    """
    asked = record.extras(unit)
    ids = {extra.id for extra in asked}
    besides = (record.extra_on(name, unit) for name in extras() if name not in ids)
    return asked + [extra for extra in besides if extra and at_fit(record, extra, unit)]


def extra_work_at(
    record: Record, when: str, units: Iterable[UnitKey]
) -> dict[Extra, list[UnitKey]]:
    """The extra work of a time ("before" or "open") on some units, each sort with those it is done
    on.
    """
    together: dict[Extra, list[UnitKey]] = {}
    for key in units:
        for extra in extra_work(record, key):
            if extra.when == when:
                together.setdefault(extra, []).append(key)
    return together


def own_extras(record: Record, unit: UnitKey) -> list[Tick]:
    """The ticks of extra work on a unit that no step at Fit stands for."""
    return [
        Tick.of(TickKind.EXTRA, extra.id)
        for extra in record.extras(unit)
        if not at_fit(record, extra, unit)
    ]


def checks_wrong(record: Record, keys: Iterable[Key]) -> Iterator[str]:
    """The checks that were not right when last made, since what they looked at was chosen."""
    for key in keys:
        newest = {
            entry.payload.check: entry.payload
            for entry in record.entries
            if isinstance(entry.payload, Checked)
            and key in entry.about
            and entry.id > record.replaced_at(key)
        }
        yield from (
            f"{made.check} not right{f' ({made.note})' if made.note else ''}"
            for made in newest.values()
            if not made.right
        )


def needs_clocking(record: Record, key: SocketKey) -> bool:
    """Whether the socket gets a bulb whose emitters must face 3 and 9 o'clock: a beam made by
    faces.
    """
    chosen = record.latest(Chosen, key)
    return bool(
        chosen and chosen.source and chosen.source.is_bulb and record.socket(key).road_beams
    )


def clockings(record: Record, key: SocketKey) -> list[Clocked]:
    """The readings of where its bulb locked, since it was chosen."""
    return [
        entry.payload
        for entry in record.entries
        if isinstance(entry.payload, Clocked)
        and key in entry.about
        and entry.id > record.replaced_at(key)
    ]


def clocking_wants(record: Record, key: SocketKey) -> Iterator[str]:
    """What is missing of a socket's clocking."""
    read = clockings(record, key)
    if not read:
        yield "clocking not read"
    elif clocked_as(record, key, read[-1]).finding.level is Level.STOP:
        yield "clocking too far off"


def clocked_as(record: Record, key: SocketKey, clocked: Clocked) -> clocking.Clocking:
    """A clocking judged for the chosen bulb: two equal faces look the same every half turn."""
    chosen = record.latest(Chosen, key)
    source = chosen.source if chosen else None
    alike = 2 if source and source.faces == 2 and not source.dip_shield else 1
    return clocking.preset(clocked.stopped_deg, alike)


def seat_findings(record: Record, key: SocketKey) -> list[Finding]:
    """What is to be said of how a bulb sits: its clocking, what came of the preset, its depth."""
    read = clockings(record, key)
    if not read:
        return wall_seat_findings(record, key)
    judged = [clocked_as(record, key, clocked) for clocked in read]
    again = clocking.second_reading(judged[-2], judged[-1]) if len(judged) > 1 else None
    depth_mm = read[-1].depth_mm
    optic = record.socket(key).optic
    is_projector = optic is not None and optic.is_projector
    deep = (
        seating.seated(depth_mm, record.base(key), is_projector) if depth_mm is not None else None
    )
    of_hand = (finding for finding in (judged[-1].finding, again, deep) if finding)
    return [*of_hand, *wall_seat_findings(record, key)]


def wall_seat_findings(record: Record, key: SocketKey) -> list[Finding]:
    """What was read from the wall of how its bulb sits, until it is clocked again or another is
    chosen.
    """
    beams = set(record.front.beams_of(key))
    clocked = (
        entry.id
        for entry in record.entries
        if isinstance(entry.payload, Clocked) and key in entry.about
    )
    since = max([record.replaced_at(key), *clocked])
    read = [
        entry.payload.finding
        for entry in record.entries
        if isinstance(entry.payload, SeatRead) and beams & entry.about and entry.id > since
    ]
    return read[-1:]


def seats_open(record: Record) -> list[tuple[SocketKey, Finding]]:
    """What was read from the wall of bulbs that do not sit right, and nobody turned since."""
    return [
        (key, finding)
        for key in record.sockets
        for finding in wall_seat_findings(record, key)
        if finding.level > Level.OK
    ]


def ballasts_open(record: Record) -> list[tuple[SocketKey, Finding]]:
    """The lamps that run on a ballast whose test does not speak for it, each with what is to be
    said of it.
    """
    kept = [(key, _ballast_finding(record, key)) for key in record.sockets]
    return [(key, finding) for key, finding in kept if finding and keeps_ballast(record, key)]


def _ballast_finding(record: Record, key: SocketKey) -> Finding | None:
    """What is to be said of the ballast of a socket's own side, by the test of its pair."""
    tested, booking = record.latest(BallastTested, key), record.booking
    if tested is None or booking is None or not tested.test.concerns(key.side.value):
        return None
    return ballast.staying(ballast_cause(record, key, booking.volts))


def left_open(record: Record) -> list[tuple[Key, Finding]]:
    """What is not right at a lamp as the car leaves: what it is like itself, how its bulb sits,
    what feeds it, how it is wired.
    """
    of_bulbs = [*seats_open(record), *ballasts_open(record), *wires_open(record)]
    return [*unfit_lamps(record), *of_bulbs]


def unfit_lamps(record: Record) -> list[tuple[UnitKey, Finding]]:
    """The lamps that stay though they were seen unfit to, each with what is wrong with it."""
    return [
        (unit, finding)
        for unit in record.units
        if not record.leaves(unit)
        for finding in _unfit(record, unit)
    ]


def _unfit(record: Record, unit: UnitKey) -> list[Finding]:
    seen = record.condition_worked_on(unit)
    unfit = condition.UNFIT - {condition.MENDED_BY.get(by, "") for by in _mending(record, unit)}
    return [each for each in condition.findings(seen) if each.id in unfit] if seen else []


def _mending(record: Record, unit: UnitKey) -> Iterator[str]:
    """What is done to a lamp that may mend it: the kinds of what is put in, a new seal."""
    if record.is_opened(unit):
        yield SEAL
    for key in record.sockets:
        source = leaves_with(record, key) if key.of_unit == unit else None
        if source:
            yield source.kind


def wires_open(record: Record) -> list[tuple[SocketKey, Finding]]:
    """The lamps that are wired or fed against a stop, each with what is to be said of it."""
    wires = [(key, finding) for key in record.sockets for finding in wire_findings(record, key)]
    stops = [(key, finding) for key, finding in wires if finding.level is Level.STOP]
    return [(key, finding) for key, finding in stops if finding.id not in PROVING_SETTLES]


def wire_findings(record: Record, key: SocketKey) -> list[Finding]:
    """What is to be said of how a socket is wired and fed, as told at Match; nothing where what it
    came with stays, and no feed was added.
    """
    booking, facts, source = record.booking, supply_facts(record, key), leaves_with(record, key)
    if booking is None or not (source or facts.feed_for):
        return []
    setting, lamps = setting_of(record, booking, key), len(pair_of(record, key))
    judged = working.findings(setting, facts, source, lamps)
    return [finding for finding in judged if finding.level > Level.NOTE]


def condition_verdict(record: Record, key: UnitKey) -> condition.Verdict | None:
    """Go, restore or replace, once inspected."""
    seen = record.condition_worked_on(key)
    return condition.verdict(seen, condition.findings(seen)) if seen else None
