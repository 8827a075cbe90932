"""How far a prediction may be off: what is not known of the housing, of the maker's claim, of the
model; as a range.

Relative standard deviations of candela, added in quadrature (after the GUM, JCGM 100, from memory);
the range is one deviation either way. The figures themselves are own: what lamps of a kind, claims
and rough beams were seen to differ by.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.light_source import MOST_LM_PER_W, LightSource
from cold_arc.core.match.prediction import Prediction

# A typical housing for this very one; a claim that its watts can carry, and one cut down to what
# they can; the rough beam.
TYPICAL_HOUSING, CLAIM, CUT_CLAIM, ROUGH_BEAM = 0.30, 0.15, 0.25, 0.05
# What even a good fit to readings leaves open: a meter's class and its place (own).
LEAST_FITTED = 0.10


@dataclass(frozen=True)
class Range:
    """From *low* to *high*, in the unit of what it is of."""

    low: float
    high: float


def of_source(source: LightSource | None, measured: float | None = None) -> float:
    """What is doubtful of a candidate by itself: its claim and its beam. Two in one housing differ
    by no more.

    *measured*: the doubt of what the shop measured of it, which takes the claim's place.
    """
    if measured is not None:
        return measured
    if source is None:
        return ROUGH_BEAM
    cut = source.lumens_each > MOST_LM_PER_W * source.watts
    return math.hypot(CUT_CLAIM if cut else CLAIM, ROUGH_BEAM)


def of_prediction(
    source: LightSource | None,
    fit: HousingFit | None,
    measured: float | None = None,
    share: float | None = None,
) -> float:
    """What is doubtful of a prediction in candela: the candidate's own doubt and the housing's.

    *share*: what its hot spot differs by among lamps that agree as well with what was read of this
    one.
    """
    fitted = max(LEAST_FITTED, fit.left_over, share or 0.0) if fit else TYPICAL_HOUSING
    housing = CLAIM if source is not None and not source.is_bulb else fitted
    return math.hypot(of_source(source, measured), housing)


def spread(value: float, doubt: float) -> Range:
    """The range of a value that may be off by a share either way, as a ratio."""
    return Range(value / (1 + doubt), value * (1 + doubt))


def brighter(beam: Prediction, factor: float) -> Prediction:
    """The prediction for *factor* times the light: candela follow it, reach its root, the glare
    mark its logarithm.
    """
    return replace(
        beam,
        peak_cd=beam.peak_cd * factor,
        edge_cd=beam.edge_cd * factor,
        stray_cd=beam.stray_cd * factor,
        eye_lux=beam.eye_lux * factor,
        de_boer=min(9.0, max(1.0, beam.de_boer - 2 * math.log10(factor))),
        reach_m=beam.reach_m * math.sqrt(factor),
    )
