"""Exercises on two beams: how much brighter one is, which of them dazzles."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations
from random import Random

from cold_arc.core.beam import derived
from cold_arc.core.beam.findings import above
from cold_arc.core.beam.report import beam_of, rough_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Level
from cold_arc.core.school.exercise import AnswerOption, BeamsShown, Exercise, Posed, by_level
from cold_arc.core.units import say_number, say_percent
from cold_arc.school.beam_faults import FAULTS, LAMPS, LARGER, MOST_LARGER
from cold_arc.school.seeing import POINTS

# How many times brighter the second is, by level: all answers, of which one is right.
GAINS = (
    (0.4, 1.0, 2.5),
    (0.5, 1.0, 2.0),
    (0.6, 1.0, 1.7, 2.9),
    (0.7, 1.0, 1.45, 2.1),
    (0.75, 1.0, 1.35, 1.8, 2.4),
)


def compare_gain(posed: Posed) -> Exercise:
    """How many times as bright the second lamp's hot spot is."""
    luck, level = posed.luck, posed.level
    housing, base = luck.choice([lamp for lamp in LAMPS if lamp[1] != "D2S"])
    first = SetUp(housing=housing, base=base, traffic=luck.choice(tuple(Traffic)))
    factor = luck.choice(GAINS[level - 1])
    second = replace(first, source="led", cct=luck.choice((5000.0, 6000.0)))
    dim, bright = (rough_of(setup, POINTS) for setup in (first, second))
    ratio = derived.peak(bright).candela / derived.peak(dim).candela
    second = replace(second, flux=round(bright.emitted_lm * factor / ratio, 1))
    options = tuple(AnswerOption(f"x{value:g}", _gain_words(value)) for value in GAINS[level - 1])
    return Exercise(
        posed,
        "How bright is the hot spot of B, against that of A?",
        BeamsShown((first, second), first),
        ("Same place, same distance, same exposure.",),
        options,
        frozenset({f"x{factor:g}"}),
    )


def _gain_words(value: float) -> str:
    return "As bright" if value == 1.0 else f"{say_number(value, 2)} times as bright"


# A beam stands clear of the limit above the cut-off by so much, either way.
CLEARLY = 1.25
BOTH, NEITHER = "both", "neither"
# Which answer is right, by whether A and B dazzle.
WHICH = {(True, True): BOTH, (True, False): "A", (False, True): "B", (False, False): NEITHER}


@dataclass(frozen=True)
class _Spill:
    """A lamp for a comparison, and how much of its beam stands above the cut-off."""

    setup: SetUp
    share: float
    usual: float

    @property
    def dazzles(self) -> bool:
        """Whether the core's own judgement stops it."""
        return self._stops(self.share)

    @property
    def is_clear(self) -> bool:
        """Whether it is far enough from the limit to be seen."""
        return self._stops(self.share / CLEARLY) == self._stops(self.share * CLEARLY)

    def _stops(self, share: float) -> bool:
        return any(finding.level is Level.STOP for finding in above(share, self.usual))


def _spill(setup: SetUp) -> _Spill:
    share, usual = (derived.share_above(beam_of(one)) for one in (setup, setup.reference()))
    return _Spill(setup, share or 0.0, usual or 0.0)


def compare_glare(posed: Posed) -> Exercise:
    """Which of two lamps dazzles: one, both, none."""
    luck, level = posed.luck, posed.level
    housing, base = luck.choice([lamp for lamp in LAMPS if lamp[0] == "reflector"])
    good = SetUp(housing=housing, base=base, source="led", traffic=luck.choice(tuple(Traffic)))
    lamps = [_to_compare(good, level, luck) for _ in range(2)]
    right = WHICH[lamps[0].dazzles, lamps[1].dazzles]
    options = (
        AnswerOption("A", "A dazzles"),
        AnswerOption("B", "B dazzles"),
        AnswerOption(BOTH, "Both dazzle"),
        AnswerOption(NEITHER, "Neither dazzles"),
    )
    shares = ", ".join(
        f"{name} {say_percent(lamp.share, 1)}" for name, lamp in zip("AB", lamps, strict=True)
    )
    why = (
        f"{next(option.text for option in options if option.id == right)}. Of the beam above the "
        f"cut-off: {shares}; with the nominal source {say_percent(lamps[0].usual, 1)}"
    )
    return Exercise(
        posed,
        "Which of these dazzles?",
        BeamsShown((lamps[0].setup, lamps[1].setup), good, taped=True),
        ("Same place, same distance, same exposure.",),
        options,
        frozenset({right}),
        why=why,
    )


def _to_compare(good: SetUp, level: int, luck: Random) -> _Spill:
    """A lamp that dazzles, or one that does not."""
    return _dazzling(good, level, luck) if luck.random() < 0.5 else _bright(good, luck)


def _dazzling(good: SetUp, level: int, luck: Random) -> _Spill:
    """The lamp with a fault that throws light up, enlarged until it plainly does."""
    fault = FAULTS[luck.choice(("read.clock", "read.depth", "read.thick"))]
    size = by_level(level, fault.sizes)
    spill = _spill(fault.spoil(good, size))
    for _ in range(MOST_LARGER):
        if spill.dazzles and spill.is_clear:
            break
        size *= LARGER
        spill = _spill(fault.spoil(good, size))
    return spill


def _bright(good: SetUp, luck: Random) -> _Spill:
    """The lamp as it should be, brighter or not: that dazzles nobody. With the bulb it was made
    for, where an LED comes near the limit.
    """
    lumens = round(beam_of(good).emitted_lm * luck.choice((0.7, 1.0, 1.5)), 1)
    lamp = _spill(replace(good, flux=lumens))
    return lamp if lamp.is_clear else _spill(good.reference())


def compare(posed: Posed) -> Exercise:
    """One lamp against another: how much brighter, or which dazzles."""
    return (compare_glare if posed.skill == "compare.glare" else compare_gain)(posed)


def at_each_gain(exercise: Exercise) -> list[tuple[SetUp, SetUp]]:
    """The second lamp of a comparison as bright as each answer says: what must differ plainly, pair
    by pair.
    """
    shown = exercise.shown
    assert isinstance(shown, BeamsShown)
    second, (right,) = shown.setups[1], exercise.right
    assert second.flux is not None
    looks = [
        replace(second, flux=second.flux * float(option.id[1:]) / float(right[1:]))
        for option in exercise.options
    ]
    return list(combinations(looks, 2))
