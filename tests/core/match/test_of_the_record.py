"""What Match takes from a record: the housing read on the wall, the aim since, the shoot-outs."""

import math
from dataclasses import replace
from types import SimpleNamespace

import pytest

from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.report import stands_deg
from cold_arc.core.beam.setup import LIMITS, SetUp
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.readings import ShootOutEnded, Tried
from cold_arc.core.match import own_housing, shoot_outs, wall_reading
from cold_arc.core.metering.readings import WallReading
from tests.core.job.written import WrittenJob
from tests.core.match.lamps import GOOD, REFLECTOR, setup
from tests.standing.rare import HOUSING

LOW = BeamKey(Function.LOW, Side.LEFT)
PEAK = WallReading("peak", 210.0, 10.0, 13.2)


def aimed(phase, slope, sideways):
    return Aimed(phase, "un-r48-low", 0.65, 10.0, slope, "", sideways=sideways)


def test_a_housing_read_is_as_doubtful_as_its_reading_and_what_that_left_over():
    """The two by root sum of squares; one read on another car by what lamps of one model differ."""
    read = replace(HOUSING, doubt=0.03, left_pct=4.0)
    assert own_housing.fit_from(read, "as read").left_over == pytest.approx(0.05)
    alike = own_housing.fit_alike(read, "A-1")
    assert alike.left_over == pytest.approx(0.13)
    assert not alike.is_own


@pytest.mark.parametrize(("before", "after"), [(None, 0.01), (0.004, None), (0.002, -0.003)])
def test_a_lamp_is_turned_by_what_its_aim_moved_since_it_was_read(before, after):
    job = WrittenJob()
    job.add(aimed(AimPhase.FOUND, -0.02, before), LOW)
    job.add(aimed(AimPhase.LEFT, -0.012, after), LOW)
    job.add(HOUSING, LOW)
    up, right = (
        math.degrees(math.atan(now or 0.0) - math.atan(then or 0.0))
        for then, now in ((-0.02, -0.012), (before, after))
    )
    assert wall_reading.turned_since(job.record, LOW) == (up, right)


@pytest.mark.parametrize(("up", "right"), [(-0.4, 0.7), (0.9, None), (-30.0, 30.0)])
def test_a_typical_lamp_is_aimed_as_its_photograph_shows_it(up, right):
    """Its line then stands where it was seen to stand, as far as a set-up can be aimed."""
    shines = SetUp(housing="reflector", base="H7", source="led", aim_v=0.3)
    slopes = [math.tan(math.radians(deg or 0.0)) for deg in (up, right)]
    taken = SimpleNamespace(found=SimpleNamespace(aim_deg=(up, right), aim_slopes=slopes))
    seen = wall_reading._aimed_as_seen(shines, taken)
    most = LIMITS["aim_v"].high
    assert seen.aim_v == pytest.approx(max(-most, min(most, up - stands_deg(shines))), abs=5e-4)
    assert seen.aim_h == pytest.approx(max(-most, min(most, right or 0.0)), abs=5e-4)


@pytest.mark.parametrize(
    ("condition", "haze"), [(UnitCondition(haze=0), 0.0), (UnitCondition(haze=2), 0.3), (None, 0.3)]
)
def test_a_lens_that_is_clear_by_now_has_lost_the_haze_that_was_fitted_with_it(condition, haze):
    fit = HousingFit(SetUp(haze=0.3), (), 0.02)
    assert setup(GOOD, replace(REFLECTOR, condition=condition, fit=fit)).haze == haze


@pytest.mark.parametrize(("phase", "asks"), [(AimPhase.FOUND, True), (AimPhase.LEFT, False)])
def test_a_picture_as_found_is_asked_for_the_housing_and_one_as_left_for_the_seat(phase, asks):
    photograph = SimpleNamespace(phase=phase)
    assert wall_reading.WallQuestion(LOW, photograph, SetUp()).of_housing is asks


def test_of_several_shoot_outs_the_last_is_told():
    job = WrittenJob()
    for name in ("Alpha", "Beta"):
        job.add(Tried(0, name, "x", PEAK), LOW)
        job.add(ShootOutEnded(), LOW)
    assert [turn.source for turn in shoot_outs.latest(job.record, LOW)] == ["Beta"]
    assert shoot_outs.under_way(job.record, LOW) == []
    job.add(Tried(0, "Gamma", "x", PEAK), LOW)
    assert [turn.source for turn in shoot_outs.under_way(job.record, LOW)] == ["Gamma"]
