"""What a job's readings and aim say, asked without any page."""

from dataclasses import replace

import pytest

from cold_arc.core.car.front import BeamKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.findings import Level
from cold_arc.core.job import outcome
from cold_arc.core.job.entries import Aimed, Read
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units import UnitSystem
from tests.core.job.test_record import BEAM, Story

RIGHT = BeamKey(Function.LOW, Side.RIGHT)
PEAK = WallReading("peak", 400, 10, 13.2)


def read(story, beam, phase, lux):
    return story.add(Read(phase, f"{lux}", replace(PEAK, lux=lux)), beam)


def test_left_against_right_needs_both():
    story = Story()
    read(story, BEAM, "after", 400)
    assert outcome.balance_findings(story.record, [BEAM, RIGHT]) == []
    read(story, RIGHT, "after", 200)
    (uneven,) = outcome.balance_findings(story.record, [BEAM, RIGHT])
    assert uneven.level is not Level.OK
    read(story, RIGHT, "after", 395)
    (even,) = outcome.balance_findings(story.record, [BEAM, RIGHT])
    assert even.level is Level.OK


def test_what_an_led_gains_on_the_same_supply():
    story = Story()
    read(story, BEAM, "before", 200)
    read(story, BEAM, "after", 500)
    assert outcome.compare(story.record, BEAM).gains["peak"].relative == pytest.approx(1.5)


def aimed(phase, slope, turns=None):
    return Aimed(phase, "un-r48-low", 0.65, 10, slope, "", turns=turns)


def test_how_far_to_turn_on_follows_from_the_last_turns():
    """Two turns dropped it by 0.4 %; from −0.85 % to mid-band at −1.25 % it takes two more the same way."""
    story = Story().add(aimed("found", -0.0045), BEAM).add(aimed("left", -0.0085, 2.0), BEAM)
    texts = [finding.text for finding in outcome.aim_findings(story.record, BEAM, UnitSystem.METRIC)]
    assert any("turn the height screw 2 turns clockwise" in text for text in texts)
    story.add(aimed("left", -0.0085, 1.0), BEAM)
    texts = [finding.text for finding in outcome.aim_findings(story.record, BEAM, UnitSystem.METRIC)]
    assert any("near the end of its travel" in text for text in texts)


def test_nothing_read_says_nothing():
    assert outcome.aim_findings(Story().record, BEAM, UnitSystem.METRIC) == []
    assert outcome.shared_aim(Story().record, BEAM) == []
