"""How steep light is where it is read, held against the beam model's own housings."""

import math

import pytest

from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Function
from cold_arc.core.metering.readings import PLACES
from cold_arc.core.metering.uncertainty import FALL_OFF

HOUSINGS = {
    Function.LOW: [
        SetUp("reflector", "H7"),
        SetUp("projector", "D2S"),
        SetUp("lens-optic", "H7"),
        SetUp("vor-reflector", "H11"),
    ],
    Function.HIGH: [
        SetUp("reflector", "H7", high=True),
        SetUp("reflector", "H4", high=True),
        SetUp("lens-optic", "H7", high=True),
    ],
    Function.FOG: [SetUp("fog-reflector", "H11"), SetUp("fog-projector", "H11")],
}
STEP_DEG = 0.1
# Where light is nearly even the table is what reading it leaves open, not what the model has.
STEEP = 0.8


def steepness(setup, h, v):
    """The steepest change of the logarithm of intensity about a place, per degree."""
    beam = beam_of(setup)
    across = (beam.at(h + STEP_DEG, v), beam.at(h - STEP_DEG, v))
    up = (beam.at(h, v + STEP_DEG), beam.at(h, v - STEP_DEG))
    slopes = [math.log(float(a) / float(b)) / (2 * STEP_DEG) for a, b in (across, up)]
    return math.hypot(*slopes)


@pytest.mark.parametrize("function", list(FALL_OFF))
def test_each_place_is_as_steep_as_the_steepest_housing_has_it(function):
    for point, place in PLACES[function].items():
        steepest = max(steepness(setup, *place) for setup in HOUSINGS[Function(function)])
        stated = FALL_OFF[function][point]
        assert steepest <= 1.05 * stated + 0.1, (point, steepest)
        if stated >= STEEP:
            assert steepest >= 0.3 * stated, (point, steepest)
