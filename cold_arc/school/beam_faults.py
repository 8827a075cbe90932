"""What may be wrong with a lamp, as the beam model has it, and what each looks like.

A fault is as large as the level has it, larger where a lamp would not show it plainly.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from random import Random

from cold_arc.core.beam.housings import kind
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.school.exercise import by_level
from cold_arc.school.seeing import is_plain

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
# Reflectors of headlamps.
REFLECTORS = ("reflector", "vol-reflector", "vor-reflector")
# What only a dual bulb can do.
DUAL_ONLY = (UPSIDE, SWAPPED)
# From which level on lamps differ in colour and brightness. A fault that does not show is made
# larger by so much, so many times at most.
VARIED_FROM, LARGER, MOST_LARGER = 3, 1.3, 5
# Of an answer these sizes are looked at: as large as its level has it, and larger.
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
    return replace(setup, traffic=setup.traffic.other)


FAULTS: dict[str, BeamFault] = {
    "read.clock": BeamFault(
        "The bulb is turned in its seat",
        (90, 60, 45, 32, 24),
        lambda setup, size: replace(setup, clock=max(-90.0, min(90.0, size))),
        both=True,
        into=REFLECTORS,
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
        into=REFLECTORS,
    ),
    SWAPPED: BeamFault(
        "Low and high are exchanged at the plug",
        (1, 1, 1, 1, 1),
        lambda setup, size: replace(setup, high=True),
        into=REFLECTORS,
    ),
    "read.shade": BeamFault(
        "The shade is bent: its step is gone",
        (1, 1, 1, 1, 1),
        lambda setup, size: replace(setup, cut_off="flat"),
        into=("projector",),
    ),
}
FINE_TEXT = "Nothing: it is as it should be"


def good_lamp(luck: Random, level: int, fault: str) -> SetUp:
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
        traffic=luck.choice(tuple(Traffic)),
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


def spoilt(good: SetUp, fault: str, level: int, sign: int) -> SetUp:
    """The set-up with a fault, large enough to show."""
    size = sign * by_level(level, FAULTS[fault].sizes)
    for _ in range(MOST_LARGER):
        bad = FAULTS[fault].spoil(good, size)
        if is_plain(bad, [good]):
            return bad
        size *= LARGER
    return FAULTS[fault].spoil(good, size)


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
