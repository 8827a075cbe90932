"""Adjusters learnt from moves. Invented screws; sums by hand; common practice, no published
source.
"""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.aim import adjusters
from cold_arc.core.aim.adjusters import Move, advice, fit, next_turns, say_turns
from cold_arc.core.aim.rules import built_in
from cold_arc.devices.simulated_screws import SimulatedScrews

LOW = built_in()["un-r48-low"].target(0.65)
UK = built_in()["uk-inspection-low"].target(0.65)


def texts(moves, target, up, right=None):
    return [it.text for it in advice(moves, target, up, right)]


def test_one_turn_tells_the_next():
    """One turn moved it down by 0.5 %; from −0.5 % to −1.25 % it takes one and a half more."""
    (told,) = texts([Move((1.0, 0.0), -0.005)], LOW, -0.005)
    assert told == "Turn the height screw 1½ turns clockwise to stand mid-band."


def test_a_screw_that_raises_clockwise_is_turned_back():
    (told,) = texts([Move((0.5, 0.0), 0.004)], LOW, -0.0085)
    assert told == "Turn the height screw ½ turn anticlockwise to stand mid-band."


def test_inside_the_band_nothing_is_turned():
    assert texts([Move((1.0, 0.0), -0.005)], LOW, -0.0125) == []
    assert texts([], LOW, 0.0) == []


@given(
    st.floats(0.002, 0.012),
    st.floats(-0.5, 0.5),
    st.floats(0.002, 0.012),
    st.floats(-0.5, 0.5),
    st.integers(0, 99),
)
def test_invented_couplings_are_recovered_from_a_few_noisy_moves(
    up, cross_up, right, cross_right, seed
):
    """M = [[up, share of right], [share of up, right]]; six moves, each read as a slope is read."""
    truth = np.array([[-up, cross_up * right], [cross_right * up, right]])
    random = np.random.default_rng(seed)
    moves = []
    for turns in ((1, 0), (0, 1), (2, 0), (0, -2), (1, 1), (-1, 2)):
        moved = truth @ turns + random.normal(0, adjusters.READ_SLOPE, 2)
        moves.append(Move(turns, float(moved[0]), float(moved[1])))
    found = fit(moves)
    for mean, sd, row in (
        (found.up, found.up_sd, truth[0]),
        (found.right, found.right_sd, truth[1]),
    ):
        assert np.all(np.abs(np.array(mean) - row) < 5 * np.array(sd) + 1e-4)


@pytest.mark.parametrize("seed", range(12))
def test_a_lamp_is_inside_its_band_in_at_most_four_rounds(seed):
    """Simulated screws, coupled and with play, read with noise, turned as told to the eighth, from
    as found.
    """
    random = np.random.default_rng(seed)
    does = random.choice([-1, 1], 2) * random.uniform(0.003, 0.009, 2)
    aside = random.uniform(-0.001, 0.001, 2)
    screws = SimulatedScrews(
        random.uniform(-0.04, 0.02),
        random.uniform(-0.05, 0.03),
        (does[0], aside[0]),
        (aside[1], does[1]),
        travel=40.0,
    )
    turned, moves = (1.0, 1.0), []
    for _round in range(4):
        before = screws.up, screws.right
        screws.turn(*turned)
        read = [it + random.normal(0, 0.0003) for it in (*before, screws.up, screws.right)]
        moves.append(Move(turned, read[2] - read[0], read[3] - read[1]))
        told = {
            it.screw: round(it.turns * 8) / 8
            for it in next_turns(fit(moves), UK.nominal - read[2], -0.01 - read[3])
        }
        if UK.keep.excess(screws.up) == 0 and UK.sideways_excess(screws.right) == 0:
            return
        turned = told.get(0, 0.0), told.get(1, 0.0)
    raise AssertionError((screws.up, screws.right))


def test_a_screw_that_does_nothing_is_told():
    (told,) = texts([Move((1.0, 0.0), 0.0)], LOW, 0.0)
    assert told == "The height screw moves nothing."


def test_play_is_told_on_the_way_back_and_an_end_of_travel_on_the_way_on():
    """Half a per cent a turn: back by one it moves 0.3 %, four tenths of a turn are lost; on by one
    it moves 0.05 %.
    """
    on = [Move((1.0, 0.0), -0.005), Move((1.0, 0.0), -0.005)]
    assert any(
        "has play: about 0.4 of a turn" in text
        for text in texts([*on, Move((-1.0, 0.0), 0.003)], LOW, -0.007)
    )
    assert any(
        "near the end of its travel" in text
        for text in texts([*on, Move((1.0, 0.0), -0.0005)], LOW, -0.0055)
    )


def test_play_and_an_end_are_told_of_the_side_screw_too():
    on = [Move((0.0, 1.0), 0.0, -0.005), Move((0.0, 1.0), 0.0, -0.005)]
    back, stuck = Move((0.0, -1.0), 0.0, 0.003), Move((0.0, 1.0), 0.0, -0.0005)
    assert any(
        "side screw has play: about 0.4" in text for text in texts([*on, back], UK, -0.0125, -0.01)
    )
    assert any(
        "side screw's last turns" in text for text in texts([*on, stuck], UK, -0.0125, -0.01)
    )
    assert not any(
        "screw" in text for text in texts([*on, Move((0.0, 1.0), 0.0, None)], UK, -0.0125, -0.01)
    )


def test_sideways_is_left_alone_without_a_limit_and_turned_with_one():
    moves = [Move((1.0, 0.0), -0.005, 0.0), Move((0.0, 1.0), 0.0, 0.004)]
    assert texts(moves, LOW, -0.0125, 0.03) == []
    assert texts(moves, UK, -0.0125, 0.01) == [
        "Turn the side screw 5 turns anticlockwise to stand mid-band."
    ]


@pytest.mark.parametrize(
    ("turns", "said"),
    [
        (1.25, "1¼ turns clockwise"),
        (-0.5, "½ turn anticlockwise"),
        (1.0, "1 turn clockwise"),
        (2.9, "2⅞ turns clockwise"),
    ],
)
def test_turns_in_eighths(turns, said):
    assert say_turns(turns) == said


USUAL = [Move((1.0, 0.0), -0.005), Move((1.0, 0.0), -0.005)]


def names_an_end(moved, turned=2.0):
    """Whether *turned* more turns that moved the beam by *moved* are told as the end of travel."""
    told = texts([*USUAL, Move((turned, 0.0), moved)], LOW, -0.0125)
    return any("near the end" in text for text in told)


def test_less_than_four_tenths_of_what_turns_usually_do_is_an_end_of_travel():
    """Two turns do −1.0 % by the two before (the wide prior takes 0.05 % of that off)."""
    assert names_an_end(-0.0037)
    assert not names_an_end(-0.0043)


def test_what_a_reading_may_be_off_is_no_fault_of_a_screw():
    """A move is a difference of two readings of 0.07 %: 1.8 standard deviations of it are 0.178 %.

    A quarter turn does −0.125 % and so can't be told from a stop; half a turn's −0.25 % can, where
    it moved less than 0.07 % of that.
    """
    assert not names_an_end(0.0, turned=0.25)
    assert not names_an_end(-0.0009, turned=0.5)
    assert names_an_end(-0.0003, turned=0.5)
