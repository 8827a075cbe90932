"""Before against after: what differs in how they were taken, the gain at each place and over all,
how sure it is.

Differences are corrected where physics allows (distance, a filament's supply, range, ambient light,
cosine, head) and refused where not (a lens polished between, another lamp on).
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import chain

from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level, worst, worst_first
from cold_arc.core.light import photometry
from cold_arc.core.metering import uncertainty
from cold_arc.core.metering.differing import (
    SAME_DISTANCE_M,
    SAME_VOLTS,
    SourceChange,
    differences,
    differs,
    refusal,
)
from cold_arc.core.metering.readings import (
    POINTS,
    YARDSTICKS,
    WallReading,
    Yardstick,
    least_stray_cd,
    needed,
    words,
)
from cold_arc.core.metering.uncertainty import COVERAGE, EMPTY, Budget, BudgetPart
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import say_candela, say_percent, say_volts, worded

BALANCE_GOOD, BALANCE_TOLERABLE = 0.15, 0.30
STRAY_GROWTH = 1.25
PEAK = "peak"
JUDGED_POINTS = (PEAK, "edge", "below")
THOUGH_KEPT = "gain-though-kept"
BRIGHTER, DIMMER, SAME = "brighter", "dimmer", "within its uncertainty"
Readings = Mapping[str, WallReading]


@dataclass(frozen=True)
class Gain:
    """One place before and after, cd, both at the after reading's supply voltage.

    *before_read_cd*: as it was read, where it was brought to another voltage for that; *correction*
    says why, in words. *budget*: what its uncertainty is made of; *step_cd*: what the after
    display's step is worth, which counts where it shows nothing at all.
    """

    point: str
    before_cd: float
    after_cd: float
    before_read_cd: float | None = None
    correction: str = ""
    budget: Budget = EMPTY
    step_cd: float = 0.0

    @property
    def relative(self) -> float | None:
        """1.0 is +100 %; None where there was no light before."""
        return photometry.gain(self.before_cd, self.after_cd) if self.before_cd > 0 else None

    @property
    def ratio(self) -> float | None:
        """After over before; None where there was no light before."""
        return self.after_cd / self.before_cd if self.before_cd > 0 else None

    @property
    def uncertainty(self) -> float | None:
        """The gain's expanded uncertainty (k = 2), in the gain's own terms: 0.1 is ten points of
        per cent either way."""
        if self.ratio is None:
            return None
        return max(self.ratio * self.budget.expanded, self.step_cd / self.before_cd)

    @property
    def verdict(self) -> str:
        """Brighter, dimmer, or a gain within its uncertainty; "" where there was no light
        before.
        """
        if self.relative is None or self.uncertainty is None:
            return ""
        if abs(self.relative) <= self.uncertainty:
            return SAME
        return BRIGHTER if self.relative > 0 else DIMMER


def gain(before: WallReading, after: WallReading, change: SourceChange) -> Gain:
    """Before against after at one place; the before reading is brought to the after's supply and
    head.
    """
    brought = before.candela_at(after.volts, change.before_follows)
    head, head_share = _head_correction(before, after)
    follows = (change.before_follows, change.after_follows)
    step_cd = photometry.candela(uncertainty.display_step_lx(after), after.distance_m)
    made_of = uncertainty.of_gain(
        before, after, follows, change.function, change.colour_changed, head_share
    )
    if not change.before_follows or not differs(before.volts, after.volts, SAME_VOLTS):
        why = "its head averages differently at another distance" if head != 1 else ""
        return Gain(
            after.point,
            brought * head,
            after.candela,
            before.candela if why else None,
            why,
            made_of,
            step_cd,
        )
    why = (
        f"read at {say_volts(before.volts)}, brought to {say_volts(after.volts)}: a filament's "
        "light follows its supply"
    )
    return Gain(after.point, brought * head, after.candela, before.candela, why, made_of, step_cd)


def _head_correction(before: WallReading, after: WallReading) -> tuple[float, float]:
    """What a stray reading taken at another distance must be multiplied by, and how doubtful that
    is.

    A head averages light from under the edge into what it reads above; by how much is known but as
    a bound, so half of it is taken, with the rest as a rectangular limit.
    """
    if after.point != "stray" or not differs(before.distance_m, after.distance_m, SAME_DISTANCE_M):
        return 1.0, 0.0
    most = [
        photometry.head_excess(reading.distance_m, reading.meter_class.head_mm) - 1
        for reading in (before, after)
    ]
    return (1 + most[1] / 2) / (1 + most[0] / 2), math.hypot(*most) / 2 / math.sqrt(3)


def overall(gains: Mapping[str, Gain]) -> Gain | None:
    """Every place but stray as one: geometric means of candela. What is shared by all places stays
    whole in its uncertainty, what is each place's own falls with their number; None where nothing
    can be taken together."""
    counted = [
        gain_there
        for name, gain_there in gains.items()
        if name != "stray" and gain_there.before_cd > 0 and gain_there.after_cd > 0
    ]
    if not counted:
        return None
    before, after = (
        _geometric(getattr(gain_there, which) for gain_there in counted)
        for which in ("before_cd", "after_cd")
    )
    return Gain(
        "overall",
        before,
        after,
        budget=_taken_together([gain_there.budget for gain_there in counted]),
    )


def _geometric(values: Iterable[float]) -> float:
    logs = [math.log(value) for value in values]
    return math.exp(sum(logs) / len(logs))


def _taken_together(budgets: list[Budget]) -> Budget:
    count = len(budgets)
    merged: dict[str, list[BudgetPart]] = {}
    for part in chain.from_iterable(budget.parts for budget in budgets):
        merged.setdefault(part.id, []).append(part)
    return uncertainty.budget(
        *(
            BudgetPart(
                parts[0].id,
                parts[0].text,
                sum(part.share for part in parts) / count
                if parts[0].shared
                else math.hypot(*(part.share for part in parts)) / count,
                parts[0].advice,
                parts[0].sources,
                parts[0].shared,
            )
            for parts in merged.values()
        )
    )


@dataclass(frozen=True)
class Comparison:
    """A beam before and after: gains place by place, and findings, worst first. *refused*: why they
    prove nothing.
    """

    gains: Mapping[str, Gain]
    findings: tuple[Finding, ...]
    function: Function = Function.LOW
    refused: str = ""

    @property
    def overall(self) -> Gain | None:
        """Every place but stray as one."""
        return overall(self.gains)

    @property
    def verdict(self) -> str:
        """The verdict in words; none before every place it needs was read both times."""
        unread = [point for point in needed(self.function) if point not in self.gains]
        if unread:
            return (
                f"No verdict yet: {' and '.join(unread)} to read before and after"
                if self.gains
                else "Not measured"
            )
        return f"No verdict: {self.refused}" if self.refused else self._judged(self.gains[PEAK])

    def _judged(self, peak: Gain) -> str:
        """The verdict by the brightest point, where all it needs was read."""
        if peak.verdict == SAME:
            return "No difference that can be told: within its uncertainty"
        if peak.after_cd <= peak.before_cd:
            return "Not brighter"
        if any(finding.id == THOUGH_KEPT for finding in self.findings):
            return "No verdict: it reads brighter though nothing was changed"
        careful = worst(self.findings) >= Level.CAUTION
        return "Brighter, with cautions" if careful else "Better where it matters"


def compare(before: Readings, after: Readings, change: SourceChange | bool) -> Comparison:
    """Compares the places read both times; *change* may be just whether the old source was a
    filament.
    """
    changes = change if isinstance(change, SourceChange) else SourceChange(change)
    named = [*POINTS, *(name for name in after if name not in POINTS)]
    pairs = {
        name: (before[name], after[name]) for name in named if name in before and name in after
    }
    gains = {name: gain(was, now, changes) for name, (was, now) in pairs.items()}
    collected = [
        *differences(list(pairs.values()), changes),
        *_gain_findings(gains, changes, PEAK in pairs and changes.nothing_done(*pairs[PEAK])),
        *_stray_findings(gains, after.get("stray"), changes.function),
        *_range_findings(gains, changes.function),
        *_cold_findings(after),
    ]
    refused = refusal(list(pairs.values()), changes)
    return Comparison(gains, tuple(worst_first(collected)), changes.function, refused)


def say_gain(gain_there: Gain) -> str:
    """A gain with how sure it is: "+134 % ± 12 %"."""
    if gain_there.relative is None or gain_there.uncertainty is None:
        return "none before"
    return (
        f"{say_percent(gain_there.relative, signed=True)} ± {say_percent(gain_there.uncertainty)}"
    )


# What less light means, by whether another source was put in.
DIMMED = {
    True: (
        "gain-not-brighter",
        "{name}: not brighter.",
        "Check depth, clocking and aim before blaming the bulb.",
    ),
    False: (
        "gain-dimmer",
        "{name}: dimmer than before.",
        "It is the same source: look at its lens, supply and aim; then it has faded.",
    ),
}


def _gain_findings(
    gains: Mapping[str, Gain], changes: SourceChange, untouched: bool
) -> Iterator[Finding]:
    """What each judged place gained; *untouched*: whether nothing was done that could give it."""
    for point in JUDGED_POINTS:
        change = gains.get(point)
        if change is None or change.relative is None:
            continue
        name = words(point, changes.function)
        number = worded(
            "{before_cd:candela} to {after_cd:candela}, {gain}",
            before_cd=change.before_cd,
            after_cd=change.after_cd,
            gain=say_gain(change),
        )
        if change.verdict == BRIGHTER:
            yield _brighter(name, number, point == PEAK and untouched)
        elif change.verdict == SAME:
            largest = change.budget.largest
            text = worded(
                "{name}: no difference that can be told; it is within its uncertainty.", name=name
            )
            yield Finding(
                "gain-none",
                Level.NOTE,
                text,
                cite("jcgm-100"),
                number,
                advice=largest.advice if largest else "",
            )
        else:
            which, template, advice = DIMMED[changes.source_changed]
            text = worded(template, name=name)
            yield Finding(which, Level.CAUTION, text, PRACTICE, number, advice=advice)


def _brighter(name: str, number: str, untouched: bool) -> Finding:
    """A place that gained. The brightest one can't where nothing was done; under the line it may,
    by another aim.
    """
    if not untouched:
        text = worded("{name}: brighter.", name=name)
        return Finding("gain-brighter", Level.OK, text, PRACTICE, number)
    return Finding(
        THOUGH_KEPT,
        Level.CAUTION,
        worded("{name}: brighter, though nothing was changed. What slipped?", name=name),
        PRACTICE,
        number,
        advice=(
            "Look at range, unit, distance and supply of both readings. If the lens was washed or "
            "the lamp fed anew, say so there."
        ),
    )


def _stray_findings(
    gains: Mapping[str, Gain], read: WallReading | None, function: Function
) -> Iterator[Finding]:
    """Light above the cut-off, by the yardstick of such a lamp; a high beam has none."""
    stray, peak, yardstick = gains.get("stray"), gains.get("peak"), YARDSTICKS.get(function)
    if stray is None or read is None or yardstick is None:
        return
    yield from _over_yardstick(stray, read, yardstick)
    if peak and peak.ratio and stray.ratio and stray.ratio > peak.ratio * STRAY_GROWTH:
        yield Finding(
            "stray-grew",
            Level.CAUTION,
            "Stray light grew more than the beam did: the pattern changed.",
            PRACTICE,
            worded(
                "stray ×{stray:number}, peak ×{peak:number}",
                stray=stray.ratio,
                peak=peak.ratio,
            ),
            advice="Read depth and clocking again.",
        )
    elif stray.after_cd <= yardstick.candela:
        yield Finding("stray-low", Level.OK, "Stray light stays low.", PRACTICE, _from_to(stray))


def _from_to(change: Gain) -> str:
    return f"{say_candela(change.before_cd)} to {say_candela(change.after_cd)}"


def _over_yardstick(stray: Gain, read: WallReading, yardstick: Yardstick) -> Iterator[Finding]:
    """Whether stray light stands over its yardstick, or may by what the meter's head adds."""
    number = _from_to(stray)
    least = least_stray_cd(read)
    if least <= yardstick.candela < stray.after_cd:
        yield Finding(
            "stray-at-yardstick",
            Level.NOTE,
            (
                "Stray light stands at the yardstick, within what the meter's head adds so near "
                "the wall."
            ),
            yardstick.sources,
            worded("{number}; {least:candela} or more without it", number=number, least=least),
            worded("{candela:candela} {where}", candela=yardstick.candela, where=yardstick.where),
            "Read it again from further off.",
        )
    elif stray.after_cd > yardstick.candela:
        yield Finding(
            "stray-above",
            Level.CAUTION,
            "Stray light is above the yardstick: it dazzles.",
            yardstick.sources,
            number,
            worded("{candela:candela} {where}", candela=yardstick.candela, where=yardstick.where),
            "Check depth, clocking and aim; look at the wall above the cut-off.",
        )


# Gains that a range or a unit forgotten at one of the readings would give; how near one must come,
# as a natural logarithm; a gain that one source by itself hardly gives, by function (own).
FORGOTTEN = {10.0: "a range (×10)", 100.0: "two ranges (×100)", 10.7639: "foot-candles for lux"}
NEAR_FORGOTTEN = 0.04
HARDLY = {"fog": 15.0}
HARDLY_USUAL = 4.0


def _range_findings(gains: Mapping[str, Gain], function: Function) -> Iterator[Finding]:
    """A gain over all places, or at one against the others, that a slip of the meter would give."""
    ratios = {name: gain_there.ratio for name, gain_there in gains.items() if name != "stray"}
    known = [ratio for ratio in ratios.values() if ratio]
    if not known:
        return
    usual = statistics.median(known)
    yield from _at_one_place(ratios, usual, function)
    if slip := _forgotten(usual):
        text = worded("Was {slip} forgotten at one of the two times?", slip=slip)
        yield _asked("slip-at-one-time", text, usual)
    elif max(usual, 1 / usual) > HARDLY.get(function, HARDLY_USUAL):
        unlikely = "So much is hardly ever gained or lost by one source: is it right?"
        yield _asked("gain-unlikely", unlikely, usual)


def _at_one_place(
    ratios: Mapping[str, float | None], usual: float, function: Function
) -> Iterator[Finding]:
    """A place that gained what a slip there would give against the others."""
    for name, ratio in ratios.items():
        if slip := _forgotten((ratio or 0.0) / usual):
            text = worded(
                "{place}: {slip} forgotten at one of its readings?",
                place=words(name, function),
                slip=slip,
            )
            yield _asked("slip-at-one-place", text, (ratio or 0.0) / usual)


def _forgotten(ratio: float) -> str:
    """What forgotten would give such a ratio, or its inverse; "" for nothing."""
    if ratio <= 0:
        return ""
    off = abs(math.log(ratio))
    near = ((abs(off - math.log(factor)), words) for factor, words in FORGOTTEN.items())
    distance, slip = min(near)
    return slip if distance < NEAR_FORGOTTEN else ""


def _asked(which: str, text: str, ratio: float) -> Finding:
    return Finding(
        which,
        Level.CAUTION,
        text,
        PRACTICE,
        worded("×{ratio:number}", ratio=ratio),
        advice="Look at range and unit of both readings.",
    )


def _cold_findings(after: Readings) -> Iterator[Finding]:
    if any(not reading.settled for reading in after.values()):
        yield Finding(
            "read-cold",
            Level.CAUTION,
            "Some readings after were taken cold. LEDs fade as they heat.",
            PRACTICE,
            advice="Let it run until the reading settles and read again.",
        )


def balance(left: WallReading, right: WallReading, function: Function = Function.LOW) -> Finding:
    """Left against right at one place, after: they should be equal, within what reading them leaves
    open.
    """
    top = max(left.candela, right.candela)
    off = round(abs(left.candela - right.candela) / top, 6) if top else 0.0
    made_of = uncertainty.of_gain(left, right, (False, False), function, colour_changed=False)
    number = worded(
        "left {left:candela}, right {right:candela}, {off:percent} apart, ± {doubt:percent}",
        left=left.candela,
        right=right.candela,
        off=off,
        doubt=COVERAGE * made_of.standard,
    )
    limit = worded("{balance_good:percent}", balance_good=BALANCE_GOOD)
    name = words(left.point, function)
    if off <= BALANCE_GOOD:
        return Finding(
            "sides-equal",
            Level.OK,
            worded("{name}: left equals right.", name=name),
            PRACTICE,
            number,
            limit,
        )
    level = Level.CAUTION if off <= BALANCE_TOLERABLE else Level.STOP
    weaker = "left" if left.candela < right.candela else "right"
    return Finding(
        "sides-weaker",
        level,
        worded("{name}: {weaker} is weaker.", name=name, weaker=weaker),
        PRACTICE,
        number,
        limit,
        worded("Look at the {weaker} lamp's seat and lens.", weaker=weaker),
    )
