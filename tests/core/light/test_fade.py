"""Fade with the hours lit, against its own closed form."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.light import fade


@given(st.floats(100, 100_000))
def test_what_is_claimed_and_what_is_measured_are_one_curve(life_h):
    """A source that keeps to its claim measures what it claims, whenever it is read (IES
    TM-21, from memory: light falls exponentially)."""
    for hours in (50.0, 500.0, life_h):
        left = 0.7 ** (hours / life_h)
        assert fade.measured(left, 0.0, hours).share == pytest.approx(fade.claimed(life_h))


def test_its_bounds_hold_it_and_narrow_with_the_hours():
    soon, late = fade.measured(0.97, 0.02, 100), fade.measured(0.97, 0.02, 1000)
    for measured in (soon, late):
        assert measured.least < measured.share < measured.most
    assert late.most - late.least < soon.most - soon.least


@pytest.mark.parametrize(("ratio", "hours"), [(0.0, 100.0), (0.9, 0.0), (-1.0, 10.0)])
def test_nothing_is_made_of_no_light_or_no_hours(ratio, hours):
    with pytest.raises(ValueError, match="above 0"):
        fade.measured(ratio, 0.1, hours)
