"""The hot spot of a beam: the middle of its brightest light, one definition for a computed beam
and for a photograph of one. The brightest point itself wanders about a flat top.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

Array = NDArray[np.float64]
# All light from this share of the brightest on, blurred so far, degrees (own).
HOT_SHARE, HOT_BLUR_DEG = 0.85, 0.25


def blurred_as_seen(h: Array, v: Array, light: Array) -> Array:
    """The light as an eye blurs it; arguments as of :func:`hot_spot`."""
    blur = [HOT_BLUR_DEG / (places[1] - places[0]) for places in (v, h)]
    return np.asarray(ndimage.gaussian_filter(light, blur))


def hot_spot(h: Array, v: Array, light: Array) -> tuple[float, float, NDArray[np.bool_]]:
    """The middle of the brightest light, degrees right and up, weighted by what it has over the
    share; and where that light is.

    *h* (n,) and *v* (m,) evenly spaced, degrees; *light* (m, n), in any unit.
    """
    blurred = blurred_as_seen(h, v, light)
    least = HOT_SHARE * blurred.max()
    labels, _ = ndimage.label(blurred >= least)
    mine = labels == labels[np.unravel_index(int(blurred.argmax()), blurred.shape)]
    weight = np.where(mine, blurred - least + 1e-9, 0.0)
    total = weight.sum()
    return float(weight.sum(axis=0) @ h / total), float(weight.sum(axis=1) @ v / total), mine
