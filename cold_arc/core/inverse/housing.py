"""This lamp's housing from its light on the wall: the figures of the modelled kind turned until its
own source gives the map.

Bounded, robust least squares (SciPy) with the typical housing as a prior, so that what a map can't
tell stays typical; Laplace's approximation gives the posterior's covariance, widened by what the
fit leaves over, from which predictions are drawn (D. J. C. MacKay, Information Theory, Inference,
and Learning Algorithms, 2003, ch. 27; from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from cold_arc.core.beam import derived, nominal
from cold_arc.core.beam.fitted import READING_SHARE, BeamReading, brightness
from cold_arc.core.beam.housings import KINDS, Housing
from cold_arc.core.beam.model import Array, Beam, Conditions, added, illuminate
from cold_arc.core.beam.setup import LIMITS, SetUp, pattern_text
from cold_arc.core.inverse.light_map import (
    LampBeside,
    LightMap,
    Texture,
    of_beam,
    of_pair,
    texture_of,
)

# What lamps of a kind differ by, as standard deviations: figures of the pattern and brightness as
# natural logarithms, haze, aim in degrees (own; lamps of a kind resemble each other by a tenth).
FIGURE, BRIGHT, HAZE, AIM_DEG = 0.12, 0.4, 0.12, 0.6
# Mirror elements and source points for slopes and spreads. What a map is compared with has all of
# them: fewer shift a beam's smear by several degrees of its bulb's clock.
SAMPLES, SOURCE_POINTS = 4096, 64
# The loss goes linear from so many deviations on: a mark on the wall bends nothing.
ROBUST_AT, MOST_TRIES = 3.0, 14
# A difference's step, of what a figure is usually off by; how many neighbouring cells err together
# with a housing's own source; of its prior's, the uncertainty from which a figure is called untold;
# what a fit may leave over of the peak, per cent (own).
STEP, CELLS_ALIKE, UNTOLD, MUCH_LEFT_PCT = 0.4, 6.0, 0.9, 5.0
PATTERN_LOW = ("aim", "narrow", "wide", "grows", "shallow", "deep", "kerb", "sign")
PATTERN_HIGH = ("narrow", "wide", "grows", "shallow", "deep")
PATTERN_DUAL = ("high_narrow", "high_wide")
PATTERN_FOG = ("narrow", "wide", "grows", "shallow", "deep")
UNLIKELY = (
    "What a meter read of it no lamp of its kind gives: its brightness is left as typical. Look "
    "which lamp was read, and at which distance."
)
# How finely a lamp's figures are kept in a set-up.
DECIMALS = 4
LAMP_FIGURES = ("gain", "haze", "aim_v", "aim_h")
# Of the other lamp, where it was lit too, against the one that is read: how much brighter, how much
# higher and how far right it is aimed; and what a pair differs by (own).
OTHER = ("other_gain", "other_v", "other_h")
OTHER_HOLDS = {"other_gain": 0.2, "other_v": 0.8, "other_h": 0.8}
# From so many of these down the other lamp is asked about (own).
HARDLY_LIT = -3.0
Progress = Callable[[float], None]


@dataclass(frozen=True)
class FittedLamp:
    """A housing fitted to a map: *setup* with its own source, as it was lit; *names* and *values*
    of what was turned (figures of the pattern in their own unit), *covariance* of them as they are
    turned (logarithms of the pattern's and of gain); *left_pct*: what the fit leaves over, root
    mean square of the peak; *absolute*: whether its brightness is known; *texture*: what the fit
    leaves over of the map, kept in every map foretold.
    """

    setup: SetUp
    names: tuple[str, ...]
    values: tuple[float, ...]
    covariance: tuple[tuple[float, ...], ...]
    left_pct: float
    absolute: bool
    notes: tuple[str, ...] = ()
    texture: Texture | None = None

    @property
    def figures(self) -> Mapping[str, tuple[float, float]]:
        """Each figure with its standard uncertainty, in its own unit."""
        spread = np.sqrt(np.diag(np.array(self.covariance)))
        return {
            name: (value, float(sd * value if _is_log(name) else sd))
            for name, value, sd in zip(self.names, self.values, spread, strict=True)
        }

    @property
    def by_name(self) -> dict[str, float]:
        """The value of each figure."""
        return dict(zip(self.names, self.values, strict=True))

    def holding(self, setup: SetUp) -> SetUp:
        """Any set-up in this housing: at its aim, behind its lens, as bright as it is where that is
        known.
        """
        values = self.by_name
        lamp: dict[str, Any] = {
            name: round(values.pop(name), DECIMALS) for name in LAMP_FIGURES if name in values
        }
        if not self.absolute:
            lamp["gain"] = setup.gain
        return replace(setup, pattern=pattern_text(values), **lamp)

    @property
    def alone(self) -> FittedLamp:
        """The lamp without what was fitted of the other of its pair, whatever that is."""
        own = [place for place, name in enumerate(self.names) if name not in OTHER]
        return replace(
            self,
            names=tuple(self.names[place] for place in own),
            values=tuple(self.values[place] for place in own),
            covariance=_rows(np.array(self.covariance)[np.ix_(own, own)]),
        )

    @property
    def usual_figures(self) -> Mapping[str, float]:
        """What each figure is of a typical lamp of its kind, as its own set-up has it."""
        own = {"gain": self.setup.gain, "haze": self.setup.haze, "aim_v": 0.0, "aim_h": 0.0}
        return asdict(self.setup.usual_pattern) | own

    def turned(self, up_deg: float, right_deg: float) -> FittedLamp:
        """The lamp after its aim was turned by *up_deg* and *right_deg*."""
        by = {"aim_v": up_deg, "aim_h": right_deg}
        values = [
            value + by.get(name, 0.0) for name, value in zip(self.names, self.values, strict=True)
        ]
        return replace(self, values=tuple(values))

    def told_brightness(self, readings: tuple[BeamReading, ...]) -> FittedLamp:
        """The lamp as bright as a meter read it somewhere; itself without readings, or with such as
        no lamp of its kind gives.
        """
        if not readings:
            return self
        brighter, count = brightness(self.beam(self.setup), readings)
        gain = brighter * self.by_name["gain"]
        if count == 0 or not LIMITS["gain"].within.holds(gain):
            return replace(self, notes=(*self.notes, UNLIKELY))
        place, covariance = self.names.index("gain"), np.array(self.covariance)
        covariance[place, :] = covariance[:, place] = 0.0
        covariance[place, place] = READING_SHARE**2 / count
        values = list(self.values)
        values[place] = gain
        return replace(
            self,
            values=tuple(values),
            covariance=_rows(covariance),
            absolute=True,
        )

    def drawn(self, count: int, seed: int = 1) -> list[FittedLamp]:
        """*count* lamps that agree with the map as well, drawn from the posterior by *seed*."""
        random = np.random.default_rng(seed)
        middle = _as_turned(self.names, self.values)
        draws = random.multivariate_normal(middle, np.array(self.covariance), count)
        return [replace(self, values=_as_figures(self.names, each)) for each in draws]

    def beam(self, setup: SetUp, rough: bool = False) -> Beam:
        """The beam of any set-up's source in this housing, at its aim and behind its lens; *rough*:
        from fewer elements on half as fine a grid, to compare.
        """
        return self._beam(setup, SAMPLES if rough else None, rough)

    def light(
        self, setup: SetUp, coarse: bool = False, beside: LampBeside | None = None
    ) -> LightMap:
        """The same as a map; *coarse*: from fewer elements, for slopes; *beside*: with the other
        lamp of its pair, as its figures OTHER have it.
        """
        beam = self._beam(setup, SAMPLES if coarse else None, rough=True)
        values = self.by_name
        if beside is not None:
            return of_pair(beam, beside, *(values[name] for name in OTHER))
        if self.texture is None:
            return of_beam(beam)
        return self.texture.over(of_beam(beam), values["aim_v"], values["aim_h"])

    def _beam(self, setup: SetUp, samples: int | None, rough: bool) -> Beam:
        values = self.by_name
        housing = _housing(self.setup, tuple(values.items()), samples)
        conditions = _conditions(setup, values, SOURCE_POINTS if samples else housing.source_points)
        beams = [
            illuminate(housing, setup.nominal, source, conditions, rough, thins=1)
            for source in setup.built_sources()
        ]
        return replace(added(beams), cct_k=setup.colour_k, yellow=setup.yellow)


def typical(setup: SetUp) -> FittedLamp:
    """The typical lamp of a set-up's kind: nothing was read of it."""
    return FittedLamp(setup, ("gain",), (setup.gain,), ((1.0,),), 0.0, True)


def _is_log(name: str) -> bool:
    return name not in ("haze", "aim_v", "aim_h", "other_v", "other_h")


def _as_turned(names: tuple[str, ...], values: tuple[float, ...]) -> Array:
    return np.array([math.log(v) if _is_log(n) else v for n, v in zip(names, values, strict=True)])


def _as_figures(names: tuple[str, ...], turned: Array) -> tuple[float, ...]:
    figures = [
        math.exp(x) if _is_log(n) else float(np.clip(x, 0, 1)) if n == "haze" else float(x)
        for n, x in zip(names, turned, strict=True)
    ]
    return tuple(figures)


@lru_cache(maxsize=64)
def _housing(setup: SetUp, values: tuple[tuple[str, float], ...], samples: int | None) -> Housing:
    """The kind's housing with some figures in place of its pattern's."""
    own = {name: value for name, value in values if name not in (*LAMP_FIGURES, *OTHER)}
    made: Any = replace(setup, pattern=pattern_text(own)).built_housing()
    housing: Housing = replace(made, samples=samples) if samples else made
    return housing


def _conditions(setup: SetUp, values: Mapping[str, float], points: int) -> Conditions:
    own = setup.conditions
    return replace(
        own,
        haze=float(np.clip(values.get("haze", own.haze), 0.0, 1.0)),
        aim_v_deg=values.get("aim_v", own.aim_v_deg),
        aim_h_deg=values.get("aim_h", own.aim_h_deg),
        gain=values.get("gain", own.gain),
        source_points=points,
    )


def figure_names(setup: SetUp) -> tuple[str, ...]:
    """The figures that are turned for a set-up's kind of housing."""
    kind = KINDS[setup.housing]
    if kind.is_fog:
        return (*PATTERN_FOG, *LAMP_FIGURES)
    if setup.high and nominal.shares_mirror(setup.housing, setup.catalogue_base):
        return (*PATTERN_LOW, *PATTERN_DUAL, *LAMP_FIGURES)
    if setup.high:
        return (*PATTERN_HIGH, *LAMP_FIGURES)
    shield = ("over",) if kind.images_source else ()
    low = tuple(name for name in PATTERN_LOW if name != "kerb" or not kind.images_source)
    return (*low, *shield, *LAMP_FIGURES)


def fit_lamp(
    setup: SetUp,
    light: LightMap,
    progress: Progress | None = None,
    beside: LampBeside | None = None,
) -> FittedLamp:
    """The housing of *setup*'s kind fitted to *light*, a map taken with its own source, cd or
    relative; *beside*: the other lamp, where that was lit too.

    *progress* is told how far it is, 0 to 1, and may raise to stop it.
    """
    names = figure_names(setup) + (OTHER if beside else ())
    expected, holds = _prior(setup, names, light)
    lamp = FittedLamp(setup, names, _as_figures(names, expected), (), 0.0, light.absolute)
    done = [0]

    def wrong(turned: Array, coarse: bool = False) -> Array:
        done[0] += 1
        if progress:
            progress(min(0.99, done[0] / (MOST_TRIES * (2 * len(names) + 1))))
        trial = replace(lamp, values=_as_figures(names, turned))
        modelled = trial.light(setup, coarse, beside)
        return np.concatenate([_apart(modelled, light), (turned - expected) / holds])

    low, high = expected - 4 * holds, expected + 4 * holds
    low[names.index("haze")], high[names.index("haze")] = -1e-9, 1.0
    start = np.clip(expected, low + 1e-6, high - 1e-6)
    solved = least_squares(
        wrong,
        start,
        bounds=(low, high),
        x_scale=holds,
        loss="soft_l1",
        f_scale=ROBUST_AT,
        max_nfev=MOST_TRIES,
        ftol=2e-2,
        jac=lambda x: slopes(lambda near: wrong(near, coarse=True), x, holds),
    )
    if progress:
        progress(1.0)
    off = solved.fun[: -len(names)]
    widened = max(1.0, float(np.mean(np.minimum(off**2, ROBUST_AT**2))))
    covariance = np.asarray(
        np.linalg.inv(_information(solved.jac, len(names), widened)), dtype=np.float64
    )
    left = float(np.sqrt(np.mean((off * light.doubt[light.known]) ** 2))) / light.peak * 100
    values = _as_figures(names, solved.x)
    texture = None if beside else _texture(replace(lamp, values=values), light)
    return replace(
        lamp,
        values=values,
        texture=texture,
        covariance=_rows(covariance),
        left_pct=left,
        notes=(*_notes(names, covariance, holds, left), *_notes_beside(solved.x, names)),
    )


def _texture(lamp: FittedLamp, light: LightMap) -> Texture:
    """What *light*, a map of its own source's, shows besides the model of a *lamp*."""
    values = lamp.by_name
    return texture_of(light, lamp.light(lamp.setup), values["aim_v"], values["aim_h"])


def _notes_beside(turned: Array, names: tuple[str, ...]) -> Iterator[str]:
    """What is to be said of the other lamp, where it was lit too."""
    if OTHER[0] not in names:
        return
    yield BESIDE_NOTE
    if turned[names.index(OTHER[0])] < HARDLY_LIT * OTHER_HOLDS[OTHER[0]]:
        yield "Of the other lamp there is hardly any light: look whether it was lit."


def _rows(matrix: Array) -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(float(x) for x in row) for row in matrix)


def slopes(wrong: Callable[[Array], Array], x: Array, holds: Array) -> Array:
    """The Jacobian (residuals, figures) of *wrong* at *x* (figures,) by central differences.

    Over steps of nearly half of what each figure is usually off by, *holds* (figures,): larger than
    the model's texture, which one-sided ones follow into a valley beside the right one.
    """
    columns = []
    for place, hold in enumerate(holds):
        step = np.zeros_like(x)
        step[place] = STEP * hold
        columns.append((wrong(x + step) - wrong(x - step)) / (2 * step[place]))
    return np.stack(columns, axis=1)


def _information(jacobian: Array, figures: int, widened: float) -> Array:
    """The inverse of the posterior's covariance: the map's part, less by what the fit leaves over,
    and the prior's. A map's cells are not independent: a mirror's texture spans several.
    """
    of_map, of_prior = jacobian[:-figures], jacobian[-figures:]
    return np.asarray(of_map.T @ of_map / (widened * CELLS_ALIKE) + of_prior.T @ of_prior)


def _prior(setup: SetUp, names: tuple[str, ...], light: LightMap) -> tuple[Array, Array]:
    """What each figure is expected to be, as it is turned, and how firmly."""
    figures = asdict(setup.usual_pattern)
    modelled = typical(replace(setup, gain=1.0)).light(setup, coarse=True)
    gain = 1.0 if light.absolute else light.peak / modelled.peak
    of_lamp = {"gain": math.log(gain), "haze": setup.haze, "aim_v": 0.0, "aim_h": 0.0}
    of_lamp |= dict.fromkeys(OTHER, 0.0)
    firm = {"gain": BRIGHT if light.absolute else 2.0, "haze": HAZE, "aim_v": AIM_DEG}
    firm |= OTHER_HOLDS
    expected = [
        of_lamp[name] if name in of_lamp else math.log(max(figures[name], 1e-3)) for name in names
    ]
    holds = [firm.get(name, AIM_DEG if name == "aim_h" else FIGURE) for name in names]
    return np.array(expected), np.array(holds)


def _apart(modelled: LightMap, light: LightMap) -> Array:
    """How far a model lies from a map in its known cells, in standard deviations."""
    known = light.known
    return np.asarray((modelled.candela[known] - light.candela[known]) / light.doubt[known])


BESIDE_NOTE = (
    "The other lamp was lit too: its light was told apart by where it stands. Each by its turn "
    "tells more."
)
# What each figure is called.
NAMED = {
    "aim": "how far the hot spot leans to the kerb",
    "narrow": "how narrow the hot spot is",
    "wide": "how wide the spread is",
    "grows": "how hot spot and spread share the mirror",
    "shallow": "how close the flattest images hang under the line",
    "deep": "how deep the foreground reaches",
    "kerb": "how much of the mirror draws the kerb's rise",
    "sign": "the light for signs",
    "high_narrow": "how narrow its high beam is",
    "high_wide": "how wide its high beam is",
    "over": "how far images stand over the shield",
    "gain": "its brightness",
    "haze": "its haze",
    "aim_v": "its aim up",
    "aim_h": "its aim aside",
    "other_gain": "the other lamp's brightness",
    "other_v": "the other lamp's aim up",
    "other_h": "the other lamp's aim aside",
}


def _notes(
    names: tuple[str, ...], covariance: Array, holds: Array, left_pct: float
) -> tuple[str, ...]:
    spread = np.sqrt(np.diag(covariance))
    untold = [
        NAMED[name]
        for name, sd, hold in zip(names, spread, holds, strict=True)
        if sd > UNTOLD * hold
    ]
    notes = [f"The map does not tell {', '.join(untold)}: taken as typical."] if untold else []
    if left_pct > MUCH_LEFT_PCT:
        notes.append(
            f"The fit leaves {left_pct:.0f} % of the peak over: the pattern is damaged, the kind "
            "another, the source not its own, or the other lamp lit too."
        )
    return tuple(notes)


# How many lamps are drawn for a prediction's doubt.
DRAWN = 16


def foretold_share(lamp: FittedLamp) -> float:
    """The relative standard uncertainty of a hot spot foretold in a fitted housing: of an LED like
    the filament, without its own claim's.
    """
    led = replace(lamp.setup, source="led", volts=None)
    return float(np.std(np.log([derived.peak(beam).candela for beam in _drawn_beams(lamp, led)])))


def _drawn_beams(lamp: FittedLamp, setup: SetUp) -> list[Beam]:
    """A source's beams in lamps drawn from a housing's posterior."""
    return [drawn.beam(setup, rough=True) for drawn in lamp.drawn(DRAWN)]


def foretold_doubts(lamp: FittedLamp, setup: SetUp) -> dict[str, float | None]:
    """The standard uncertainty of the peak (cd), share above the cut-off (0 to 1) and flux in the
    beam (lm) of *setup*'s source in *lamp*, from lamps drawn from its posterior; the share is None
    for a high beam.
    """
    beams = _drawn_beams(lamp, setup)
    shares = [share for beam in beams if (share := derived.share_above(beam)) is not None]
    return {
        "peak_cd": float(np.std([derived.peak(beam).candela for beam in beams])),
        "share_above_cutoff": float(np.std(shares)) if shares else None,
        "flux_beam_lm": float(np.std([beam.flux_lm for beam in beams])),
    }
