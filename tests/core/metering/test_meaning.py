"""What readings come to on the road, against closed forms and the modelled beam."""

import math

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Level
from cold_arc.core.metering import meaning, readings
from cold_arc.core.metering.raster import raster
from cold_arc.core.metering.readings import WallReading
from tests.core.metering.test_raster import read_off


def test_the_mark_at_the_eye_by_hand():
    """W = 5 − 2·log10(E / (0.003·(1 + √(L/0.04))·φ^0.46)), Schmidt-Clausen & Bindels 1974, from
    memory; L 1 cd/m².
    """
    lux, minutes = 2 * 500 / 50**2, 60 * math.hypot(3.43, 0.57)
    expected = 5 - 2 * math.log10(lux / (0.003 * (1 + math.sqrt(1 / 0.04)) * minutes**0.46))
    seen = meaning.at_the_eye(500)
    assert seen.lux == pytest.approx(0.4)
    assert seen.mark == pytest.approx(expected)


@pytest.mark.parametrize(
    ("cd", "word"),
    [(0.0, "unnoticeable"), (30, "satisfactory"), (300, "just admissible"), (20_000, "unbearable")],
)
def test_marks_have_words(cd, word):
    assert meaning.at_the_eye(cd).word == word


def test_more_stray_is_never_better():
    marks = [meaning.at_the_eye(cd).mark for cd in np.geomspace(1, 1e5, 40)]
    assert marks == sorted(marks, reverse=True)
    assert all(1 <= mark <= 9 for mark in marks)


def test_reach_by_inverse_square():
    assert meaning.reach_m(30_000, 3.0) == pytest.approx(100.0)


def test_a_claim_against_what_was_measured():
    (kept,) = meaning.lumens_finding(2.0, 0.1, 1500, 3000)
    assert kept.level is Level.OK
    (short,) = meaning.lumens_finding(1.2, 0.1, 1500, 5000)
    assert short.level is Level.NOTE
    assert "36" in short.limit
    assert meaning.lumens_finding(None, 0.1, 1500, 3000) == []


def test_a_yardstick_by_the_nearest_reading():
    across, down = readings.place("edge", 10.0)
    taken = {"edge": WallReading("edge", 120, 10.0, 13.2, across_m=across, drop_m=down)}
    points = {point.name: point for point in meaning.by_nearest(taken, "un-r112")}
    assert set(points) == {"50V"}
    assert points["50V"].candela == pytest.approx(taken["edge"].candela)
    assert points["50V"].holds
    assert meaning.by_nearest({}, "un-r112") == []


def test_a_yardstick_by_a_raster_agrees_with_the_beam_it_was_read_from():
    beam = beam_of(SetUp("reflector", "H7"))
    told = raster(read_off(beam, np.arange(-12, 12.1, 0.5), np.arange(-5, 5.1, 0.25)))
    by_raster = {point.name: point for point in meaning.by_raster(told, "un-r112")}
    true = {point.name: point for point in derived.at_yardstick(beam, "un-r112")}
    assert {"B50L", "75R", "50R", "50V", "zone III"} <= set(by_raster)
    for name, point in by_raster.items():
        assert point.holds == true[name].holds, name
    assert by_raster["50R"].candela == pytest.approx(true["50R"].candela, rel=0.05)


def test_points_a_raster_does_not_cover_are_left_out():
    beam = beam_of(SetUp("reflector", "H7"))
    told = raster(read_off(beam, np.arange(-2, 2.1, 0.5), np.arange(-3, 0.1, 0.25)))
    assert "25L" not in {point.name for point in meaning.by_raster(told, "un-r112")}
