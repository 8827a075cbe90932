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


def advised(moves, target, up, right=None):
    """What is said after some moves: ids, each with its values."""
    return [(one.id, one.values) for one in advice(moves, target, up, right)]


def ids(moves, target, up, right=None):
    return [which for which, _ in advised(moves, target, up, right)]


def test_one_turn_tells_the_next():
    """One turn moved it down by 0.5 %; from −0.5 % to −1.25 % it takes one and a half more."""
    [(which, values)] = advised([Move((1.0, 0.0), -0.005)], LOW, -0.005)
    assert (which, values["turn"]) == ("turn-to-middle", "height screw 1½ turns clockwise")


def test_a_screw_that_raises_clockwise_is_turned_back():
    [(which, values)] = advised([Move((0.5, 0.0), 0.004)], LOW, -0.0085)
    assert (which, values["turn"]) == ("turn-to-middle", "height screw ½ turn anticlockwise")


def test_inside_the_band_nothing_is_turned():
    assert ids([Move((1.0, 0.0), -0.005)], LOW, -0.0125) == []
    assert ids([], LOW, 0.0) == []


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
    learnt = fit(moves)
    for axis, row in ((learnt.up, truth[0]), (learnt.right, truth[1])):
        assert np.all(np.abs(axis.does - row) < 5 * axis.sd + 1e-4)


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
    """One turn lies within what readings differ by; three do not."""
    assert ids([Move((1.0, 0.0), 0.0)], LOW, 0.0) == ["screw-unsure"]
    moves = [Move((1.0, 0.0), 0.0), Move((2.0, 0.0), 0.0003)]
    [(which, values)] = advised(moves, LOW, 0.0)
    assert (which, values["screw"]) == ("screw-dead", "height screw")


def no_turn(which):
    return not {"turn-to-middle", "turn-long-way"} & set(which)


@pytest.mark.parametrize("moved", [0.0, 0.0002, -0.0004, 0.0009, -0.0012])
@pytest.mark.parametrize("turned", [0.25, 0.5, 1.0])
def test_readings_that_differ_by_noise_alone_tell_no_turn(moved, turned):
    """Two readings of 0.07 % differ by 0.1 %, one standard deviation."""
    assert no_turn(ids([Move((turned, 0.0), moved, 0.0)], UK, -0.03, 0.03))
    assert no_turn(ids([Move((0.0, turned), 0.0, moved)], UK, -0.03, 0.03))


def test_no_turn_is_told_that_a_screw_does_not_have():
    """A quarter of a per cent a turn: from 8 % high it would take 37."""
    moves = [Move((2.0, 0.0), -0.005), Move((2.0, 0.0), -0.005)]
    [(which, values)] = advised(moves, LOW, 0.08)
    assert (which, values["in_all"]) == ("turn-beyond-screw", 37)
    assert next_turns(fit(moves), -0.0925, None) == []


def test_a_long_way_is_told_in_parts():
    moves = [Move((1.0, 0.0), -0.005), Move((1.0, 0.0), -0.005)]
    [(which, values)] = advised(moves, LOW, 0.035)
    assert (which, values["turn"]) == ("turn-long-way", "height screw 8 turns clockwise")


def test_a_beam_that_moves_by_what_no_turn_explains_is_loose():
    moves = [Move((1.0, 0.0), up) for up in (-0.005, -0.011, 0.004, -0.006, 0.003, -0.012)]
    assert "screws-loose" in ids(moves, LOW, 0.0)


def driven(seed, does_nothing=None, play=0.1):
    """A lamp aimed by what is told, six rounds, read as well as slopes are: for every round the
    turns told with what was needed, and the faults named.
    """
    random = np.random.default_rng(seed)
    does = random.choice([-1, 1], 2) * random.uniform(0.0025, 0.009, 2)
    aside = does[::-1] * random.uniform(-0.35, 0.35, 2)
    own = [(does[0], aside[0]), (aside[1], does[1])]
    if does_nothing is not None:
        own[does_nothing] = (0.0, 0.0)
    start = random.uniform(-0.03, 0.02), random.uniform(-0.04, 0.03)
    screws = SimulatedScrews(*start, *own, play=play, travel=40.0)

    def read():
        return screws.up + random.normal(0, noise), screws.right + random.normal(0, noise)

    noise, turned, moves, rounds, faults = adjusters.READ_SLOPE, (1.0, 0.0), [], [], []
    stood = read()
    for number in range(6):
        screws.turn(*turned)
        stands = read()
        moves.append(Move(turned, stands[0] - stood[0], stands[1] - stood[1], number > 0))
        stood, response = stands, fit(moves)
        told = next_turns(response, UK.nominal - stands[0], -0.01 - stands[1])
        faults += [fault.id for fault in adjusters._faults(moves, response)]
        matrix = np.array(own).T
        if len(told) == 2 and does_nothing is None:
            wanted = np.linalg.solve(matrix, [UK.nominal - screws.up, -0.01 - screws.right])
            rounds += [(turn, wanted[turn.screw], screws.last[turn.screw]) for turn in told]
        turned = _next(response, {turn.screw: turn.turns for turn in told})
    return rounds, faults


def _next(response, told):
    """As told; else two turns of one that is unsure, else one of one never turned."""
    for screw in (0, 1):
        if not response.is_known(screw) and not response.is_dead(screw):
            return (2.0, 0.0) if screw == 0 else (0.0, 2.0)
    return told.get(0, 0.25), told.get(1, 0.25)


def test_a_turns_doubt_holds_what_was_needed():
    """Sixty coupled lamps with play here; figures of more in docs/accuracy.md."""
    held = [
        abs(turn.turns - needed - (0.1 * np.sign(needed) if needed * last < 0 else 0.0))
        <= 2 * turn.sd
        for seed in range(60)
        for turn, needed, last in driven(seed)[0]
        if turn.whole is None
    ]
    assert len(held) > 150
    assert sum(held) / len(held) >= 0.93


def test_sound_screws_are_not_called_near_their_end():
    named = sum("screw-stopped" in driven(seed)[1] for seed in range(100))
    assert named < 5


@pytest.mark.parametrize("screw", [0, 1])
def test_a_dead_screw_is_named(screw):
    named = sum("screw-dead" in driven(seed, screw)[1] for seed in range(30))
    assert named >= 26


def test_play_is_told_on_the_way_back_and_an_end_of_travel_on_the_way_on():
    """Half a per cent a turn: back by one it moves 0.3 %, four tenths of a turn are lost; on by one
    it moves 0.05 %.
    """
    on = [Move((1.0, 0.0), -0.005), Move((1.0, 0.0), -0.005)]
    back = dict(advised([*on, Move((-1.0, 0.0), 0.003)], LOW, -0.007))
    assert back["screw-play"]["turns"] == pytest.approx(0.4, abs=0.05)
    assert "screw-stopped" in ids([*on, Move((1.0, 0.0), -0.0005)], LOW, -0.0055)


def test_play_and_an_end_are_told_of_the_side_screw_too():
    on = [Move((0.0, 1.0), 0.0, -0.005), Move((0.0, 1.0), 0.0, -0.005)]
    back, stuck = Move((0.0, -1.0), 0.0, 0.003), Move((0.0, 1.0), 0.0, -0.0005)
    play = dict(advised([*on, back], UK, -0.0125, -0.01))["screw-play"]
    assert (play["screw"], play["turns"]) == ("side screw", pytest.approx(0.4, abs=0.05))
    stopped = dict(advised([*on, stuck], UK, -0.0125, -0.01))["screw-stopped"]
    assert stopped["screw"] == "side screw"
    assert ids([*on, Move((0.0, 1.0), 0.0, None)], UK, -0.0125, -0.01) == []


def test_sideways_is_left_alone_without_a_limit_and_turned_with_one():
    moves = [Move((1.0, 0.0), -0.005, 0.0), Move((0.0, 1.0), 0.0, 0.004)]
    assert ids(moves, LOW, -0.0125, 0.03) == []
    [(which, values)] = advised(moves, UK, -0.0125, 0.01)
    assert (which, values["turn"]) == ("turn-to-middle", "side screw 5 turns anticlockwise")


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
    return "screw-stopped" in ids([*USUAL, Move((turned, 0.0), moved)], LOW, -0.0125)


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


def test_a_turn_back_alone_is_in_doubt_by_the_play(monkeypatch):
    """Half a per cent a turn clockwise: one more the same way, or one back over the play."""
    response = fit([Move((1.0, 0.0), -0.005), Move((1.0, 0.0), -0.005)])

    def doubts():
        return [next_turns(response, up, None)[0].sd for up in (-0.005, 0.005)]

    on, back = doubts()
    monkeypatch.setattr(adjusters, "PLAY_SD", 0.0)
    assert doubts() == pytest.approx([on, (back**2 - 0.2**2) ** 0.5])
