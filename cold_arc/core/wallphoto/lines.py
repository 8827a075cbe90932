"""The lines of a cut-off: its straight part, its elbow, the side a rule goes by.

They are fitted robustly, so that a hand, a mark or a shadow in the picture does not bend them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.light.cut_off import Edge, LineRead
from cold_arc.core.wallphoto.picture import PhotoUnusableError

Array = NDArray[np.float64]
# Where the flat side and the other are looked for, degrees off the elbow's usual place; how wide a
# jump is a miss; the rise from which a bend is an elbow; what a robust fit takes for noise (own).
FLAT_DEG, KERB_DEG, ELBOW_WITHIN_DEG = (-7.0, -0.8), (0.8, 5.0), 3.0
# Steps of a fit at most, for a level line bends anywhere alike and a fit of a bend to it would go
# on for ever; the share by which a step must better it to go on (own).
MOST_TRIES, LEAST_BETTER = 60, 1e-6
LEAST_RISE, ROBUST_DEG, LEAST_COLUMNS = math.tan(math.radians(4.0)), 0.03, 8
# A rise as plain as this is no waviness of a level line, degrees (own).
PLAIN_TOP_DEG = 0.25
# How far from the bend the line on the kerb's side counts, and out to where, degrees (own).
CLEAR_DEG, KERB_LINE_DEG = 0.2, 7.0
# A line that takes longer to be level again than this rises, and is no step, degrees (own).
STEP_DEG = 2.5
LEAST_TOP_DEG = 0.1
# Bends of which the best is started from: where, degrees; how steep, degrees a degree (0.27 is tan
# 15°, the kerb's usual rise; the other all but a step); how high, degrees (own).
ELBOWS_DEG, RISES, TOP_DEG = np.arange(-1.5, 1.6, 0.25), (0.27, 1.0), 0.6


@dataclass(frozen=True)
class StraightPart:
    """The straight part as a line (v at h = 0, degrees a degree), its doubt, and the elbow, if it
    bends; *kerb* the other straight part, where it runs level again.
    """

    level_deg: float
    slope: float
    level_se: float
    slope_se: float
    elbow: tuple[float, float] | None
    elbow_se: tuple[float, float]
    rise: float = 0.0
    top: float = 0.0
    kerb: StraightPart | None = None

    def read(self, line: LineRead) -> StraightPart:
        """The straight part a rule goes by; PhotoUnusableError where it is not seen."""
        if line is not LineRead.KERB:
            return self
        if self.kerb is None:
            raise PhotoUnusableError(
                "No level line is seen on the kerb's side, which this rule goes by: show more of "
                "that side, or choose the rule that goes by the other."
            )
        return self.kerb

    def heights(self, h: Array) -> Array:
        """The lines' height over *h*, degrees; from the elbow on they rise by *rise*, degrees a
        degree, to *top* over the straight part, on the side the rise's sign tells."""
        if self.elbow is None:
            return self.level_deg + self.slope * h
        kerb = math.copysign(1.0, self.rise)
        return _heights(h * kerb, self.shape(kerb))

    def shape(self, kerb: float) -> Array:
        """Level, slope, the elbow's place, the rise from there on and its top, of lines that bend,
        counted towards the *kerb* (+1 right, −1 left).
        """
        assert self.elbow is not None
        at, rise = self.elbow[0] * kerb, self.rise * kerb
        return np.array([self.level_deg, self.slope * kerb, at, rise, self.top])


def fit_cut_off(
    edge: Edge, traffic: Traffic, bends: bool = True, near: StraightPart | None = None
) -> StraightPart:
    """The lines of a cut-off, from its *edge* and the side its *traffic* keeps to; *bends*: such a
    beam may rise on the kerb side. PhotoUnusableError where none shows.

    A bend is looked for *near* that of lines found before, else all over.
    """
    kerb = traffic.kerb
    h = edge.h * kerb
    order = np.argsort(h)
    h, v = h[order], edge.v[order]
    if not bends:
        return _straight(h, v, (-8.0, 8.0), kerb)
    if np.sum((h > FLAT_DEG[0]) & (h < FLAT_DEG[1])) < LEAST_COLUMNS:
        raise PhotoUnusableError(
            "No cut-off is seen on the flat side of the beam: show more of the wall."
        )
    flat = _straight(h, v, FLAT_DEG, kerb)
    bent = _bent(h, v, kerb, near if near and near.elbow else flat)
    return replace(bent or flat, kerb=_other_side(h, v, kerb, bent))


def _other_side(h: Array, v: Array, kerb: float, bent: StraightPart | None) -> StraightPart | None:
    """The straight part on the kerb's side, from where the line runs level again; None where none
    does.
    """
    begins = KERB_DEG[0]
    if bent and bent.elbow:
        width = bent.top / abs(bent.rise)
        if width > STEP_DEG:
            return None
        begins = max(begins, bent.elbow[0] * kerb + width + CLEAR_DEG)
    try:
        line = _straight(h, v, (begins, KERB_LINE_DEG), kerb)
    except PhotoUnusableError:
        return None
    return line if abs(line.slope) < LEAST_RISE else None


def rises(edge: Edge) -> list[str]:
    """The sides of the middle on which a line steps or rises above the other, "left" or "right"."""
    sides = []
    for traffic in Traffic:
        try:
            cut = fit_cut_off(edge, traffic)
        except PhotoUnusableError:
            continue
        if cut.elbow and min(cut.top, abs(cut.rise) * KERB_DEG[1]) > PLAIN_TOP_DEG:
            sides.append(traffic.value)
    return sides


def _line(h: Array, v: Array) -> tuple[Array, Array]:
    """A robust line through points: its level and slope, and their standard errors."""

    def off(line: Array) -> Array:
        return np.asarray(line[0] + line[1] * h - v)

    start = [float(np.median(v)), 0.0]
    fit = least_squares(off, start, loss="soft_l1", f_scale=ROBUST_DEG)
    return fit.x, _errors(fit.jac, off(fit.x), len(h))


def _errors(jacobian: Array, off: Array, count: int) -> Array:
    """Standard errors, scatter by the median; neighbouring columns count as a third of
    themselves.
    """
    scatter = 1.4826 * float(np.median(np.abs(off - np.median(off))))
    cover = np.linalg.pinv(jacobian.T @ jacobian) * scatter**2 * 3.0
    return np.asarray(np.sqrt(np.maximum(np.diag(cover), 0.0)))


def _straight(h: Array, v: Array, span: tuple[float, float], kerb: float) -> StraightPart:
    inside = (h > span[0]) & (h < span[1])
    if inside.sum() < LEAST_COLUMNS:
        raise PhotoUnusableError(
            "No cut-off can be made out: the picture is blurred, or shows no beam with one."
        )
    (level, slope), (level_se, slope_se) = _line(h[inside], v[inside])
    near = np.abs(level + slope * h[inside] - v[inside]) < 0.25
    if near.mean() < 0.5:
        raise PhotoUnusableError(
            "No straight cut-off can be made out: the picture is blurred, or shows no beam "
            "with one."
        )
    return StraightPart(
        float(level), float(slope) * kerb, float(level_se), float(slope_se), None, (0.0, 0.0)
    )


def _heights(x: Array, shape: Array) -> Array:
    """Heights over *x* of lines of a *shape*, or of many: its last axis is level, slope, the
    elbow's place, the rise from there on and its top.
    """
    level, slope, at, rise, top = np.moveaxis(shape[..., None], -2, 0)
    return np.asarray(level + slope * x + np.minimum(rise * np.maximum(x - at, 0.0), top))


def _soft_cost(off: Array) -> Array:
    """What a robust fit makes least, of differences along the last axis: their soft absolutes."""
    return np.asarray(np.sqrt(1.0 + (off / ROBUST_DEG) ** 2).sum(axis=-1))


def _start(x: Array, y: Array, kerb: float, near: StraightPart) -> Array:
    """Where a bend is looked for first: where lines found before bend, else the best of many on
    their straight part.
    """
    if near.elbow:
        return near.shape(kerb)
    line = near.level_deg, near.slope * kerb
    shapes = np.array([(*line, *bend, TOP_DEG) for bend in product(ELBOWS_DEG, RISES)])
    return np.asarray(shapes[np.argmin(_soft_cost(_heights(x, shapes) - y))])


def _bent(h: Array, v: Array, kerb: float, near: StraightPart) -> StraightPart | None:
    """Flat, then rising from the elbow on, to a top at which it may run level again; None where it
    does not rise.
    """
    inside = (h > FLAT_DEG[0]) & (h < KERB_DEG[1])
    if np.sum((h > KERB_DEG[0]) & inside) < LEAST_COLUMNS:
        return None
    x, y = h[inside], v[inside]

    def off(shape: Array) -> Array:
        return _heights(x, shape) - y

    def turns(shape: Array) -> Array:
        _, _, at, rise, top = shape
        beyond = np.maximum(x - at, 0.0)
        rising, level = (beyond > 0) & (rise * beyond < top), rise * beyond >= top
        return np.stack([np.ones_like(x), x, -rise * rising, beyond * rising, level], axis=1)

    bounds = (
        [-15, -0.5, -ELBOW_WITHIN_DEG, 0.0, LEAST_TOP_DEG],
        [15, 0.5, ELBOW_WITHIN_DEG, 3.0, 4.0],
    )

    best = least_squares(
        off,
        np.clip(_start(x, y, kerb, near), *bounds),
        turns,
        bounds=bounds,
        method="dogbox",
        loss="soft_l1",
        f_scale=ROBUST_DEG,
        ftol=LEAST_BETTER,
        max_nfev=MOST_TRIES,
    )
    level, slope, at, rise, top = best.x
    if rise < LEAST_RISE or top < 2 * LEAST_TOP_DEG or abs(at) >= ELBOW_WITHIN_DEG - 1e-6:
        return None
    level_se, slope_se, at_se, *_ = _errors(best.jac, off(best.x), len(x))
    elbow = (float(at) * kerb, float(level + slope * at))
    return StraightPart(
        float(level),
        float(slope) * kerb,
        float(level_se),
        float(slope_se),
        elbow,
        (float(at_se), float(level_se)),
        float(rise) * kerb,
        float(top),
    )
