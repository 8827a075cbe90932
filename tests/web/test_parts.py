"""View objects, built without a server."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.aim.rules import built_in
from cold_arc.core.car import bases
from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Drive, Side, Traffic
from cold_arc.core.metering.readings import POINTS, place
from cold_arc.core.units import UnitSystem
from cold_arc.core.work import clocking
from cold_arc.demo.shelf import SHELF
from cold_arc.web.parts.dial import build_dial
from cold_arc.web.parts.face import choosing_face
from cold_arc.web.parts.labels import Rect, Wanted, settle
from cold_arc.web.parts.section import build_section
from cold_arc.web.parts.wall import LABEL_PX, View, WallLamp, WallPoint, draggable, pair_wall

TARGET = built_in()["un-r48-low"].target(0.65)


def wall(system=UnitSystem.METRIC, degrees=False, **options):
    lamps = [WallLamp(Side.LEFT, 0.65, -0.02, -0.0125, target=TARGET), WallLamp(Side.RIGHT, 0.65)]
    return pair_wall(lamps, 10.0, View(system, degrees), 1.3, **options).finished()


def test_the_wall_is_to_scale():
    """At 10 m, 1 % is 10 cm; the lamps stand 130 cm apart; y runs down from the lamps' height."""
    drawn = wall()
    assert [(x, y) for x, y, _ in drawn.lamps] == [(-65, 0), (65, 0)]
    (keep,) = drawn.keep
    assert (keep.y, keep.height) == pytest.approx((5, 20))
    assert "M-127.0 12.5L-65.0 12.5" in drawn.left[0].path
    assert "M-127.0 20.0L-65.0 20.0" in drawn.found[0].path


def test_a_lower_lamp_stands_lower():
    drawn = pair_wall(
        [WallLamp(Side.LEFT, 0.65), WallLamp(Side.RIGHT, 0.60)], 10.0, View(UnitSystem.METRIC)
    )
    assert [y for _, y, _ in drawn.lamps] == pytest.approx([0, 5])


def test_a_scales_outermost_labels_stay_within_the_frame():
    drawn = wall()
    frame, half = drawn.frame, LABEL_PX * drawn.px
    edges = (frame.x, frame.x + 1.1 * half, 0.0, frame.x + frame.width - 0.9 * half)
    assert [drawn.anchor(x) for x in edges] == ["start", "middle", "middle", "end"]


def test_the_cut_off_rises_on_the_kerb_side():
    assert "L-15.0 " in wall().left[0].path
    assert "L-115.0 " in wall(traffic=Traffic.LEFT).left[0].path
    assert "H" in wall(elbow=False).left[0].path


def test_scales_in_lengths_and_degrees():
    """At 10 m, 1° is 17.455 cm, 2° are 34.921 cm."""
    assert {"0", "+10", "−10"} <= {label for _, label in wall(UnitSystem.INCH).upward}
    places = {label: at for at, label in wall(degrees=True).across if at >= 0}
    assert (places["0"], places["1"], places["2"]) == pytest.approx((0, 17.455, 34.921), abs=1e-3)


def test_points_stand_from_their_own_lamp():
    drawn = wall(points=[WallPoint(Side.RIGHT, "edge", 0.1, 0.15)])
    assert (drawn.points[0].x, drawn.points[0].y) == pytest.approx((75, 15))


def test_the_line_to_drag_stands_where_it_was_read():
    """1.2 % down at 10 m is 12 cm, 0.5 % right 5 cm."""
    line = draggable(wall(), Side.RIGHT, -0.012, 0.005, Traffic.RIGHT, True)
    assert (line.x, line.y, line.lamp_x, line.lamp_y) == pytest.approx((70, 12, 65, 0))


PLACES = st.tuples(
    st.floats(-100, 100), st.floats(-20, 40), st.text("cd 0123456789", min_size=1, max_size=12)
)


@given(st.lists(PLACES, max_size=14))
def test_labels_never_cover_one_another_nor_leave_the_wall(places):
    frame = Rect(-120, -30, 240, 80)
    labels = settle(
        [Wanted(x, y, ((text, ""), (text, "")), 2.0) for x, y, text in places], 3.0, frame
    )
    for one, other in itertools.combinations(labels, 2):
        assert not one.ground.meets(other.ground)
    assert all(label.ground.within(frame) for label in labels)


def test_a_crowd_of_points_keeps_its_labels():
    """Twelve points as a meter takes them on two lamps: every one is named."""
    points = [
        WallPoint(side, name, *place(name, 7.6), "12 180 cd", "28 380 cd")
        for side in Side
        for name in POINTS
    ]
    said = [text for label in wall(points=points).labels for _, text, _ in label.lines]
    assert all(said.count(name) == 2 for name in POINTS)


def test_the_section_lays_chips_over_the_filament():
    section = build_section(
        bases.find("H7"), SHELF["Sableline H7 slim"], UnitCondition(haze=0, room_mm=62)
    )
    assert section.filament.x + section.filament.width / 2 == pytest.approx(25.0)
    assert section.chips[0].x + section.chips[0].width / 2 == pytest.approx(25.1)
    assert section.chips[1].y - (section.chips[0].y + section.chips[0].height) == pytest.approx(1.5)
    assert section.room_x == -62
    assert section.tail.width == 42


def test_no_section_without_figures():
    assert build_section(bases.find("H4"), SHELF["Longshade H4 dual"], None) is None


def test_dial_points_clockwise():
    dial = build_dial(clocking.preset(90))
    assert dial.pointer(dial.stopped_deg) == pytest.approx((64, 0), abs=0.01)
    assert dial.pointer(dial.preset_deg) == pytest.approx((-64, 0), abs=0.01)
    assert build_dial(None).finding is None


def test_the_face_is_seen_from_the_drivers_seat():
    face = choosing_face(fronts.made("four-round", ["fog"]), Drive.RIGHT)
    sockets = {str(socket.key): socket for unit in face.units for socket in unit.sockets}
    left, right = sockets["headlamp-1-left"], sockets["headlamp-1-right"]
    assert left.place.x < right.place.x
    assert left.place.x + left.place.width + right.place.x == pytest.approx(face.width)
    assert left.title.endswith("Left · passenger")
    outer, inner = sockets["headlamp-1-left"].place, sockets["headlamp2-1-left"].place
    assert outer.x + outer.width < inner.x
    assert sockets["foglamp-1-left"].place.y > outer.y + outer.height


@pytest.mark.parametrize("name", [name for name in fronts.ready_made() if name != "signals-only"])
def test_nothing_on_the_face_covers_anything_else(name):
    face = choosing_face(fronts.made(name, fronts.EXTRAS))
    places = [socket.place for unit in face.units for socket in unit.sockets]
    for one, other in itertools.combinations(places, 2):
        apart_x = one.x + one.width <= other.x or other.x + other.width <= one.x
        apart_y = one.y + one.height <= other.y or other.y + other.height <= one.y
        assert apart_x or apart_y
    assert all(place.y + place.height <= face.height for place in places)
