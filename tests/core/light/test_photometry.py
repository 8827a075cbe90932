"""Lux, candela, voltage. Laws: inverse square and cosine cubed; exponents as in lighting handbooks,
from memory.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.light import photometry
from cold_arc.core.units import FOOT_CANDLE_LX, FOOT_M


def test_foot_candle_is_a_lumen_a_square_foot():
    assert pytest.approx(10.7639, abs=5e-5) == FOOT_CANDLE_LX


@pytest.mark.parametrize(
    ("lux", "distance_m", "candela"),
    [
        (410, 20 * FOOT_M, 15236),  # common practice, no published source: halogen low at 20 ft
        (1, 25, 625),  # UN R112 zone III: 1 lx at 25 m is 625 cd, from memory
        (180, 25 * FOOT_M, 10451),
    ],
)
def test_inverse_square(lux, distance_m, candela):
    assert photometry.candela(lux, distance_m) == pytest.approx(candela, rel=1e-3)


def test_cosine_cubed_off_axis():
    """At 45° off the axis, E = I·cos³45°/d² = I/(2√2·d²)."""
    assert photometry.wall_lux(1000, 10, across_m=10) == pytest.approx(10 / (2 * math.sqrt(2)))


@given(st.floats(0.1, 1e5), st.floats(0.5, 50), st.floats(-5, 5), st.floats(-5, 5))
def test_wall_and_candela_are_inverse(candela, distance_m, across_m, drop_m):
    lux = photometry.wall_lux(candela, distance_m, across_m, drop_m)
    assert photometry.candela(lux, distance_m, across_m, drop_m) == pytest.approx(candela)


@pytest.mark.parametrize(
    ("exponent", "at_12_volts"),
    [
        (photometry.FLUX_EXPONENT, 0.7233),
        (photometry.POWER_EXPONENT, 0.8586),
        (photometry.LIFE_EXPONENT, 3.452),
        (photometry.COLOUR_TEMPERATURE_EXPONENT, 0.9608),
    ],
)
def test_filament_exponents_from_13_2_to_12_volts(exponent, at_12_volts):
    """(12/13.2)^n with the handbook exponents 3.4, 1.6, −13 and 0.42, worked by hand."""
    assert photometry.filament_factor(12.0, 13.2, exponent) == pytest.approx(at_12_volts, rel=1e-3)


def test_reach_is_where_the_light_falls_to_the_threshold():
    assert photometry.reach_m(30000, 3) == pytest.approx(100)
    assert photometry.wall_lux(30000, 100) == pytest.approx(3)


def test_five_times_rule():
    assert photometry.far_field_m(0.2) == pytest.approx(1.0)


def test_rated_flux_is_given_at_13_2_volts_for_a_12_volt_car():
    assert photometry.reference_volts(12) == 13.2
    assert photometry.reference_volts(6) == 6.3
    assert photometry.reference_volts(24) == 28.0


def test_impossible_values_are_refused():
    for call in (
        lambda: photometry.candela(1, 0),
        lambda: photometry.filament_factor(0, 13.2),
        lambda: photometry.gain(0, 5),
    ):
        with pytest.raises(ValueError):
            call()


@pytest.mark.parametrize(
    ("after", "per_cent"), [(1013, 698), (892, 602), (1529, 1104), (1438, 1032)]
)
def test_fog_gains_over_127_lux(after, per_cent):
    """Common practice, no published source."""
    assert round(photometry.gain(127, after) * 100) == per_cent
