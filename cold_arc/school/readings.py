"""Exercises on meter readings: six of one lamp, of which one, two or none can't be trusted.

The slip that is planted is one the core's own check asks about; readings without one are such that
it asks about none.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from random import Random
from typing import Any

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Level
from cold_arc.core.light import photometry
from cold_arc.core.metering import readings as metering
from cold_arc.core.metering import slips
from cold_arc.core.metering.peak import Likeness, hot_spot
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.school.exercise import AnswerOption, Exercise, Posed, RowsShown, by_level
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import say_lux, say_volts

# An LED that fades is in the lamp where that is the slip; else the bulb it was made for.
LAMPS = (("reflector", "H7"), ("reflector", "H11"), ("projector", "H7"))
FADE, WARM_MIN, COLD_S = 0.15, (12, 25), (10, 60)
# The room's own light, lx: as it should be, and as a share of a reading where it is not.
ROOM_LX, LIT_SHARE = 0.1, (1.2, 0.8, 0.5, 0.35, 0.25)
PLACES = ("peak", "edge", "below", "left", "right", "stray")
DISTANCE_M, VOLTS = 10.0, 13.4
# How much sound readings scatter, as a share, by level; how far a supply sags, V.
SCATTER, SAG_V = (0.02, 0.03, 0.04, 0.06, 0.08), (2.2, 1.8, 1.4, 1.0, 0.7)
ALL_SOUND = "none"
MOST_TRIES = 40


@lru_cache(maxsize=8)
def known_beam(housing: str, base: str, source: str) -> slips.KnownBeam:
    """What readings of a lamp are held against."""
    setup = SetUp(housing=housing, base=base, source=source)
    return slips.KnownBeam(Likeness(beam_of(setup)), volts=VOLTS)


def place_of(known: slips.KnownBeam, place: str) -> tuple[float, float]:
    """Where a place of a beam is on the wall, m right and down of the lamp."""
    assert known.likeness is not None
    beam = known.likeness.beam
    h, v = hot_spot(beam) if place == "peak" else metering.direction(place)
    return derived.wall_place(h, v, DISTANCE_M)


def sound_reading(known: slips.KnownBeam, place: str, luck: Random, scatter: float) -> WallReading:
    """One sound reading of a place."""
    assert known.likeness is not None
    beam = known.likeness.beam
    right, down = place_of(known, place)
    lux = derived.meter_lux(beam, right, down, DISTANCE_M) * (1 + luck.gauss(0, scatter))
    across, drop = (right, down) if place != "peak" else (0.0, 0.0)
    return WallReading(
        place,
        round(lux, 2),
        DISTANCE_M,
        VOLTS,
        ambient_lx=ROOM_LX,
        across_m=round(across, 3),
        drop_m=round(drop, 3),
    )


Taken = dict[str, WallReading]
Spoilt = tuple[Taken, frozenset[str]]


def _with(taken: Taken, place: str, **changed: Any) -> Spoilt:
    """The readings with one of them changed."""
    return {**taken, place: replace(taken[place], **changed)}, frozenset({place})


def _range_forgotten(taken: Taken, _: int, luck: Random) -> Spoilt:
    place = luck.choice(PLACES[:5])
    return _with(taken, place, lux=round(taken[place].lux * luck.choice((10.0, 0.1)), 2))


def _sagged(taken: Taken, level: int, luck: Random) -> Spoilt:
    place, volts = luck.choice(PLACES[:5]), round(VOLTS - by_level(level, SAG_V), 1)
    lux = taken[place].lux * photometry.filament_factor(volts, VOLTS)
    return _with(taken, place, volts=volts, lux=round(lux, 2))


def _exchanged(taken: Taken, _: int, luck: Random) -> Spoilt:
    one, other = luck.choice((("peak", "stray"), ("edge", "stray"), ("below", "stray")))
    swapped = {
        one: replace(taken[one], lux=taken[other].lux),
        other: replace(taken[other], lux=taken[one].lux),
    }
    return {**taken, **swapped}, frozenset(swapped)


def _read_cold(taken: Taken, _: int, luck: Random) -> Spoilt:
    place = luck.choice(PLACES[:5])
    return _with(taken, place, lux=round(taken[place].lux * (1 + FADE), 2), settled=False)


def _lit_room(taken: Taken, level: int, luck: Random) -> Spoilt:
    place = luck.choice(PLACES)
    room = round(taken[place].lux * by_level(level, LIT_SHARE), 1)
    return _with(taken, place, lux=round(taken[place].lux + room, 2), ambient_lx=room)


# What is planted, by skill.
SLIPS: dict[str, Callable[[Taken, int, Random], Spoilt]] = {
    "meter.range": _range_forgotten,
    "meter.supply": _sagged,
    "meter.place": _exchanged,
    "meter.warm": _read_cold,
    "meter.dark": _lit_room,
    "meter.sound": lambda taken, _, __: (taken, frozenset()),
}


def doubted(taken: Taken, known: slips.KnownBeam) -> dict[str, str]:
    """The readings that can't be trusted, and why, as the core has it: what its check of slips asks
    about, what a reading says of itself, what was read cold.
    """
    reasons = {place: slip.text for slip in slips.slips(taken, known) for place in slip.places}
    for place, reading in taken.items():
        for finding in metering.reading_findings(reading):
            if finding.level is Level.CAUTION:
                reasons[place] = f"{finding.text} {finding.number}"
        if not reading.settled:
            reasons[place] = f"{metering.words(place)} was read cold: the lamp fades as it warms"
    return reasons


def readings(posed: Posed) -> Exercise:
    """Six readings; the slip is tried until the core's own check asks about just that."""
    luck, level = posed.luck, posed.level
    source = "led" if posed.skill == "meter.warm" else "nominal"
    for _ in range(MOST_TRIES):
        known = known_beam(*luck.choice(LAMPS), source)
        sound = {
            place: sound_reading(known, place, luck, by_level(level, SCATTER)) for place in PLACES
        }
        taken, planted = SLIPS[posed.skill](sound, level, luck)
        reasons = doubted(taken, known)
        if reasons.keys() == planted:
            break
    else:
        raise RuntimeError(f"no such readings: {posed}")
    return Exercise(
        posed,
        kinds()["meter"].ask,
        _table(taken, luck),
        (f"Low beam, {burns(source)}; wall at 10 m, engine running, one meter, lens clean.",),
        _options(),
        planted or frozenset({ALL_SOUND}),
        picks=2,
        why="; ".join(dict.fromkeys(reasons.values())) or "All of them can be trusted",
    )


def burns(source: str) -> str:
    """What is said to burn in the lamp."""
    return "LED bulb" if source == "led" else "halogen bulb"


def _table(taken: Taken, luck: Random) -> RowsShown:
    rows = tuple(
        (
            metering.words(place),
            say_lux(reading.lux),
            say_volts(reading.volts),
            f"{luck.randint(*WARM_MIN)} min" if reading.settled else f"{luck.randint(*COLD_S)} s",
            say_lux(reading.ambient_lx),
        )
        for place, reading in taken.items()
    )
    return RowsShown(("Place", "Read", "Supply", "Lamp on for", "Room, lamp off"), rows)


def _options() -> tuple[AnswerOption, ...]:
    places = (AnswerOption(place, metering.words(place)) for place in PLACES)
    return (*places, AnswerOption(ALL_SOUND, "All of them can be trusted", "meter.sound"))
