"""Access, fitting, proof. Common practice, no published source."""

import pytest

from cold_arc.core.car.bases import catalogue
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Function, Optic, Present, Side
from cold_arc.core.findings import Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.work import access, fitting, proof
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.core.work.diagnosis import faults

STEPS = (
    RouteStep(1, "Bumper off", 30, ("T20",), (Fasteners("screw", 6, "arch"),), shared=True),
    RouteStep(2, "Cap off", 4, ("T20", "pick")),
    RouteStep(3, "Bulb out", 2),
)


def test_minutes_one_side_and_both():
    assert access.minutes_one_side(STEPS) == 36
    assert access.minutes_both(STEPS) == 30 + 6 * 1.75


def test_tools_once_in_order():
    assert access.tools(STEPS) == ["T20", "pick"]


@pytest.mark.parametrize(
    ("step", "by", "order"), [(1, 1, [2, 1, 3]), (3, -1, [1, 3, 2]), (1, -1, [1, 2, 3])]
)
def test_moving_a_step_stays_inside_the_list(step, by, order):
    assert [moved.id for moved in access.moved(STEPS, step, by)] == order


def test_renumbering_gives_fresh_ids():
    assert [step.id for step in access.renumbered(STEPS, 7)] == [7, 8, 9]


def test_starter_ways_name_only_known_cautions():
    for route in access.starter_ways():
        assert route.steps
        for step in route.steps:
            assert step.caution in {"", *access.cautions()}


def source(**facts):
    base = {
        "base": "D2S",
        "watts": 35,
        "claimed_lm": 3000,
        "supply_min_v": 9,
        "supply_max_v": 16,
        "price": 1,
    }
    return LightSource("test", **({"kind": "bulb"} | base | facts))


def lamp(present):
    return Socket(
        SocketKey("headlamp", 1, Side.LEFT), (Function.LOW,), Optic.PROJECTOR, "D2S", present
    )


def step_ids(present, chosen, haze=0):
    return {step.id for step in fitting.steps(lamp(present), UnitCondition(haze=haze), chosen)}


def test_fitting_steps_follow_the_choice():
    assert {"chuck", "mercury"} <= step_ids(Present.HID, source(driver="ballast"))
    assert "bypass" in step_ids(Present.HID, source(driver="in-line"))
    assert "bypass" not in step_ids(Present.HALOGEN, source(driver="in-line"))
    assert {"mount", "move-parts"} <= step_ids(Present.HALOGEN, source(kind="assembly"))
    assert "clock" not in step_ids(Present.HALOGEN, source(kind="assembly"))
    assert step_ids(Present.HALOGEN, None, haze=3) == {"restore", "refit-old"}


def test_the_three_schools_and_the_projector_are_fitted_differently():
    assert "own-driver" in step_ids(Present.HID, source(driver="in-place"))
    assert "bypass" in step_ids(Present.HID, source(driver="in-line"))
    assert not {"own-driver", "bypass"} & step_ids(Present.HID, source(driver="ballast"))


def test_a_projector_is_bare_before_it_is_shut_into_the_lamp():
    kit = source(kind="projector")
    steps = fitting.steps(lamp(Present.HALOGEN), UnitCondition(haze=0), kit, {fitting.OPENED})
    ids = [step.id for step in steps]
    assert ids.count("film") == 1
    assert ids.index("film") < ids.index("open-lamp") < ids.index("reseal")


def test_fitting_cautions_are_known():
    assert {step.caution for step in fitting.all_steps()} <= {"", *access.cautions()}


def test_board_cells():
    cells = proof.cells(["low", "hazard"])
    assert len(cells) == 2 * 2 * 2
    assert proof.untested(cells, {cells[0]: "works"}) == cells[1:]


def test_taps_go_round():
    seen, result = [], None
    for _ in range(5):
        result = proof.next_result(result)
        seen.append(result)
    assert seen == ["works", "dark", "flickers", "warning", "works"]


def test_a_dark_lamp_asks_for_the_plug_to_be_turned():
    (finding,) = proof.findings({proof.Cell("low", "left", "off"): "dark"})
    assert finding.level is Level.STOP
    assert (finding.id, "180°" in finding.values["turn"]) == ("proof-dark", True)
    assert list(proof.findings({proof.Cell("low", "left", "off"): "turned"})) == []


@pytest.mark.parametrize(
    ("base", "mercury"),
    [("D1S", True), ("D2S", True), ("D2R", True), ("D3S", False), ("D4S", False), ("D4R", False)],
)
def test_mercury_is_handed_in_only_where_the_arc_tube_holds_it(base, mercury):
    """UN R99, from memory: D1 and D2 hold mercury, D3 and D4 are free of it."""
    gas = Socket(
        SocketKey("headlamp", 1, Side.LEFT), (Function.LOW,), Optic.PROJECTOR, base, Present.HID
    )
    steps = {step.id for step in fitting.steps(gas, UnitCondition(haze=0), source(base=base))}
    assert ("mercury" in steps) is mercury


def test_fit_steps_come_in_the_order_of_the_work():
    """Common practice, no published source: the seat before the clocking, the clocking before the
    plug.
    """
    halogen = Socket(
        SocketKey("headlamp", 1, Side.LEFT), (Function.LOW,), Optic.PROJECTOR, "H7", Present.HALOGEN
    )
    order = [step.id for step in fitting.steps(halogen, None, source(base="H7", cooling="fan"))]
    assert order.index("film") < order.index("seat") < order.index("clock") < order.index("connect")
    assert order[-1] == "keep-old"


SOURCES = [
    None,
    *(
        source(base="H7", kind=kind, driver=driver, cooling=cooling)
        for kind in ("bulb", "assembly", "projector")
        for driver in ("inside", "in-line", "ballast", "in-place")
        for cooling in ("fan", "passive")
    ),
]


def test_a_lamp_gets_a_step_of_one_name_once():
    """Steps of one id exclude each other, whatever the base, the way in, the source."""
    for base in [*(base.name for base in catalogue()), None]:
        for present in Present:
            socket = Socket(
                SocketKey("headlamp", 1, Side.LEFT), (Function.LOW,), Optic.REFLECTOR, base, present
            )
            for covers in ((), ("cap",), ("boot",), ("housing", "cap")):
                for new in SOURCES:
                    ids = [step.id for step in fitting.steps(socket, None, new, covers)]
                    assert len(ids) == len(set(ids)), (base, present, covers, new)
                    assert ("connect" in ids) is (new is not None)


@pytest.mark.parametrize(
    ("base", "covers", "new", "there", "absent"),
    [
        ("H7", ("cap",), "bulb", {"seat", "o-ring", "gasket", "vent"}, {"mount"}),
        ("H7", ("boot",), "bulb", {"seat"}, {"gasket", "vent"}),
        ("W5W", (), "bulb", {"seat", "connect"}, {"collar", "o-ring", "gasket", "clock"}),
        ("P21W", (), "bulb", {"seat", "connect"}, {"collar", "o-ring", "gasket", "clock"}),
        ("H7", ("housing",), "assembly", {"move-parts", "connect"}, {"seat", "mount", "gasket"}),
        ("H7", (), "assembly", {"mount"}, {"collar", "wobble"}),
    ],
)
def test_a_step_is_there_only_where_the_lamp_has_what_it_is_about(base, covers, new, there, absent):
    """Common practice, no published source."""
    functions = (Function.LOW,) if base == "H7" else (Function.POSITION,)
    socket = Socket(
        SocketKey("headlamp", 1, Side.LEFT), functions, Optic.REFLECTOR, base, Present.HALOGEN
    )
    ids = {step.id for step in fitting.steps(socket, None, source(base=base, kind=new), covers)}
    assert there <= ids
    assert not absent & ids


def test_a_lamp_that_leaves_is_not_polished():
    hazy = UnitCondition(haze=2)
    socket = Socket(
        SocketKey("headlamp", 1, Side.LEFT), (Function.LOW,), Optic.REFLECTOR, "H7", Present.HALOGEN
    )
    kept, leaves = (
        {step.id for step in fitting.steps(socket, hazy, source(base="H7", kind=kind))}
        for kind in ("bulb", "assembly")
    )
    assert "restore" in kept
    assert "restore" not in leaves


def test_every_bad_result_has_advice_and_a_symptom_to_look_for():
    bad = [result for result in proof.RESULTS if result not in proof.GOOD_RESULTS]
    for result in bad:
        (finding,) = proof.findings({proof.Cell("low", "left", "on"): result})
        assert finding.advice
        assert proof.SYMPTOMS[result] in faults().symptoms
