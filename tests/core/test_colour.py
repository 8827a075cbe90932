"""Chromaticity against a general-purpose colour-science package; legal white after UN R48/R149, from memory."""

import colour as science
import pytest

from cold_arc.core import colour


@pytest.mark.parametrize("cct_k", [4000, 4300, 5000, 5700, 6000, 6500, 7000, 8000, 12000, 25000])
def test_daylight_locus(cct_k):
    x, y = science.temperature.CCT_to_xy_CIE_D(cct_k)
    assert colour.chromaticity(cct_k) == pytest.approx((x, y), abs=2e-4)


@pytest.mark.parametrize("cct_k", [1700, 2200, 2700, 3200, 3900])
def test_planckian_locus(cct_k):
    x, y = science.temperature.CCT_to_xy_Kang2002(cct_k)
    assert colour.chromaticity(cct_k) == pytest.approx((x, y), abs=1e-4)


@pytest.mark.parametrize(("cct_k", "white"), [(3200, True), (4300, True), (5700, True), (6000, True), (8000, False)])
def test_legal_white(cct_k, white):
    assert (colour.white_faults(*colour.chromaticity(cct_k)) == []) is white


def test_outside_the_range_is_refused():
    with pytest.raises(ValueError):
        colour.chromaticity(1000)


@pytest.mark.parametrize(
    ("x", "y", "yellow"),
    [(0.485, 0.473, True), (0.52, 0.455, True), (0.55, 0.42, False), (0.45, 0.45, False), (0.33, 0.34, False)],
)
def test_selective_yellow(x, y, yellow):
    """UN R48/R149 bounds, from memory."""
    assert (colour.yellow_faults(x, y) == []) is yellow


@pytest.mark.parametrize("one", [(0.31, 0.33), (0.44, 0.40), (0.485, 0.473)])
@pytest.mark.parametrize("other", [(0.32, 0.34), (0.38, 0.38)])
def test_difference_in_uniform_colour(one, other):
    """Against the package's CIE 1976 u′v′."""
    apart = science.xy_to_Luv_uv(one) - science.xy_to_Luv_uv(other)
    assert colour.difference(one, other) == pytest.approx(float((apart**2).sum() ** 0.5), abs=1e-9)
