"""Shoot-outs: drift taken out, shadows told apart, ranking, and who can't be told apart."""

from dataclasses import replace

import pytest

from cold_arc.core.metering.differing import SourceChange
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import (
    OWN,
    SourceTurn,
    any_two,
    breaks,
    for_whom,
    say_drift,
    shoot_out,
)

PATTERN = {
    "peak": 30_000,
    "edge": 12_000,
    "below": 28_000,
    "left": 6_000,
    "right": 27_000,
    "stray": 300,
}
FIRST = WallReading("peak", 1, 10.0, 13.2, meter="a", wall="bay 2")
CHANGE = SourceChange(before_follows=True)


def turn(source, factor=1.0, **places):
    """A source's turn: the housing's pattern times a factor, and a factor of its own at some
    places.
    """
    return SourceTurn(
        source,
        {
            name: replace(FIRST, point=name, lux=cd * factor * places.get(name, 1.0) / 100)
            for name, cd in PATTERN.items()
        },
    )


def result(told, source):
    return next(it for it in told.results if it.source == source)


def test_the_best_comes_first_with_its_reasons():
    told = shoot_out(
        [turn(OWN), turn("Meadow", 1.5), turn("Ridge", 2.4), turn(OWN)], CHANGE, PATTERN
    )
    assert [it.source for it in told.results] == ["Ridge", "Meadow"]
    assert told.results[0].overall.ratio == pytest.approx(2.4)
    assert told.results[0].reasons[0].startswith("2.4 times")


def test_drift_of_the_reference_is_taken_out_by_each_turns_place():
    """The own source falls by a tenth from first to last turn: a turn half way stood at the root of
    that.
    """
    turns = [turn(OWN), turn("Ridge", 2 * 0.9**0.5), turn(OWN, 0.9)]
    told = shoot_out(turns, CHANGE, PATTERN)
    assert told.drift == pytest.approx(-0.1)
    assert told.results[0].overall.ratio == pytest.approx(2.0)
    without = shoot_out(turns[:2], CHANGE, PATTERN)
    assert without.drift is None
    assert without.results[0].overall.ratio == pytest.approx(2 * 0.9**0.5)
    assert told.results[0].overall.budget.standard > without.results[0].overall.budget.standard
    assert "Read it again" in say_drift(None)


def test_a_shadow_in_every_pattern_is_the_housings():
    turns = [
        turn(OWN, right=0.5),
        turn("Meadow", 1.5, right=0.5),
        turn("Ridge", 2.0, right=0.5, below=0.5),
    ]
    told = shoot_out(turns, CHANGE, PATTERN)
    assert told.housing_shadows == ("To the right",)
    assert result(told, "Meadow").shadows == ()
    assert result(told, "Ridge").shadows == ("Further down",)


def test_two_alike_are_said_to_be_and_two_unlike_not():
    told = shoot_out(
        [turn(OWN), turn("Meadow", 2.0), turn("Ridge", 2.02), turn("Vale", 3.2)], CHANGE, PATTERN
    )
    assert result(told, "Meadow").alike == ("Ridge",)
    assert result(told, "Vale").alike == ()


def test_light_thrown_above_costs_a_place():
    told = shoot_out(
        [turn(OWN), turn("Meadow", 2.0), turn("Ridge", 2.4, stray=4.0)], CHANGE, PATTERN
    )
    assert [it.source for it in told.results] == ["Meadow", "Ridge"]
    assert any("dazzles" in reason for reason in result(told, "Ridge").reasons)


def test_without_the_reference_or_another_there_is_nothing_to_tell():
    assert shoot_out([turn("Meadow"), turn("Ridge")], CHANGE) is None
    assert shoot_out([turn(OWN), turn(OWN)], CHANGE) is None
    assert shoot_out([], CHANGE) is None


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"distance_m": 9.0}, "the distance"),
        ({"volts": 12.4}, "the supply"),
        ({"meter": "b"}, "the meter"),
        ({"lens": "restored"}, "the lens"),
        ({"other_lamp": True}, "another lamp"),
        ({"wall": "yard"}, "the wall"),
        ({"settled": False}, "it was read cold"),
    ],
)
def test_the_protocol_is_enforced(changed, said):
    assert breaks(FIRST, replace(FIRST, **changed)) == [said]
    assert breaks(FIRST, replace(FIRST, lux=5, point="edge")) == []


def at(volts, factor, turned):
    """A turn as read on another supply, its light *factor* times what the power law would give."""
    return SourceTurn(
        turned.source,
        {
            name: replace(reading, volts=volts, lux=reading.lux * factor)
            for name, reading in turned.readings.items()
        },
    )


def test_a_reference_on_another_supply_has_not_drifted():
    """A filament gives (13.39/13.20)^3.4 = 1.0497 times the light (lighting handbooks, from
    memory): that is the supply, and corrected, not drift.
    """
    turns = [turn(OWN), turn("Ridge", 2.0), at(13.39, (13.39 / 13.2) ** 3.4, turn(OWN))]
    told = shoot_out(turns, CHANGE, PATTERN)
    assert told.drift == pytest.approx(0.0, abs=1e-9)
    assert result(told, "Ridge").overall.ratio == pytest.approx(2.0)


def test_references_between_the_turns_are_used():
    """The lamp loses a tenth between the first two references, then nothing more."""
    turns = [
        turn(OWN),
        turn("Meadow", 1.5 * 0.9**0.5),
        turn(OWN, 0.9),
        turn("Ridge", 2.0 * 0.9),
        turn(OWN, 0.9),
    ]
    told = shoot_out(turns, CHANGE, PATTERN)
    assert result(told, "Meadow").overall.ratio == pytest.approx(1.5)
    assert result(told, "Ridge").overall.ratio == pytest.approx(2.0)
    assert told.drift == pytest.approx(-0.1)
    meadow, ridge = (result(told, name).overall.budget.standard for name in ("Meadow", "Ridge"))
    assert ridge < meadow  # nothing drifted beside it


@pytest.mark.parametrize(
    ("volts", "broken"), [(13.4, False), (13.0, False), (13.41, True), (12.99, True)]
)
def test_a_limit_itself_is_still_alike(volts, broken):
    """0.2 V apart are 0.2, not 0.20000000000000107."""
    assert ("the supply" in breaks(FIRST, replace(FIRST, volts=volts))) is broken


def test_any_two_are_told_in_per_cent_and_what_can_not_be_told_apart_is_said():
    """By hand: 3 against 2 is half as much again; 2.02 against 2 is within its doubt."""
    told = shoot_out(
        [turn(OWN), turn("White", 3), turn("Yellow", 2), turn("Twin", 2.02), turn(OWN)], CHANGE
    )
    pairs = {(it.source, it.other): it for it in any_two(told)}
    assert pairs["White", "Yellow"].more == pytest.approx(0.5)
    assert pairs["Yellow", "White"].more == pytest.approx(-1 / 3)
    assert pairs["White", OWN].more == pytest.approx(2.0)
    assert pairs["White", "Yellow"].differs
    assert not pairs["Twin", "Yellow"].differs


def test_stray_light_that_was_not_read_is_said():
    without = [
        replace(each, readings={name: it for name, it in each.readings.items() if name != "stray"})
        for each in (turn(OWN), turn("Ridge", 2), turn(OWN))
    ]
    (only,) = shoot_out(without, CHANGE).results
    assert "stray light not read" in only.reasons


def test_whom_low_and_high_are_advised_to():
    low = shoot_out([turn(OWN), turn("Ridge", 2), turn("Vale", 1.5), turn(OWN)], CHANGE)
    high = shoot_out([turn(OWN), turn("Ridge", 1.2), turn("Vale", 2), turn(OWN)], CHANGE)
    town, country = for_whom(low, high)
    assert "Ridge" in town
    assert "Vale" in country
    assert len(for_whom(low, low)) == 1
    assert for_whom(low, None) == []
    glaring = shoot_out([turn(OWN), turn("Ridge", 2, stray=4), turn(OWN)], CHANGE)
    assert "none for the road" in for_whom(glaring, high)[0]
