"""Chromaticity against a general-purpose colour-science package; legal white after UN R48/R149,
from memory.
"""

from itertools import pairwise

import numpy as np
import pytest

from cold_arc.core.light import colour
from tests.core.light.science import science


@pytest.mark.parametrize("cct_k", [5000, 5700, 6000, 6500, 7000, 8000, 12000, 25000])
def test_daylight_locus(cct_k):
    x, y = science().temperature.CCT_to_xy_CIE_D(cct_k)
    assert colour.chromaticity(cct_k) == pytest.approx((x, y), abs=2e-4)


@pytest.mark.parametrize("cct_k", [1700, 2200, 2700, 3200, 3900, 4000])
def test_planckian_locus(cct_k):
    x, y = science().temperature.CCT_to_xy_Kang2002(cct_k)
    assert colour.chromaticity(cct_k) == pytest.approx((x, y), abs=1e-4)


@pytest.mark.parametrize("cct_k", [4100, 4300, 4500, 4800])
def test_between_the_loci_light_fades_from_one_into_the_other(cct_k):
    """Against the package's reference light of CIE 224 and IES TM-30."""
    light = science().quality.cfi2017.sd_reference_illuminant(
        cct_k, science().SPECTRAL_SHAPE_DEFAULT
    )
    expected = science().XYZ_to_xy(science().sd_to_XYZ(light))
    assert colour.chromaticity(cct_k) == pytest.approx(tuple(expected), abs=4e-4)


def test_no_step_of_colour_lies_between_the_loci():
    """A fifth of what is just visible at most, every 10 K."""
    steps = [colour.chromaticity(kelvin) for kelvin in range(3500, 5600, 10)]
    assert max(colour.difference(*pair) for pair in pairwise(steps)) < 0.0008


WHITE_CORNERS = [
    (0.310, 0.348),
    (0.453, 0.440),
    (0.500, 0.440),
    (0.500, 0.382),
    (0.443, 0.382),
    (0.310, 0.283),
]


@pytest.mark.parametrize("edge", range(6))
def test_whites_bounds(edge):
    """UN R48/R149's corners W1 to W6, from memory: within the middle of each side is white, beyond
    it is not.
    """
    (x1, y1), (x2, y2) = WHITE_CORNERS[edge], WHITE_CORNERS[(edge + 1) % 6]
    inward = 0.001 * np.array([y2 - y1, x1 - x2]) / np.hypot(x2 - x1, y2 - y1)
    middle = np.array([x1 + x2, y1 + y2]) / 2
    assert colour.white_faults(*(middle + inward)) == []
    assert colour.white_faults(*(middle - inward))


@pytest.mark.parametrize("cct_k", [2260, 2300, 2390, 2856])
def test_warm_filament_light_is_white(cct_k):
    assert colour.white_faults(*colour.chromaticity(cct_k)) == []
    assert colour.white_faults(0.48, 0.39) == []


@pytest.mark.parametrize(
    ("cct_k", "white"), [(3200, True), (4300, True), (5700, True), (6000, True), (8000, False)]
)
def test_legal_white(cct_k, white):
    assert (colour.white_faults(*colour.chromaticity(cct_k)) == []) is white


def test_outside_the_range_is_refused():
    with pytest.raises(ValueError):
        colour.chromaticity(1000)


@pytest.mark.parametrize(
    ("x", "y", "yellow"),
    [
        (0.485, 0.473, True),
        (0.52, 0.455, True),
        (0.55, 0.42, False),
        (0.45, 0.45, False),
        (0.33, 0.34, False),
    ],
)
def test_selective_yellow(x, y, yellow):
    """UN R48/R149 bounds, from memory."""
    assert (colour.yellow_faults(x, y) == []) is yellow


@pytest.mark.parametrize("one", [(0.31, 0.33), (0.44, 0.40), (0.485, 0.473)])
@pytest.mark.parametrize("other", [(0.32, 0.34), (0.38, 0.38)])
def test_difference_in_uniform_colour(one, other):
    """Against the package's CIE 1976 u′v′."""
    apart = science().xy_to_Luv_uv(one) - science().xy_to_Luv_uv(other)
    assert colour.difference(one, other) == pytest.approx(float((apart**2).sum() ** 0.5), abs=1e-9)
