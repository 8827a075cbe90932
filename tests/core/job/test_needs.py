"""The table of what must be true before what: whole, and asked of every act."""

from dataclasses import replace

import pytest

from cold_arc.core import data
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import needed, needs, proofs
from cold_arc.core.job.entries import KINDS
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.prove import Interlocked, Proved
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.needed import finish
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.work.access import CARRIES_BEAM, RouteStep, starter_parts
from cold_arc.core.work.tick import Tick
from tests.core.job.test_record import BEAM, LEFT, UNIT, Story, fitted

TABLE = needed.needs()


def test_every_row_is_asked_and_nothing_is_asked_that_has_no_row():
    assert set(TABLE) == set(needs._MISSING)


@pytest.mark.parametrize("need", TABLE.values(), ids=TABLE)
def test_a_row_names_entries_there_are(need):
    assert need.kept_by
    assert set(need.kept_by) <= set(KINDS)
    assert need.asked


@pytest.mark.parametrize("stage", Stage)
def test_every_stage_needs_something_before_it_is_finished(stage):
    assert any(finish(stage) in need.holds for need in TABLE.values())


def test_no_reason_stands_for_high_voltage():
    assert [need.id for need in TABLE.values() if not need.reason] == ["made-safe"]


@pytest.mark.parametrize("wrong", [{"of": "wheel"}, {"holds": ["sing"]}, {"undone_by": ["rain"]}])
def test_a_row_that_says_what_is_none_is_refused(monkeypatch, wrong):
    rows = [{**data.load("needs")["need"][0], **wrong}]
    monkeypatch.setattr(data, "load", lambda _: {"need": rows})
    with pytest.raises(ValueError, match="identified"):
        needed.needs.__wrapped__()


ANOTHER = LightSource("another", "bulb", "H7", 20, 1500, 9, 16, 40)


def unmet(story, need):
    """What the car's leaving, and each stage's finishing, still miss of a need."""
    progress = Progress(story.record)
    acts = {act for act in TABLE[need].holds if act != needed.CLOSE}
    keys = (BEAM if TABLE[need].of == "beam" else LEFT,)
    return [
        lacking.words
        for act in acts
        for key in keys
        for lacking in needs.unmet(progress, act, key)
        if lacking.need.id == need
    ]


def test_what_was_aimed_and_read_counts_no_more_once_the_lamp_was_refitted():
    story = Story()
    story.add(Chosen(ANOTHER, "first"), LEFT).add(Ticked(Tick("fit:seat")), LEFT)
    story.add(Aimed(AimPhase.LEFT, "un-r48-low", 0.65, 10, -0.012, ""), BEAM)
    for point in ("peak", "edge", "stray"):
        story.add(Read(Phase.AFTER, "", WallReading(point, 3, 10, 13.2)), BEAM)
    assert unmet(story, "aimed") == unmet(story, "read-after") == []
    story.add(Ticked(Tick("fit:keep-old")), LEFT)  # set aside, not at the lamp
    assert unmet(story, "aimed") == unmet(story, "read-after") == []
    story.add(Ticked(Tick("fit:seat")), LEFT)
    assert unmet(story, "aimed") == ["aim as left not read since its lamp was worked on"]
    assert unmet(story, "read-after") == ["no reading after: peak, edge, stray"]


def test_what_stands_open_holds_the_car():
    story = fitted()
    assert not [it for it in needs.holds_leaving(Progress(story.record)) if it.need.id == "closed"]
    number = next(step.id for step in story.record.ways[UNIT] if step.comes_back)
    story.add(Ticked(Tick(f"route:{number}")), UNIT)
    (standing,) = [
        it for it in needs.holds_leaving(Progress(story.record)) if it.need.id == "closed"
    ]
    assert standing.words == "1 part not closed again"
    assert "1 part not closed again" in story.missing(Stage.HAND_OVER, LEFT)
    story.add(Ticked(Tick(f"close:{number}")), UNIT)
    assert "1 part not closed again" not in story.missing(Stage.HAND_OVER, LEFT)


@pytest.mark.parametrize(("cover", "again"), [("housing", True), ("optic", True), ("cap", False)])
def test_a_housing_taken_out_after_aiming_is_aimed_again(cover, again):
    story = fitted().add(Routed("a way", (RouteStep(7, "Out with it", 5, cover=cover),)), UNIT)
    story.add(Ticked(Tick("route:7")), UNIT).add(Ticked(Tick("close:7")), UNIT)
    story.add(Aimed(AimPhase.LEFT, "un-r48-low", 0.65, 10, -0.012, ""), BEAM)
    assert unmet(story, "aimed") == []
    story.add(Ticked(Tick("route:7")), UNIT)
    assert bool(unmet(story, "aimed")) is again


def test_what_carries_the_beam_in_the_parts_we_ship():
    carrying = {name for name, row in starter_parts().items() if row.get("cover") in CARRIES_BEAM}
    assert carrying == {"housing", "lens and mirror"}


def test_what_functions_do_together_is_tried_anew_once_a_lamp_was_opened():
    story = fitted()
    for interlock in proofs.interlocks_asked(Progress(story.record)):
        story.add(Interlocked(proofs.CLOSED, interlock.id, True))
    assert unmet(story, "interlocks") == []
    number = next(step.id for step in story.record.ways[UNIT] if step.comes_back)
    story.add(Ticked(Tick(f"route:{number}")), UNIT)
    assert "not tried" in unmet(story, "interlocks")[0]


def test_a_reason_to_close_unproved_does_not_outlive_the_next_work():
    story = fitted()
    number = next(step.id for step in story.record.ways[UNIT] if step.comes_back)
    assert proofs.unproved_open(story.record, LEFT)
    story.add(Ticked(Tick(f"close:{number}"), reason="no battery here"), UNIT)
    assert not proofs.unproved_open(story.record, LEFT)
    story.add(Ticked(Tick("fit:seat")), LEFT)
    assert proofs.unproved_open(story.record, LEFT)


def test_what_a_new_lamp_takes_over_is_moved_before_the_car_leaves():
    lamp = LightSource("lamp", "assembly", "H7", 25, 1900, 9, 16, 40)
    story = fitted().add(Chosen(lamp, "cracked"), LEFT)
    assert any(words.startswith("not moved over: grommets") for words in counted(story))
    story.add(Ticked(Tick("fit:move-parts")), LEFT)
    assert not any("moved over" in words for words in counted(story))


def counted(story):
    progress = Progress(story.record)
    return [it.words for it in needs.unmet(progress, needed.LEAVE, LEFT) if it.need.id == "counted"]


def test_tools_laid_out_are_counted_back_before_the_car_leaves():
    story = fitted()
    assert unmet(story, "tools-back") == []
    story.add(Ticked(Tick("tools:out")), UNIT)
    assert set(unmet(story, "tools-back")) == {"tools not counted back"}
    story.add(Ticked(Tick("tools:back")), UNIT)
    assert unmet(story, "tools-back") == []


def test_what_was_dark_as_the_car_came_stays_known_and_proves_nothing():
    story = Story()
    dark = Proved("arrival", "low", Side.LEFT, "off", "dark")
    story.add(dark).add(replace(dark, side=Side.RIGHT, result="works"))
    story.add(Ticked(Tick("fit:seat")), LEFT)
    assert proofs.faults_as_it_came(story.record) == ["Low beam left, engine off: dark"]
    assert proofs.board(story.record, "open") == {}
    assert proofs.unproved_open(story.record, LEFT)
