"""The printed target: its marks found and measured by; its sheets; exposures joined. OpenCV draws
the markers.
"""

import cv2
import numpy as np
import pytest

from cold_arc.core.aim.rules import SlopeBand, Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.references import PRACTICE
from cold_arc.core.wallphoto import merging
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.measure import measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from cold_arc.core.wallphoto.wall_target import (
    BOTTOM_CM,
    HALF_WIDTH_CM,
    PAPERS,
    TOP_CM,
    PaperBox,
    PaperLine,
    WallTarget,
    covered,
    find_marks,
    markers,
    sheets,
    unseen_words,
)
from cold_arc.devices.wall_camera import Pose, Shot, before_the_wall, photograph
from tests.core.wallphoto.rendered import LIMITS, SETUPS, ideal, lit, told

NEAR = Pose(x_m=0.4, y_m=1.4, z_m=5.0, pan_deg=-4.0, tilt_deg=-8.0)
SUBJECT = Subject(7.62, 0.72, covered=covered(Side.LEFT, 72.0))


def taken(exposure=-0.3, pose=NEAR, side=Side.LEFT, seed=1):
    shot = Shot(1600, 1200, exposure=exposure, ambient=0.004 * 2**exposure, seed=seed)
    return photograph(lit(SETUPS[0][0]), pose, shot, [], 7.62, 0.72, (0.0, 0.0), side).pixels


def test_a_photograph_is_measured_by_the_target_alone():
    pixels, truth = taken(), told(ideal(*SETUPS[0]))
    marks = find_marks(pixels, Side.LEFT, 72.0)
    found = measure(light_of(pixels), marks, SUBJECT)
    assert len(marks) == 16
    for name, value in told(found).items():
        assert value == pytest.approx(truth[name], abs=LIMITS[name]), name
    assert (
        0.2 < found.stray_pct < 5
    )  # B50L of a real halogen low beam: 100 to 300 cd under some 25 000 (from memory)


def test_the_other_lamps_target_is_not_taken_for_this_ones():
    with pytest.raises(PhotoUnusableError, match="coded marks are not seen"):
        find_marks(taken(side=Side.RIGHT), Side.LEFT, 72.0)


@pytest.mark.parametrize(("distance", "height"), [(5.0, 0.6), (7.62, 0.72), (10.0, 0.9)])
def test_the_simulated_camera_sees_its_target(distance, height):
    pose = before_the_wall(distance, height)
    it = photograph(
        lit(SETUPS[0][0]), pose, Shot(exposure=0.0), (), distance, height, (0.0, 0.0), Side.RIGHT
    )
    found = measure(
        light_of(it.pixels),
        find_marks(it.pixels, Side.RIGHT, 100 * height),
        Subject(distance, height),
    )
    assert found.cutoff_v_deg == pytest.approx(ideal(*SETUPS[0]).cutoff_v_deg, abs=0.05)


def test_markers_are_what_opencv_draws():
    dictionary = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50)
    for marker in (*markers(Side.LEFT), *markers(Side.RIGHT)):
        drawn = cv2.aruco.generateImageMarker(dictionary, marker.number, 60) < 128
        area = sum(box.width * box.height for box in marker.squares())
        assert area / 64 == pytest.approx(drawn.mean(), abs=0.01)


def test_exposures_are_joined_to_one_light():
    """Four stops apart in all: light ratios of the merged picture are those of a picture that tells
    both.
    """
    series = [taken(exposure, seed=number) for number, exposure in enumerate((2.0, -2.0, 0.0))]
    series = [series[it] for it in merging.in_order(series)]
    assert [int(it.mean()) for it in series] == sorted(int(it.mean()) for it in series)
    joined, middle = merging.merged(series), light_of(series[1])
    tells = (middle.light > 0.02) & (middle.light < 0.6)
    ratio = joined.light[tells] / middle.light[tells]
    assert np.percentile(ratio / np.median(ratio), [5, 95]) == pytest.approx([1.0, 1.0], abs=0.15)
    assert not joined.clipped.any()
    found = measure(joined, find_marks(series[1], Side.LEFT, 72.0), SUBJECT)
    assert found.cutoff_v_deg == pytest.approx(ideal(*SETUPS[0]).cutoff_v_deg, abs=0.05)
    assert not any("clipped" in text for text in found.warnings)


def test_what_is_no_series_is_refused_in_a_sentence():
    one = taken()
    with pytest.raises(PhotoUnusableError, match="one size"):
        merging.merged([one, one[:-4]])
    with pytest.raises(PhotoUnusableError, match="exposed alike"):
        merging.merged([one, one])
    with pytest.raises(PhotoUnusableError, match="too far apart"):
        merging.merged([one // 40, np.maximum(one, 245)])


BAND = Target(SlopeBand(-0.02, -0.005), SlopeBand(-0.015, -0.01), None, PRACTICE)


def test_its_lines_stand_where_the_rule_has_them():
    """One per cent at 10 m is 10 cm."""
    target = WallTarget(Side.LEFT, BAND, 10.0, "A-1", "65 cm")
    lines = [it for it in target.shapes() if isinstance(it, PaperLine) and it.y1 == it.y2]
    assert sorted({it.y1 for it in lines if it.dashed}) == pytest.approx([-20.0, -5.0])
    assert {-10.0, -15.0} <= {round(it.y1, 6) for it in lines if not it.dashed}
    assert sum(isinstance(it, PaperBox) for it in target.shapes()) > 4 * 20


@pytest.mark.parametrize("paper", PAPERS.values(), ids=PAPERS.keys())
def test_the_sheets_cover_the_target_and_overlap(paper):
    laid = sheets(paper)
    assert min(it.x for it in laid) <= -HALF_WIDTH_CM
    assert max(it.x + it.width for it in laid) >= HALF_WIDTH_CM
    assert min(it.y for it in laid) <= BOTTOM_CM
    assert max(it.y + it.height for it in laid) >= TOP_CM
    first, beside = laid[0], laid[1]
    assert first.x + first.width - beside.x == pytest.approx(paper.overlap)
    assert first.width + 2 * paper.edge == pytest.approx(paper.width)
    assert len(laid) == 12


def test_which_marks_are_not_seen_is_said():
    every = [
        PhotoMark((0.0, 0.0), (x, 72.0 + y), 0.5)
        for marker in markers(Side.LEFT)
        for x, y in marker.corners
    ]
    assert unseen_words(every, Side.LEFT, 72.0) == ""
    by_height = sorted(every, key=lambda mark: mark.wall_cm[1])
    assert unseen_words(by_height[: len(every) // 2], Side.LEFT, 72.0) == "the upper two"
    assert unseen_words(every[:4], Side.LEFT, 72.0) == f"{len(markers(Side.LEFT)) - 1} of 4"
