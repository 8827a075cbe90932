"""Colour of a light source: correlated colour temperature to chromaticity, legal white and
selective yellow, mixing.

CIE daylight locus (CIE 15) from 5000 K and the cubic approximation of the Planckian locus (Kim et
al. 2002) up to 4000 K, both from memory and checked in tests against a colour-science package;
between them one fades into the other, as the reference light of IES TM-30 and CIE 224 does (from
memory), so that no step of colour lies between. White, selective yellow and amber: UN R48/R149,
from memory. Just visible step: MacAdam's ellipses, a lighting handbook's rule of thumb.
"""

from __future__ import annotations

PLANCKIAN_TO_K, DAYLIGHT_FROM_K = 4000.0, 5000.0
RANGE_K = (1667.0, 25000.0)
# What a halogen filament and an arc usually shine with, K (common practice).
FILAMENT_K, ARC_K = 3200.0, 4300.0


def chromaticity(cct_k: float) -> tuple[float, float]:
    """CIE 1931 x, y of a white light of *cct_k* kelvin; ValueError outside 1667 to 25000 K."""
    if not RANGE_K[0] <= cct_k <= RANGE_K[1]:
        raise ValueError("A colour temperature must be between 1667 and 25000 K.")
    if cct_k <= PLANCKIAN_TO_K:
        return _planckian(cct_k)
    if cct_k >= DAYLIGHT_FROM_K:
        return _daylight(cct_k)
    share = (cct_k - PLANCKIAN_TO_K) / (DAYLIGHT_FROM_K - PLANCKIAN_TO_K)
    return _mixed(_planckian(cct_k), _daylight(cct_k), share)


def _mixed(
    one: tuple[float, float], other: tuple[float, float], share: float
) -> tuple[float, float]:
    """Two lights of the same luminance added, *share* of it the other's: X and Z add, so x/y and
    1/y do.
    """
    parts = [(x / y * weight, weight / y) for (x, y), weight in ((one, 1 - share), (other, share))]
    ratio, inverse = sum(part[0] for part in parts), sum(part[1] for part in parts)
    return ratio / inverse, 1 / inverse


def _daylight(cct_k: float) -> tuple[float, float]:
    t = 1000 / cct_k
    if cct_k <= 7000:
        x = -4.6070 * t**3 + 2.9678 * t**2 + 0.09911 * t + 0.244063
    else:
        x = -2.0064 * t**3 + 1.9018 * t**2 + 0.24748 * t + 0.237040
    return x, -3.0 * x**2 + 2.870 * x - 0.275


def _planckian(cct_k: float) -> tuple[float, float]:
    t = 1000 / cct_k
    x = -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910
    if cct_k <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    else:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    return x, y


def white_faults(x: float, y: float) -> list[str]:
    """The bounds of UN R48/R149 white that (x, y) breaks, in words; empty when it is white.

    The purple bound rises to its corner at (0.443, 0.382) and runs level from there.
    """
    bounds = (
        (x >= 0.310, "too blue (x below 0.310)"),
        (x <= 0.500, "too yellow (x above 0.500)"),
        (y <= 0.150 + 0.640 * x, "too green"),
        (y <= 0.440, "too green"),
        (y >= min(0.050 + 0.750 * x, 0.382), "too purple"),
    )
    return list(dict.fromkeys(words for holds, words in bounds if not holds))


def yellow_faults(x: float, y: float) -> list[str]:
    """The bounds of UN selective yellow that (x, y) breaks, in words; empty when it is selective
    yellow.
    """
    bounds = (
        (y >= 0.138 + 0.580 * x, "too red"),
        (y <= 1.290 * x - 0.100, "too green"),
        (y >= 0.940 - x, "too pale"),
        (y <= 0.992 - x, "too deep"),
        (y >= 0.440, "too red (y below 0.440)"),
    )
    return [words for holds, words in bounds if not holds]


def amber_faults(x: float, y: float) -> list[str]:
    """The bounds of UN amber that (x, y) breaks, in words; empty when it is amber."""
    bounds = (
        (y >= 0.390, "too red (y below 0.390)"),
        (y >= 0.790 - 0.670 * x, "too pale"),
        (y <= x - 0.120, "too green"),
    )
    return [words for holds, words in bounds if not holds]


def uniform(x: float, y: float) -> tuple[float, float]:
    """CIE 1976 u′, v′ of x, y: u′ = 4x / (−2x + 12y + 3), v′ = 9y / (−2x + 12y + 3)."""
    below = -2 * x + 12 * y + 3
    return 4 * x / below, 9 * y / below


def difference(one: tuple[float, float], other: tuple[float, float]) -> float:
    """How far apart two colours (x, y) look: distance in u′, v′. About 0.004 is one just visible
    step side by side.
    """
    (u1, v1), (u2, v2) = uniform(*one), uniform(*other)
    return float(((u1 - u2) ** 2 + (v1 - v2) ** 2) ** 0.5)
