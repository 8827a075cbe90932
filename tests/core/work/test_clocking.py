"""Clocking. Common practice, no published source."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.findings import Level
from cold_arc.core.work.clocking import preset


def test_check_value_20_clockwise_is_preset_20_anticlockwise():
    clocking = preset(20)
    assert clocking.preset_deg == -20
    assert clocking.finding.values["preset_deg"] == "20° anticlockwise"


@given(st.floats(-180, 180), st.sampled_from([1, 2]))
def test_preset_brings_it_upright(stopped, alike):
    clocking = preset(stopped, alike)
    turned = (stopped + clocking.preset_deg) % (360 / alike)
    assert min(turned, 360 / alike - turned) == pytest.approx(0, abs=1e-9)
    assert abs(clocking.preset_deg) <= 180 / alike


@pytest.mark.parametrize(
    ("stopped", "level"),
    [
        (0, Level.OK),
        (5, Level.OK),
        (-5, Level.OK),
        (6, Level.CAUTION),
        (15, Level.CAUTION),
        (16, Level.STOP),
    ],
)
def test_how_far_off_counts(stopped, level):
    assert preset(stopped).finding.level is level


def test_two_equal_faces_look_the_same_upside_down():
    assert preset(178, turns_alike=2).finding.level is Level.OK
    assert preset(178, turns_alike=1).finding.level is Level.STOP
    assert preset(90, turns_alike=2).preset_deg == -90
