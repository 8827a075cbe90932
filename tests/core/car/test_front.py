"""Fronts: units, sockets and what they give; ready-made ones, corrected tap by tap."""

import pytest

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.front import Front, SocketPlan, UnitPlan
from cold_arc.core.car.keys import BeamKey, SocketKey, UnitKey, UnitKind, across, parse_key
from cold_arc.core.car.lamps import Function, Optic, Side
from cold_arc.core.job.codec import structure, to_plain

ALL = [name for name in fronts.ready_made() if name != "signals-only"]


@pytest.mark.parametrize(
    ("text", "key"),
    [
        ("headlamp-left", UnitKey("headlamp", Side.LEFT)),
        ("headlamp2-1-right", SocketKey("headlamp2", 1, Side.RIGHT)),
        ("low-left", BeamKey(Function.LOW, Side.LEFT)),
    ],
)
def test_keys_are_read_as_they_are_written(text, key):
    assert parse_key(text) == key
    assert str(key) == text
    assert parse_key(str(across(key))).side is not key.side


@pytest.mark.parametrize(
    "text", ["", "low", "low-middle", "headlamp-x-left", "-left", "headlamp-1", "low-left-left"]
)
def test_what_is_no_key_is_refused(text):
    with pytest.raises(ValueError):
        parse_key(text)


@pytest.mark.parametrize(
    ("name", "units", "low", "high"),
    [
        ("dual", 1, 1, 1),
        ("two-singles", 1, 1, 1),
        ("projector-low", 1, 1, 1),
        ("hid-bi-projector", 1, 1, 1),
        ("sealed-round", 1, 1, 1),
        ("four-round", 2, 1, 2),
        ("vintage", 1, 1, 1),
    ],
)
def test_ready_made_fronts_are_what_the_trade_calls_them(name, units, low, high):
    """Common practice, no published source: how many units a side, how many sockets give low and
    high beam.
    """
    front = fronts.made(name)
    givers = [
        len(list(front.givers(BeamKey(beam, Side.LEFT)))) for beam in (Function.LOW, Function.HIGH)
    ]
    assert (len(front.units), *givers) == (units, low, high)


def test_one_bulb_or_two():
    assert len(list(fronts.made("dual").sockets())) == 2
    assert len(list(fronts.made("two-singles").sockets())) == 4
    optics = [socket.optic for socket in fronts.made("projector-low").units[0].sockets]
    assert optics == [Optic.PROJECTOR, Optic.REFLECTOR]


@pytest.mark.parametrize("name", ALL)
@pytest.mark.parametrize("extra", fronts.EXTRAS)
def test_additions_come_and_go(name, extra):
    front = fronts.made(name)
    grown = fronts.toggle_extra(front, extra)
    assert fronts.extras_of(grown) == [extra]
    assert any(grown.givers(BeamKey(Function(extra), Side.LEFT)))
    assert fronts.like(grown) == name
    assert fronts.toggle_extra(grown, extra) == front


def test_the_order_additions_were_made_in_does_not_matter():
    front = fronts.made("dual", ["turn", "fog", "drl"])
    assert fronts.like(front) == fronts.like(fronts.made("dual", ["drl", "fog", "turn"])) == "dual"


def test_corrections_keep_every_number():
    front = fronts.made("two-singles")
    front = fronts.toggle_function(front, "headlamp", 2, Function.DRL)
    assert front.socket(SocketKey("headlamp", 2, Side.LEFT)).functions == (
        Function.HIGH,
        Function.DRL,
    )
    front = fronts.remove_socket(front, "headlamp", 1)
    assert [socket.number for socket in front.units[0].sockets] == [2]
    front = fronts.add_socket(front, "headlamp", Function.POSITION)
    assert [socket.number for socket in front.units[0].sockets] == [2, 1]
    assert fronts.like(front) == ""
    front = fronts.add_unit(front, UnitKind.HEADLAMP)
    assert [unit.id for unit in front.units] == ["headlamp", "headlamp2"]


def test_a_unit_goes_with_its_last_socket_and_a_socket_keeps_its_last_function():
    front = fronts.made("dual", ["fog"])
    assert [unit.id for unit in fronts.remove_socket(front, "foglamp", 1).units] == ["headlamp"]
    assert fronts.toggle_function(front, "foglamp", 1, Function.FOG) == front


def test_findings_follow_what_is_there():
    front = fronts.made("four-round", ["fog"])
    assert front.words(BeamKey(Function.LOW, Side.LEFT)) == "Low beam"
    assert front.words(SocketKey("headlamp", 1, Side.LEFT)) == "Low and high beam bulb"
    assert front.words(UnitKey("headlamp2", Side.LEFT)) == "Inner headlamp"
    assert front.words(SocketKey("foglamp", 1, Side.RIGHT)) == "Front fog bulb"


@pytest.mark.parametrize("name", ALL)
def test_a_front_is_read_back_as_it_was_written(name):
    front = fronts.made(name, fronts.EXTRAS)
    assert structure(to_plain(front), Front) == front


@pytest.mark.parametrize(
    "units",
    [
        (UnitPlan(UnitKind.HEADLAMP, ()),),
        (UnitPlan(UnitKind.HEADLAMP, (SocketPlan(1, ()),)),),
        (UnitPlan(UnitKind.HEADLAMP, (SocketPlan(0, (Function.LOW,)),)),),
        (UnitPlan(UnitKind.HEADLAMP, (SocketPlan(1, (Function.LOW,)),)),) * 2,
        (UnitPlan(UnitKind.HEADLAMP, tuple(SocketPlan(n, (Function.LOW,)) for n in range(1, 9))),),
    ],
)
def test_what_no_front_can_be_is_refused(units):
    with pytest.raises(ValueError):
        Front(units)
