"""Light through a tint, against a colour-science package: the same spectra, its own observer at
5 nm, its own sums.
"""

from functools import cache

import numpy as np
import pytest

from cold_arc.core.light import colour, filters
from tests.core.light.science import science


@cache
def shape():
    """380 to 780 nm by 5."""
    return science().SpectralShape(380, 780, 5)


@cache
def observer():
    """The CIE's of 1931, 2°."""
    return science().MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape())


def through_science(spectrum, tint):
    """x, y and share by the package, the tint as the core has it, between its points a line."""
    passes = science().SpectralDistribution(
        np.interp(shape().wavelengths, filters._nm(), filters.transmittance(tint)),
        shape().wavelengths,
    )
    light = spectrum.copy().align(shape())
    whole, after = (
        science().sd_to_XYZ(each, observer(), k=1.0, method="Integration")
        for each in (light, light * passes)
    )
    return science().XYZ_to_xy(after), after[1] / whole[1]


@pytest.mark.parametrize("tint", filters.TINTS)
@pytest.mark.parametrize(
    ("name", "cct_k"), [("LED-B3", 4115.0), ("LED-B4", 5118.0), ("LED-B5", 6597.0)]
)
def test_a_white_led_through_each_tint(tint, name, cct_k):
    xy, share = through_science(science().SDS_ILLUMINANTS[name], tint)
    assert filters.through(cct_k, tint) == pytest.approx(tuple(xy), abs=0.004)
    assert filters.share(cct_k, tint) == pytest.approx(share, abs=0.01)


@pytest.mark.parametrize("tint", filters.TINTS)
def test_a_filament_through_each_tint(tint):
    xy, share = through_science(science().sd_blackbody(3200.0, shape()), tint)
    assert filters.through(3200.0, tint, led=False) == pytest.approx(tuple(xy), abs=0.004)
    assert filters.share(3200.0, tint, led=False) == pytest.approx(share, abs=0.01)


@pytest.mark.parametrize("cct_k", [2700, 3000, 4100, 5000, 6000, 6500])
def test_a_white_led_between_the_published_ones_has_the_colour_asked_for(cct_k):
    """Within two just visible steps of the reference light of its temperature."""
    x, y = filters.seen(filters.spectrum(float(cct_k), True))
    assert science().temperature.xy_to_CCT([x, y], method="Hernandez 1999") == pytest.approx(
        cct_k, rel=0.03
    )
    assert colour.difference((x, y), colour.chromaticity(cct_k)) < 0.012


def test_a_yellow_cap_turns_a_white_led_green_and_leaves_a_filament_selective_yellow():
    """Common practice, no published source."""
    assert "too green" in colour.yellow_faults(*filters.through(6000.0, "yellow"))
    assert colour.yellow_faults(*filters.through(3200.0, "yellow", led=False)) == []


def test_amber_takes_half_and_clear_takes_nothing():
    assert filters.share(6000.0, filters.CLEAR) == 1.0
    assert 0.3 < filters.share(6000.0, "amber") < 0.55
