"""Which line of a beam is read: the side its rule goes by, the shape it expects, and what schools
make of a soft edge. Beams are drawn by formula, and one is rendered.

That a lamp of the US is aimed by its left (VOL) or right (VOR) line is 49 CFR 571.108, from memory.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.aim.rules import built_in
from cold_arc.core.beam import derived
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Level
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.units import UnitSystem
from cold_arc.core.wallphoto.camera import find_camera
from cold_arc.core.wallphoto.judging import photo_findings
from cold_arc.core.wallphoto.measure import follow, measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from cold_arc.devices.wall_camera import Shot, photograph
from tests.core.wallphoto.drawn import Drawn, photographed
from tests.core.wallphoto.rendered import lit
from tests.core.wallphoto.test_wallphoto import CORNERS, POSE, SUBJECT
from tests.thorough import thorough, usual

# A lamp aimed right by its kerb's side: that line on the horizon, the other 0.6° under it.
VOR = Drawn(cut=-0.6, shape="step")


def read(beam, line=None, seed=5):
    pixels, marks = photographed(beam, np.random.default_rng(seed))
    return measure(light_of(pixels), marks, replace(beam.subject, line=line))


@pytest.mark.parametrize(
    ("line", "stands", "traffic"),
    [
        (LineRead.KERB, 0.0, Traffic.RIGHT),
        (LineRead.FLAT, -0.6, Traffic.LEFT),
        thorough(LineRead.KERB, 0.0, Traffic.LEFT),
        thorough(LineRead.FLAT, -0.6, Traffic.RIGHT),
    ],
)
def test_the_side_the_rule_goes_by_is_read(traffic, line, stands):
    found = read(replace(VOR, traffic=traffic), line)
    assert found.cutoff_v_deg == pytest.approx(stands, abs=found.uncertainty["cutoff_v_deg"])
    assert found.cutoff_v_deg == pytest.approx(stands, abs=0.05)
    assert found.line == line
    assert found.shape == ()


def test_a_vor_lamp_aimed_right_is_read_and_followed_as_right():
    """The regulation's own lamp through the simulated camera: its right line on the horizon."""
    setup = SetUp(housing="vor-reflector", base="HB4")
    taken = photograph(lit(setup), POSE, Shot(1200, 900), CORNERS, 7.62, 0.72)
    subject = replace(SUBJECT, line=built_in()["us-vor"].line)
    found = measure(light_of(taken.pixels), taken.marks, subject)
    beam = lit(setup)
    stands = derived.cut_off_height(beam, derived.flat_side_deg(beam))
    assert found.cutoff_v_deg == pytest.approx(stands, abs=found.uncertainty["cutoff_v_deg"])
    assert found.cutoff_v_deg > -0.2
    up, _ = follow(light_of(taken.pixels), find_camera(taken.marks, (1200, 900)), subject)
    assert 100 * up == pytest.approx(found.cutoff_slope_pct, abs=0.02)
    target = built_in()["us-vor"].target(0.72)
    levels = {
        finding.level
        for finding in photo_findings(found, target, 7.62, UnitSystem.METRIC, line=subject.line)
    }
    assert Level.STOP not in levels


def test_a_rule_that_goes_by_the_other_side_asks_for_a_new_measurement():
    found = read(VOR, LineRead.FLAT)
    (asked,) = photo_findings(
        found,
        built_in()["us-vor"].target(0.72),
        10.0,
        UnitSystem.METRIC,
        line=built_in()["us-vor"].line,
    )
    assert asked.id == "photo-other-half"


def test_a_line_that_rises_is_none_to_go_by_on_the_kerbs_side():
    with pytest.raises(PhotoUnusableError, match="No level line is seen on the kerb's side"):
        read(Drawn(shape="kink"), LineRead.KERB)


@pytest.mark.parametrize(
    ("beam", "line", "words"),
    [
        (Drawn(shape="step", traffic=Traffic.LEFT), LineRead.LEVEL, "rises on the left"),
        (Drawn(shape="flat"), LineRead.FLAT, "No elbow is seen"),
        thorough(Drawn(shape="kink"), LineRead.FLAT, None),
        thorough(Drawn(shape="step"), LineRead.FLAT, None),
        thorough(Drawn(shape="flat"), LineRead.LEVEL, None),
        (Drawn(shape="flat", roll=0.6), LineRead.LEVEL, None),
        (Drawn(shape="flat", roll=1.2), LineRead.LEVEL, "The line leans by 1.2°"),
    ],
)
def test_another_shape_than_the_rule_expects_is_told(beam, line, words):
    shape = read(beam, line).shape
    assert (words in " ".join(shape)) if words else shape == ()


def test_a_plain_rise_is_no_fog_lamps_line():
    with pytest.raises(PhotoUnusableError, match=r"rises on the right.*fog lamp"):
        read(Drawn(shape="kink"), LineRead.LEVEL)


def test_a_lamp_for_the_other_traffic_is_told():
    """The line rises on the left where the market's traffic keeps to the right."""
    beam = Drawn(shape="kink", traffic=Traffic.LEFT)
    pixels, marks = photographed(beam, np.random.default_rng(3))
    found = measure(light_of(pixels), marks, replace(beam.subject, traffic=Traffic.RIGHT))
    assert "a lamp for traffic on the left" in " ".join(found.shape)


@pytest.mark.parametrize("sigma", usual([0.02, 0.06, 0.12, 0.2, 0.3], [0.02, 0.2]))
def test_the_doubt_of_a_soft_edge_holds_what_other_schools_read(sigma):
    """An edge of the error function: half its height is on the line it was drawn along; the
    steepest logarithm lies above, the farther the softer.
    """
    beam = Drawn(sigma=sigma, shape="flat", stray=0.004)
    found = read(beam, LineRead.LEVEL)
    doubt = found.uncertainty["cutoff_v_deg"]
    assert abs(found.cutoff_v_deg - beam.cut) <= doubt
    half_deg = beam.cut - found.cutoff_v_deg
    assert found.schools.half_deg == pytest.approx(half_deg, abs=0.02 + 0.3 * sigma)
    assert found.schools.steepest_deg > found.schools.half_deg
    assert abs(found.schools.steepest_deg) <= doubt
    assert doubt == pytest.approx(found.schools.spread_deg, abs=0.05)


def test_the_softer_the_edge_the_larger_the_doubt():
    doubts = [
        read(Drawn(sigma=sigma, shape="flat"), LineRead.LEVEL).uncertainty["cutoff_v_deg"]
        for sigma in (0.02, 0.08, 0.16, 0.3)
    ]
    assert doubts == sorted(doubts)
    assert doubts[-1] > 5 * doubts[0]


def test_every_rule_says_what_it_goes_by():
    """By function: fog lamps by a level line, high beams by their hot spot; VOR alone by the
    kerb's side.
    """
    by_function = {"fog": LineRead.LEVEL, "high": LineRead.SPOT}
    for rule in built_in().values():
        usual = by_function.get(rule.functions[0].value, LineRead.FLAT)
        assert rule.line is (LineRead.KERB if rule.id == "us-vor" else usual), rule.id
