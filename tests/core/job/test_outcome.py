"""What a job's readings and aim say, asked without any page."""

from dataclasses import replace

import pytest

from cold_arc.core.aim.combined import SHARED
from cold_arc.core.car.front_building import made
from cold_arc.core.car.keys import BeamKey, SocketKey, UnitKey
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.findings import Level
from cold_arc.core.job import outcome, stand
from cold_arc.core.job.entries.aim import AdjustersTold, Aimed
from cold_arc.core.job.entries.book_in import FrontSet, WorkChosen
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.hand_over import TestDriven
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.needs import holds_leaving
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import LENS_RESTORED
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.stand import CarFact
from cold_arc.core.metering.readings import AS_FOUND, RESTORED, WallReading
from cold_arc.core.units import UnitSystem
from tests.core.job.test_record import BEAM, LEFT, Story

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
    return Aimed(AimPhase(phase), "un-r48-low", 0.65, 10, slope, "", turns=turns)


def test_how_far_to_turn_on_follows_from_the_last_turns():
    """Two turns dropped it by 0.4 %; from −0.85 % to mid-band at −1.25 % it takes two more the same
    way.
    """
    story = Story().add(aimed("found", -0.0045), BEAM).add(aimed("left", -0.0085, 2.0), BEAM)

    def said():
        findings = outcome.aim_findings(story.record, BEAM, UnitSystem.METRIC)
        return {finding.id: finding.values for finding in findings}

    assert said()["turn-to-middle"]["turn"] == "height screw 2 turns clockwise"
    story.add(aimed("left", -0.0085, 2.0), BEAM)
    assert "screw-stopped" in said()


def test_nothing_read_says_nothing():
    assert outcome.aim_findings(Story().record, BEAM, UnitSystem.METRIC) == []
    assert outcome.combined_findings(Story().record, [BEAM], UnitSystem.METRIC) == []


def combined():
    """A lamp whose one bulb gives low and high beam."""
    story = Story().add(FrontSet(made("dual")))
    return story.add(
        WorkChosen(), SocketKey("headlamp", 1, Side.LEFT), SocketKey("headlamp", 1, Side.RIGHT)
    )


HIGH = BeamKey(Function.HIGH, Side.LEFT)


def of_high(phase, slope):
    return Aimed(AimPhase(phase), "high-centred", 0.65, 10, slope, "")


def test_high_beam_moves_with_low_beam_after_it_was_read():
    """High read 1.0 % up, low then lowered by 0.4 %: high stands at 0.6 %, 1.5 % over low."""
    story = combined().add(aimed("left", -0.005), BEAM).add(of_high("left", 0.010), HIGH)
    story.add(aimed("left", -0.009), BEAM)
    (told,) = outcome.combined_findings(story.record, [BEAM], UnitSystem.METRIC)
    assert "15.0 cm, 1.50 %" in told.number.replace("\xa0", " ")
    story.add(of_high("left", 0.012), HIGH)  # read again: as it is read
    (told,) = outcome.combined_findings(story.record, [HIGH], UnitSystem.METRIC)
    assert "21.0 cm, 2.10 %" in told.number.replace("\xa0", " ")


@pytest.mark.parametrize("front", ["two-singles", "projector-low"])
def test_two_bulbs_of_one_housing_hang_together_once_it_is_told(front):
    """Each moves by itself until someone says that one adjuster moves both, as in most housings
    (common practice).
    """
    story, housing = Story().add(FrontSet(made(front))), UnitKey("headlamp", Side.LEFT)
    story.add(WorkChosen(), SocketKey("headlamp", 1, Side.LEFT))
    assert (
        outcome.housing_of_both(story.record, BEAM)
        == outcome.housing_of_both(story.record, HIGH)
        == housing
    )
    assert (
        outcome.one_adjuster(story.record, BEAM),
        outcome.combined_with(story.record, BEAM),
    ) == (None, None)
    story.add(AdjustersTold(True), housing)
    assert (
        outcome.combined_with(story.record, BEAM),
        outcome.combined_with(story.record, HIGH),
    ) == (HIGH, BEAM)
    assert outcome.combined_with(story.record, RIGHT) is None  # told of the left housing alone
    story.add(aimed("left", -0.012), BEAM).add(of_high("left", 0.016), HIGH)
    (told,) = outcome.combined_findings(story.record, [BEAM], UnitSystem.METRIC)
    assert told.id == "both-can-be-in"
    story.add(AdjustersTold(False), housing)
    assert outcome.combined_with(story.record, BEAM) is None


def test_lamps_that_share_no_housing_are_not_asked_about():
    for front in ("dual", "four-round"):
        story = Story().add(FrontSet(made(front)))
        assert outcome.housing_of_both(story.record, BEAM) is None
        assert outcome.housing_of_both(story.record, BeamKey(Function.FOG, Side.LEFT)) is None


def test_as_found_and_as_left_are_not_mixed():
    story = combined().add(of_high("found", 0.010), HIGH).add(aimed("left", -0.012), BEAM)
    (told,) = outcome.combined_findings(story.record, [BEAM, RIGHT], UnitSystem.METRIC)
    assert told is SHARED


def test_a_high_beam_on_low_beams_adjuster_stops_nothing():
    story = combined().add(of_high("left", 0.03), HIGH)
    (told,) = outcome.aim_findings(story.record, HIGH, UnitSystem.METRIC)
    assert (told.level, told.advice) == (Level.CAUTION, "")
    alone = Story().add(of_high("left", 0.03), HIGH)
    assert outcome.aim_findings(alone.record, HIGH, UnitSystem.METRIC)[0].level is Level.STOP


def strays(lux, distance_m=10.0):
    return Read(Phase.AFTER, "", replace(PEAK, point="stray", lux=lux, distance_m=distance_m))


def test_a_lamp_that_dazzles_holds_hand_over_for_a_reason():
    """31 lx at 10 m is 3 100 cd, five times the 625 cd of zone III (UN R112, from memory)."""
    story = Story().add(strays(31.0), BEAM)
    dazzles = outcome.dazzle(story.record, BEAM)
    assert dazzles.level is Level.CAUTION
    assert "625" in dazzles.limit
    assert any("low beam dazzles" in text for text in story.missing(Stage.HAND_OVER, LEFT))
    assert "no-dazzle" in {it.need.id for it in holds_leaving(Progress(story.record))}
    story.add(strays(3.0), BEAM)
    assert outcome.dazzle(story.record, BEAM) is None
    assert not any("dazzles" in text for text in story.missing(Stage.HAND_OVER, LEFT))


def test_what_was_told_at_one_stage_is_known_at_every_other():
    """A lamp's own height, its wall's distance, whichever entry told them; what nobody told is
    assumed, and says so.
    """
    story = Story()
    assert stand.height(story.record, BEAM) == CarFact(0.65, "assumed, not measured", assumed=True)
    assert stand.distance(story.record, [BEAM]).assumed
    story.add(Read(Phase.BEFORE, "", replace(PEAK, height_m=0.83, distance_m=7.62)), BEAM)
    story.add(Read(Phase.BEFORE, "", replace(PEAK, distance_m=7.62)), BEAM)
    assert stand.height(story.record, BEAM) == CarFact(0.83, "told at Baseline, low beam left")
    assert stand.distance(story.record, [RIGHT]).value == 7.62  # the car stands before one wall
    other = stand.height(story.record, RIGHT)
    assert (other.value, other.assumed) == (0.83, True)
    assert "left lamp's" in other.origin
    story.add(Aimed(AimPhase.FOUND, "un-r48-low", 0.71, 10, -0.01, "", spacing_m=1.3), BEAM)
    assert stand.height(story.record, BEAM) == CarFact(0.71, "told at Aim, low beam left")
    assert stand.distance(story.record, [BEAM]).value == 10
    assert stand.spacing(story.record, [RIGHT]).value == 1.3


def test_what_is_assumed_is_said_where_it_counts():
    story = Story()
    assumed = stand.assumed_findings(story.record, [BEAM], UnitSystem.METRIC)
    assert [(one.values["what"], one.values["origin"]) for one in assumed] == [
        ("Left: the lamp's height", "assumed, not measured"),
        ("The wall's distance", "assumed, not measured"),
    ]
    story.add(Aimed(AimPhase.FOUND, "un-r48-low", 0.71, 10, -0.01, ""), BEAM)
    assert stand.assumed_findings(story.record, [BEAM], UnitSystem.METRIC) == []


def test_verify_wants_what_proves_it_where_baseline_was_skipped():
    assert Story().missing(Stage.VERIFY, BEAM) == ["no reading after: peak, edge, stray"]


@pytest.mark.parametrize(
    ("met", "what"),
    [
        ({"flashed": True}, "drive-flashed"),
        ({"heard": True}, "drive-heard"),
        ({"levelling": "stuck"}, "drive-levelling"),
    ],
)
def test_what_the_test_drive_meets_is_a_reason_to_come_back(met, what):
    quiet = TestDriven("Ines", 20, "dark road")
    assert outcome.drive_findings(Story().add(quiet).record) == []
    drive = replace(quiet, **met)
    (found,) = outcome.drive_findings(Story().add(quiet).add(drive).record)
    assert found.level is Level.CAUTION
    assert found.id == what
    assert "dark road" in outcome.drive_words(drive)
    assert outcome.drive_words(drive) != outcome.drive_words(quiet)


def test_work_on_the_lens_gains_by_itself_what_the_old_source_shows_through_it():
    """As found and since it was polished, the same source: the lens's own gain; else nothing."""
    story = Story()
    read(story, BEAM, "before", 200)
    assert outcome.lens_gain(story.record, BEAM) is None
    polished = replace(PEAK, lux=260, lens="restored")
    story.add(Read(Phase.BEFORE, "260", polished), BEAM)
    gained = outcome.lens_gain(story.record, BEAM)
    assert gained.gains["peak"].relative == pytest.approx(0.3)
    alone = Story()
    alone.add(Read(Phase.BEFORE, "260", polished), BEAM)
    assert outcome.lens_gain(alone.record, BEAM) is None


def test_a_lens_restored_since_counts_though_the_form_still_has_it_as_found():
    """A fact is told once: ticked at Fit, it stands at Verify; before the tick it does not."""
    story = Story()
    read(story, BEAM, "before", 200)
    story.add(Ticked(LENS_RESTORED), LEFT)
    read(story, BEAM, "after", 500)
    read(story, RIGHT, "before", 200)
    read(story, RIGHT, "after", 500)
    assert story.record.lens_restored_at(LEFT.of_unit) == 5
    assert story.record.lens_restored_at(UnitKey("headlamp", Side.RIGHT)) == 0
    worked_on, alone = (outcome.compare(story.record, beam) for beam in (BEAM, RIGHT))
    assert "lens" in worked_on.refused
    assert alone.refused == ""
    read(story, BEAM, "before", 260)  # the old source once more, through the lens as it is now
    assert outcome.compare(story.record, BEAM).refused == ""
    assert outcome.lens_gain(story.record, BEAM).gains["peak"].relative == pytest.approx(0.3)


def test_the_lens_is_each_lamps_own_fact():
    """Restored where Fit says so of every lamp; as last told of it; else washed, as another was."""
    story = Story()
    assert stand.lens(story.record, [BEAM, RIGHT]) == AS_FOUND
    story.add(Read(Phase.BEFORE, "200", replace(PEAK, lens="cleaned")), BEAM)
    assert stand.lens(story.record, [RIGHT]) == "cleaned"
    story.add(Read(Phase.BEFORE, "200", replace(PEAK, lens=RESTORED)), BEAM)
    assert stand.lens(story.record, [BEAM]) == stand.lens(story.record, [HIGH]) == RESTORED
    assert stand.lens(story.record, [RIGHT]) == "cleaned"
    story.add(Read(Phase.BEFORE, "200", PEAK), RIGHT)
    assert stand.lens(story.record, [RIGHT]) == AS_FOUND
    story.add(Ticked(LENS_RESTORED), SocketKey("headlamp", 1, Side.RIGHT))
    assert stand.lens(story.record, [RIGHT]) == RESTORED
