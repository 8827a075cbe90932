"""How a bulb sits, from the light it throws: clock, depth, place, tilt and flux fitted to the map
after, in a housing that is known; and which of a few things that go wrong explains it best.

Each hypothesis is a change of the model, fitted by least squares and weighed by its evidence
(Laplace's approximation, as for the housing): a change that explains no more than a simpler one
weighs less. What two explain alike is named with the look that tells them apart.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from cold_arc.core.beam.housings.projector import Projector
from cold_arc.core.beam.model import Array
from cold_arc.core.beam.setup import OF_THE_LAMP, SetUp
from cold_arc.core.inverse.housing import FittedLamp, Progress, slopes
from cold_arc.core.inverse.light_map import LightMap
from cold_arc.core.units import lowered, raised, say_degrees, say_mm, say_percent

# What each figure is usually off by, as a standard deviation: degrees, mm; flux as a logarithm
# (own).
HOLDS = {
    "clock": 15.0,
    "axial": 0.7,
    "radial_x": 0.3,
    "radial_y": 0.3,
    "tilt": 2.0,
    "uneven": 0.4,
    "flux": 0.25,
    "aim_v": 0.6,
    "aim_h": 0.6,
    "haze": 0.2,
}
LIMITS = {
    "clock": (-95.0, 95.0),
    "axial": (-4.0, 4.0),
    "radial_x": (-2.0, 2.0),
    "radial_y": (-2.0, 2.0),
    "tilt": (-10.0, 10.0),
    "uneven": (-0.8, 0.8),
    "flux": (-1.5, 1.5),
    "aim_v": (-3.0, 3.0),
    "aim_h": (-3.0, 3.0),
    "haze": (0.0, 1.0),
}
SEATED = ("clock", "axial", "radial_x", "radial_y", "tilt", "flux")
# Where a search begins, degrees and mm: a beam says little of a seat far from it.
BEGUN = {
    "clock": (-75, -55, -40, -27, -15, -7, 0, 7, 15, 27, 40, 55, 75),
    "axial": (-1.4, -1.05, -0.7, -0.35, 0.0, 0.35, 0.7, 1.05, 1.4),
}
# How many neighbouring cells err together (more than with the housing's own source, whose images it
# was fitted by), and what the housing itself is still off by, share of a cell (own).
CELLS_ALIKE, HOUSING_SHARE, TYPICAL_SHARE = 12.0, 0.05, 0.25
MOST_TRIES = 8


@dataclass(frozen=True)
class Hypothesis:
    """What may be wrong: which figures it turns besides flux, how often it is met (a weight), in
    words, what to do; whether the light is looked at with left and right exchanged, what else of
    the set-up is otherwise, and which set-ups it can befall.
    """

    id: str
    turns: tuple[str, ...]
    weight: float
    words: str
    advice: str
    mirrored: bool = False
    changes: Mapping[str, Any] = field(default_factory=dict)
    befalls: Callable[[SetUp], bool] = lambda _: True

    def supposed(self, lamp: FittedLamp, setup: SetUp) -> tuple[FittedLamp, SetUp]:
        """Lamp and bulb with what else is otherwise."""
        own = {name: value for name, value in self.changes.items() if name in OF_THE_LAMP}
        return (
            replace(lamp, setup=replace(lamp.setup, **own)),
            replace(setup, **self.changes),
        )


def _has_faces(setup: SetUp) -> bool:
    return setup.source == "led" and setup.faces > 1


def _has_shade(setup: SetUp) -> bool:
    """Whether a shade makes its line rise or step."""
    housing = setup.built_housing()
    return isinstance(housing, Projector) and housing.cut_off.shape in ("elbow", "step")


def _has_dip_shield(setup: SetUp) -> bool:
    return _has_faces(setup) and setup.catalogue_base.dip_shield


# Common practice, no published source.
HYPOTHESES = (
    Hypothesis(
        "right", (), 4.0, "It sits as it should.", "Nothing to turn: confirm it on the wall."
    ),
    Hypothesis(
        "clock",
        ("clock",),
        3.0,
        "Its faces do not look to 3 and 9 o'clock.",
        "Turn the collar back by as much, lock it, photograph again.",
    ),
    Hypothesis(
        "depth",
        ("axial",),
        2.0,
        "It sits at another depth.",
        "Look whether it is flush and locked; change the O-ring; photograph again.",
    ),
    Hypothesis(
        "seat",
        ("clock", "axial", "radial_x", "radial_y", "tilt"),
        1.5,
        "It sits askew: turned, off its depth and off the axis.",
        "Take it out, look at the tabs and the seat, lock it flush, photograph again.",
    ),
    Hypothesis(
        "aim",
        ("aim_v", "aim_h"),
        2.0,
        "The lamp was moved: the same light, aimed elsewhere.",
        "Look at its mounts; then aim it.",
    ),
    Hypothesis(
        "haze",
        ("haze",),
        1.0,
        "The lens scatters more than before: mist inside, or a film left on.",
        "Look at the lens with a torch, inside and out.",
    ),
    Hypothesis(
        "traffic",
        (),
        0.3,
        "The pattern is that of the other side of traffic, or left and right were exchanged.",
        "Read the marks on the lens; look which lamp was photographed.",
        mirrored=True,
    ),
    Hypothesis(
        "face",
        ("uneven",),
        1.0,
        "One of its faces gives less than the other.",
        "Look at each face through a dark glass, the bulb out: one with dark chips goes back.",
        befalls=_has_faces,
    ),
    Hypothesis(
        "shade",
        (),
        0.3,
        "The shade is bent or caught: the line does not rise where it should.",
        "Look through the lens at the shade's edge, and whether its flap falls back.",
        changes={"cut_off": "flat"},
        befalls=_has_shade,
    ),
    Hypothesis(
        "upside",
        (),
        0.5,
        "It sits upside down: its shield is over the chips.",
        "Turn the bulb by half in its collar, lock it, photograph again.",
        changes={"clock": 180.0},
        befalls=_has_dip_shield,
    ),
)


@dataclass(frozen=True)
class Explained:
    """A hypothesis fitted: its *figures* by name, each with its standard uncertainty, its
    *probability*.
    """

    hypothesis: Hypothesis
    figures: Mapping[str, tuple[float, float]]
    probability: float

    @property
    def words(self) -> str:
        """What it says, with its figures."""
        turned = "; ".join(_say(name, *self.figures[name]) for name in self.hypothesis.turns)
        return f"{self.hypothesis.words} {raised(turned)}." if turned else self.hypothesis.words


def _say(name: str, value: float, spread: float) -> str:
    if name == "clock":
        way = "clockwise" if value >= 0 else "anticlockwise"
        return f"turned {say_degrees(abs(value))} ± {say_degrees(spread)} {way}"
    if name in ("axial", "radial_x", "radial_y"):
        ways = {"axial": ("forward", "back"), "radial_x": ("right", "left")}
        ahead, behind = ways.get(name, ("up", "down"))
        way = ahead if value >= 0 else behind
        return f"{say_mm(abs(value))} ± {say_mm(spread)} {way}"
    if name == "uneven":
        weak, strong = ("9", "3") if value >= 0 else ("3", "9")
        less = 1 - (1 - abs(value)) / (1 + abs(value))
        doubt = 2 * spread / (1 + abs(value)) ** 2
        share = f"{say_percent(less)} ± {say_percent(doubt)}"
        return f"the face at {weak} o'clock gives {share} less than the one at {strong}"
    if name == "haze":
        return f"haze {value:.2f} ± {spread:.2f}"
    words = {"tilt": "nose up", "aim_v": "aimed up", "aim_h": "aimed right"}
    return f"{words[name]} {say_degrees(value, 2, signed=True)} ± {say_degrees(spread, 2)}"


@dataclass(frozen=True)
class Seat:
    """How a bulb sits: every figure of its seat with its standard uncertainty, degrees and mm, and
    the hypotheses, the likeliest first.
    """

    figures: Mapping[str, tuple[float, float]]
    explained: tuple[Explained, ...]

    @property
    def advice(self) -> str:
        """What to do: of the likeliest, and the look that tells it from the next where that is
        nearly as likely.
        """
        first, second = self.explained[0], self.explained[1]
        if second.probability < NEARLY * first.probability:
            return first.hypothesis.advice
        return f"{first.hypothesis.advice} {_apart(first.hypothesis, second.hypothesis)}"


# A second explanation this much as likely as the first is named with it.
NEARLY = 0.3
# The look that tells two apart.
TELLS_APART = {
    frozenset({"clock", "depth"}): "Or its depth: turn the bulb by 5°; if the smear turns with "
    "it, it is the clock.",
    frozenset({"clock", "seat"}): "Or more than the clock: turn it upright and photograph again.",
    frozenset({"depth", "seat"}): "Or more than its depth: seat it flush and photograph again.",
    frozenset({"aim", "depth"}): "Or its depth: put the old bulb back; if the line stays, the "
    "lamp was moved.",
    frozenset({"aim", "clock"}): "Or its clock: put the old bulb back; if the line stays, the "
    "lamp was moved.",
    frozenset({"haze", "depth"}): "Or its depth: look at the lens with a torch first.",
    frozenset({"right", "face"}): "Or it sits right: turn the bulb by half; a weak face goes with "
    "it, what belongs to the lamp stays.",
    frozenset({"clock", "face"}): "Or its clock: turn the bulb by half; a weak face goes to the "
    "other side.",
    frozenset({"right", "aim"}): "Or the lamp was moved a little: measure its line.",
}


def _apart(first: Hypothesis, second: Hypothesis) -> str:
    usual = f"Or else: {lowered(second.words)} {second.advice}"
    return TELLS_APART.get(frozenset({first.id, second.id}), usual)


def fit_seat(
    lamp: FittedLamp, setup: SetUp, light: LightMap, progress: Progress | None = None
) -> Seat:
    """How *setup*'s bulb sits in *lamp*, a fitted housing, from the map *light*; its own seat is
    where it begins. *progress* is told how far it is, 0 to 1, and may raise to stop it.
    """
    if not light.absolute:
        light = _scaled(lamp, setup, light)
    fits: dict[str, _Weighed] = {}
    asked = [hypothesis for hypothesis in HYPOTHESES if hypothesis.befalls(setup)]
    for place, hypothesis in enumerate(asked):
        if progress:
            progress(place / len(asked))
        seen = light.mirrored() if hypothesis.mirrored else light
        fits[hypothesis.id] = _fitted(*hypothesis.supposed(lamp, setup), seen, hypothesis.turns)
    if progress:
        progress(1.0)
    whole = fits["seat"].figures
    return Seat({name: whole[name] for name in SEATED}, _explained(asked, fits))


def _explained(asked: Sequence[Hypothesis], fits: Mapping[str, _Weighed]) -> tuple[Explained, ...]:
    """Each hypothesis with its probability, the likeliest first."""
    evidence = np.array([math.log(each.weight) + fits[each.id].evidence for each in asked])
    shares = np.exp(evidence - evidence.max())
    shares /= shares.sum()
    explained = (
        Explained(each, fits[each.id].figures, float(share))
        for each, share in zip(asked, shares, strict=True)
    )
    return tuple(sorted(explained, key=lambda one: -one.probability))


def _scaled(lamp: FittedLamp, setup: SetUp, light: LightMap) -> LightMap:
    """A relative map as bright in all as the bulb is foretold to be: its flux is not told then."""
    foretold = lamp.light(setup, coarse=True)
    factor = float(foretold.candela[light.known].sum() / light.candela[light.known].sum())
    return replace(light, candela=light.candela * factor)


@dataclass(frozen=True)
class _Weighed:
    """One hypothesis fitted: its figures and how well it explains the map (log evidence)."""

    figures: Mapping[str, tuple[float, float]]
    evidence: float


def _fitted(lamp: FittedLamp, setup: SetUp, light: LightMap, turns: Sequence[str]) -> _Weighed:
    """The best fit of some figures, and of the flux, from the likeliest beginning."""
    names = (*turns, "flux")
    doubt, usual = _doubt(lamp, light), _usual(lamp, setup)

    def wrong(x: Array, coarse: bool = False) -> Array:
        modelled = _light(lamp, setup, names, x, coarse)
        known = light.known
        off = (modelled.candela[known] - light.candela[known]) / doubt[known]
        held = [
            value / HOLDS[name] for name, value in zip(names, _off(usual, names, x), strict=True)
        ]
        return np.concatenate([off / math.sqrt(CELLS_ALIKE), held])

    def roughly(x: Array) -> Array:
        return wrong(x, coarse=True)

    begun = _begun(usual, names, wrong)
    low, high = np.array([LIMITS[name] for name in names]).T
    holds = np.array([HOLDS[name] for name in names])
    solved = least_squares(
        wrong,
        np.clip(begun, low + 1e-6, high - 1e-6),
        bounds=(low, high),
        x_scale=holds,
        max_nfev=MOST_TRIES,
        ftol=2e-3,
        loss="soft_l1",
        f_scale=3.0,
        jac=lambda x: slopes(roughly, x, holds),
    )
    information = solved.jac.T @ solved.jac
    covariance = np.linalg.inv(information)
    spread = np.sqrt(np.diag(covariance))
    # Laplace: log evidence = −cost − ½ log det(information) − ½ log det(prior).
    _, determinant = np.linalg.slogdet(information)
    evidence = -float(solved.cost) - 0.5 * (determinant + 2 * float(np.sum(np.log(holds))))
    moved = [
        x if name in AIMED else value
        for name, x, value in zip(names, _off(usual, names, solved.x), solved.x, strict=True)
    ]
    figures = {
        name: (float(value), float(sd))
        for name, value, sd in zip(names, moved, spread, strict=True)
    }
    return _Weighed(figures, evidence)


def _doubt(lamp: FittedLamp, light: LightMap) -> Array:
    """What a cell is worth, with what the housing itself is still off by."""
    known = len(lamp.covariance) > 1
    return np.hypot(light.doubt, (HOUSING_SHARE if known else TYPICAL_SHARE) * light.candela)


def _usual(lamp: FittedLamp, setup: SetUp) -> dict[str, float]:
    """What the lamp's own figures are expected to be: as they were read, else as the set-up has
    them.
    """
    own = lamp.by_name
    return {name: own.get(name, float(getattr(setup, name))) for name in MOVED}


def _begun(
    usual: Mapping[str, float], names: Sequence[str], wrong: Callable[[Array], Array]
) -> Array:
    """Where a search begins: as the lamp was, and of clock and depth, one after the other, where
    the map is met best.
    """
    begun = np.array([usual.get(name, 0.0) for name in names])
    for name, values in BEGUN.items():
        if name not in names:
            continue
        place = list(names).index(name)
        tried = [np.where(np.arange(begun.size) == place, value, begun) for value in values]
        costs = [float(np.sum(np.minimum(wrong(each) ** 2, 9.0))) for each in tried]
        begun = tried[int(np.argmin(costs))]
    return begun


# Of the figures those of the lamp, not of its bulb; and of those what is told as a change.
AIMED = ("aim_v", "aim_h")
MOVED = ("haze", *AIMED)


def _off(usual: Mapping[str, float], names: Sequence[str], x: Array) -> list[float]:
    """How far figures stand from what is expected: a seat from right, a lamp from as it was."""
    return [float(value) - usual.get(name, 0.0) for name, value in zip(names, x, strict=True)]


def _light(
    lamp: FittedLamp, setup: SetUp, names: Sequence[str], x: Array, coarse: bool
) -> LightMap:
    """The light with some figures as *x* has them."""
    turned = dict(zip(names, map(float, x), strict=True))
    flux = (setup.flux or setup.own_source.flux_lm) * math.exp(turned.pop("flux"))
    moved = {name: turned.pop(name) for name in MOVED if name in turned}
    seat = {name: getattr(setup, name) + value for name, value in turned.items()}
    return _moved(lamp, moved).light(replace(setup, flux=flux, **seat), coarse)


def _moved(lamp: FittedLamp, moved: Mapping[str, float]) -> FittedLamp:
    """The lamp with some of its own figures set otherwise."""
    figures = lamp.by_name | dict(moved)
    return replace(lamp, names=tuple(figures), values=tuple(figures.values()))
