"""Exercises on the Track: what they call right is what the record of a worked job says."""

from dataclasses import replace

import pytest

from cold_arc.core.job import needs as asked_of
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.kind import Payload
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.needed import needs
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Entry, Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.school.exercise import LEVELS, Posed
from cold_arc.core.work.tick import Tick, TickKind
from cold_arc.school import stages
from cold_arc.school.making import judge, make
from tests.standing import kept

# A job as it was walked, and what more was ticked of its left lamp: out and in again.
CAP, HOUSING = ("route:2", "close:2"), ("route:3", "route:4", "close:4", "close:3")
WENT_ON = {
    "looked-in": ("dual-filament", CAP),
    "set-again": ("dual-filament", ("route:2", "fit:seat", "close:2")),
    "another": ("dual-filament", ()),
    "decoder": ("dual-filament", ("extra:decoder",)),
    "taken-out": ("wet-lamps", HOUSING),
}


def lacking(entries):
    """The stages that lack something, Hand over aside."""
    progress = Progress(Record(entries))
    return {
        stage.value
        for stage in Stage
        for key in progress.things(stage)
        if stage is not Stage.HAND_OVER and asked_of.missing(progress, stage, key)
    }


def gone_on(entries, more: list[Payload]):
    """A record with a few more entries about the first lamp worked on."""
    record, last = Record(entries), entries[-1]
    socket = record.sockets[0]
    about = [
        socket if isinstance(one, Chosen) or one.step.kind is TickKind.FIT else socket.of_unit
        for one in more
    ]
    return [
        *entries,
        *(
            Entry(last.id + number, last.at, frozenset([key]), one)
            for number, (one, key) in enumerate(zip(more, about, strict=True), 1)
        ),
    ]


@pytest.mark.parametrize("happened", stages.HAPPENED)
def test_what_has_to_be_done_again_is_what_a_worked_record_lacks(happened):
    job, ticks = WENT_ON[happened]
    entries = kept.entries(job)
    assert lacking(entries) == set()
    more: list[Payload] = [Ticked(Tick(step)) for step in ticks]
    if happened == "another":
        chosen = Record(entries).latest(Chosen, Record(entries).sockets[0])
        more = [replace(chosen, source=replace(chosen.source, name="Another"))]
    assert lacking(gone_on(entries, more)) == {
        stage.value for stage in stages.undone(stages.HAPPENED[happened][1])
    }


@pytest.mark.parametrize("level", LEVELS)
def test_the_first_stage_held_up_is_the_first_of_the_table(level):
    """Each seed: nothing of a stage before the right one is missing."""
    for seed in range(40):
        exercise = make(Posed("track.missing", level, seed))
        (right,) = exercise.right
        missing = {words for so, words in exercise.shown.facts if so == "Not yet"}
        held = [stages.held_up(need) for need in needs().values() if need.asked in missing]
        assert missing
        assert min(stage.number for stage in held) == Stage(right).number


@pytest.mark.parametrize("level", LEVELS)
def test_every_stage_and_only_those_are_asked_again(level):
    seen = set()
    for seed in range(40):
        exercise = make(Posed("track.again", level, seed))
        right = sorted(exercise.right)
        seen.add(tuple(right))
        assert judge(exercise, ",".join(right)).right
        assert not judge(exercise, ",".join({*right, Stage.INSPECT.value})).right
        assert len(right) == 1 or not judge(exercise, right[0]).right
    assert len(seen) == 3
