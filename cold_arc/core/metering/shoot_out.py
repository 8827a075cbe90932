"""A shoot-out: several sources one after another in one housing under one protocol, the lamp's own
source first and last.

What the reference changed by between its turns is drift (temperature, a lamp that was touched; not
the supply, which is corrected by itself); it is taken out by each turn's place between the two
references beside it. A shadow in every
source's pattern is the housing's, one in a single pattern that source's. Two sources whose gains
differ by less than the uncertainty can't be told apart.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from cold_arc.core.findings import Finding, Level
from cold_arc.core.metering.comparing import Gain, gain, overall
from cold_arc.core.metering.differing import SAME_DISTANCE_M, SAME_VOLTS, SourceChange, differs
from cold_arc.core.metering.readings import WallReading, words
from cold_arc.core.metering.uncertainty import COVERAGE, GUM, Budget, BudgetPart, budget
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_number, say_percent, worded

# A place this much darker than its source's pattern is a shadow; a stray ratio this much above the
# gain is a fault (own).
SHADOW, STRAY_FAULT = 0.30, 1.25
LEAST_PLACES = 3
# Marks a doubling of the gain is worth, and what too much stray light costs (own).
STRAY_COST = 1.0
OWN = "own"


@dataclass(frozen=True)
class SourceTurn:
    """One source's turn: *source* by name (:data:`OWN` for the lamp's own), and its readings by
    place.
    """

    source: str
    readings: Mapping[str, WallReading]

    @property
    def is_reference(self) -> bool:
        """Whether it is the lamp's own source."""
        return self.source == OWN


@dataclass(frozen=True)
class Result:
    """One source against the reference: gains place by place with drift taken out, shadows, its
    rank and why.

    *alike*: the sources it can't be told apart from.
    """

    source: str
    gains: Mapping[str, Gain]
    overall: Gain
    stray_ratio: float | None
    shadows: tuple[str, ...]
    merit: float
    reasons: tuple[str, ...]
    alike: tuple[str, ...] = ()


@dataclass(frozen=True)
class ShootOut:
    """All results, the best first. *drift*: what the reference changed by in all, as a share; None
    where it was read only once; *housing_shadows*: places dark in every pattern."""

    results: tuple[Result, ...]
    drift: float | None
    housing_shadows: tuple[str, ...]


def breaks(first: WallReading, taken: WallReading) -> list[str]:
    """How a reading breaks the protocol set by the first: what differs that must not."""
    checks = (
        ("the distance", differs(first.distance_m, taken.distance_m, SAME_DISTANCE_M)),
        ("the supply", differs(first.volts, taken.volts, 2 * SAME_VOLTS)),
        ("the meter", first.meter != taken.meter),
        ("the lens", first.lens != taken.lens),
        ("another lamp", first.other_lamp != taken.other_lamp),
        ("the wall", first.wall != taken.wall),
        ("it was read cold", not taken.settled),
    )
    return [what for what, broken in checks if broken]


def shoot_out(
    turns: Sequence[SourceTurn], change: SourceChange, pattern: Mapping[str, float] | None = None
) -> ShootOut | None:
    """Every source against the reference; None before the reference and one other source were read
    at a common place.

    *pattern*: the modelled candela of the housing at each place with its own source, to tell
    shadows by.
    """
    references = [index for index, turn in enumerate(turns) if turn.is_reference]
    if not references:
        return None
    course = _course(turns, references, change)
    darks, everywhere = _darks(turns, pattern)
    first = turns[references[0]]
    results = [
        _result(first, turn, _drifted(index, course), change, darks, everywhere)
        for index, turn in enumerate(turns)
        if not turn.is_reference
    ]
    ranked = sorted(filter(None, results), key=lambda result: -result.merit)
    if not ranked:
        return None
    with_alike = tuple(replace(result, alike=_alike(result, ranked)) for result in ranked)
    drift = math.expm1(course[-1][1]) if len(course) > 1 else None
    return ShootOut(with_alike, drift, tuple(words(place) for place in sorted(everywhere)))


Course = Sequence[tuple[int, float]]


def _course(
    turns: Sequence[SourceTurn], references: Sequence[int], change: SourceChange
) -> list[tuple[int, float]]:
    """At which turns the reference was read, and what it had changed by since the first, as a
    natural logarithm over all places but stray, at one supply; those that share no place are left
    out.
    """
    first = turns[references[0]].readings
    course = [(references[0], 0.0)]
    for index in references[1:]:
        logs = [
            math.log(reading.candela_at(first[name].volts, change.before_follows) / was)
            for name, reading in turns[index].readings.items()
            if name != "stray"
            and name in first
            and (was := first[name].candela) > 0
            and reading.candela > 0
        ]
        course += [(index, sum(logs) / len(logs))] if logs else []
    return course


def _drifted(index: int, course: Course) -> tuple[float, float]:
    """What a turn's readings are divided by to take the drift out, and how doubtful that is: half
    of what the references beside it changed by, as a rectangular limit.
    """
    at, logs = zip(*course, strict=True)
    share = math.exp(float(np.interp(index, at, logs)))
    beside = [(one, other) for one, other in pairwise(course) if one[0] < index < other[0]]
    change = abs(beside[0][1][1] - beside[0][0][1]) / 2 if beside else abs(math.log(share))
    return share, change / math.sqrt(3)


def _result(
    reference: SourceTurn,
    turn: SourceTurn,
    drifted: tuple[float, float],
    change: SourceChange,
    darks: Mapping[str, Mapping[str, float]],
    everywhere: set[str],
) -> Result | None:
    gains = {
        name: _without_drift(gain(reference.readings[name], reading, change), *drifted)
        for name, reading in turn.readings.items()
        if name in reference.readings
    }
    whole = overall(gains)
    if whole is None or whole.ratio is None:
        return None
    stray = gains["stray"].ratio if "stray" in gains else None
    shadows = tuple(words(name) for name in darks.get(turn.source, ()) if name not in everywhere)
    merit = math.log2(whole.ratio) - _stray_cost(stray, whole.ratio)
    reasons = tuple(_reasons(whole, stray, shadows))
    return Result(turn.source, gains, whole, stray, shadows, merit, reasons)


def _without_drift(gain_there: Gain, share: float, doubt: float) -> Gain:
    if share == 1.0 and not doubt:
        return gain_there
    text, advice = "the reference's drift, taken out", "Read the reference between the turns too."
    drift = BudgetPart("drift", text, doubt, advice, GUM, shared=True)
    return replace(
        gain_there,
        after_cd=gain_there.after_cd / share,
        budget=budget(*gain_there.budget.parts, drift),
    )


def _stray_cost(stray: float | None, ratio: float) -> float:
    """Light above the line that grew more than the beam did counts against a source, by
    doublings.
    """
    if not stray:
        return 0.0
    return STRAY_COST * max(0.0, math.log2(stray / (STRAY_FAULT * ratio)))


def _reasons(whole: Gain, stray: float | None, shadows: tuple[str, ...]) -> Iterator[str]:
    doubt = say_number(whole.uncertainty or 0.0, 2)
    yield f"{say_number(_ratio_of(whole))} times the own source's light, ± {doubt}"
    if stray is None:
        yield "stray light not read"
    else:
        grew = (
            "more than the beam: it dazzles"
            if stray > STRAY_FAULT * _ratio_of(whole)
            else "no more than the beam"
        )
        yield f"stray light ×{say_number(stray, 2)}, {grew}"
    if shadows:
        yield f"darker {', '.join(shadows).lower()} than its pattern should be"


def _alike(result: Result, others: Sequence[Result]) -> tuple[str, ...]:
    """Those whose gain differs by less than the uncertainty of the difference; what both share
    falls away in it.
    """
    return tuple(
        other.source
        for other in others
        if other is not result
        and abs(math.log(_ratio(result) / _ratio(other)))
        <= COVERAGE * _apart(result.overall, other.overall)
    )


def _ratio(result: Result) -> float:
    return _ratio_of(result.overall)


def _ratio_of(whole: Gain) -> float:
    return whole.ratio or 1.0


def _apart(one: Gain, other: Gain) -> float:
    return math.hypot(_own(one.budget), _own(other.budget))


@dataclass(frozen=True)
class Against:
    """One source against another of the same shoot-out: how much more light, as a share, and its
    expanded uncertainty.
    """

    source: str
    other: str
    more: float
    uncertainty: float

    @property
    def differs(self) -> bool:
        """Whether they can be told apart."""
        return abs(self.more) > self.uncertainty


def any_two(result: ShootOut) -> list[Against]:
    """Every source against every other, and against the lamp's own; what all share falls away."""
    pairs = []
    for one in result.results:
        pairs.append(
            Against(
                one.source,
                OWN,
                _ratio(one) - 1,
                COVERAGE * one.overall.budget.standard * _ratio(one),
            )
        )
        for other in result.results:
            if other is not one:
                ratio = _ratio(one) / _ratio(other)
                doubt = COVERAGE * _apart(one.overall, other.overall) * ratio
                pairs.append(Against(one.source, other.source, ratio - 1, doubt))
    return pairs


def for_whom(low: ShootOut | None, high: ShootOut | None) -> list[str]:
    """Which source of a lamp's low and high beam to advise to whom, in sentences; none where one of
    the two was not shot out.
    """
    if not low or not high:
        return []
    calm = [result for result in low.results if not _dazzles(result)]
    if not calm:
        return ["On low beam each of them throws more light up than it gains: none for the road."]
    town, country = calm[0].source, high.results[0].source
    if town == country:
        return [f"{town} leads on low and on high beam: for every driver."]
    return [
        f"Mostly dipped, in towns and traffic: {town}, first on low beam without dazzling.",
        f"Much unlit road, high beam on: {country}, first on high beam.",
    ]


def _dazzles(result: Result) -> bool:
    """Whether its stray light grew more than its beam."""
    return result.stray_ratio is not None and result.stray_ratio > STRAY_FAULT * _ratio(result)


def _own(made_of: Budget) -> float:
    """A budget without what every source of a shoot-out shares: the meter's sight of colour, the
    wall.
    """
    shared = ("spectral", "linearity", "distance")
    return math.hypot(*(part.share for part in made_of.parts if part.id not in shared))


def _darks(
    turns: Sequence[SourceTurn], pattern: Mapping[str, float] | None
) -> tuple[dict[str, dict[str, float]], set[str]]:
    """The dark places of each source, and those that every source has; none without a *pattern*."""
    if not pattern:
        return {}, set()
    darks = {turn.source: _dark(turn, pattern) for turn in turns}
    return darks, set.intersection(*map(set, darks.values()))


def _dark(turn: SourceTurn, pattern: Mapping[str, float] | None) -> dict[str, float]:
    """Places much darker than a source's pattern: against the modelled one scaled to it, by the
    median.
    """
    logs = {
        name: math.log(reading.candela / pattern[name])
        for name, reading in turn.readings.items()
        if pattern and name != "stray" and reading.candela > 0 and pattern.get(name, 0) > 0
    }
    if len(logs) < LEAST_PLACES:
        return {}
    middle = sorted(logs.values())[len(logs) // 2]
    return {
        name: log_ratio - middle
        for name, log_ratio in logs.items()
        if log_ratio - middle < math.log(1 - SHADOW)
    }


def say_drift(drift: float | None) -> str:
    """The drift in words."""
    if drift is None:
        return "The own source was read once: drift is not known. Read it again at the end."
    return (
        f"The own source changed by {say_percent(drift, 1, signed=True)} from its first turn to "
        "its last; taken out."
    )


# A reference that drifted by less is only noted, share (common practice).
DRIFT_NOTED = 0.10


# Fewer places than this leave the whole beam's gain to one of them.
PLACES_WANTED = 2


def shoot_out_findings(result: ShootOut) -> list[Finding]:
    """What a shoot-out says besides its ranking: its drift, and shadows that are the housing's."""
    is_little = result.drift is not None and abs(result.drift) < DRIFT_NOTED
    level = Level.NOTE if is_little else Level.CAUTION
    collected = [Finding("drift", level, say_drift(result.drift), PRACTICE)]
    thin = [
        each.source for each in result.results if len(each.gains.keys() - {"stray"}) < PLACES_WANTED
    ]
    if thin:
        collected.append(
            Finding(
                "read-at-one",
                Level.NOTE,
                worded(
                    "Read at one place only: {thin}. Kept, with a wider doubt.",
                    thin=", ".join(thin),
                ),
                PRACTICE,
                advice="Read the edge too: two places tell the beam, one tells a spot.",
            )
        )
    if result.housing_shadows:
        text = "Dark with every source, so it is the housing's: no bulb cures it."
        where = ", ".join(result.housing_shadows).lower()
        collected.append(Finding("housing-dark", Level.NOTE, text, PRACTICE, where))
    return collected
