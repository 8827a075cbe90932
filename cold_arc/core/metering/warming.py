"""A warm-up run: one place read over time until the source has settled; what it settles at is the
result, never the cold value.

E(t) = E∞·(1 + Σ a·e^(−t/τ)): an LED fades (a > 0), its chips within seconds, its body within
minutes; an arc runs up (a < 0). None, one or two such parts are fitted by least squares (scipy),
as many as the readings bear out (Schwarz's criterion, from memory). A run is settled only where its
last half, too, no longer moves: what a short run has not seen can't be fitted.
"""

from __future__ import annotations

import math
import warnings
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import OptimizeWarning, curve_fit
from scipy.special import stdtrit

from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded

# What counts as settled: within this share of the settled value (common practice). What a run needs
# at least before it is fitted, how long it may take, s; by how much a further part must be borne
# out; the slowest body reckoned with, s (own).
SETTLED_SHARE = 0.01
LEAST_SAMPLES, LEAST_S, LONGEST_S = 8, 20.0, 7200.0
MOST_SAMPLES = 7200
BORNE_OUT, SLOWEST_S = 6.0, 300.0
LITTLE_FADE, MUCH_FADE = 0.08, 0.2
Array = NDArray[np.float64]
Sample = tuple[float, float]


@dataclass(frozen=True)
class WarmUp:
    """What a run says. *cold_lx* at the start, *settled_lx* at its end, *doubt* its relative
    standard uncertainty.

    *fade*: the share lost (negative: gained); *parts*: share and time constant, s, of each, fast
    first; *settle_s*: when it stands within 1 %; *progress* 0
    to 1; *settled*: whether it stands there by now.
    """

    cold_lx: float
    settled_lx: float
    doubt: float
    fade: float
    parts: tuple[tuple[float, float], ...]
    settle_s: float
    progress: float
    settled: bool

    @property
    def tau_s(self) -> float:
        """The slowest part's time constant, s; 0 where nothing changes."""
        return max((tau for _, tau in self.parts), default=0.0)

    def at(self, seconds: float) -> float:
        """The fitted value, lx, *seconds* after the start."""
        return float(self.settled_lx * (1 + _change(self.parts, seconds)))


Parts = Sequence[tuple[float, float]]


def _change(parts: Parts, t: Any) -> Any:
    """By what share of the settled value it stands off at *t*, s."""
    return sum((share * np.exp(-t / tau) for share, tau in parts), 0.0 * t)


def _course(t: Array, settled: float, *flat: float) -> Array:
    """The light at *t*: what it settles at, then share and time constant of each part."""
    return np.asarray(settled * (1 + _change(list(zip(flat[::2], flat[1::2], strict=True)), t)))


def _slopes(t: Array, settled: float, *flat: float) -> Array:
    """The course's derivatives (n, 1 + 2·parts) by what it settles at, then by share and time
    constant of each part.
    """
    columns = [_course(t, 1.0, *flat)]
    for share, tau in zip(flat[::2], flat[1::2], strict=True):
        part = settled * np.exp(-t / tau)
        columns += [part, share * part * t / tau**2]
    return np.stack(columns, axis=1)


def warm_up(samples: Sequence[Sample]) -> WarmUp | None:
    """A run of (s since it was switched on, lx); None while there is too little to fit: eight
    samples over 20 s. A run shown again is not fitted again.

    Raises ValueError for times that do not rise or light that is not positive.
    """
    return _warm_up(tuple(samples))


@lru_cache(maxsize=64)
def _warm_up(samples: tuple[Sample, ...]) -> WarmUp | None:
    t, lux = (np.array([sample[index] for sample in samples], dtype=float) for index in (0, 1))
    if not _is_time(t):
        raise ValueError(f"Times must rise, from 0 to {LONGEST_S:g} s.")
    if np.any(lux <= 0) or not np.all(np.isfinite(lux)):
        raise ValueError("A warm-up is read where there is light.")
    if t.size < LEAST_SAMPLES or t[-1] - t[0] < LEAST_S:
        return None
    return _fitted(t, lux)


def _is_time(t: Array) -> bool:
    """Whether moments (n,), s, rise and lie within a run."""
    return not t.size or bool(np.all(np.diff(t) > 0) and t[0] >= 0 and t[-1] <= LONGEST_S)


@dataclass(frozen=True)
class _Fit:
    """One course fitted: what it settles at, its parts, the doubt of the first, and Schwarz's
    criterion (less is better)."""

    settled: float
    parts: tuple[tuple[float, float], ...]
    doubt: float
    criterion: float


def _fits(t: Array, lux: Array) -> Iterator[_Fit]:
    """The course with no part, one, two; those that can't be fitted are left out."""
    end, span = float(np.median(lux[-max(3, lux.size // 5) :])), float(t[-1] - t[0])
    share = float(np.clip(lux[0] / end - 1, -0.95, 2.0))
    yield _fit(t, lux, (float(lux.mean()),), ((1e-9,), (np.inf,)))
    slow = (share, max(span / 3, 1.0))
    fast = (share / 3, max(span / 20, 0.5))
    at_least, at_most = (-0.99, span / 100), (5.0, LONGEST_S)
    for start in (slow, (*fast, *slow)):
        bounds = (
            (end / 3, *at_least * (len(start) // 2)),
            (end * 3, *at_most * (len(start) // 2)),
        )
        with suppress(RuntimeError, OptimizeWarning, ValueError):
            yield _fit(t, lux, (end, *start), bounds)


def _fit(t: Array, lux: Array, start: Sequence[float], bounds: Any) -> _Fit:
    with warnings.catch_warnings():
        warnings.simplefilter("error", OptimizeWarning)
        fitted, cover = curve_fit(_course, t, lux, start, bounds=bounds, jac=_slopes, max_nfev=600)
    rest = float(np.sum((lux - _course(t, *fitted)) ** 2)) / lux.size
    criterion = lux.size * math.log(max(rest, 1e-18 * float(lux.max()) ** 2)) + len(
        fitted
    ) * math.log(lux.size)
    parts = sorted(zip(fitted[1::2], fitted[2::2], strict=True), key=lambda part: part[1])
    doubt = math.sqrt(float(cover[0, 0])) / float(fitted[0])
    return _Fit(
        float(fitted[0]), tuple((float(a), float(tau)) for a, tau in parts), doubt, criterion
    )


def _fitted(t: Array, lux: Array) -> WarmUp:
    best = None
    for fit in _fits(t, lux):  # a further part only where the readings plainly bear it out
        if best is None or fit.criterion < best.criterion - BORNE_OUT:
            best = fit
    assert best is not None
    last = float(t[-1])
    doubt = best.doubt if math.isfinite(best.doubt) else 1.0
    share = float(_change(best.parts, 0.0))
    still = max(abs(float(_change(best.parts, last))), _still_to_come(t, lux))
    settle_s = max(_within(best.parts), last * math.sqrt(max(still / SETTLED_SHARE, 0.0)))
    settled = still <= SETTLED_SHARE and doubt <= SETTLED_SHARE
    return WarmUp(
        cold_lx=best.settled * (1 + share),
        settled_lx=best.settled,
        doubt=doubt,
        fade=share / (1 + share),
        parts=best.parts,
        settle_s=min(_within(best.parts) if settled else settle_s, LONGEST_S),
        progress=1.0 if settled else min(0.99, last / max(settle_s, last)),
        settled=settled,
    )


def _within(parts: Parts) -> float:
    """From when on the course stands within `SETTLED_SHARE`, s."""
    if not parts:
        return 0.0
    t = np.concatenate([[0.0], np.geomspace(0.5, LONGEST_S, 600)])
    off = np.flatnonzero(np.abs(_change(parts, t)) > SETTLED_SHARE)
    return float(t[min(off[-1] + 1, len(t) - 1)]) if off.size else 0.0


def _still_to_come(t: Array, lux: Array) -> float:
    """How far the light may still go, as a share: the slope of the run's last half, at 95 %, kept
    up for the slowest body's time constant.
    """
    late = t >= t[0] + (t[-1] - t[0]) / 2
    if late.sum() < LEAST_SAMPLES // 2:
        return 1.0
    (slope, _), cover = np.polyfit(t[late], lux[late] / lux[late].mean(), 1, cov=True)
    sure = float(stdtrit(int(late.sum()) - 2, 0.975))
    return float(abs(slope) + sure * math.sqrt(cover[0, 0])) * SLOWEST_S


def warm_up_findings(run: WarmUp) -> list[Finding]:
    """What a run means."""
    number = worded(
        "{cold_lx:lux} cold, {settled_lx:lux} settled, {fade:percent 1 signed}",
        cold_lx=run.cold_lx,
        settled_lx=run.settled_lx,
        fade=-run.fade,
    )
    limit = worded(
        "within {settled_share:percent} after {settle_min:number 2} min",
        settled_share=SETTLED_SHARE,
        settle_min=run.settle_s / 60,
    )
    if not run.settled:
        advice = "Let it run. A cold value is never the result."
        return [
            Finding(
                "not-settled", Level.CAUTION, "Not settled yet.", PRACTICE, number, limit, advice
            )
        ]
    if run.fade > MUCH_FADE:
        advice = "Look at its cooling: fan, cap, room behind."
        return [
            Finding(
                "fades-much",
                Level.CAUTION,
                "It loses much of its light as it heats.",
                PRACTICE,
                number,
                limit,
                advice,
            )
        ]
    level = Level.OK if run.fade <= LITTLE_FADE else Level.NOTE
    return [Finding("settled", level, "Settled.", PRACTICE, number, limit)]
