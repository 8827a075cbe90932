"""Where to tape the wall. Geometry by closed forms; the trade's words are common practice, no
published source.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.aim.rules import built_in
from cold_arc.core.aim.taping import (
    Floor,
    FloorError,
    TapedLamp,
    floor_findings,
    height_on_wall_m,
    lamp_right_m,
    taping,
)
from cold_arc.core.car.lamps import Side
from cold_arc.core.units import UnitSystem

HEIGHTS, SLOPES, DISTANCES = st.floats(0.3, 1.2), st.floats(-0.04, 0.01), st.floats(3, 25)


@given(HEIGHTS, SLOPES, DISTANCES, st.floats(-0.03, 0.03), st.floats(-0.2, 0.2))
def test_a_floor_that_slopes_evenly_changes_nothing(height, slope, distance, pitch, raised):
    """Car and wall on one tilted plane: measured from that floor every line stands where it would
    on a level one.
    """
    floor = Floor(
        rear_m=raised - 2.6 * pitch,
        front_m=raised,
        wall_m=raised + pitch * (0.8 + distance),
        overhang_m=0.8,
    )
    assert height_on_wall_m(height, slope, distance, floor) == pytest.approx(
        height + slope * distance
    )


@given(HEIGHTS, SLOPES, DISTANCES, st.floats(-0.1, 0.1))
def test_a_wall_on_a_step_moves_every_line_by_the_step(height, slope, distance, step):
    floor = Floor(wall_m=step)
    assert height_on_wall_m(height, slope, distance, floor) == pytest.approx(
        height + slope * distance - step
    )


@given(DISTANCES, st.floats(-0.02, 0.02))
def test_the_band_is_as_wide_on_any_floor(distance, pitch):
    floor = Floor(front_m=2.6 * pitch)
    lines = [height_on_wall_m(0.7, slope, distance, floor) for slope in (-0.025, -0.005)]
    assert lines[1] - lines[0] == pytest.approx(0.02 * distance)


@given(
    HEIGHTS,
    SLOPES,
    DISTANCES,
    st.floats(-0.03, 0.03),
    st.floats(-0.03, 0.03),
    st.sampled_from(list(Side)),
)
def test_a_floor_that_leans_evenly_changes_nothing(height, slope, distance, pitch, lean, side):
    """Car and wall on one plane tilted both ways, measured at four wheels and below both lamps:
    closed form.
    """

    def plane(right, forward):
        return 0.05 + pitch * forward + lean * right

    pairs = {"rear": (0.75, -2.6), "front": (0.75, 0.0), "wall": (0.6, 0.8 + distance)}
    told = {
        f"{name}{word}_m": plane(way * x, y)
        for name, (x, y) in pairs.items()
        for word, way in (("", -1), ("_right", 1))
    }
    floor = Floor(**told)
    at = height_on_wall_m(height, slope, distance, floor, lamp_right_m(side, 1.2))
    assert at == pytest.approx(height + slope * distance)
    assert (floor.pitch, floor.lean) == (pytest.approx(pitch), pytest.approx(lean))
    assert not list(floor_findings(floor))


def test_a_floor_that_leans_is_taped_lamp_by_lamp():
    """By hand: 18 mm over 1.5 m lifts the car by 9 mm, a lamp 0.6 m off its middle by 7.2, leans 12
    mm a metre.
    """
    words = told(
        "un-r48-low", 0.7, 10.0, spacing_m=1.2, floor=Floor(rear_right_m=0.018, front_right_m=0.018)
    )
    assert words["Right lamp: lamp height, level with the car"] == "from the floor 71.6 cm"
    assert words["Left lamp: lamp height, level with the car"] == "from the floor 70.2 cm"
    assert words["Every level line"] == "leans with the car: 12.0 mm a metre, up to the right"
    assert "Every level line" not in told("un-r48-low", 0.7, 10.0, floor=Floor(front_m=0.02))


def test_a_wheel_off_the_plane_of_the_others_is_minded():
    """Common practice, no published source; 20 mm under one wheel is 5 mm off the nearest plane at
    each.
    """
    (finding,) = floor_findings(Floor(front_right_m=0.02))
    assert finding.number == "20 mm"
    assert Floor(front_right_m=0.02).lean == pytest.approx(0.02 / 2 / 1.5)
    assert not list(floor_findings(Floor(front_right_m=0.009)))


def test_a_ramp_is_refused():
    with pytest.raises(FloorError, match="look at the heights again"):
        Floor(front_m=0.2)
    with pytest.raises(FloorError, match="look at the heights again"):
        Floor(front_right_m=0.1, rear_right_m=0.1)
    with pytest.raises(FloorError, match="above nothing"):
        Floor(track_m=0.0)


def heights(told):
    """The left lamp's and the right's."""
    return told if isinstance(told, tuple) else (told, told)


def told(rule, height_m, distance_m, system=UnitSystem.METRIC, spacing_m=1.168, floor=None):
    lamps = {
        side: TapedLamp(high, built_in()[rule].target(high))
        for side, high in zip(Side, heights(height_m), strict=True)
    }
    tapes = taping(lamps, spacing_m, distance_m, system, floor or Floor())
    return {it.what: it.words.replace("\u00a0", " ") for it in tapes}


def test_words_of_a_tape_measure():
    """By hand: 0.843 m less 1.25 % of 10 m is 71.8 cm; lamps 1.168 m apart stand 58.4 cm off the
    middle.
    """
    words = told("un-r48-low", 0.843, 10.0)
    assert words["Line to set to"] == "from the floor 71.8 cm"
    assert words["Left lamp's centre line"] == "from the car's centre line 58.4 cm left"
    assert words["Keep, no higher than"] == "from the floor 79.3 cm"
    assert words["Keep, no lower than"] == "from the floor 59.3 cm"


def test_inches_at_twenty_five_feet():
    """49 CFR 571.108 VOL, from memory: 0.4° down at 25 ft is 2.1 in; a lamp at 28 in is taped at
    25.9.
    """
    words = told("us-vol", 28 * 0.0254, 25 * 0.3048, UnitSystem.INCH, None)
    assert words["Line to set to"] == "from the floor 25.9 in"
    assert 300 * math.tan(math.radians(0.4)) == pytest.approx(2.1, abs=0.01)
    assert "Left lamp's centre line" not in words


def test_lamps_of_two_heights_are_taped_each_by_its_own_rule():
    """UN R48, from memory: set −1.0 to −1.5 % at 0.79 m, −1.5 to −2.0 % at 1.01 m: 79 less 12.5 cm,
    101 less 17.5.
    """
    words = told("un-r48-low", (0.79, 1.01), 10.0)
    assert words["Left lamp: lamp height, level with the car"] == "from the floor 79.0 cm"
    assert words["Left lamp: line to set to"] == "from the floor 66.5 cm"
    assert words["Right lamp: line to set to"] == "from the floor 83.5 cm"
    assert words["Right lamp: keep, no higher than"] == "from the floor 91.0 cm"
    assert "Line to set to" not in words


def test_an_open_band_has_no_lowest_line():
    assert "Keep, no lower than" not in told("un-r48-fog-b", 0.4, 10.0)
