"""The beam's drawn parts, and kept set-ups, without a server."""

import pytest

from cold_arc.core.beam.derived import MeasuredPoint
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.units import UnitSystem
from cold_arc.store.bench import drop_setup, keep_setup, kept_setups
from cold_arc.web.parts.beam_wall import build_beam_wall, yardstick_marks
from cold_arc.web.parts.ray_section import build_ray_section
from cold_arc.web.parts.wall import View

DEGREES = View(UnitSystem.METRIC, degrees=True)


def wall(distance_m=10.0, view=DEGREES, shape="elbow"):
    return build_beam_wall(CutOff(shape), view, distance_m)


def test_scales_in_degrees():
    drawn = wall()
    assert drawn.view.unit == "°"
    assert {"0", "5", "20"} <= {label for _, label in drawn.across}


@pytest.mark.parametrize(("system", "unit"), [(UnitSystem.METRIC, "cm"), (UnitSystem.INCH, "in")])
def test_scales_in_lengths_stand_where_the_wall_has_them(system, unit):
    drawn = wall(10.0, View(system))
    assert drawn.view.unit == unit
    places = {label: at for at, label in drawn.across if at >= 0}
    assert places["100"] == pytest.approx(100 if unit == "cm" else 254)


def test_the_design_line_is_drawn_unless_there_is_none():
    """0.57° down at 10 m is 9.95 cm; 25° aside, farther from the lamp, v is the same height on the
    wall.
    """
    assert wall().design_line.startswith("M-466.3 9.9")
    assert wall(shape="none").design_line == ""


def test_points_stand_in_their_place_and_flip_with_traffic():
    """3.43° aside and 0.57° up at 10 m: 59.9 and 9.9 cm."""
    rows = [{"name": "B50L", "h": -3.43, "v": 0.57}, {"name": "zone", "h": [-1, 1], "v": 0.0}]
    values = {"B50L": MeasuredPoint("B50L", 400.0, None, 350)}
    (mark,) = yardstick_marks(rows, values, 1.0)
    assert (mark.right_m, mark.down_m) == pytest.approx((-0.599, -0.0995), abs=1e-3)
    assert mark.holds is False
    assert mark.words == "400 cd, at most 350"
    assert yardstick_marks(rows, values, -1.0)[0].right_m == pytest.approx(0.599, abs=1e-3)


def test_rays_of_a_well_seated_source_lie_over_the_nominal_ones():
    section = build_ray_section(SetUp(source="led"))
    assert len(section.before) == len(section.after) == 6
    assert section.shield is None
    moved = build_ray_section(SetUp(source="led", axial=-3.0))
    assert moved.before == section.before
    assert moved.after != section.after


def test_a_projector_shows_its_shield_and_lens():
    section = build_ray_section(SetUp("projector", source="led"))
    assert section.shield[0] == pytest.approx(74)
    assert section.lens[0] == pytest.approx(128)
    assert build_ray_section(SetUp("projector", high=True)).shield is None


def test_kept_set_ups_come_back_as_they_were(sessions):
    setup = SetUp("projector", "D2S", "led", clock=12.5, yellow=True)
    with sessions.begin() as session:
        first = keep_setup(session, "one", setup)
        assert keep_setup(session, "one", SetUp()) == first
        keep_setup(session, "two", setup)
    with sessions.begin() as session:
        assert dict(kept_setups(session).values()) == {"one": SetUp(), "two": setup}
        drop_setup(session, first)
        drop_setup(session, 999)
    with sessions() as session:
        assert [name for name, _ in kept_setups(session).values()] == ["two"]
