"""The beam's drawn parts, and kept set-ups, without a server."""

import pytest

from cold_arc.core.beam.derived import MeasuredPoint
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.units import UnitSystem
from cold_arc.store.bench import drop_setup, keep_setup, kept_setups
from cold_arc.web.parts.beam_wall import build_beam_wall, yardstick_marks
from cold_arc.web.parts.ray_section import build_ray_section


def wall(distance_m=None, system=UnitSystem.METRIC, shape="elbow"):
    return build_beam_wall("before.png", "after.png", CutOff(shape), (), distance_m, system)


def test_scales_in_degrees():
    drawn = wall()
    assert drawn.unit == "°"
    assert ("0" in {label: place for place, label in drawn.across}) is True
    assert (drawn.width, drawn.height) == (50, 16)


@pytest.mark.parametrize(("system", "unit"), [(UnitSystem.METRIC, "cm"), (UnitSystem.INCH, "in")])
def test_scales_in_lengths_stand_where_the_wall_has_them(system, unit):
    """At 10 m, 1° is 17.5 cm: a mark of 85 cm stands at atan(0.085) = 4.86°."""
    drawn = wall(10.0, system)
    assert drawn.unit == unit
    places = {label: place for place, label in drawn.across}
    if unit == "cm":
        assert places["+85"] == pytest.approx(4.859, abs=1e-3)
    assert places["0"] == 0


def test_the_design_line_is_drawn_unless_there_is_none():
    assert wall().line.startswith("M-25.00 0.57")
    assert wall(shape="none").line == ""


def test_points_stand_in_their_place_and_flip_with_traffic():
    rows = [{"name": "B50L", "h": -3.43, "v": 0.57}, {"name": "zone", "h": [-1, 1], "v": 0.0}]
    values = {"B50L": MeasuredPoint("B50L", 400.0, None, 350)}
    (mark,) = yardstick_marks(rows, values, 1.0)
    assert (mark.x, mark.y, mark.holds) == (-3.43, -0.57, False)
    assert mark.words == "400 cd, at most 350"
    assert yardstick_marks(rows, values, -1.0)[0].x == 3.43


def test_rays_of_a_well_seated_source_lie_over_the_nominal_ones():
    section = build_ray_section(SetUp(source="led"))
    assert len(section.before) == len(section.after) == 6
    assert section.shield is None
    moved = build_ray_section(SetUp(source="led", axial=-3.0))
    assert moved.before == section.before
    assert moved.after != section.after


def test_a_projector_shows_its_shield_and_lens():
    section = build_ray_section(SetUp("projector", source="led"))
    assert section.shield[0] == pytest.approx(52)
    assert section.lens[0] == pytest.approx(100)
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
