"""Exercises on meter readings: six of one lamp, of which one, two or none can't be trusted.

The slip that is planted is one the core's own check asks about; readings without one are such that
it asks about none.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from random import Random

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.metering import readings as metering
from cold_arc.core.metering import slips
from cold_arc.core.metering.peak import Likeness, hot_spot
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.school.exercise import AnswerOption, Exercise, RowsShown, by_level, draw
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import say_lux, say_volts

LAMPS = (("reflector", "H7"), ("reflector", "H11"), ("projector", "H7"))
PLACES = ("peak", "edge", "below", "left", "right", "stray")
DISTANCE_M, VOLTS = 10.0, 13.4
# How much sound readings scatter, as a share, by level; how far a supply sags, V.
SCATTER, SAG_V = (0.02, 0.03, 0.04, 0.06, 0.08), (2.2, 1.8, 1.4, 1.0, 0.7)
ALL_SOUND = "none"
MOST_TRIES = 40


@lru_cache(maxsize=8)
def _known(housing: str, base: str) -> slips.KnownBeam:
    return slips.KnownBeam(Likeness(beam_of(SetUp(housing=housing, base=base))), volts=VOLTS)


def _read(known: slips.KnownBeam, place: str, luck: Random, scatter: float) -> WallReading:
    """One sound reading of a place."""
    assert known.likeness is not None
    beam = known.likeness.beam
    h, v = hot_spot(beam) if place == "peak" else metering.direction(place)
    right, down = derived.wall_place(h, v, DISTANCE_M)
    lux = derived.meter_lux(beam, right, down, DISTANCE_M) * (1 + luck.gauss(0, scatter))
    across, drop = (right, down) if place != "peak" else (0.0, 0.0)
    return WallReading(
        place,
        round(lux, 2),
        DISTANCE_M,
        VOLTS,
        across_m=round(across, 3),
        drop_m=round(drop, 3),
    )


def _spoil(
    taken: dict[str, WallReading], skill: str, level: int, luck: Random
) -> tuple[dict[str, WallReading], frozenset[str]]:
    """The readings with a slip, and whose they are."""
    if skill == "meter.range":
        place = luck.choice(PLACES[:5])
        factor = luck.choice((10.0, 0.1))
        return {**taken, place: replace(taken[place], lux=round(taken[place].lux * factor, 2))}, (
            frozenset({place})
        )
    if skill == "meter.supply":
        place = luck.choice(PLACES[:5])
        volts = round(VOLTS - by_level(level, SAG_V), 1)
        lux = round(taken[place].lux * (volts / VOLTS) ** 3.4, 2)
        return {**taken, place: replace(taken[place], volts=volts, lux=lux)}, frozenset({place})
    if skill == "meter.place":
        one, other = luck.choice((("peak", "stray"), ("edge", "stray"), ("below", "stray")))
        return {
            **taken,
            one: replace(taken[one], lux=taken[other].lux),
            other: replace(taken[other], lux=taken[one].lux),
        }, frozenset({one, other})
    return taken, frozenset()


def readings(skill: str, level: int, seed: int) -> Exercise:
    """Six readings; the slip is tried until the core's own check asks about just that."""
    luck = draw(skill, level, seed)
    for _ in range(MOST_TRIES):
        known = _known(*luck.choice(LAMPS))
        sound = {place: _read(known, place, luck, by_level(level, SCATTER)) for place in PLACES}
        taken, planted = _spoil(sound, skill, level, luck)
        asked = slips.slips(taken, known)
        if frozenset(place for slip in asked for place in slip.places) == planted:
            break
    else:
        raise RuntimeError(f"no such readings: {skill} {level} {seed}")
    return Exercise(
        skill,
        level,
        seed,
        kinds()["meter"].ask,
        _table(taken),
        ("Halogen low beam, wall at 10 m, engine running, one meter, lens clean.",),
        _options(),
        planted or frozenset({ALL_SOUND}),
        picks=2,
        why="; ".join(slip.text for slip in asked) or "All of them can be trusted",
    )


def _table(taken: dict[str, WallReading]) -> RowsShown:
    rows = tuple(
        (metering.words(place), say_lux(reading.lux), say_volts(reading.volts))
        for place, reading in taken.items()
    )
    return RowsShown(("Place", "Read", "Supply"), rows)


def _options() -> tuple[AnswerOption, ...]:
    places = (AnswerOption(place, metering.words(place)) for place in PLACES)
    return (*places, AnswerOption(ALL_SOUND, "All of them can be trusted", "meter.sound"))
