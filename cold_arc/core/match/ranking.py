"""Which candidate first: a stated, adjustable weighting of what was predicted and what the rules
found.

The weights are a matter of taste; the marks each criterion gives are not. Common practice, no
published source.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from cold_arc.core.beam.findings import DAZZLE_SHARE
from cold_arc.core.findings import Level
from cold_arc.core.match import Match, doubt
from cold_arc.core.match.experience import KnownSource
from cold_arc.core.match.prediction import SIGN_SHARE, Prediction, Sensitivity
from cold_arc.core.units import say_candela, say_count, say_glare, say_number, say_percent

HEAVIEST = 5
# Marks lost by each caution (own).
CAUTION_COST = 0.2


@dataclass(frozen=True)
class Judged:
    """A candidate with everything known of it. *nominal*: the prediction for the source the housing
    was made for.

    *dearest*: the highest price among those compared. *id* is the caller's own. *measured*: what
    the shop measured of it in such lamps; its prediction is brought to that.
    """

    match: Match
    prediction: Prediction | None
    sensitivity: Sensitivity | None
    nominal: Prediction | None
    dearest: float
    id: int = 0
    measured: KnownSource | None = None

    @property
    def own_optic(self) -> bool:
        """Whether it brings its pattern along."""
        return not self.match.source.is_bulb


@dataclass(frozen=True)
class Criterion:
    """One thing weighed: its usual weight, its mark from 0 to 1 (None: not known), and what to say
    of it.
    """

    id: str
    text: str
    weight: int
    mark: Callable[[Judged], float | None]
    say: Callable[[Judged], str]
    how: str


def _clip(value: float) -> float:
    return min(1.0, max(0.0, value))


def _gain(new: float, old: float) -> float:
    """0 for half as much, 1 for four times as much, by doublings."""
    return _clip((math.log2(max(new, 1.0) / max(old, 1.0)) + 1) / 3)


def _peak(judged: Judged) -> float | None:
    return (
        _gain(judged.prediction.peak_cd, judged.nominal.peak_cd)
        if judged.prediction and judged.nominal
        else None
    )


def _edge(judged: Judged) -> float | None:
    return (
        _gain(judged.prediction.edge_cd, judged.nominal.edge_cd)
        if judged.prediction and judged.nominal
        else None
    )


def _spread(judged: Judged) -> float | None:
    if not judged.prediction or not judged.nominal or not judged.nominal.spread_deg:
        return None
    return _clip(judged.prediction.spread_deg / judged.nominal.spread_deg - 0.5)


def _stray(judged: Judged) -> float | None:
    if judged.prediction is None or judged.prediction.above is None:
        return None
    return _clip(1 - (judged.prediction.above - SIGN_SHARE) / (2 * DAZZLE_SHARE))


def _glare(judged: Judged) -> float | None:
    return _clip((judged.prediction.de_boer - 2) / 5) if judged.prediction else None


def _true(judged: Judged) -> float | None:
    if judged.prediction is None:
        return None
    return 1.0 if judged.prediction.kept is None else _clip((judged.prediction.kept - 0.3) / 0.6)


def _forgiving(judged: Judged) -> float | None:
    if judged.own_optic:
        return 1.0
    return judged.sensitivity.forgiveness if judged.sensitivity else None


def _fit(judged: Judged) -> float:
    return (
        _clip(1 - CAUTION_COST * judged.match.count(Level.CAUTION))
        if judged.match.count(Level.STOP) == 0
        else 0.0
    )


def _price(judged: Judged) -> float:
    return 1 - judged.match.source.price / judged.dearest if judged.dearest else 1.0


def _say_loss(judged: Judged) -> str:
    if judged.sensitivity is None:
        return "a fixed seat"
    return f"{say_percent(judged.sensitivity.loss)} of the hot spot lost when seated a little off"


def _say_fit(judged: Judged) -> str:
    count = judged.match.count(Level.CAUTION)
    return f"{say_count(count, 'caution')} by the rules" if count else "a clean fit"


def _say_price(judged: Judged) -> str:
    return f"a price of {say_number(judged.match.source.price)}"


def _say_kept(judged: Judged) -> str:
    if judged.prediction is None or judged.prediction.kept is None:
        return "its own optic"
    return f"{say_percent(judged.prediction.kept)} of the light where the filament's went"


CRITERIA: tuple[Criterion, ...] = (
    Criterion(
        "peak",
        "Hot spot",
        2,
        _peak,
        lambda judged: (
            f"a hot spot of {say_candela(judged.prediction.peak_cd)}" if judged.prediction else ""
        ),
        "0 at half the original's, 1 at four times",
    ),
    Criterion(
        "edge",
        "Just under the edge",
        3,
        _edge,
        lambda judged: (
            f"{say_candela(judged.prediction.edge_cd)} under the edge" if judged.prediction else ""
        ),
        "0 at half the original's, 1 at four times",
    ),
    Criterion(
        "spread",
        "Spread",
        1,
        _spread,
        lambda judged: f"{judged.prediction.spread_deg:.0f}° wide" if judged.prediction else "",
        "0 at half the original's width, 1 at one and a half",
    ),
    Criterion(
        "stray",
        "Little above",
        4,
        _stray,
        lambda judged: (
            f"{say_percent(judged.prediction.above or 0, 1)} above the cut-off"
            if judged.prediction
            else ""
        ),
        "1 at no more above the cut-off than signs need, 0 at a tenth of the beam more",
    ),
    Criterion(
        "glare",
        "No dazzle",
        3,
        _glare,
        lambda judged: (
            f"{say_glare(judged.prediction.de_boer)} at an oncoming eye"
            if judged.prediction
            else ""
        ),
        "de Boer's 2 gives 0, 7 gives 1",
    ),
    Criterion("true", "True to the filament", 3, _true, _say_kept, "0 at 30 % kept, 1 at 90 %"),
    Criterion(
        "forgiving",
        "Forgiving seat",
        2,
        _forgiving,
        _say_loss,
        "0 when 1 mm or 10° costs half the hot spot",
    ),
    Criterion(
        "fit",
        "Rules",
        4,
        _fit,
        _say_fit,
        "a fifth off for each caution, 0 for a stop",
    ),
    Criterion("price", "Price", 1, _price, _say_price, "0 for the dearest"),
)
USUAL_WEIGHTS = {criterion.id: criterion.weight for criterion in CRITERIA}
Weights = Mapping[str, int]


@dataclass(frozen=True)
class Ranked:
    """A candidate with its marks, its score 0 to 100, and the reason in one sentence.

    *doubt*: how far its score may be off for what is doubtful of the candidate itself. *like*: the
    name of the one ranked before it, where their scores can't be told apart.
    """

    judged: Judged
    marks: dict[str, float]
    score: float
    reason: str
    doubt: float = 0.0
    like: str = ""


def score(judged: Judged, weights: Weights) -> tuple[float, dict[str, float]]:
    """The weighted mean of the marks that are known, 0 to 100, and the marks."""
    marks = {
        criterion.id: mark for criterion in CRITERIA if (mark := criterion.mark(judged)) is not None
    }
    total = sum(weights[name] for name in marks)
    return (
        100 * sum(weights[name] * mark for name, mark in marks.items()) / total if total else 0.0
    ), marks


def rank(
    candidates: Iterable[Judged], weights: Weights = USUAL_WEIGHTS, pattern_fails: bool = False
) -> list[Ranked]:
    """Best first. A stop is never outranked; where the housing's own pattern fails, own optics come
    before bulbs.
    """
    ranked = []
    for judged in candidates:
        points, marks = score(judged, weights)
        reason = _reason(judged, marks, weights, pattern_fails)
        ranked.append(Ranked(judged, marks, points, reason, _doubt(judged, weights)))

    def order(ranked: Ranked) -> tuple[bool, bool, float, str]:
        stopped = ranked.judged.match.level is Level.STOP
        return (
            stopped,
            pattern_fails and not ranked.judged.own_optic,
            -ranked.score,
            ranked.judged.match.source.name,
        )

    return _told_apart(sorted(ranked, key=order))


def _doubt(judged: Judged, weights: Weights) -> float:
    """How far a score moves when the candidate shines as much more or less as is doubtful of it."""
    beam = judged.prediction
    if beam is None:
        return 0.0
    factor = 1 + doubt.of_source(
        judged.match.source, judged.measured.doubt if judged.measured else None
    )
    tried = [
        replace(judged, prediction=doubt.brighter(beam, factor_tried))
        for factor_tried in (factor, 1 / factor)
    ]
    more, less = (score(variant, weights)[0] for variant in tried)
    return abs(more - less) / 2


def _told_apart(ranked: list[Ranked]) -> list[Ranked]:
    """Names for each the one before it, where their scores lie nearer than both are doubtful."""
    apart = ranked[:1]
    for before, after in pairwise(ranked):
        near = abs(before.score - after.score) < math.hypot(before.doubt, after.doubt)
        stopped = Level.STOP in (before.judged.match.level, after.judged.match.level)
        apart.append(
            replace(after, like=before.judged.match.source.name) if near and not stopped else after
        )
    return apart


def _reason(judged: Judged, marks: dict[str, float], weights: Weights, pattern_fails: bool) -> str:
    """Why it stands where it stands: what lifts it most and what pulls it down most, by weight."""
    stops = [finding for finding in judged.match.findings if finding.level is Level.STOP]
    if stops:
        return f"Last, for it does not suit. {stops[0].words}"
    lift = max(marks, key=lambda name: weights[name] * (marks[name] - 0.5), default=None)
    pull = min(marks, key=lambda name: weights[name] * (marks[name] - 0.75), default=None)
    words = _lifted(judged, lift, weights, pattern_fails)
    if pull and pull != lift and weights[pull] * (marks[pull] - 0.75) < 0:
        words += f"; against it, {_BY_ID[pull].say(judged)}"
    return f"{words}."


def _lifted(judged: Judged, lift: str | None, weights: Weights, pattern_fails: bool) -> str:
    """What lifts it most, in words."""
    if lift and pattern_fails and judged.own_optic:
        return f"Brings its own optic where this housing's fails, with {_BY_ID[lift].say(judged)}"
    if lift and weights[lift]:
        return f"For it, {_BY_ID[lift].say(judged)}"
    return "Nothing weighs for it"


_BY_ID = {criterion.id: criterion for criterion in CRITERIA}
