"""Ways in read off a graph of parts, which to propose, what the shop learnt. Common practice, no
published source.
"""

import tomllib
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Level
from cold_arc.core.work import access, choosing, clocking, interlocks, proof
from cold_arc.core.work.access import AccessError, Fasteners, RouteStep, in_order, ways_in
from cold_arc.core.work.choosing import Cost, propose
from cold_arc.core.work.composing import compose
from cold_arc.core.work.extras import extras
from cold_arc.core.work.learning import Done, learnt, with_learnt
from cold_arc.demo.cars import known_ways

# The ways in of the trade: from the bay, past box, tank or bracket, liner door, wheel off, from
# below, grille, bumper, vintage.
TRADE = (
    "bonnet",
    "air box",
    "coolant tank",
    "computer bracket",
    "liner door",
    "wheel",
    "under-tray",
    "grille",
    "bumper",
)


@pytest.mark.parametrize("part", TRADE)
def test_every_way_in_of_the_trade_has_a_starter(part):
    assert any(step.opens == part for way in access.starter_ways() for step in way.steps)


@pytest.mark.parametrize("way", access.starter_ways(), ids=lambda way: way.name)
def test_every_part_stands_after_what_is_before_it(way):
    opened = [step.opens for step in way.steps]
    for number, step in enumerate(way.steps):
        assert set(step.behind) <= set(opened[:number])
        assert step.caution in {"", *access.cautions()}
        assert 0 <= step.risk < len(access.RISKS)


def test_parts_that_are_not_there_or_stand_before_themselves_are_refused():
    part = {"text": "a", "minutes": 1}
    with pytest.raises(AccessError, match="no part “b”"):
        ways_in({"a": part | {"behind": ["b"]}}, [{"name": "x", "through": ["a"]}])
    ring = {"a": part | {"behind": ["b"]}, "b": part | {"behind": ["a"]}}
    with pytest.raises(AccessError, match="before itself"):
        ways_in(ring, [{"name": "x", "through": ["a"]}])


STEPS = st.lists(
    st.builds(
        lambda opens, behind: RouteStep(1, opens, 1, opens=opens, behind=tuple(behind)),
        st.sampled_from("abcde"),
        st.lists(st.sampled_from("abcde"), max_size=2),
    ),
    max_size=7,
).map(tuple)


@given(STEPS)
def test_steps_put_in_order_are_all_there_and_stand_behind_what_they_name_where_it_can_be(steps):
    told = in_order(steps)
    assert sorted(map(str, told)) == sorted(map(str, steps))
    assert in_order(told) == told or any(step.behind for step in steps)


def test_the_garage_knows_eight_cars_three_of_them_two_ways_two_by_side():
    ways = list(known_ways())
    cars = {vehicle for vehicle, _ in ways}
    several = {car for car in cars for unit in {w.unit for v, w in ways if v == car}
               if sum(v == car and w.unit == unit and not w.side for v, w in ways) > 1
               or len({w.side for v, w in ways if v == car and w.unit == unit}) > 2}  # fmt: skip
    by_side = {car for car in cars if {"left", "right"} <= {w.side for v, w in ways if v == car}}
    assert len(cars) >= 8
    assert len(several) >= 3
    assert len(by_side) >= 2


def test_the_demos_car_of_two_lamps_on_two_sides_takes_three_fifths_of_four_plans():
    known = [(way.name, way) for vehicle, way in known_ways() if vehicle == "Orlo Carter 2018"]
    ways = dict(known)
    chosen = {
        "foglamp": ways["Through the lower grille"],
        "headlamp": ways["Lower grille and lamp frame"],
    }
    plan = compose(
        {UnitKey(name, side): way.steps for name, way in chosen.items() for side in Side}
    )
    print(f"\n  two lamps, two sides: {plan.minutes:.0f} min, four plans {plan.one_by_one:.0f} min")
    assert plan.minutes <= 0.6 * plan.one_by_one


DOOR, BUMPER = Cost("Door", 12, 4, 2, 1, 1, 2), Cost("Bumper", 8, 18, 4, 2, 2, 4)
EVEN = Cost("Grille", 12, 2, 2, 1, 1, 1)


@pytest.mark.parametrize(
    ("costs", "prefers", "picked", "why"),
    [
        (
            [DOOR, BUMPER],
            "time",
            1,
            "The least time: 8 min, 4 min less than Door, but of more risk (some, against low).",
        ),
        (
            [DOOR, BUMPER],
            "risk",
            0,
            "The least risk: low, against some of Bumper. It takes 4 min longer.",
        ),
        ([DOOR, EVEN], "time", 1, "As quick as Door, with less risk."),
        ([DOOR, EVEN], "risk", 1, "The least risk: low, in fewer risky steps than Door."),
    ],
)
def test_what_is_proposed_and_why(costs, prefers, picked, why):
    number, said = propose(costs, prefers)
    assert (number, said.replace("\u00a0", " ")) == (picked, why)


def test_one_way_alone_is_not_proposed():
    assert propose([DOOR], "time") is None
    assert choosing.cost("x", (), 3.0).people == 1


def test_what_was_learnt_counts_more_the_more_often_it_was_done():
    """By hand: planned 6; took 9 and 12: (6 + 21) / 3 = 9. Of 20 pins 5 broke: (2 + 5) / 30."""
    known = learnt(
        [Done("grille", 6, 9.0, 10, 3), Done("grille", 6, 12.0, 10, 2), Done("cap", 1, None, 0, 0)]
    )
    assert known["grille"].minutes(6) == pytest.approx(9)
    assert known["grille"].spare_share(0.2) == pytest.approx(7 / 30)
    assert known["cap"].minutes(1) == 1
    grille, cap = RouteStep(1, "Grille off", 6, opens="Grille"), RouteStep(2, "Cap", 1)
    assert [it.minutes for it in with_learnt((grille, cap), known)] == [9, 1]


def test_spares_follow_what_broke():
    pins = RouteStep(1, "Grille", 6, (), (Fasteners("push pin", 10, "grille"),), opens="grille")
    plan = compose({UnitKey("headlamp", Side.LEFT): (pins,)})
    known = learnt([Done("grille", 6, None, 10, 8)])
    assert plan.spares == {"push pin": 2}
    assert plan.spares_with({"grille": known["grille"].spare_share}) == {"push pin": 5}


def test_extra_work_names_only_known_cautions_and_steps():
    assert {it.caution for it in extras().values()} <= {"", *access.cautions()}
    assert {it.when for it in extras().values()} == {"before", "open"}


def test_interlocks_are_asked_for_as_the_market_has_them_and_the_car():
    every = list(proof.FUNCTIONS)
    assert {it.id for it in interlocks.wanted("us", every)} >= {
        "fog-out-with-high",
        "drl-dims-with-turn",
    }
    assert "fog-out-with-high" not in {it.id for it in interlocks.wanted("un", every)}
    assert "fog-independent" in {it.id for it in interlocks.wanted("un", every)}
    assert [it.id for it in interlocks.wanted("un", ["low", "high"])] == [
        "low-returns",
        "high-out-together",
        "high-telltale",
        "accessory",
        "locked-dark",
    ]
    modes = ["switchback", "dimmed"]
    of_lamp = {it.id for it in interlocks.wanted("un", ["turn", "drl", "position"], modes)}
    assert {"switchback-amber-alone", "dimmed-as-position"} <= of_lamp
    assert "sequential-outwards" not in of_lamp
    assert all(it.sources for it in interlocks.interlocks().values())
    (found,) = interlocks.findings({"low-returns": False, "high-telltale": True})
    assert found.level is Level.CAUTION


@pytest.mark.parametrize(
    ("first", "now", "what"),
    [
        (20, -2, None),
        (3, 12, None),
        (20, 21, "collar-slips"),
        (20, 39, "collar-wrong-way"),
        (20, 49, "collar-wrong-way"),
        (20, 51, "clock-not-as-preset"),
        (20, -60, "clock-not-as-preset"),
    ],
)
def test_a_second_reading_is_held_against_the_preset(first, now, what):
    judged = clocking.second_reading(clocking.preset(first), clocking.preset(now))
    assert (judged and judged.id) == what


@pytest.mark.parametrize(
    ("kind", "back"), [(access.OPENED, True), (access.PLUGGED, True), (access.ONE_WAY, False)]
)
def test_what_is_opened_or_unplugged_comes_back(kind, back):
    assert RouteStep(1, "Cap off", 2, kind=kind).comes_back is back


def test_the_garages_graph_is_read_as_any_other():
    told = tomllib.loads((Path(access.__file__).parents[2] / "demo" / "cars.toml").read_text())
    assert len(told["car"]) == 8


def test_bulbs_held_in_two_ways_are_told_each_by_its_own():
    step = RouteStep(1, "Old bulb out", 2)
    both = access.said_for(step, {"low beam bulb": "clip", "high beam bulb": "wedge"})
    assert both.text == (
        "Low beam bulb: release the clip and draw the old bulb straight out; "
        "high beam bulb: turn the holder out and pull the old bulb straight out of it"
    )
    alike = access.said_for(step, {"low beam bulb": "clip", "high beam bulb": "clip"})
    assert alike.text == "Release the clip and draw the old bulb straight out"
    own = replace(step, text="As the shop says")
    assert access.said_for(own, {"low beam bulb": "clip"}) == own
