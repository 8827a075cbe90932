"""One adjuster for low and high beam: the move that leaves both in, or that there is none (worked
by hand).
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.aim.combined import Stands, best_move, judge_together, moves
from cold_arc.core.aim.rules import built_in
from cold_arc.core.findings import Level
from cold_arc.core.units import UnitSystem

LOW, HIGH = built_in()["un-r48-low"].target(0.65), built_in()["high-centred"].target(0.65)
slopes = st.floats(-0.06, 0.06)


def judged(low, high, system=UnitSystem.METRIC):
    return judge_together(Stands(low, LOW), Stands(high, HIGH), 10.0, system)


def test_both_in_is_said():
    told = judged(-0.012, 0.001)
    assert told.level is Level.OK
    assert (told.id, told.values["way"]) == ("both-in", "up")
    assert told.values["off"].replace("\xa0", " ") == "13.0 cm, 1.30 %"


def test_the_move_that_mends_both_is_the_one_nearest_low_beams_setting():
    """Low 0.3 % down wants 0.2 % more; high 0.9 % up may drop 2.23 %: low beam's own middle, −1.25
    %, serves both.
    """
    told = judged(-0.003, 0.009)
    assert told.level is Level.CAUTION
    assert (told.values["move"], told.values["way"]) == ("9.5\xa0cm", "down")
    assert told.values["low"] == pytest.approx(-0.0125)


def test_where_high_beam_binds_the_move_stops_at_its_limit():
    """High stands 2.7 % over low: low at −1.37 % puts it at its limit, 4 in at 25 ft, 1.333 %
    up.
    """
    told = judged(-0.003, 0.024)
    assert (told.values["low"], told.values["high"]) == pytest.approx((-0.01367, 0.01333), abs=1e-5)


def test_low_goes_first_where_both_cant_be_in():
    told = judged(-0.012, 0.03)
    assert told.level is Level.CAUTION
    assert told.id == "both-cannot-be-in"


@given(slopes, slopes)
def test_every_move_told_leaves_both_in_and_none_is_missed(low, high):
    both = moves(Stands(low, LOW), Stands(high, HIGH))
    if both is None:
        assert (
            high - low > HIGH.keep.high - LOW.keep.low or high - low < HIGH.keep.low - LOW.keep.high
        )
        return
    for move in (both.low, both.high, best_move(Stands(low, LOW), both)):
        assert LOW.keep.excess(low + move) == pytest.approx(0.0, abs=1e-9)
        assert HIGH.keep.excess(high + move) == pytest.approx(0.0, abs=1e-9)
    assert LOW.keep.excess(low + both.high + 1e-6) or HIGH.keep.excess(high + both.high + 1e-6)
