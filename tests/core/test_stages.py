"""The record and the ten stages."""

import datetime as dt

import pytest

from cold_arc.core import proof, record, stages
from cold_arc.core.access import Fasteners, RouteStep
from cold_arc.core.condition import LampCondition
from cold_arc.core.lamps import Drive, Function, Housing, LampKey, Present, Side, side_words
from cold_arc.core.light_source import LightSource
from cold_arc.core.readings import WallReading
from cold_arc.core.record import Entry, Record
from cold_arc.core.stages import Stage, Status

LEFT, RIGHT = LampKey(Function.LOW, Side.LEFT), LampKey(Function.LOW, Side.RIGHT)
NOW = dt.datetime(2026, 1, 5, 9, tzinfo=dt.UTC)
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50, faces=2, gap_mm=1.5, lcl_mm=25.0, emitter_mm=4.2)
SHARED = RouteStep(1, "Shroud off", 5, fasteners=(Fasteners("push pin", 6, "shroud"),), shared=True)


class Story:
    def __init__(self):
        self.entries = []
        self.add(record.Booking("A", "Velmar", "Dorin", Drive.LEFT, "un"))
        self.add(record.LampsChosen(), LEFT, RIGHT)

    def add(self, payload, *lamps):
        self.entries.append(Entry(len(self.entries) + 1, NOW, frozenset(lamps), payload))
        return self

    @property
    def record(self):
        return Record(self.entries)

    def missing(self, stage, key=LEFT):
        return stages.missing(self.record, key, stage)


def test_ten_stages_in_order():
    assert [stage.number for stage in Stage] == list(range(1, 11))
    assert Stage.BOOK_IN.next is Stage.INSPECT
    assert Stage.HAND_OVER.next is None


def test_passing_moves_on_and_reopening_goes_back():
    story = Story().add(record.Passed("book-in"), LEFT).add(record.Passed("inspect", "customer waits"), LEFT)
    standing = stages.statuses(story.record, LEFT)
    assert (standing[Stage.BOOK_IN], standing[Stage.INSPECT]) == (Status.DONE, Status.SKIPPED)
    assert stages.current(story.record, LEFT) is Stage.BASELINE
    assert stages.current(story.record, RIGHT) is Stage.BOOK_IN
    assert stages.least(story.record) is Stage.BOOK_IN
    story.add(record.Reopened("inspect"), LEFT)
    assert stages.current(story.record, LEFT) is Stage.INSPECT
    assert stages.statuses(story.record, LEFT)[Stage.MATCH] is Status.AHEAD


def test_an_undone_entry_does_not_count():
    story = Story().add(record.Inspected(LampCondition(haze=3)), LEFT)
    assert story.record.condition(LEFT).haze == 3
    last = story.entries[-1]
    story.entries[-1] = Entry(last.id, last.at, last.lamps, last.payload, undone_at=NOW)
    assert story.record.condition(LEFT) is None


def test_missing_at_each_early_stage():
    story = Story()
    assert story.missing(Stage.BOOK_IN)
    story.add(record.Identified(Housing.PROJECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    assert story.missing(Stage.BOOK_IN) == []
    assert story.missing(Stage.INSPECT) == ["condition not recorded"]
    assert story.missing(Stage.BASELINE) == ["no reading before: peak, edge, stray"]
    story.add(record.Read("before", "180", WallReading("peak", 180, 10, 13)), LEFT)
    assert story.missing(Stage.BASELINE) == ["no reading before: edge, stray"]
    assert story.missing(Stage.VERIFY) == ["no reading after: peak"]
    assert story.missing(Stage.MATCH) == ["nothing chosen"]
    assert story.missing(Stage.PLAN) == ["no access route"]
    assert story.missing(Stage.HAND_OVER) == ["customer sheet not completed"]


def test_a_signal_lamp_needs_no_wall():
    turn = LampKey(Function.TURN, Side.LEFT)
    story = Story().add(record.LampsChosen(), turn)
    for stage in (Stage.BASELINE, Stage.AIM, Stage.VERIFY):
        assert story.missing(stage, turn) == []


def fitted():
    story = Story().add(record.Identified(Housing.PROJECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    story.add(record.Chosen(SLIM, "thin"), LEFT, RIGHT)
    story.add(record.Routed("test way", (SHARED, RouteStep(2, "Cap off", 2))), LEFT, RIGHT)
    return story


def test_fit_wants_every_step_and_good_clocking():
    story = fitted()
    steps = stages.steps_to_tick(story.record, LEFT)
    assert steps[:2] == ["route:1", "route:2"]
    assert story.missing(Stage.FIT) == [f"{len(steps)} steps not ticked", "clocking not read"]
    for step in steps:
        story.add(record.Ticked(step), LEFT)
    story.add(record.Clocked(20.0), LEFT)
    assert story.missing(Stage.FIT) == ["clocking too far off"]
    story.add(record.Clocked(181.0), LEFT)  # two equal faces: half a turn is no turn
    assert story.missing(Stage.FIT) == []


def test_loading_a_route_afresh_needs_fresh_ticks():
    story = fitted().add(record.Ticked("route:1"), LEFT)
    story.add(record.Routed("other", (RouteStep(3, "Door open", 2),)), LEFT)
    assert "route:3" in stages.steps_to_tick(story.record, LEFT)
    assert "route:3" not in story.record.ticks(LEFT)


def test_tray_counts_out_back_and_noted():
    story = fitted()
    assert stages.tray(story.record, LEFT)[0].loose == 0
    story.add(record.Ticked("route:1"), LEFT)
    assert stages.tray(story.record, LEFT)[0].loose == 6
    story.add(record.FastenerBack(1, "push pin", back=4, noted=1, note="broken"), LEFT)
    assert stages.tray(story.record, LEFT)[0].loose == 1
    assert any("1 fasteners" in text for text in story.missing(Stage.PROVE))


def prove_all(story):
    for name in ("fog", "drl", "turn", "position", "marker", "hazard", "high"):
        story.add(record.NotOnCar(name))
    for each in proof.PASSES:
        for cell in proof.cells(["low"]):
            story.add(record.Proved(each, cell.function, Side(cell.side), cell.engine, "works"))
    return story


def test_prove_wants_every_cell_of_both_passes():
    story = fitted()
    assert story.missing(Stage.PROVE) == ["before closing: 4 cells untested", "after refit: 32 cells untested"]
    prove_all(story)
    assert story.missing(Stage.PROVE) == []
    story.add(record.Proved("closed", "low", Side.LEFT, "on", "flickers"))
    assert story.missing(Stage.PROVE) == ["after refit: Low beam left, engine running flickers"]


@pytest.mark.parametrize(
    ("slope", "missing"),
    [(-0.012, []), (-0.005, []), (-0.004, ["aim as left is out"]), (-0.03, ["aim as left is out"])],
)
def test_aim_wants_a_reading_inside_the_band(slope, missing):
    story = Story().add(record.Aimed("left", "un-r48-low", 0.65, 10, slope, ""), LEFT)
    assert story.missing(Stage.AIM) == missing


def test_aim_out_sideways():
    story = Story().add(record.Aimed("left", "us-vol", 0.65, 7.62, -0.007, "", sideways=0.05), LEFT)
    assert story.missing(Stage.AIM) == ["aim as left is out sideways"]


def test_staying_with_the_original_needs_no_clocking():
    story = fitted().add(record.Chosen(None, "good enough"), LEFT)
    assert not stages.needs_clocking(story.record, LEFT)


def test_every_payload_survives_being_written_down():
    payloads = [
        record.Booking("A", "Velmar", "Dorin", Drive.RIGHT, "uk", year=1952, volts=6.0, due=dt.date(2026, 12, 1)),
        record.Chosen(SLIM, "thin", override="told"),
        record.Chosen(None, "stay"),
        record.Routed("way", (SHARED,)),
        record.Read("after", "41 x10", WallReading("peak", 410, 7.62, 13.4, across_m=0.1)),
        record.HandedOver("I. Corvane", ("glare",), True, True, dt.date(2027, 1, 1)),
    ]
    for payload in payloads:
        assert record.from_plain(type(payload).__name__, record.to_plain(payload)) == payload


def test_sides_are_said_with_both_words():
    assert side_words(Side.LEFT, Drive.LEFT) == "Left · driver"
    assert side_words(Side.LEFT, Drive.RIGHT) == "Left · passenger"
