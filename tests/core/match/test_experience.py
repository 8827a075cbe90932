"""What a shop has measured: out of its records, as one, and against the model."""

from dataclasses import replace

import pytest

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Traffic
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.readings import Read, ShootOutEnded, Tried
from cold_arc.core.light_source import LightSource
from cold_arc.core.match import experience, shoot_outs
from cold_arc.core.match.experience import (
    ONE_PLACE,
    MeasuredGain,
    agreement,
    borne_out,
    known_of,
    measured_of,
)
from cold_arc.core.match.prediction import Prediction
from cold_arc.core.metering.readings import WallReading
from tests.core.job.test_record import BEAM, Story
from tests.core.job.test_record import LEFT as SOCKET

BOOKING = Booking("A", "Velmar", "Dorin", Drive.LEFT, "un")
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50)
AT = WallReading("peak", 1, 10, 13.2, meter="b")
PLACES = {"peak": 300.0, "edge": 120.0, "below": 280.0}


def read(story, phase, factor, **taken):
    for name, lux in PLACES.items():
        story.add(Read(phase, "x", replace(AT, point=name, lux=lux * factor, **taken)), BEAM)
    return story


def told(story):
    return [it for _, it in measured_of(story.record, BOOKING, "right")]


def identified():
    return (
        Story()
        .add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), SOCKET)
        .add(Chosen(SLIM, "thin"), SOCKET)
    )


def test_a_chosen_source_read_before_and_after_is_known():
    (it,) = told(read(read(identified(), "before", 1), "after", 2))
    assert it.kind == ("slim", "H7", "reflector", "low")
    assert it.overall == pytest.approx(2.0)
    assert it.ratios["edge"] == pytest.approx(2.0)


@pytest.mark.parametrize(
    "taken",
    [{"lens": "restored"}, {"meter": "simulated"}, {"other_lamp": True}, {"settled": False}],
)
def test_what_proves_nothing_does_not_count(taken):
    assert told(read(read(identified(), "before", 1), "after", 2, **taken)) == []


def shot(story, *turns):
    for number, (source, factor) in enumerate(turns):
        for name, lux in PLACES.items():
            story.add(Tried(number, source, "x", replace(AT, point=name, lux=lux * factor)), BEAM)
    return story


def test_a_shoot_out_teaches_about_every_source():
    story = shot(identified(), ("own", 1), ("slim", 2), ("Ridge", 1.5), ("own", 1))
    found = {it.source: it for it in told(story)}
    assert set(found) == {"slim", "Ridge"}
    assert found["Ridge"].by == "shoot-out"
    assert found["Ridge"].overall == pytest.approx(1.5)
    story.add(ShootOutEnded(), BEAM)
    assert {it.source for it in told(story)} == {"slim", "Ridge"}
    shot(story, ("own", 1), ("Vale", 3))
    assert [turn.source for turn in shoot_outs.under_way(story.record, BEAM)] == ["own", "Vale"]


def test_a_second_shoot_out_begins_with_nothing_and_the_first_is_not_forgotten():
    """Its first own source is no last turn of the old one; what was measured stays known."""
    story = shot(identified(), ("own", 1), ("Gamma", 2), ("own", 1))
    story.add(ShootOutEnded(), BEAM)
    assert shoot_outs.under_way(story.record, BEAM) == []
    assert len(shoot_outs.latest(story.record, BEAM)) == 3
    shot(story, ("own", 1), ("Vale", 3), ("Gamma", 2.2), ("own", 1))
    assert [turn.source for turn in shoot_outs.under_way(story.record, BEAM)] == [
        "own",
        "Vale",
        "Gamma",
        "own",
    ]
    assert [(it.source, it.by) for it in told(story)] == [
        ("Gamma", "shoot-out"),
        ("Vale", "shoot-out 2"),
        ("Gamma", "shoot-out 2"),
    ]


def test_what_was_read_at_the_brightest_point_alone_is_kept_with_a_wider_doubt():
    story = identified()
    for number, (source, factor) in enumerate((("own", 1), ("Ridge", 2), ("own", 1))):
        story.add(Tried(number, source, "x", replace(AT, point="peak", lux=300 * factor)), BEAM)
    (alone,) = told(story)
    assert alone.overall == pytest.approx(2.0)
    (with_more,) = told(shot(identified(), ("own", 1), ("Ridge", 2), ("own", 1)))
    assert alone.doubt > max(ONE_PLACE, 2 * with_more.doubt)


def test_the_less_doubtful_weighs_more():
    """By hand: weights 1/0.04² and 1/0.16², sixteen to one."""
    known = known_of([measured(2.0, 0.04), measured(4.0, 0.16)])
    assert known.ratio == pytest.approx(2.0 * 2 ** (1 / 17))


def measured(overall, doubt=0.04, **ratios):
    return MeasuredGain(
        "slim", "H7", "reflector", "low", ratios or {"peak": overall}, overall, doubt
    )


def test_several_measurements_are_one_by_their_geometric_mean():
    known = known_of([measured(1.6), measured(2.5)])
    assert known.ratio == pytest.approx(2.0)
    assert known.count == 2
    assert known.doubt > 0.04  # they differ by more than each is doubtful
    assert known_of([]) is None


def prediction(peak, edge):
    return Prediction(peak, edge, 20.0, 300.0, 0.02, 0.0, 5.0, 0.2, 0.9, 100.0)


def test_measured_beats_predicted_and_says_by_how_much_it_was_off():
    borne = borne_out(
        prediction(40_000, 20_000), prediction(20_000, 10_000), known_of([measured(1.6)])
    )
    assert borne.predicted == pytest.approx(2.0)
    assert borne.off == pytest.approx(-0.2)
    assert borne.prediction.peak_cd == pytest.approx(32_000)
    assert borne.prediction.spread_deg == 20.0


def test_bias_and_spread_of_the_model():
    assert agreement([(2.0, 2.2), (1.0, 1.1)]).bias == pytest.approx(0.1)
    mixed = agreement([(1.0, 1.2), (1.0, 1 / 1.2)])
    assert mixed.bias == pytest.approx(0.0)
    assert mixed.spread > 0.2
    assert agreement([]) is None


def test_predicted_ratios_are_the_models_own():
    own = SetUp("reflector", "H7")
    told = experience.predicted_ratios(
        replace(own, gain=2.0), own, Function.LOW, Traffic.RIGHT, ["peak", "edge"]
    )
    assert told == {"peak": pytest.approx(2.0), "edge": pytest.approx(2.0)}
