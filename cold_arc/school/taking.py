"""Six readings taken by hand before the wall: where the meter is held, on which range, at which
supply, how warm the lamp and how dark the bay are is the learner's own doing.

What is written down is judged by the core's own checks of readings, and by what the meter showed.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from random import Random

from cold_arc.core.light import photometry
from cold_arc.core.metering import readings as metering
from cold_arc.core.school.exercise import (
    Exercise,
    Judgement,
    MeterShown,
    NoAnswerError,
    Posed,
    by_level,
    figure_of,
)
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import say_count, say_lux, say_volts
from cold_arc.school.readings import (
    DISTANCE_M,
    FADE,
    LAMPS,
    PLACES,
    ROOM_LX,
    VOLTS,
    Taken,
    burns,
    doubted,
    known_beam,
    place_of,
    sound_reading,
)

# The time constant an LED that is switched on fades by, min; when it has settled; how long one
# waits at a time (common practice).
FADES_MIN, SETTLED_MIN, WAIT_MIN = 4.0, 15.0, 5.0
# What the bay's lights add, lx; the supply with the engine off, V; by level, the plainer first
# (own).
LIT_LX, OFF_V = (12.0, 9.0, 7.0, 5.0, 4.0), (11.6, 11.8, 12.0, 12.2, 12.3)
# The range the meter was left on, by level; its display's last count.
LEFT_ON, RANGES, LAST_COUNT = (1.0, 10.0, 10.0, 10.0, 100.0), (1.0, 10.0, 100.0), 1999
# Counts to a lux on the lowest range: the display shows tenths. One whose last digit is worth more
# than this share of what it shows tells too little (own).
COUNTS, COARSE = 10, 0.1
# From which level on a bulb that fades may be in the lamp, and how much sound readings scatter.
LED_FROM, SCATTER = 2, (0.01, 0.01, 0.02, 0.03, 0.04)
MOST_LUX, MOST_ACTS = 200_000.0, 40
WRITE_DOWN = "Write down what the meter reads, in lux."
# What is done besides reading: each act as an answer writes it, and its words.
ENGINE, DARK, WAIT = "engine", "dark", "wait"
ACTS = {
    ENGINE: "Start the engine",
    DARK: "Darken the bay",
    WAIT: f"Wait {WAIT_MIN:g} minutes",
    **{f"x{factor:g}": f"Range ×{factor:g}" for factor in RANGES},
}
# What was not right at a reading, by the skill that it belongs to.
SUPPLY, WARM, ROOM, RANGE = "meter.supply", "meter.warm", "meter.dark", "meter.range"


@dataclass(frozen=True)
class Bay:
    """Before the wall: where the meter is held (a place, "" for none), its range, what was done,
    and what was written down, by place; *shown*: what the meter showed then, lx.
    """

    range_factor: float
    place: str = ""
    minutes: float = 0.0
    is_running: bool = False
    is_dark: bool = False
    taken: Taken = field(default_factory=dict)
    shown: dict[str, float] = field(default_factory=dict)


def take(posed: Posed) -> Exercise:
    """Take six readings that can be trusted."""
    luck, level = posed.luck, posed.level
    housing, base = luck.choice(LAMPS)
    source = "led" if level >= LED_FROM and luck.random() < 0.5 else "nominal"
    shown = MeterShown(
        housing,
        base,
        source,
        by_level(level, LEFT_ON),
        by_level(level, LIT_LX),
        by_level(level, OFF_V),
        by_level(level, SCATTER),
    )
    return Exercise(
        posed,
        kinds()["take"].ask,
        shown,
        (f"Low beam, {burns(source)}, just switched on; wall at {DISTANCE_M:g} m, lens clean.",),
        why="Six readings, none of which has to be asked about",
    )


def is_so(bay: Bay) -> frozenset[str]:
    """The acts whose effect stands."""
    so = {f"x{bay.range_factor:g}": True, ENGINE: bay.is_running, DARK: bay.is_dark}
    return frozenset(act for act, stands in so.items() if stands)


def _meter(exercise: Exercise) -> MeterShown:
    assert isinstance(exercise.shown, MeterShown)
    return exercise.shown


def done(exercise: Exercise, answer: str) -> Bay:
    """The bay after the acts of an answer, parted by semicolons; NoAnswerError for what is none."""
    bay = Bay(_meter(exercise).left_on)
    acts = [act for act in answer.split(";") if act]
    if len(acts) > MOST_ACTS:
        raise NoAnswerError(f"No more than {MOST_ACTS} acts.")
    for act in acts:
        bay = _after(exercise, bay, act)
    return bay


def _after(exercise: Exercise, bay: Bay, act: str) -> Bay:
    if act == ENGINE:
        return replace(bay, is_running=True)
    if act == DARK:
        return replace(bay, is_dark=True)
    if act == WAIT:
        return replace(bay, minutes=bay.minutes + WAIT_MIN)
    if act in ACTS:
        return replace(bay, range_factor=float(act[1:]))
    if act in PLACES:
        return replace(bay, place=act)
    return _written(exercise, bay, act)


def _written(exercise: Exercise, bay: Bay, act: str) -> Bay:
    """What is written down of the place the meter is held at, "=183.5"."""
    lux = figure_of(act.removeprefix("=") if act.startswith("=") else "", WRITE_DOWN)
    if not 0 <= lux <= MOST_LUX:
        raise NoAnswerError(WRITE_DOWN)
    if not bay.place:
        raise NoAnswerError("Hold the meter somewhere first.")
    shown = _meter(exercise)
    read = replace(
        _sound(exercise, bay.place),
        lux=lux,
        volts=volts(shown, bay),
        ambient_lx=room_lx(shown, bay),
        range_factor=bay.range_factor,
        settled=shown.source != "led" or bay.minutes >= SETTLED_MIN,
    )
    return replace(
        bay,
        taken=bay.taken | {bay.place: read},
        shown=bay.shown | {bay.place: lux_shown(exercise, bay)},
    )


def volts(shown: MeterShown, bay: Bay) -> float:
    """The supply, V."""
    return VOLTS if bay.is_running else shown.off_v


def room_lx(shown: MeterShown, bay: Bay) -> float:
    """What the meter shows with the lamp off, lx."""
    return ROOM_LX if bay.is_dark else shown.lit_lx


def _sound(exercise: Exercise, place: str) -> metering.WallReading:
    """A place as it reads warm, at its supply, in the dark; always the same."""
    shown = _meter(exercise)
    luck = Random(f"{exercise.posed} {place}")
    return sound_reading(known_beam(*shown.lamp), place, luck, shown.scatter)


def lux_at(exercise: Exercise, bay: Bay) -> float:
    """The light at the meter's head, lx."""
    shown = _meter(exercise)
    sound = _sound(exercise, bay.place)
    if shown.source == "led":
        light = sound.net_lux * (1 + FADE * math.exp(-bay.minutes / FADES_MIN))
    else:
        light = sound.net_lux * photometry.filament_factor(volts(shown, bay), VOLTS)
    return light + room_lx(shown, bay)


def _counted(exercise: Exercise, bay: Bay) -> int | None:
    """The display's count; None past its end."""
    shown = round(lux_at(exercise, bay) / bay.range_factor * COUNTS)
    return shown if shown <= LAST_COUNT else None


def display(exercise: Exercise, bay: Bay) -> str:
    """What the display shows, its range not in it: "18.3"; "OL" past its end."""
    shown = _counted(exercise, bay)
    return "OL" if shown is None else f"{shown / COUNTS:.1f}"


def lux_shown(exercise: Exercise, bay: Bay) -> float:
    """What that means, lx; infinite past its end."""
    shown = _counted(exercise, bay)
    return math.inf if shown is None else shown / COUNTS * bay.range_factor


def judge_take(exercise: Exercise, answer: str) -> Judgement:
    """*answer*: the acts."""
    bay = done(exercise, answer)
    missing = [place for place in PLACES if place not in bay.taken]
    if missing:
        names = ", ".join(metering.words(place).lower() for place in missing)
        raise NoAnswerError(f"Still to be read: {names}.")
    doubts = list(_doubts(exercise, bay))
    read = "; ".join(f"{metering.words(p).lower()} {say_lux(r.lux)}" for p, r in bay.taken.items())
    count = len({doubt.place for doubt in doubts})
    answered = f"{read}. {say_count(count, 'reading')} to doubt." if count else f"{read}."
    means = doubts[0].skill if doubts else ""
    return Judgement(not doubts, answered, exercise.why, means, tuple(_notes(doubts)))


@dataclass(frozen=True)
class Doubted:
    """A place that can't be trusted, the skill that is of, and why."""

    place: str
    skill: str
    why: str


def _doubts(exercise: Exercise, bay: Bay) -> Iterator[Doubted]:
    """Everything that can't be trusted of what was written down."""
    asked = doubted(bay.taken, known_beam(*_meter(exercise).lamp))
    for place, reading in bay.taken.items():
        step = reading.range_factor / COUNTS
        if not abs(reading.lux - bay.shown[place]) <= step:
            yield Doubted(place, RANGE, f"the meter showed {_showed(bay.shown[place])}")
        elif place in asked:
            yield from _of_taking(place, reading, asked[place])
        elif step > COARSE * reading.lux:
            yield Doubted(place, RANGE, f"a step of the display is {say_lux(step)} there")


def _of_taking(place: str, reading: metering.WallReading, otherwise: str) -> list[Doubted]:
    """What was not as it should be when a reading was taken; else what the core says of it."""
    states = {
        WARM: (not reading.settled, "read cold, and the lamp fades as it warms"),
        SUPPLY: (reading.volts < VOLTS, f"read at {say_volts(reading.volts)}"),
        ROOM: (reading.ambient_lx > ROOM_LX, f"{say_lux(reading.ambient_lx)} of the room's own"),
    }
    so = [Doubted(place, skill, why) for skill, (holds, why) in states.items() if holds]
    return so or [Doubted(place, RANGE, otherwise)]


def _notes(doubts: list[Doubted]) -> Iterator[str]:
    """Each reason once, with the places it is of."""
    places: dict[str, list[str]] = {}
    for doubt in doubts:
        places.setdefault(doubt.why, []).append(metering.words(doubt.place))
    for why, names in places.items():
        of = "All six" if len(names) == len(PLACES) else ", ".join(names)
        yield f"{of}: {why}."


def _showed(lux: float) -> str:
    return "its end" if math.isinf(lux) else say_lux(lux)


def where(exercise: Exercise, place: str) -> tuple[float, float]:
    """Where a place is on the wall, m right and down of the lamp."""
    return place_of(known_beam(*_meter(exercise).lamp), place)


def facts(exercise: Exercise, bay: Bay) -> tuple[tuple[str, str], ...]:
    """What is seen of the bay: each with its words."""
    shown = _meter(exercise)
    return (
        ("Lamp on for", f"{bay.minutes:g} min"),
        ("Supply", say_volts(volts(shown, bay))),
        ("Room, lamp off", say_lux(room_lx(shown, bay))),
    )
