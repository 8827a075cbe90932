"""What a re-check says of aim and light against how the car left."""

import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core.findings import Level
from cold_arc.core.job import later
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.later import (
    RECHECK,
    WORK,
    Claimed,
    FittedBefore,
    FollowedUp,
    HoursLit,
    LeftSo,
    Returned,
)
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.in_socket import in_socket
from cold_arc.core.light_source import LightSource
from tests.core.job.test_outcome import aimed, read
from tests.core.job.test_record import BEAM, LEFT, Story

DAY = dt.date(2026, 3, 3)
SOURCE = LightSource("Thin", "bulb", "H7", 24, 1900, 9, 16, 50, life_h=20_000)


def back(visit=RECHECK):
    story = Story().add(Returned(visit, "A-1", DAY)).add(FittedBefore(SOURCE, "A-1", DAY), LEFT)
    return story.add(Chosen(None, "stays"), LEFT)


@pytest.mark.parametrize(
    ("now", "level"),
    [(-0.0110, Level.OK), (-0.0085, Level.NOTE), (-0.0180, Level.CAUTION), (0.0, Level.CAUTION)],
)
def test_aim_that_moved_is_told_by_how_far(now, level):
    story = back().add(LeftSo(-0.012), BEAM).add(aimed("found", now), BEAM)
    (drift,) = later.drift_findings(story.record, [BEAM])
    assert drift.level is level
    assert drift.id == ("aim-held" if level is Level.OK else "aim-moved")
    assert drift.values["up"] == pytest.approx(now + 0.012)


def test_a_beam_that_is_not_turned_is_left_as_it_was_found_at_a_re_check_alone():
    looked_at = back().add(aimed("found", -0.012), BEAM).record
    assert looked_at.aimed(BEAM, AimPhase.LEFT).slope == -0.012
    turned = back().add(aimed("found", -0.03), BEAM).add(aimed("left", -0.012), BEAM).record
    assert turned.aimed(BEAM, AimPhase.LEFT).slope == -0.012
    assert back(WORK).add(aimed("found", -0.012), BEAM).record.aimed(BEAM, AimPhase.LEFT) is None


@pytest.mark.parametrize(
    ("after", "hours", "level"),
    [(399, 500, Level.NOTE), (398, 20_000, Level.OK), (200, 500, Level.CAUTION)],
)
def test_fade_is_held_against_what_was_claimed(after, hours, level):
    story = read(read(back(), BEAM, "before", 400), BEAM, "after", after)
    assert later.fade_findings(story.record, [BEAM]) == []
    (faded,) = later.fade_findings(story.add(HoursLit(hours)).record, [BEAM])
    assert faded.level is level
    assert faded.values["life_h"] == SOURCE.life_h


def test_without_a_claim_only_what_no_lamp_may_lose_is_too_much():
    story = read(read(back(), BEAM, "before", 400), BEAM, "after", 200)
    unclaimed = FittedBefore(replace(SOURCE, life_h=None), "A-1", DAY)
    (faded,) = later.fade_findings(story.add(unclaimed, LEFT).add(HoursLit(500)).record, [BEAM])
    assert "life_h" not in faded.values
    assert faded.level is Level.CAUTION


def test_what_an_earlier_job_fitted_is_what_is_in_it_now():
    now = in_socket(back().record, LEFT)
    assert (now.words, now.origin, now.assumed) == ("Thin", "fitted by A-1", False)
    assert now.source is None, "this job put nothing in"


def test_a_re_check_is_due_until_the_car_came_back_for_it():
    story = Story()
    assert later.recheck_due(story.record) is None
    story.add(HandedOver("Ines", (), True, True, DAY))
    assert later.recheck_due(story.record) == DAY
    story.add(FollowedUp(WORK, "A-1, more work"))
    assert later.recheck_due(story.record) == DAY
    story.add(FollowedUp(RECHECK, "A-1, re-check"))
    assert later.recheck_due(story.record) is None


def test_claims_on_a_source_are_told_and_two_are_no_chance():
    assert later.claim_findings([]) == []
    (once,) = later.claim_findings([Claimed("Thin", ("flicker",))])
    assert (once.level, once.values["reasons"]) == (Level.NOTE, "flickers")
    twice = [Claimed("Thin", ("flicker", "fan")), Claimed("Thin", ("flicker",))]
    (often,) = later.claim_findings(twice)
    assert often.level is Level.CAUTION
    assert often.values["reasons"] == "flickers ×2, fan loud or still"
