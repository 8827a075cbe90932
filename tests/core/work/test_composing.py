"""The whole car's plan. Common practice, no published source; the minutes are worked by hand."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.work import access, composing
from cold_arc.core.work.access import Fasteners, RouteStep
from tests.timing import takes_less

BONNET = RouteStep(1, "Bonnet up", 1, shared=True, opens="bonnet")
DOOR = RouteStep(2, "Door", 4, ("T20",), (Fasteners("push pin", 6, "door"),), opens="liner door")
CAP = RouteStep(3, "Cap off", 2)
LEFT, RIGHT = (UnitKey("headlamp", side) for side in Side)
FOG_LEFT, FOG_RIGHT = (UnitKey("fog", side) for side in Side)

POOL = [
    *(RouteStep(it, f"shared {it}", it + 1, shared=True, opens=f"part {it}") for it in range(3)),
    *(RouteStep(it, f"side {it}", it + 1, opens=f"panel {it}") for it in range(3)),
    RouteStep(4, "behind both", 5, opens="deep", behind=("part 0", "panel 1")),
    *(RouteStep(it, f"lamp {it}", it + 1) for it in range(3)),
]
WAYS = st.dictionaries(
    st.builds(UnitKey, st.sampled_from(["headlamp", "fog", "high"]), st.sampled_from(list(Side))),
    st.lists(st.sampled_from(POOL), min_size=1, max_size=8).map(tuple),
    min_size=1,
)


def both_sides(steps, name="headlamp"):
    return {UnitKey(name, side): steps for side in Side}


@pytest.mark.parametrize("route", access.starter_ways(), ids=lambda route: route.name)
def test_one_lamp_on_both_sides_takes_what_its_route_says(route):
    plan = composing.compose(both_sides(route.steps))
    assert plan.minutes == pytest.approx(access.minutes_both(route.steps))
    assert plan.one_by_one == pytest.approx(2 * access.minutes_one_side(route.steps))


def test_what_two_lamps_share_is_opened_once():
    """By hand: bonnet 1; door 4 + 3; caps 2 + 1.5 for each of two lamps: 15. One by one 1 + 4 + 2,
    four times: 28.
    """
    steps = (BONNET, DOOR, CAP)
    plan = composing.compose(both_sides(steps) | both_sides(steps, "fog"))
    assert plan.minutes == pytest.approx(15)
    assert plan.one_by_one == pytest.approx(28)
    assert [(it.step.text, len(it.units)) for it in plan.openings] == [
        ("Bonnet up", 4),
        ("Door", 2),
        ("Cap off", 1),
        ("Cap off", 1),
        ("Door", 2),
        ("Cap off", 1),
        ("Cap off", 1),
    ]


def way(name):
    return next(it.steps for it in access.starter_ways() if it.name.startswith(name))


@pytest.mark.parametrize("name", ["Bumper off", "Grille", "Under-tray", "Wheel off"])
def test_two_lamps_on_two_sides_take_three_fifths_of_four_plans(name):
    """But for the wheel: what is done for each side anew leaves seven tenths."""
    plan = composing.compose(both_sides(way(name)) | both_sides(way(name), "fog"))
    assert plan.minutes <= (0.6 if name != "Wheel off" else 0.7) * plan.one_by_one


def test_a_step_stands_behind_the_parts_it_names_not_behind_the_step_before_it():
    """Two independent panels in either order for two lamps: each opened once all the same."""
    tray = RouteStep(1, "Tray", 5, shared=True, opens="tray")
    grille = RouteStep(2, "Grille", 7, shared=True, opens="grille")
    first, second = replace(tray, behind=("ramps",)), replace(grille, behind=("ramps",))
    ramps = RouteStep(3, "Ramps", 2, shared=True, opens="ramps")
    plan = composing.compose({LEFT: (ramps, first, second), FOG_LEFT: (ramps, second, first)})
    assert plan.minutes == pytest.approx(2 + 5 + 7)
    chained = composing.compose({LEFT: (ramps, tray, grille), FOG_LEFT: (ramps, grille, tray)})
    assert chained.minutes > plan.minutes


def test_fasteners_and_spares_add_up():
    plan = composing.compose({LEFT: (BONNET, DOOR, CAP), FOG_LEFT: (DOOR, CAP), RIGHT: (DOOR, CAP)})
    assert plan.fasteners == {"push pin": 12}
    assert plan.spares == {"push pin": 3}  # a fifth of 12 is 2.4
    assert plan.tools == ["T20"]


def test_ways_in_that_contradict_each_other_are_kept_apart():
    """A before B for one, B before A for the other: B once, 7, A for each, 10."""
    one, other = RouteStep(1, "A", 5, shared=True), RouteStep(2, "B", 7, shared=True)
    plan = composing.compose({LEFT: (one, other), FOG_LEFT: (other, one)})
    assert plan.minutes == pytest.approx(17)
    assert [it.step.text for it in plan.openings] == ["A", "B", "A"]


@given(WAYS)
def test_everything_stands_before_what_needs_it_and_nothing_closes_over_open_work(ways):
    plan = composing.compose(ways)
    for key, steps in ways.items():
        opened = [it.step for it in plan.openings if key in it.units]
        assert sorted(step.text for step in opened) == sorted(step.text for step in steps)
        assert [it.step for it in plan.closing if key in it.units] == opened[::-1]
        for number, step in enumerate(opened):
            there = {it.opens for it in steps} & set(step.behind)
            assert there <= {it.opens for it in opened[:number]}
        if not any(step.behind for step in steps):
            assert [step.text for step in opened] == [step.text for step in steps]
    assert plan.closing[::-1] == plan.openings
    assert plan.minutes <= sum(step.minutes for steps in ways.values() for step in steps) + 1e-9
    assert len({it.place for it in plan.openings}) == len(plan.openings)


@given(WAYS)
def test_where_the_ways_in_keep_one_order_together_is_never_slower(ways):
    sorted_ways = {key: tuple(sorted(set(steps), key=POOL.index)) for key, steps in ways.items()}
    plan = composing.compose(sorted_ways)
    assert plan.minutes <= plan.one_by_one + 1e-9
    shared = {step.text for steps in sorted_ways.values() for step in steps if step.shared}
    assert sum(it.step.text in shared for it in plan.openings) == len(shared)


def test_two_hundred_steps_are_composed_in_a_tenth_of_a_second():
    steps = [
        *POOL[:6],
        *(RouteStep(it, f"step {it}", 1, opens=f"part {it}" if it % 2 else "") for it in range(44)),
    ]
    ways = both_sides(tuple(steps)) | both_sides(tuple(steps), "fog")
    assert takes_less(0.1, lambda: composing.compose(ways))
    assert len(composing.compose(ways).openings) < 200
