"""Exercises on beams: what is wrong with one, how much brighter one is, which of two dazzles.

Every picture is the model's. A fault is as large as the level has it, larger where this lamp would
not show it plainly; answers offered beside it are those whose pictures differ plainly.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import combinations
from random import Random

from cold_arc.core.beam import derived
from cold_arc.core.beam.findings import above
from cold_arc.core.beam.housings import kind
from cold_arc.core.beam.report import beam_of, rough_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Level
from cold_arc.core.school.exercise import (
    AnswerOption,
    BeamsShown,
    Exercise,
    by_level,
    draw,
    shuffled,
)
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import say_number, say_percent
from cold_arc.school.seeing import POINTS, is_plain

# Lamps that are met: housing and base (own choice of what is common).
LAMPS = (
    ("reflector", "H7"),
    ("reflector", "H11"),
    ("reflector", "H4"),
    ("projector", "H7"),
    ("projector", "D2S"),
    ("fog-reflector", "H11"),
)
DUAL = "H4"
FINE, UPSIDE, SWAPPED = "read.fine", "read.upside", "read.swapped"
# What only a dual bulb can do.
DUAL_ONLY = (UPSIDE, SWAPPED)
# How many answers a level offers; from which level on lamps differ in colour and brightness, and
# two things may be wrong at once.
OFFERED, VARIED_FROM, TWO_FROM = (3, 4, 5, 6, 7), 3, 5
TWO_SHARE = 0.5
# A fault that does not show is made larger by this, so many times at most.
LARGER, MOST_LARGER = 1.3, 5
# Signs a fault may have; of an answer both are looked at, as large and half as large again.
SIZES_LOOKED_AT = (1.0, 1.5)


@dataclass(frozen=True)
class BeamFault:
    """One thing that may be wrong: its words, its size by level, what it does to a set-up; *both*:
    whether it may be either way; *into*: the housings it is met in, () for all.
    """

    text: str
    sizes: tuple[float, ...]
    spoil: Callable[[SetUp, float], SetUp]
    both: bool = False
    into: tuple[str, ...] = ()

    def ways(self, setup: SetUp, level: int) -> Iterator[SetUp]:
        """The set-up with it, as the level has it and larger, either way."""
        for factor in SIZES_LOOKED_AT:
            for sign in (1, -1) if self.both else (1,):
                yield self.spoil(setup, sign * factor * by_level(level, self.sizes))


def _thick(setup: SetUp, size: float) -> SetUp:
    """Three or four faces, *size* mm apart."""
    return replace(setup, faces=4 if size > 4 else 3, gap=size, source="led")


def _other_side(setup: SetUp, _: float) -> SetUp:
    return replace(setup, traffic="left" if setup.traffic == "right" else "right")


FAULTS: dict[str, BeamFault] = {
    "read.clock": BeamFault(
        "The bulb is turned in its seat",
        (90, 60, 45, 32, 24),
        lambda setup, size: replace(setup, clock=max(-90.0, min(90.0, size))),
        both=True,
        into=("reflector",),
    ),
    "read.depth": BeamFault(
        "The bulb sits too deep, or not deep enough",
        (3.2, 2.6, 2.0, 1.6, 1.3),
        lambda setup, size: replace(setup, axial=size),
        both=True,
    ),
    "read.thick": BeamFault(
        "The bulb is too thick, or has too many faces", (8.0, 6.5, 5.5, 4.5, 4.0), _thick
    ),
    "read.haze": BeamFault(
        "The lens is hazed",
        (0.85, 0.7, 0.55, 0.45, 0.35),
        lambda setup, size: replace(setup, haze=min(1.0, size)),
    ),
    "read.high": BeamFault(
        "It is aimed too high",
        (1.8, 1.4, 1.1, 0.9, 0.7),
        lambda setup, size: replace(setup, aim_v=min(3.0, size)),
    ),
    "read.low": BeamFault(
        "It is aimed too low",
        (2.2, 1.8, 1.4, 1.1, 0.9),
        lambda setup, size: replace(setup, aim_v=max(-3.0, -size)),
    ),
    "read.traffic": BeamFault(
        "It is made for the other side of traffic",
        (1, 1, 1, 1, 1),
        _other_side,
        into=("reflector", "projector"),
    ),
    UPSIDE: BeamFault(
        "The bulb sits upside down",
        (180, 180, 180, 180, 180),
        lambda setup, size: replace(setup, clock=180.0),
        into=("reflector",),
    ),
    SWAPPED: BeamFault(
        "Low and high are exchanged at the plug",
        (1, 1, 1, 1, 1),
        lambda setup, size: replace(setup, high=True),
        into=("reflector",),
    ),
    "read.shade": BeamFault(
        "The shade is bent: its step is gone",
        (1, 1, 1, 1, 1),
        lambda setup, size: replace(setup, cut_off="flat"),
        into=("projector",),
    ),
}
FINE_TEXT = "Nothing: it is as it should be"
# What may be wrong besides, where two things are.
SECOND = ("read.haze", "read.high", "read.low")


def _good_lamp(luck: Random, level: int, fault: str) -> SetUp:
    """A lamp with an LED like the filament, well seated; one *fault* is met in."""
    met = FAULTS[fault].into if fault in FAULTS else ()
    lamps = [lamp for lamp in LAMPS if not met or lamp[0] in met]
    if fault in DUAL_ONLY:
        lamps = [lamp for lamp in lamps if lamp[1] == DUAL]
    housing, base = luck.choice(lamps)
    varied = level >= VARIED_FROM
    return SetUp(
        housing=housing,
        base=base,
        source="led",
        traffic=luck.choice(("right", "left")),
        cct=luck.choice((5000.0, 5700.0, 6300.0)) if varied else None,
        gain=round(luck.uniform(0.85, 1.2), 2) if varied else 1.0,
    )


def offered(setup: SetUp) -> dict[str, BeamFault]:
    """The faults that can be met in a set-up's lamp."""
    return {
        key: fault
        for key, fault in FAULTS.items()
        if (not fault.into or setup.housing in fault.into)
        and (key not in DUAL_ONLY or setup.base == DUAL)
    }


def _spoilt(good: SetUp, fault: str, level: int, sign: int) -> SetUp:
    """The set-up with a fault, large enough to show."""
    size = sign * by_level(level, FAULTS[fault].sizes)
    for _ in range(MOST_LARGER):
        bad = FAULTS[fault].spoil(good, size)
        if is_plain(bad, [good]):
            return bad
        size *= LARGER
    return FAULTS[fault].spoil(good, size)


def read_beam(skill: str, level: int, seed: int, lamp: SetUp | None = None) -> Exercise:
    """What is wrong with this lamp; *lamp*: a good one to make it from, a made-up one by
    default.
    """
    luck = draw(skill, level, seed)
    good = lamp or _good_lamp(luck, level, skill)
    faults = offered(good)
    if skill not in faults:
        return _posed(skill, level, seed, good, frozenset({FINE}), luck, good)
    two = level >= TWO_FROM and skill not in SECOND and luck.random() < TWO_SHARE
    bad = _spoilt(good, skill, level, luck.choice((1, -1)) if faults[skill].both else 1)
    wrong = {skill}
    if two:
        second = luck.choice(SECOND)
        both = _spoilt(bad, second, 3, 1)
        if is_plain(both, [bad, good]):
            bad, wrong = both, {skill, second}
    return _posed(skill, level, seed, good, frozenset(wrong), luck, bad)


def _posed(
    skill: str,
    level: int,
    seed: int,
    good: SetUp,
    wrong: frozenset[str],
    luck: Random,
    shown: SetUp,
) -> Exercise:
    """The question, with the answers that plainly do not fit beside those that do."""
    texts = {FINE: FINE_TEXT} | {key: fault.text for key, fault in offered(good).items()}
    others = [key for key in offered(good) if key not in wrong]
    luck.shuffle(others)
    wanted = round(by_level(level, OFFERED)) - len(wrong | {FINE})
    fitting = (key for key in others if is_plain(shown, ways_of(good, level, key, wrong)))
    beside = [key for key, _ in zip(fitting, range(max(2, wanted)), strict=False)]
    options = {key: AnswerOption(key, texts[key], key) for key in (*wrong, *beside, FINE)}
    words = [lamp_words(good)]
    if len(wrong) > 1:
        words.append("Two things are wrong.")
    return Exercise(
        skill,
        level,
        seed,
        kinds()["read"].ask,
        BeamsShown((shown,), good, taped=level <= 2),
        tuple(words),
        shuffled(options, luck),
        wrong,
        picks=len(wrong),
    )


def lamp_words(setup: SetUp) -> str:
    """A lamp in words: its housing and base, what burns in it, where it is driven."""
    burns = "with an LED bulb" if setup.source == "led" else "with the bulb it was made for"
    lamp = f"{kind(setup.housing).label} for {setup.base}, {burns}"
    return f"{lamp}; driven on the {setup.traffic}."


def ways_of(good: SetUp, level: int, fault: str, wrong: frozenset[str]) -> list[SetUp]:
    """What a lamp would look like with a fault in place of those it has; where it has two, with it
    beside each of them too.
    """
    alone = list(FAULTS[fault].ways(good, level))
    if len(wrong) < 2:
        return alone
    beside = [
        FAULTS[other].spoil(setup, by_level(3, FAULTS[other].sizes))
        for setup in alone
        for other in wrong
    ]
    return [*alone, *beside]


# How many times brighter the second is, by level: all answers, of which one is right.
GAINS = (
    (0.4, 1.0, 2.5),
    (0.5, 1.0, 2.0),
    (0.6, 1.0, 1.7, 2.9),
    (0.7, 1.0, 1.45, 2.1),
    (0.75, 1.0, 1.35, 1.8, 2.4),
)


def compare_gain(skill: str, level: int, seed: int) -> Exercise:
    """How many times as bright the second lamp's hot spot is."""
    luck = draw(skill, level, seed)
    housing, base = luck.choice([lamp for lamp in LAMPS if lamp[1] != "D2S"])
    first = SetUp(housing=housing, base=base, traffic=luck.choice(("right", "left")))
    factor = luck.choice(GAINS[level - 1])
    second = replace(first, source="led", cct=luck.choice((5000.0, 6000.0)))
    lumens = rough_of(second, POINTS).emitted_lm
    ratio = _peak(second) / _peak(first)
    second = replace(second, flux=round(lumens * factor / ratio, 1))
    options = tuple(AnswerOption(f"x{value:g}", _gain_words(value)) for value in GAINS[level - 1])
    return Exercise(
        skill,
        level,
        seed,
        "How bright is the hot spot of B, against that of A?",
        BeamsShown((first, second), first),
        ("Same place, same distance, same exposure.",),
        options,
        frozenset({f"x{factor:g}"}),
    )


def _peak(setup: SetUp) -> float:
    return derived.peak(rough_of(setup, POINTS)).candela


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
        return any(finding.level is Level.STOP for finding in above(self.share, self.usual))

    @property
    def is_clear(self) -> bool:
        """Whether it is far enough from the limit to be seen."""
        over = [
            any(f.level is Level.STOP for f in above(share, self.usual)) for share in self._near
        ]
        return over[0] == over[1]

    @property
    def _near(self) -> tuple[float, float]:
        return self.share / CLEARLY, self.share * CLEARLY


def _spill(setup: SetUp) -> _Spill:
    share, usual = (derived.share_above(beam_of(one)) for one in (setup, setup.reference()))
    return _Spill(setup, share or 0.0, usual or 0.0)


def compare_glare(skill: str, level: int, seed: int) -> Exercise:
    """Which of two lamps dazzles: one, both, none."""
    luck = draw(skill, level, seed)
    housing, base = luck.choice([lamp for lamp in LAMPS if lamp[0] == "reflector"])
    good = SetUp(housing=housing, base=base, source="led", traffic=luck.choice(("right", "left")))
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
        skill,
        level,
        seed,
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


def compare(skill: str, level: int, seed: int) -> Exercise:
    """One lamp against another: how much brighter, or which dazzles."""
    return (compare_glare if skill == "compare.glare" else compare_gain)(skill, level, seed)


def looks_alike(exercise: Exercise) -> list[tuple[SetUp, SetUp]]:
    """What an exercise shows beside what each wrong answer would look like: what must differ
    plainly, pair by pair.
    """
    shown = exercise.shown
    assert isinstance(shown, BeamsShown)
    if exercise.skill == "compare.gain":
        return list(combinations(_at_each_gain(exercise, shown.setups[1]), 2))
    wrong = [option.id for option in exercise.options if option.id not in exercise.right]
    looks = [setup for key in wrong for setup in _looks(exercise, shown.meant, key)]
    return [(shown.setups[0], setup) for setup in looks]


def _looks(exercise: Exercise, good: SetUp, key: str) -> list[SetUp]:
    return [good] if key == FINE else ways_of(good, exercise.level, key, exercise.right)


def _at_each_gain(exercise: Exercise, second: SetUp) -> list[SetUp]:
    """The second lamp of a comparison as bright as each answer says."""
    (right,) = exercise.right
    assert second.flux is not None
    return [
        replace(second, flux=second.flux * float(option.id[1:]) / float(right[1:]))
        for option in exercise.options
    ]
