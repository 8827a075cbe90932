"""A warm-up run: one place read over time until the source has settled; what it settles at is the
result, never the cold value.

E(t) = E∞·(1 + a·e^(−t/τ)): an LED fades (a > 0), an arc runs up (a < 0). Fitted by least squares
(scipy).
"""

from __future__ import annotations

import math
import warnings
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import OptimizeWarning, curve_fit

from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_lux, say_number, say_percent

# What counts as settled: within this share of the settled value (common practice). What a run needs
# at least before it is fitted, how long it may take, s; what a fit must have seen of the way, in
# time constants (own).
SETTLED_SHARE = 0.01
LEAST_SAMPLES, LEAST_S, LONGEST_S = 8, 20.0, 7200.0
MOST_SAMPLES = 7200
SEEN = 1.2
LITTLE_FADE, MUCH_FADE = 0.08, 0.2
Array = NDArray[np.float64]
Sample = tuple[float, float]


@dataclass(frozen=True)
class WarmUp:
    """What a run says. *cold_lx* at the start, *settled_lx* at its end, *doubt* its relative
    standard uncertainty.

    *fade*: the share lost (negative: gained); *settle_s*: when it stands within 1 %; *progress* 0
    to 1; *settled*: whether it stands there by now.
    """

    cold_lx: float
    settled_lx: float
    doubt: float
    fade: float
    tau_s: float
    settle_s: float
    progress: float
    settled: bool

    def at(self, seconds: float) -> float:
        """The fitted value, lx, *seconds* after the start."""
        return self.settled_lx + (self.cold_lx - self.settled_lx) * math.exp(-seconds / self.tau_s)


def _course(t: np.ndarray, settled: float, share: float, tau: float) -> np.ndarray:
    return np.asarray(settled * (1 + share * np.exp(-t / tau)))


def warm_up(samples: Sequence[Sample]) -> WarmUp | None:
    """A run of (s since it was switched on, lx); None while there is too little to fit: eight
    samples over 20 s.

    Raises ValueError for times that do not rise or light that is not positive.
    """
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


def _fitted(t: np.ndarray, lux: np.ndarray) -> WarmUp:
    end, span = float(np.median(lux[-max(3, lux.size // 5) :])), float(t[-1] - t[0])
    start = (end, float(np.clip(lux[0] / end - 1, -0.95, 2.0)), max(span / 3, 1.0))
    bounds = ((end / 3, -0.99, span / 100), (end * 3, 5.0, LONGEST_S))
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", OptimizeWarning)
            (settled, share, tau), covered = curve_fit(
                _course, t, lux, start, bounds=bounds, max_nfev=400
            )
        doubt = math.sqrt(float(covered[0, 0])) / settled
    except (RuntimeError, OptimizeWarning):  # nothing changes that could be fitted
        settled, share, tau, doubt = end, 0.0, span / 3, float(np.std(lux)) / end
    left = abs(share) * math.exp(-float(t[-1]) / tau)
    settle_s = tau * math.log(max(abs(share) / SETTLED_SHARE, 1.0))
    seen = float(t[-1]) >= SEEN * tau or abs(share) < SETTLED_SHARE
    return WarmUp(
        cold_lx=float(settled * (1 + share)),
        settled_lx=float(settled),
        doubt=doubt,
        fade=float(share / (1 + share)),
        tau_s=float(tau),
        settle_s=settle_s,
        progress=1.0 if settle_s <= 0 else min(1.0, float(t[-1]) / settle_s),
        settled=bool(left <= SETTLED_SHARE and seen and doubt <= SETTLED_SHARE),
    )


def warm_up_findings(run: WarmUp) -> list[Finding]:
    """What a run means."""
    number = (
        f"{say_lux(run.cold_lx)} cold, {say_lux(run.settled_lx)} settled, "
        f"{say_percent(-run.fade, 1, signed=True)}"
    )
    limit = f"within {say_percent(SETTLED_SHARE)} after {say_number(run.settle_s / 60, 2)} min"
    if not run.settled:
        advice = "Let it run. A cold value is never the result."
        return [Finding(Level.CAUTION, "Not settled yet.", PRACTICE, number, limit, advice)]
    if run.fade > MUCH_FADE:
        advice = "Look at its cooling: fan, cap, room behind."
        return [
            Finding(
                Level.CAUTION,
                "It loses much of its light as it heats.",
                PRACTICE,
                number,
                limit,
                advice,
            )
        ]
    level = Level.OK if run.fade <= LITTLE_FADE else Level.NOTE
    return [Finding(level, "Settled.", PRACTICE, number, limit)]
