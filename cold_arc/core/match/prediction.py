"""What each candidate's beam will be in this housing, behind this lens, and how much it minds a
seat a little off.

Computed roughly beside the bench's beams: hot spots within 5 %, light above within a point, a whole
shelf in seconds.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from cold_arc.core.beam import derived
from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.housings import kind
from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import beam_of, rough_of, yardstick_for
from cold_arc.core.beam.setup import SetUp, SetUpError
from cold_arc.core.findings import Finding, Level
from cold_arc.core.match.remembered import Remembered
from cold_arc.core.metering.readings import PLACES
from cold_arc.core.references import MODEL
from cold_arc.core.units import worded

# Source points for a prediction and for a try of the seat. A projector images its source, so it
# takes more of them.
PREDICTED_POINTS, TRIED_POINTS = 192, 40
PROJECTOR_POINTS, PROJECTOR_TRIED_POINTS = 640, 160
# Outlooks remembered: a shelf of 25 for some dozen lamps, through two lenses.
MOST_KNOWN, MOST_PATTERNS = 1000, 64
# Flux the tries of the seat are made at, lm: it changes no share.
TRIED_LM = 1000.0
# A beam's width is taken 1° under the line, where it has 1000 cd: 10 lx at 10 m, where stray and
# edge are read too (own).
WIDTH_DOWN_DEG, WIDTH_CD = 1.0, 1000.0
READ_AT_M = 10.0
# How far off a seat is tried: what play in a collar and a careless clock come to (common practice).
AXIAL_STEP_MM, CLOCK_STEP_DEG = 1.0, 10.0
TRIES = ((-AXIAL_STEP_MM, 0.0), (AXIAL_STEP_MM, 0.0), (0.0, -CLOCK_STEP_DEG), (0.0, CLOCK_STEP_DEG))
# Points of UN R112 or R98 a pattern is judged by here.
SOFT_EDGE = "edge too soft"
PATTERN_POINTS = ("B50L", "zone III", "75R", "50R", "50V")
# What even a good lamp lifts above the line on purpose, for the signs, as a share of its beam (own,
# docs/housings.md).
SIGN_SHARE = 0.02
# What a seat off its place may cost until it is wholly unforgiving, and what is worth a word (own).
FORGIVING_LOSS, FORGIVING_STRAY, HARDLY_FORGIVING = 0.5, 0.1, 0.4


@dataclass(frozen=True)
class Prediction:
    """A candidate's beam in numbers: cd, degrees, shares, the de Boer mark and lx at an oncoming
    eye, reach in m.

    *edge_cd* just under the cut-off and *stray_cd* above it as a meter's 30 mm head at 10 m reads
    them; *spread_deg*: how wide 10 lx at 10 m reach, 1° under it; *above* and *kept* None where
    there is no line, or no nominal source to compare with.
    """

    peak_cd: float
    edge_cd: float
    spread_deg: float
    stray_cd: float
    above: float | None
    shadow: float
    de_boer: float
    eye_lux: float
    kept: float | None
    reach_m: float


@dataclass(frozen=True)
class Try:
    """The seat a little off: mm forward, degrees clockwise; the hot spot as a share of the true
    seat's; light above.
    """

    axial_mm: float
    clock_deg: float
    peak_share: float
    above: float | None


@dataclass(frozen=True)
class Sensitivity:
    """What ±1 mm of depth and ±10° of clocking do."""

    tries: tuple[Try, ...]

    @property
    def loss(self) -> float:
        """The largest share of the hot spot lost."""
        return max(0.0, max(1 - tried.peak_share for tried in self.tries))

    @property
    def stray(self) -> float:
        """The largest share above the line; 0 where there is none."""
        return max((tried.above or 0.0 for tried in self.tries), default=0.0)

    @property
    def forgiveness(self) -> float:
        """1 for a candidate that does not mind, 0 for one that loses half its hot spot or throws a
        tenth above.
        """
        thrown = max(0.0, self.stray - SIGN_SHARE)
        return max(0.0, 1 - self.loss / FORGIVING_LOSS - thrown / FORGIVING_STRAY / 2)


def _beam(setup: SetUp, trying: bool = False) -> Beam:
    points = TRIED_POINTS if trying else PREDICTED_POINTS
    if kind(setup.housing).images_source:
        points = PROJECTOR_TRIED_POINTS if trying else PROJECTOR_POINTS
    return rough_of(setup, points)


@lru_cache(maxsize=32)
def _nominal_beam(setup: SetUp) -> Beam:
    return _beam(setup)


@dataclass(frozen=True)
class Outlook:
    """Everything predicted of one candidate's set-up."""

    prediction: Prediction
    sensitivity: Sensitivity | None


OUTLOOKS: Remembered[SetUp, Outlook] = Remembered("outlooks", MOST_KNOWN)


def known(setup: SetUp) -> Outlook | None:
    """The outlook on a set-up if it was worked out before; never computes."""
    return OUTLOOKS.get(setup)


def outlook(setup: SetUp) -> Outlook:
    """The outlook on a set-up, worked out (some 0.1 s) and remembered."""
    worked_out = OUTLOOKS.get(setup)
    if worked_out is None:
        worked_out = OUTLOOKS.keep(setup, Outlook(predict(setup), sensitivity(setup)))
    return worked_out


@lru_cache(maxsize=512)
def predict(setup: SetUp) -> Prediction:
    """The beam of a set-up in numbers; remembered."""
    beam = _beam(setup)
    glare = derived.oncoming_glare(beam, traffic=setup.traffic)
    places = PLACES["fog" if setup.is_fog else "high" if setup.high else "low"]
    own_optic, kerb = setup.source == "nominal", setup.traffic.kerb
    return Prediction(
        peak_cd=derived.peak(beam).candela,
        edge_cd=derived.meter_candela(beam, *places["edge"], READ_AT_M),
        spread_deg=_spread(beam),
        stray_cd=derived.meter_candela(
            beam, places["stray"][0] * kerb, places["stray"][1], READ_AT_M
        ),
        above=derived.share_above(beam),
        shadow=derived.hot_spots(beam)[1],
        de_boer=glare.de_boer,
        eye_lux=glare.lux,
        kept=None if own_optic else derived.fidelity(beam, _nominal_beam(setup.reference())).kept,
        reach_m=derived.reach_m(beam, 3.0),
    )


def _spread(beam: Beam) -> float:
    """The width, degrees, of the part of a row 1° under the line (level, for a high beam) that has
    1000 cd.
    """
    down = (
        0.0
        if beam.housing.cut_off.shape == "none"
        else beam.housing.cut_off.level_deg - WIDTH_DOWN_DEG
    )
    lit = beam.grid.h[beam.at(beam.grid.h, np.full_like(beam.grid.h, down)) >= WIDTH_CD]
    return float(lit.max() - lit.min()) if lit.size else 0.0


def sensitivity(setup: SetUp) -> Sensitivity | None:
    """The four tries round a set-up's seat; None for a source fixed in an optic of its own."""
    if setup.source != "led":
        return None
    return _sensitivity(replace(setup, flux=TRIED_LM, droop=0.0))


@lru_cache(maxsize=512)
def _sensitivity(setup: SetUp) -> Sensitivity:
    """The tries at one flux for all, for how much light there is changes no share."""
    top = derived.peak(_beam(setup, trying=True)).candela
    return Sensitivity(tuple(_try(setup, axial, clock, top) for axial, clock in TRIES))


def _try(setup: SetUp, axial_mm: float, clock_deg: float, top: float) -> Try:
    beam = _beam(
        replace(setup, axial=setup.axial + axial_mm, clock=setup.clock + clock_deg), trying=True
    )
    return Try(axial_mm, clock_deg, derived.peak(beam).candela / top, derived.share_above(beam))


SPREADS: Remembered[tuple[SetUp, tuple[SetUp, ...]], float] = Remembered("spreads", MOST_KNOWN)


def spread_among(setup: SetUp, fit: HousingFit) -> float:
    """What a source's hot spot differs by among lamps that agree as well with what was read of this
    one: as a share, one standard deviation; some 50 ms, remembered. 0 where fewer than two of those
    lamps can be modelled.
    """
    known = SPREADS.get((setup, fit.drawn))
    if known is not None:
        return known
    peaks = [derived.peak(_beam(lamp, trying=True)).candela for lamp in _in_lamps(setup, fit)]
    share = float(np.std(np.log(peaks), ddof=1)) if len(peaks) > 1 else 0.0
    return SPREADS.keep((setup, fit.drawn), share)


def _in_lamps(setup: SetUp, fit: HousingFit) -> Iterator[SetUp]:
    """A set-up in each lamp drawn for a fit, but for those beyond what is modelled."""
    for lamp in fit.drawn:
        with suppress(SetUpError):
            yield _in_lamp(setup, fit.setup, lamp)


def _in_lamp(setup: SetUp, fitted: SetUp, lamp: SetUp) -> SetUp:
    """A set-up in a *fitted* housing as it would be in another *lamp* of its kind; a lens that was
    made clear since stays so.
    """
    return replace(
        setup,
        pattern=lamp.pattern,
        widen=lamp.widen,
        gain=setup.gain * lamp.gain / fitted.gain,
        haze=lamp.haze if setup.haze == fitted.haze else setup.haze,
    )


def findings(outlook: Outlook, nominal: Prediction) -> list[Finding]:
    """What the prediction means, in the trade's words; *nominal* for the source the housing was
    made for.
    """
    beam = outlook.prediction
    collected = [
        *beam_findings.above(beam.above, nominal.above),
        *beam_findings.shadow(beam.shadow, nominal.shadow),
        *(
            beam_findings.glare(derived.Glare(beam.eye_lux, beam.de_boer), nominal.de_boer)
            if beam.above is not None
            else ()
        ),
    ]
    seat = outlook.sensitivity
    if seat and seat.forgiveness < HARDLY_FORGIVING:
        number = worded(
            "{loss:percent} of the hot spot lost, up to {stray:percent 1} above",
            loss=seat.loss,
            stray=seat.stray,
        )
        text, advice = (
            "It minds a seat 1 mm or 10° off.",
            "Clock it to the degree; no play in the collar.",
        )
        collected.append(Finding("seat-minded", Level.NOTE, text, MODEL, number, advice=advice))
    return collected


def failed_points(beam: Beam, setup: SetUp) -> tuple[str, ...]:
    """The pattern's points that do not hold, by name; a soft edge counts as one. For low beams."""
    points = derived.at_yardstick(beam, yardstick_for(setup), setup.traffic)
    soft = derived.sharpness(beam, derived.flat_side_deg(beam)) < derived.SHARP_RANGE[0]
    failed = [point.name for point in points if point.name in PATTERN_POINTS and not point.holds]
    return (*failed, *([SOFT_EDGE] if soft else []))


PATTERNS: Remembered[SetUp, Finding | None] = Remembered("patterns", MOST_PATTERNS)


def pattern(present: SetUp) -> Finding | None:
    """What this lens does to the housing's own pattern, remembered; None where no yardstick judges
    it.
    """
    if present in PATTERNS:
        return PATTERNS.get(present)
    return PATTERNS.keep(present, _pattern(present))


def _pattern(present: SetUp) -> Finding | None:
    """The same, worked out: judged by the points the modelled housing holds behind a clear lens.
    What it misses there is the model's fault, not the lamp's.
    """
    if present.high or present.is_fog:
        return None
    nominal = present.reference()
    clear = failed_points(beam_of(replace(nominal, haze=0.0)), present)
    lost = [name for name in failed_points(beam_of(nominal), present) if name not in clear]
    judged = [name for name in (*PATTERN_POINTS, SOFT_EDGE) if name not in clear]
    sources = beam_findings.yardstick_sources(yardstick_for(present))
    if lost:
        return Finding(
            "pattern-lost-in-haze",
            Level.STOP,
            "Behind this haze the housing's own pattern fails, and a bulb never improves a "
            "pattern.",
            sources,
            worded("not held: {lost}", lost=", ".join(lost)),
            "held behind a clear lens",
            "Restore the lens first, or change the optic: complete assemblies come first.",
        )
    limit = (
        worded("judged by {judged}", judged=", ".join(judged))
        if judged
        else "no point of it can be judged by this model"
    )
    advice = (
        "Look at the wall before taking anything apart: the lamp's own pattern is seen there, not "
        "here."
    )
    if clear:
        text = "Whether this lamp's own pattern is good the model can't tell."
        return Finding(
            "pattern-unknown",
            Level.NOTE,
            text,
            sources,
            worded("its typical housing misses {clear}", clear=", ".join(clear)),
            limit,
            advice,
        )
    glare = derived.oncoming_glare(beam_of(nominal), traffic=present.traffic)
    number = worded("{de_boer:glare} at an oncoming eye", de_boer=glare.de_boer)
    return Finding(
        "pattern-holds",
        Level.OK,
        "The housing's own pattern holds.",
        sources,
        number,
        limit,
        advice,
    )
