"""A photograph of the wall against its rendered truth (docs/accuracy.md has two hundred), and what
is refused.

The definition of the cut-off is UN R112's G, from memory; perspective is checked by closed forms.
"""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.light.cut_off import find_edge
from cold_arc.core.wallphoto.camera import PhotoMark, bent, find_camera
from cold_arc.core.wallphoto.directions import Plan, Subject
from cold_arc.core.wallphoto.isolux import LuxReading, lines
from cold_arc.core.wallphoto.lines import fit_cut_off
from cold_arc.core.wallphoto.measure import SOFTENED, measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from cold_arc.devices.wall_camera import Pose, Shot, marks_of, photograph
from tests.core.wallphoto.rendered import LIMITS, SETUPS, lit, trials

CORNERS = [(-130.0, 15.0), (130.0, 15.0), (130.0, 120.0), (-130.0, 120.0)]
POSE = Pose(x_m=0.3, y_m=1.3, z_m=6.5, tilt_deg=-5.0)
SUBJECT = Subject(7.62, 0.72)


@pytest.fixture(scope="module")
def taken():
    return photograph(lit(SETUPS[0][0]), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72)


@pytest.mark.parametrize("count", [2, pytest.param(12, marks=pytest.mark.thorough)])
def test_random_photographs_are_measured_within_what_is_asked(count):
    """Some of them here; their stated doubt is held against two hundred in docs/accuracy.md."""
    for trial in trials(count, seed=7):
        for name, error in trial.errors.items():
            assert abs(error) <= LIMITS[name], (name, error)
            soft = 0.15 * SOFTENED.get(name, 0.0)  # by as much schools part over such lamps
            assert 0 < trial.stated[name] < 2 * LIMITS[name] + soft


def test_turning_the_lamp_moves_what_is_measured_by_as_much(taken):
    turned = photograph(lit(SETUPS[0][0]), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72, (0.5, -0.4))
    before, after = (measure(light_of(it.pixels), it.marks, SUBJECT) for it in (taken, turned))
    assert after.cutoff_v_deg - before.cutoff_v_deg == pytest.approx(-0.4, abs=0.03)
    assert after.elbow.h_deg - before.elbow.h_deg == pytest.approx(0.5, abs=0.1)
    assert after.hot_spot.h_deg - before.hot_spot.h_deg == pytest.approx(0.5, abs=0.1)


def test_a_rolled_camera_is_no_rolled_lamp():
    for roll in (-8.0, 8.0):
        it = photograph(
            lit(SETUPS[2][0]), replace(POSE, roll_deg=roll), Shot(1200, 900), CORNERS, 7.62, 0.72
        )
        assert measure(light_of(it.pixels), it.marks, SUBJECT).roll_deg == pytest.approx(
            0.0, abs=0.25
        )


def test_the_roll_is_anticlockwise_positive_seen_from_the_car():
    """Marks told 1° of slope lower on the left: the line then rises to the right, which is
    anticlockwise.
    """
    it = photograph(lit(SETUPS[2][0]), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72)
    slope = np.tan(np.radians(1.0))
    tilted = [
        replace(mark, wall_cm=(mark.wall_cm[0], mark.wall_cm[1] + slope * mark.wall_cm[0]))
        for mark in it.marks
    ]
    assert measure(light_of(it.pixels), tilted, SUBJECT).roll_deg == pytest.approx(1.0, abs=0.3)


@pytest.mark.parametrize("k1", [-0.08, 0.05])
def test_a_lens_that_bends_is_seen_through_by_eight_marks(k1):
    marks = [*CORNERS, (0, 15), (0, 120), (-130, 70), (130, 70)]
    it = photograph(lit(SETUPS[2][0]), replace(POSE, k1=k1), Shot(1200, 900), marks, 7.62, 0.72)
    camera = find_camera(it.marks, (1200, 900))
    assert camera.k1 == pytest.approx(k1, abs=0.01)
    straight = photograph(lit(SETUPS[2][0]), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72)
    found, plain = (measure(light_of(each.pixels), each.marks, SUBJECT) for each in (it, straight))
    assert found.cutoff_v_deg == pytest.approx(plain.cutoff_v_deg, abs=0.03)


def test_perspective_is_undone_exactly():
    """Places between the marks come out where they were: a homography has no other freedom."""
    marks = marks_of(POSE, (1200, 900), CORNERS)
    camera = find_camera(marks, (1200, 900))
    (inside,) = marks_of(POSE, (1200, 900), [(37.0, 61.0)])
    u, v = camera.pixels(np.array([37.0]), np.array([61.0]))
    assert (u[0], v[0]) == pytest.approx(inside.px, abs=1e-3)
    assert camera.residual_cm < 1e-4


def test_a_bent_lens_leaves_the_middle_alone():
    """k1 of a half diagonal squared: at the corner the picture is 1 + k1 times as far out."""
    u, v = bent(np.array([599.5, 1199.0]), np.array([449.5, 899.0]), 0.1, (1200, 900))
    assert (u[0], v[0]) == pytest.approx((599.5, 449.5))
    assert (u[1] - 599.5) / 599.5 == pytest.approx(1.1, abs=2e-3)


def test_an_analytic_edge_is_found_where_it_falls_off_most():
    """E falls tenfold every 0.2° over a step down from level light: steepest where it starts to."""
    h, v = np.arange(-8, 8, 0.1), np.arange(-7, 4, 0.02)
    kink = -0.6 + np.where(h > 0.4, 0.25 * (h - 0.4), 0.0)
    light = 1 / (1 + 10 ** (5 * (v[:, None] - kink[None, :]) / 0.5))
    cut = fit_cut_off(find_edge(light, h, v), Traffic.RIGHT)
    hard = np.where(v[:, None] < kink[None, :], 1.0, 0.0)
    sharp = fit_cut_off(find_edge(hard, h, v), Traffic.RIGHT)
    assert sharp.level_deg == pytest.approx(-0.6, abs=0.02)
    assert sharp.elbow[0] == pytest.approx(0.4, abs=0.1)
    assert cut.level_deg == pytest.approx(-0.6, abs=0.1)
    assert cut.slope == pytest.approx(0.0, abs=1e-3)


def test_a_reading_of_the_meter_makes_it_candela(taken):
    """The same beam at 0.1 of full and a reading at the hot spot: its candela is the reading's."""
    beam = lit(SETUPS[0][0])
    place = (27.0, 50.0)
    from cold_arc.core.beam import derived

    lux = float(derived.wall_lux(beam, np.array([0.27]), np.array([0.22]), 7.62)[0])
    found = measure(light_of(taken.pixels), taken.marks, SUBJECT, LuxReading(lux, place))
    assert found.peak_cd == pytest.approx(float(beam.intensity.max()), rel=0.12)


def refused(pixels, marks, words, subject=SUBJECT):
    with pytest.raises(PhotoUnusableError, match=words):
        measure(light_of(pixels), marks, subject)


def test_what_can_not_be_measured_is_refused_in_a_sentence(taken):
    marks, pixels = list(taken.marks), taken.pixels
    refused(pixels, marks[:3], "Four marks")
    refused(pixels, [marks[0]] * 4, "quadrilateral")
    line = [replace(mark, px=(100.0 * n, 50.0 * n + 50)) for n, mark in enumerate(marks, 1)]
    refused(pixels, line, "quadrilateral")
    swapped = [
        replace(marks[0], wall_cm=marks[1].wall_cm),
        replace(marks[1], wall_cm=marks[0].wall_cm),
        *marks[2:],
    ]
    refused(pixels, swapped, "cross|quadrilateral|No camera")
    refused(pixels, [replace(marks[0], px=(float("nan"), 3.0)), *marks[1:]], "no number")
    refused(pixels, [replace(marks[0], px=(-50.0, 3.0)), *marks[1:]], "outside")
    refused(pixels, [replace(marks[0], px=(1e300, 3.0)), *marks[1:]], "outside")
    refused(pixels, [replace(marks[0], wall_cm=(1e300, 3.0)), *marks[1:]], "beyond any wall")
    wide = [replace(mark, wall_cm=(1.5 * mark.wall_cm[0], mark.wall_cm[1])) for mark in marks]
    refused(pixels, wide, "stretched")
    refused(np.full_like(pixels, 255), marks, "over-exposed")
    refused(np.zeros_like(pixels), marks, "too dark")
    refused(cv2.GaussianBlur(pixels, (0, 0), 60), marks, "blurred|cut-off")
    odd = [*marks, PhotoMark((600.0, 300.0), (0.0, 0.0)), PhotoMark((200.0, 300.0), (90.0, 90.0))]
    refused(pixels, odd, "agree|cross")
    off = [*marks, replace(marks[0], wall_cm=(-100.0, 30.0))]
    refused(pixels, off, "agree")


def test_a_high_beam_has_a_hot_spot_and_no_cut_off():
    beam = lit(replace(SETUPS[0][0], high=True))
    it = photograph(beam, POSE, Shot(1200, 900), CORNERS, 7.62, 0.72)
    found = measure(light_of(it.pixels), it.marks, replace(SUBJECT, function="high"))
    assert found.cutoff_v_deg is None
    assert (found.hot_spot.h_deg, found.hot_spot.v_deg) == pytest.approx((0.0, 0.0), abs=0.6)


def test_clipping_is_noticed(taken):
    bright = photograph(lit(SETUPS[0][0]), POSE, Shot(1200, 900, exposure=0.8), CORNERS, 7.62, 0.72)
    found = measure(light_of(bright.pixels), bright.marks, SUBJECT)
    assert any("clipped" in text for text in found.warnings)
    assert light_of(bright.pixels).clipped.any()


def test_left_hand_traffic_is_measured_alike():
    """The mirrored beam: its cut-off at the same height, its elbow and hot spot on the other
    side.
    """
    right, left = (
        photograph(lit(SETUPS[n][0]), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72) for n in (0, 4)
    )
    here = measure(light_of(right.pixels), right.marks, SUBJECT)
    there = measure(light_of(left.pixels), left.marks, replace(SUBJECT, traffic=Traffic.LEFT))
    assert there.cutoff_v_deg == pytest.approx(here.cutoff_v_deg, abs=0.05)
    assert there.elbow.h_deg == pytest.approx(-here.elbow.h_deg, abs=0.2)
    assert there.hot_spot.h_deg == pytest.approx(-here.hot_spot.h_deg, abs=0.25)


def test_lines_of_equal_light_are_where_the_light_is():
    """Light that falls off as a cone: the line of 100 lx is a circle of 0.5 m; one that leaves the
    picture is open.
    """
    x, y = np.meshgrid(np.linspace(-1.0, 1.0, 401), np.linspace(0.8, -0.8, 321))
    light = np.maximum(0.0, 1.0 - np.hypot(x, y)).astype(np.float32)
    found = {it.lux: it.runs for it in lines(Plan(-1.0, 1.0, 0.8, -0.8, light), 200.0)}
    (circle,) = found[100.0]
    assert circle[0] == circle[-1]
    assert [np.hypot(*place) for place in circle] == pytest.approx([0.5] * len(circle), abs=0.01)
    assert len(found[20.0]) == 2  # cut off above and below
    assert all(abs(down) < 0.8 - 1e-9 for run in found[20.0] for _, down in run)
