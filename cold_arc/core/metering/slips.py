"""Slips of hand caught before a reading is saved: a range forgotten, units mixed, places or sides
exchanged, a supply that sagged, a meter at its end.

Every slip is a hypothesis: readings as they were typed are weighed against the same readings with
the slip taken back, by how well the lamp's modelled beam, its aim and brightness left open,
explains each (Bayes' rule; own). What is asked about is only asked: the reading as typed can always
be kept.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.beam import derived
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.light import photometry
from cold_arc.core.metering.differing import differs
from cold_arc.core.metering.peak import Likeness
from cold_arc.core.metering.readings import WallReading, direction, words
from cold_arc.core.units import FOOT_CANDLE_LX, say_candela, say_lux, say_volts, write_figure

Array = NDArray[np.float64]
Readings = Mapping[str, WallReading]
# How well the model knows: a lamp's brightness, its aim right and up (degrees), a reading at a
# place, stray light (as natural logarithms but the aim; own).
BRIGHTNESS, AIM_DEG, PLACE, STRAY = 0.5, (0.7, 0.5), 0.2, 0.8
# The least a reading and a modelled beam are taken for, cd.
LEAST_READ_CD, LEAST_CD = 15.0, 60.0
LOOKED = (np.linspace(-1.8, 1.8, 13), np.linspace(-1.5, 1.5, 21))
# By how much (in twice the logarithm of likelihood) a slip must explain the readings better to be
# asked about, and how ill they must fit as they stand: slips are rare (own). Places far apart are
# exchanged less often than sides.
BETTER, ILL, RARER = 6.0, 6.0, 4.0
# Slips that explain nearly as much as the best are asked about with it.
NEAR, MOST_ASKED = 2.0, 2
FACTORS = {
    "tenfold": (10.0, "ten times too high"),
    "tenth": (0.1, "ten times too low"),
    "hundredfold": (100.0, "a hundred times too high"),
    "hundredth": (0.01, "a hundred times too low"),
    "lux-as-fc": (FOOT_CANDLE_LX, "lux read as foot-candles"),
    "fc-as-lux": (1 / FOOT_CANDLE_LX, "foot-candles read as lux"),
}
# Ten and 10.76 lie too near one another for a reading to tell which it was.
ALIKE = {"tenfold": "lux-as-fc", "tenth": "fc-as-lux"}
# Supplies, as a share of the test voltage: under this the engine is off or the charger is; but no
# more than a full battery at rest gives, as a share of what it is named by (12.8 V of 12 V; at 24 V
# the test voltage lies well above); how much readings of a beam may differ, V; how near the end of
# its range a display is at its end (common practice).
RUNNING_SHARE, RESTING_SHARE, SAG_V, END_SHARE = 0.97, 12.8 / 12, 0.3, 0.995
# What no lamp of its kind is read at, cd, whatever burns in it (own; a fog lamp with a strong LED
# was read at 90 000, two high beams together may reach 430 000 by UN R48 6.2.9, from memory).
BEYOND_CD = {"low": 150_000.0, "high": 300_000.0, "fog": 100_000.0}
# A place may outshine the brightest by so much before one asks.
OUTSHINES = 1.08


@dataclass(frozen=True)
class Slip:
    """What may have gone wrong with the readings of *places*: *kind*, in words, and what each would
    be then, lx.
    """

    kind: str
    places: tuple[str, ...]
    text: str
    meant: tuple[tuple[str, float], ...] = ()

    def meant_lux(self, place: str) -> float:
        """What the reading at a place would be, lx."""
        return dict(self.meant)[place]

    def typed(self, place: str) -> str:
        """How that is typed."""
        return f"{write_figure(round(self.meant_lux(place), 2))} lx x1"


@dataclass(frozen=True)
class KnownBeam:
    """What readings are held against. *likeness*: the lamp's beam as modelled, None where it can't
    be; *volts*: the supply of the other readings, None where there are none; *nominal_v* of the
    car."""

    likeness: Likeness | None
    function: Function = Function.LOW
    traffic: Traffic = Traffic.RIGHT
    nominal_v: float = 12.0
    volts: float | None = None


def slips(taken: Readings, known: KnownBeam) -> list[Slip]:
    """What may be slips among the readings of one beam, the likeliest first; those of factors, of
    places, then the rest."""
    suspected = [*_saturated(taken), *_sagged(taken, known)]
    if known.likeness is not None:
        suspected = [
            *_weighed(
                {name: reading for name, reading in taken.items() if reading.net_lux > 0}, known
            ),
            *suspected,
        ]
    asked = {place for slip in suspected for place in slip.places}
    return [*suspected, *(slip for slip in _beyond(taken, known) if slip.places[0] not in asked)]


def _beyond(taken: Readings, known: KnownBeam) -> Iterator[Slip]:
    """Readings no lamp of this kind gives, whether or not it can be modelled."""
    most_cd = BEYOND_CD.get(known.function, math.inf)
    for name, reading in taken.items():
        if reading.candela > most_cd:
            text = (
                f"{words(name, known.function)}: {say_candela(reading.candela)} is more than such "
                "a lamp gives. Is the range right, and the distance?"
            )
            yield Slip("beyond", (name,), text, ((name, reading.lux / 10),))


def _saturated(taken: Readings) -> Iterator[Slip]:
    for name, reading in taken.items():
        end = reading.meter_class.full_scale_lx(reading.range_factor)
        if reading.meter and reading.lux >= END_SHARE * end:
            text = (
                f"{words(name)}: the display stands at the end of its range, {say_lux(end)}. It "
                "may be brighter."
            )
            yield Slip("saturated", (name,), text)
    shown: dict[float, list[str]] = {}
    for name, reading in taken.items():
        shown.setdefault(reading.lux, []).append(name)
    for lux, names in shown.items():
        if len(names) > 2 and lux > 0:
            yield Slip(
                "saturated",
                tuple(names),
                f"{say_lux(lux)} at {len(names)} places: is the display held, or at its end?",
            )


def _sagged(taken: Readings, known: KnownBeam) -> Iterator[Slip]:
    running = min(
        RUNNING_SHARE * photometry.reference_volts(known.nominal_v),
        RESTING_SHARE * known.nominal_v,
    )
    for name, reading in taken.items():
        if known.volts is not None and differs(reading.volts, known.volts, SAG_V):
            number = f"{say_volts(reading.volts)}, {say_volts(known.volts)} for the others"
            yield Slip(
                "sag",
                (name,),
                f"{words(name)}: another supply, {number}. Did it sag, or is it mistyped?",
            )
        elif known.volts is None and reading.volts < running:
            more = f"engine running or charger on gives {say_volts(running)} or more"
            yield Slip("sag", (name,), f"{say_volts(reading.volts)} is a battery alone: {more}.")


def _weighed(taken: Readings, known: KnownBeam) -> list[Slip]:
    """The slip, of all that are possible, that explains the readings best, if it does so by far;
    and what is next to it."""
    if not taken:
        return []
    judged = _Judged(taken, known)
    as_typed = judged.misfit({})
    tries = sorted([*_factors(taken, judged), *_exchanges(taken, judged)], key=lambda pair: pair[0])
    if not tries or as_typed < ILL or as_typed - tries[0][0] < BETTER:
        return list(_outshone(taken))
    return [slip for misfit, slip in tries if misfit - tries[0][0] < NEAR][:MOST_ASKED]


def _outshone(taken: Readings) -> Iterator[Slip]:
    """A place brighter than the brightest."""
    top = taken.get("peak")
    for name, reading in taken.items():
        if top and name != "peak" and reading.candela > OUTSHINES * top.candela:
            text = (
                f"{words(name)} reads more than the brightest point. Were they exchanged, or is "
                "it elsewhere?"
            )
            yield Slip("exchanged", ("peak", name), text, (("peak", reading.lux), (name, top.lux)))
            return


def _factors(taken: Readings, judged: _Judged) -> Iterator[tuple[float, Slip]]:
    """A factor on one reading, or on all of them: the range stood wrong."""
    for kind, (factor, phrase) in FACTORS.items():
        if kind in ALIKE.values():
            continue
        phrase += f", or {FACTORS[ALIKE[kind]][1]}" if kind in ALIKE else ""
        for name, reading in taken.items():
            text = f"{words(name)}: {say_lux(reading.lux)} looks {phrase}."
            meant = [(name, reading.lux / factor)]
            yield judged.misfit({name: -math.log(factor)}), Slip(kind, (name,), text, tuple(meant))
        if len(taken) > 2:
            every = dict.fromkeys(taken, -math.log(factor))
            meant = [(name, reading.lux / factor) for name, reading in taken.items()]
            yield (
                judged.misfit(every),
                Slip(kind, tuple(taken), f"Every reading looks {phrase}.", tuple(meant)),
            )


def _exchanges(taken: Readings, judged: _Judged) -> Iterator[tuple[float, Slip]]:
    """Two places exchanged; left and right too."""
    for one, other in combinations(taken, 2):
        swapped = {
            one: replace(taken[one], lux=taken[other].lux),
            other: replace(taken[other], lux=taken[one].lux),
        }
        shift = {
            name: math.log(
                max(reading.candela, LEAST_READ_CD) / max(taken[name].candela, LEAST_READ_CD)
            )
            for name, reading in swapped.items()
        }
        kind = "sides" if {one, other} == {"left", "right"} else "exchanged"
        text = f"{words(one)} and {words(other).lower()} look exchanged."
        meant = tuple((name, reading.lux) for name, reading in swapped.items())
        rarer = 0.0 if kind == "sides" else RARER
        yield judged.misfit(shift) + rarer, Slip(kind, (one, other), text, meant)


class _Judged:
    """Readings of one beam against every guess of its aim."""

    def __init__(self, taken: Readings, known: KnownBeam) -> None:
        assert known.likeness is not None
        self.names = list(taken)
        read = np.array([max(reading.candela, LEAST_READ_CD) for reading in taken.values()])
        right, up = (axis.ravel() for axis in np.meshgrid(*LOOKED))
        light = np.column_stack(
            [_light(name, reading, known, right, up) for name, reading in taken.items()]
        )
        self.off = np.log(read)[None, :] - light
        sigma = np.array([STRAY if name == "stray" else PLACE for name in self.names])
        usual = np.exp(light[right.size // 2])
        self.certain = 1 / (sigma**2 + (LEAST_CD / 2 / usual) ** 2)
        self.aim = (right / AIM_DEG[0]) ** 2 + (up / AIM_DEG[1]) ** 2

    def misfit(self, shift: Mapping[str, float]) -> float:
        """How ill the readings fit, each moved by *shift* (a logarithm): the least over aim and
        brightness, as χ².
        """
        off = self.off + np.array([shift.get(name, 0.0) for name in self.names])[None, :]
        total = self.certain.sum() + 1 / BRIGHTNESS**2
        mean = off @ self.certain / total
        return float(np.min((off**2) @ self.certain - mean**2 * total + self.aim))


def _light(name: str, reading: WallReading, known: KnownBeam, right: Array, up: Array) -> Array:
    """The logarithm of the modelled candela at a place, for every guess of the aim."""
    assert known.likeness is not None
    beam = known.likeness.beam
    if name == "peak" and not (reading.across_m or reading.drop_m):
        return np.full(right.shape, math.log(float(beam.intensity.max())))
    h, v = _direction(name, reading, known)
    return np.asarray(np.log(np.maximum(beam.at(h - right, v - up), LEAST_CD)))


def _direction(name: str, reading: WallReading, known: KnownBeam) -> tuple[float, float]:
    """Where it was read, degrees right and up: as it was placed, else where its name says."""
    if not (reading.across_m or reading.drop_m):
        return direction(name, known.traffic, known.function)
    h, v = derived.wall_direction(reading.across_m, reading.drop_m, reading.distance_m)
    return float(h), float(v)


def usual_volts(taken: Iterable[WallReading]) -> float | None:
    """The supply most of some readings were taken at; None for none."""
    volts = sorted(reading.volts for reading in taken)
    return volts[len(volts) // 2] if volts else None
