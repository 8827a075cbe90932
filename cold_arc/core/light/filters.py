"""What a tinted lens, cap or glass makes of a source's colour and light, from their spectra.

White LEDs by the CIE's own spectra (CIE 15:2018), filaments and arcs as Planckian radiators; the
CIE 1931 observer. The tints are own: smooth edges as dyed glass and plastic have them, no published
source.
"""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from cold_arc.core import data

Array = NDArray[np.float64]
CLEAR = "none"
TINTS = {
    CLEAR: "Clear",
    "yellow": "Yellow",
    "amber": "Amber",
    "blue": "Bluish",
    "smoke": "Smoked",
}
# Planck's second constant, nm·K (CODATA, exact since 2019).
SECOND_NM_K = 1.438776877e7
# Of what is clear a tint passes this share at most: two surfaces of glass (common practice).
PASSES = 0.92
# Where a tint's edge lies and how wide it is, nm; the share it passes on the far side (own).
EDGES = {"yellow": (495.0, 9.0, 0.02), "amber": (565.0, 9.0, 0.0), "blue": (560.0, 30.0, 0.45)}
SMOKED = 0.4


@cache
def _nm() -> Array:
    return np.array(data.load("spectra")["nm"], dtype=np.float64)


@cache
def _observer() -> Array:
    """The observer's three curves (3, wavelengths)."""
    table = data.load("spectra")["observer"]
    return np.array([table[name] for name in "xyz"], dtype=np.float64)


@cache
def transmittance(tint: str) -> Array:
    """What a tint passes at each wavelength, 0 to 1; KeyError for one that is none of TINTS."""
    if tint == CLEAR:
        return np.ones_like(_nm())
    if tint == "smoke":
        return np.full_like(_nm(), SMOKED)
    edge, wide, least = EDGES[tint]
    rising = 1 / (1 + np.exp(-(_nm() - edge) / wide))
    share = 1 - rising if tint == "blue" else rising
    return np.asarray(PASSES * (least + (1 - least) * share))


@lru_cache(maxsize=64)
def spectrum(cct_k: float, led: bool) -> Array:
    """A source's relative spectrum: a white LED's of this colour temperature, the CIE's on both
    sides of it mixed; else a Planckian radiator's.
    """
    nm = _nm()
    if not led:
        return np.asarray(nm**-5 / np.expm1(SECOND_NM_K / (nm * cct_k)))
    table = {float(kelvin): np.array(row) for kelvin, row in data.load("spectra")["led"].items()}
    known = sorted(table)
    warm = max((kelvin for kelvin in known if kelvin <= cct_k), default=known[0])
    cold = min((kelvin for kelvin in known if kelvin >= cct_k), default=known[-1])
    share = 0.0 if warm == cold else (1 / warm - 1 / cct_k) / (1 / warm - 1 / cold)
    parts = [table[kelvin] / float(_observer()[1] @ table[kelvin]) for kelvin in (warm, cold)]
    return np.asarray((1 - share) * parts[0] + share * parts[1])


def seen(light: Array) -> tuple[float, float]:
    """CIE 1931 x, y of a spectrum."""
    big_x, big_y, big_z = _observer() @ light
    return float(big_x / (big_x + big_y + big_z)), float(big_y / (big_x + big_y + big_z))


def through(cct_k: float, tint: str, led: bool = True) -> tuple[float, float]:
    """CIE 1931 x, y of a source seen through a tint."""
    return seen(spectrum(cct_k, led) * transmittance(tint))


def share(cct_k: float, tint: str, led: bool = True) -> float:
    """The share of a source's lumens a tint passes, 0 to 1.

    >>> share(6000.0, "none")
    1.0
    """
    light, luminous = spectrum(cct_k, led), _observer()[1]
    return float(luminous @ (light * transmittance(tint)) / (luminous @ light))
