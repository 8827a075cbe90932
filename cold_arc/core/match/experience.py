"""What a shop has measured: how much a source gained in a kind of lamp, and how far the model's
prediction was off.

At Match what was measured goes before what is predicted; over all jobs, predicted against measured
is the model's honest record.
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.job.entries.book_in import Booking
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.facts import fitted_before
from cold_arc.core.job.outcome import compare
from cold_arc.core.job.record import Record
from cold_arc.core.match import measuring
from cold_arc.core.match.doubt import brighter
from cold_arc.core.match.prediction import Prediction
from cold_arc.core.match.shoot_outs import rounds, told_by
from cold_arc.core.metering.comparing import Gain

# Places a source's gain is judged by; stray light is kept too.
COUNTED = ("peak", "edge", "below", "left", "right", "stray")
# Where it was read at one place only: how far the whole beam's gain may differ from that place's,
# one standard deviation as a share (own).
ONE_PLACE = 0.15
# No measurement is less doubtful than this, a share (own): none weighs for all.
LEAST_DOUBT = 0.01


@dataclass(frozen=True)
class MeasuredGain:
    """One source in one lamp: *source*, *base*, *optic*, *function*; the ratio after over before at
    each place, and its relative standard uncertainty over all; *by*: "job" or
    "shoot-out", the second and later with their number.
    """

    source: str
    base: str
    optic: str
    function: Function
    ratios: Mapping[str, float]
    overall: float
    doubt: float
    by: str = "job"

    @property
    def kind(self) -> tuple[str, str, str, str]:
        """What one may compare it with: source, base, optic, function."""
        return self.source, self.base, self.optic, self.function


def measured_of(
    record: Record, booking: Booking, traffic: Traffic
) -> list[tuple[BeamKey, MeasuredGain]]:
    """Everything a job's record has measured of its beams: chosen sources after, and shoot-outs.
    Simulated readings and comparisons that prove nothing do not count."""
    return [
        (key, measured)
        for key in record.road_beams
        for source, gains, overall, how in _proved(record, key)
        for measured in _measured(record, key, source, gains, overall, how)
    ]


def _proved(record: Record, key: BeamKey) -> Iterator[tuple[str, Mapping[str, Gain], Gain, str]]:
    """What was measured of one beam: which source, its gains by place and in all, and how."""
    if _had_led_bulb(record, key):
        return  # what is gained on an LED bulb tells nothing of such a lamp
    yield from _by_job(record, key)
    for number, each in enumerate(rounds(record, key), 1):
        shot = None if each.is_simulated else told_by(record, key, each.turns)
        by = f"shoot-out {number}" if number > 1 else "shoot-out"
        for result in shot.results if shot else ():
            yield result.source, result.gains, result.overall, by


def _by_job(record: Record, key: BeamKey) -> Iterator[tuple[str, Mapping[str, Gain], Gain, str]]:
    source = measuring.chosen_for(record, key)
    if source is None or _is_simulated(record, key):
        return
    comparison = compare(record, key)
    if not comparison.refused and comparison.overall is not None:
        yield source.name, comparison.gains, comparison.overall, "job"


def _had_led_bulb(record: Record, key: BeamKey) -> bool:
    giver = record.givers(key)[0]
    return record.socket(giver).has_led_bulb or fitted_before(record, giver) is not None


def _is_simulated(record: Record, key: BeamKey) -> bool:
    taken = [
        *record.readings(key, Phase.BEFORE).values(),
        *record.readings(key, Phase.AFTER).values(),
    ]
    return any(reading.is_simulated for reading in taken)


def _measured(
    record: Record, key: BeamKey, source: str, gains: Mapping[str, Gain], whole: Gain, by: str
) -> Iterable[MeasuredGain]:
    socket = record.socket(record.givers(key)[0])
    ratios = {name: gain.ratio for name, gain in gains.items() if name in COUNTED and gain.ratio}
    places = len(ratios.keys() - {"stray"})
    if socket.base and socket.optic and places and whole.ratio:
        yield MeasuredGain(
            source,
            socket.base,
            socket.optic.value,
            key.function,
            ratios,
            whole.ratio,
            math.hypot(whole.budget.standard, ONE_PLACE if places == 1 else 0.0),
            by,
        )


def predicted_ratios(
    setup: SetUp, nominal: SetUp, function: Function, traffic: Traffic, points: Iterable[str]
) -> dict[str, float]:
    """What the model says of the same places: candela of a set-up over its lamp's own source."""
    new, old = (measuring.pattern(each_setup, function, traffic) for each_setup in (setup, nominal))
    return {
        name: new[name] / old[name]
        for name in points
        if old.get(name, 0) > 0 and new.get(name, 0) > 0
    }


@dataclass(frozen=True)
class KnownSource:
    """What a shop knows of one source in one kind of lamp, by several measurements."""

    ratio: float
    doubt: float
    count: int
    peak: float | None
    edge: float | None


def known_of(taken: Sequence[MeasuredGain]) -> KnownSource | None:
    """Several measurements of one kind as one, by geometric means, the less doubtful weighing more;
    None for none.
    """
    if not taken:
        return None
    logs = [math.log(measured.overall) for measured in taken]
    weights = [1 / max(measured.doubt, LEAST_DOUBT) ** 2 for measured in taken]
    own = 1 / math.sqrt(sum(weights))
    spread = statistics.stdev(logs) / math.sqrt(len(logs)) if len(logs) > 1 else 0.0
    return KnownSource(
        math.exp(statistics.fmean(logs, weights)),
        max(own, spread),
        len(taken),
        _mean(taken, "peak"),
        _mean(taken, "edge"),
    )


def _mean(taken: Sequence[MeasuredGain], point: str) -> float | None:
    logs = [math.log(measured.ratios[point]) for measured in taken if measured.ratios.get(point)]
    return math.exp(statistics.fmean(logs)) if logs else None


@dataclass(frozen=True)
class Borne:
    """A prediction brought to what was measured: *predicted*, the ratio the model gave; *off*,
    measured over that less one."""

    prediction: Prediction
    predicted: float
    off: float


def borne_out(prediction: Prediction, nominal: Prediction, known: KnownSource) -> Borne:
    """A candidate's prediction with its light brought to what the shop measured; its pattern stays
    the model's.

    The model's ratio is taken at the hot spot and just under the edge, as a geometric mean.
    """
    ratio = math.sqrt(prediction.peak_cd / nominal.peak_cd * prediction.edge_cd / nominal.edge_cd)
    off = known.ratio / ratio
    return Borne(brighter(prediction, off), ratio, off - 1)


@dataclass(frozen=True)
class Agreement:
    """Predicted against measured: how many, the bias (mean of measured over predicted, less one)
    and the spread (one standard deviation, as a share)."""

    count: int
    bias: float
    spread: float


def agreement(pairs: Sequence[tuple[float, float]]) -> Agreement | None:
    """Of (predicted, measured) ratios, by their logarithms; None for none.

    >>> round(agreement([(2.0, 2.2), (2.0, 2.2)]).bias, 3)
    0.1
    """
    logs = [
        math.log(measured / predicted)
        for predicted, measured in pairs
        if predicted > 0 and measured > 0
    ]
    if not logs:
        return None
    spread = math.expm1(statistics.stdev(logs)) if len(logs) > 1 else 0.0
    return Agreement(len(logs), math.expm1(statistics.fmean(logs)), spread)
