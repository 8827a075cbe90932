"""Progress: each thing once, in order, whatever of the front is worked on."""

import datetime as dt
from itertools import count

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.keys import BeamKey, SocketKey, UnitKey, across
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.job.entries.book_in import FrontSet, WorkChosen
from cold_arc.core.job.entries.stages import Passed, Reopened
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Entry, Record
from cold_arc.core.job.stages import About, Stage, Status

NOW = dt.datetime(2026, 1, 5, 9, tzinfo=dt.UTC)
HEAD, FOG = UnitKey("headlamp", Side.LEFT), UnitKey("foglamp", Side.LEFT)
LOW, HIGH = BeamKey(Function.LOW, Side.LEFT), BeamKey(Function.HIGH, Side.LEFT)


class Job:
    """A record that grows, and its progress."""

    def __init__(self, front, work=None):
        self.ids, self.entries = count(1), []
        self.add(FrontSet(front))
        self.add(WorkChosen(), *(front.sockets() if work is None else work))

    def add(self, payload, *about):
        self.entries.append(Entry(next(self.ids), NOW, frozenset(about), payload))

    @property
    def progress(self):
        return Progress(Record(self.entries))

    def finish(self, *stages, among=None):
        for stage in stages:
            self.add(Passed(stage.value), *self.progress.things(stage, among))


def of(unit, number=1):
    return [SocketKey(unit, number, side) for side in Side]


def test_a_dual_bulb_is_one_socket_and_two_beams():
    progress = Job(fronts.made("dual")).progress
    assert [len(progress.things(stage)) for stage in Stage] == [2, 2, 4, 2, 2, 2, 2, 4, 4, 2]
    assert progress.things(Stage.INSPECT) == [HEAD, across(HEAD)]


def test_one_lens_is_inspected_once_for_all_behind_it():
    job = Job(fronts.made("two-singles", ["position"]))
    assert len(job.progress.things(Stage.INSPECT)) == 2
    job.finish(Stage.BOOK_IN)
    job.add(Passed("inspect"), HEAD)
    standing = {key: job.progress.current(key) for key in job.progress.record.sockets}
    assert {stage for key, stage in standing.items() if key.side is Side.RIGHT} == {Stage.INSPECT}
    assert standing[SocketKey("headlamp", 1, Side.LEFT)] is Stage.BASELINE
    assert (
        standing[SocketKey("headlamp", 3, Side.LEFT)] is Stage.MATCH
    )  # a position lamp has no wall


def test_a_beam_from_two_sockets_waits_for_both():
    job = Job(fronts.made("four-round"))
    outer, inner = SocketKey("headlamp", 1, Side.LEFT), SocketKey("headlamp2", 1, Side.LEFT)
    assert set(job.progress.sockets_behind(HIGH)) == {outer, inner}
    job.finish(*list(Stage)[:5])
    job.add(Passed("fit"), outer)
    job.add(Passed("prove"), outer)
    assert job.progress.status(Stage.AIM, LOW) is Status.OPEN
    assert job.progress.status(Stage.AIM, HIGH) is Status.AHEAD
    assert job.progress.waits_for(Stage.AIM, HIGH) == (Stage.FIT, inner)


def test_fog_lamps_go_on_while_a_headlamp_waits_for_parts():
    job = Job(fronts.made("dual", ["fog"]))
    job.finish(Stage.BOOK_IN, Stage.INSPECT, Stage.BASELINE)
    job.finish(*list(Stage)[3:9], among=of("foglamp"))
    assert job.progress.current(of("foglamp")[0]) is Stage.HAND_OVER
    assert job.progress.waits_on is Stage.MATCH
    told = job.progress.summary(Stage.PLAN)
    assert (told.done, told.total, told.next) == (2, 4, None)
    assert told.waits == (of("headlamp")[0], Stage.MATCH, of("headlamp")[0])


def test_reopening_takes_along_what_hangs_on_it_and_no_more():
    job = Job(fronts.made("two-singles", ["fog"]))
    job.finish(*Stage)
    assert job.progress.waits_on is None
    job.add(Reopened("inspect"), HEAD)
    assert job.progress.status(Stage.AIM, LOW) is Status.AHEAD
    assert job.progress.status(Stage.AIM, HIGH) is Status.AHEAD
    assert job.progress.status(Stage.AIM, across(LOW)) is Status.DONE
    assert job.progress.status(Stage.INSPECT, FOG) is Status.DONE


def test_a_lamp_opened_again_for_one_bulb_is_open_for_the_other_too():
    job = Job(fronts.made("two-singles"))
    job.finish(*Stage)
    low, high = (SocketKey("headlamp", number, Side.LEFT) for number in (1, 2))
    job.add(Reopened("book-in"), low)
    assert job.progress.current(low) is Stage.BOOK_IN
    assert job.progress.current(high) is Stage.INSPECT
    assert job.progress.status(Stage.BOOK_IN, high) is Status.DONE
    assert job.progress.status(Stage.MATCH, high) is Status.AHEAD
    assert job.progress.current(across(low)) is None


def test_skipping_is_told_apart():
    job = Job(fronts.made("dual"))
    job.add(Passed("book-in", "customer waits"), *of("headlamp"))
    assert job.progress.status(Stage.BOOK_IN, of("headlamp")[0]) is Status.SKIPPED
    assert job.progress.summary(Stage.BOOK_IN).skipped == 2


def test_work_on_one_side_alone():
    progress = Job(fronts.made("dual"), of("headlamp")[:1]).progress
    assert progress.things(Stage.AIM) == [LOW, HIGH]
    assert progress.things(Stage.INSPECT) == [HEAD]


@st.composite
def worked_jobs(draw):
    """Any ready-made front with any additions and any work on it, with stages passed and reopened
    at random.
    """
    name = draw(st.sampled_from([name for name in fronts.ready_made() if name != "signals-only"]))
    front = fronts.made(name, draw(st.lists(st.sampled_from(list(fronts.EXTRAS)), unique=True)))
    job = Job(
        front, draw(st.lists(st.sampled_from(list(front.sockets())), min_size=1, unique=True))
    )
    for _ in range(draw(st.integers(0, 14))):
        stage = draw(st.sampled_from(list(Stage)))
        ready = job.progress.open_things(stage)
        if ready and draw(st.integers(0, 9)):
            job.add(
                Passed(stage.value),
                *draw(st.lists(st.sampled_from(ready), min_size=1, unique=True)),
            )
        elif things := job.progress.things(stage):
            job.add(Reopened(stage.value), draw(st.sampled_from(things)))
    return job.progress


@given(worked_jobs())
def test_a_stage_is_done_when_all_its_things_are(progress):
    for stage in Stage:
        things = progress.things(stage)
        standing = [progress.status(stage, key) for key in things]
        told = progress.summary(stage)
        assert (told.done == told.total) is all(status is Status.DONE for status in standing)
        assert told.done == standing.count(Status.DONE)


@given(worked_jobs())
def test_nothing_is_done_before_what_it_hangs_on(progress):
    """A thing done has every socket behind it past its stage; an open one has them all at it or
    past it.
    """
    for stage in Stage:
        for key in progress.things(stage):
            at = [progress.current(socket) for socket in progress.sockets_behind(key)]
            least = min(11 if it is None else it.number for it in at)
            status = progress.status(stage, key)
            assert (status is Status.AHEAD) is (least < stage.number)
            if status is Status.OPEN:
                assert least == stage.number


@given(worked_jobs())
def test_every_thing_is_one_of_its_stage_and_worked_on(progress):
    kinds = {
        About.UNIT: UnitKey,
        About.BEAM: BeamKey,
        About.CAR: SocketKey,
        About.SOCKET: SocketKey,
    }
    for stage in Stage:
        things = progress.things(stage)
        assert len(set(things)) == len(things)
        assert all(
            isinstance(key, kinds[stage.about]) and progress.sockets_behind(key) for key in things
        )


def test_a_front_without_work_has_nothing_to_do():
    progress = Job(fronts.made("dual"), []).progress
    assert progress.waits_on is None
    assert all(progress.things(stage) == [] for stage in Stage)


@pytest.mark.parametrize("stage", Stage)
def test_each_stage_says_what_it_is_about(stage):
    expected = {
        "inspect": "unit",
        "baseline": "beam",
        "match": "socket",
        "fit": "socket",
        "aim": "beam",
        "verify": "beam",
    }
    assert stage.about.value == expected.get(stage.value, "car")
