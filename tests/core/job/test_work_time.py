"""How long the work took: clocks, several hands, what a part took, what waits for the dark."""

import datetime as dt

import pytest

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import carwork, timing
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.fit import ClockRan, FastenerBack
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.work_took import done_of
from cold_arc.core.work.access import Fasteners, RouteStep
from cold_arc.core.work.schedule import schedule
from tests.core.job.handworked import CAP, GRILLE, LAMPS, Job
from tests.timing import takes_less


def test_three_hundred_steps_are_weighed_in_a_tenth_of_a_second():
    clip = (Fasteners("clip", 1, "x"),)
    steps = [
        RouteStep(n, f"part {n}", 1, (), clip, shared=n < 10, opens=f"p{n}" * (n % 2))
        for n in range(48)
    ]
    job = Job({"headlamp": tuple(steps), "foglamp": tuple(steps)})
    for step in job.work.steps:  # each at its turn: `fit_all` would weigh them all each time
        if step.kind in ("tools", "extra", "open", "fit"):
            job.tick(step)

    def weighed():
        work = job.work
        return [work.waits_for(step) for step in work.steps]

    assert takes_less(0.1, weighed)
    assert len(job.work.steps) > 280


def test_how_long_a_step_took_is_told_by_the_clock():
    """By hand: clock on, grille after 3 min, pause of 10, cap after 2 more."""
    job = Job({"headlamp": (GRILLE, CAP)}, LAMPS[:1])
    grille, cap = (it for it in job.work.steps if it.kind == "open")
    job.add(ClockRan(True))
    job.tick(grille, minutes=3)
    job.add(ClockRan(False), minutes=0)
    job.add(ClockRan(True), minutes=10)
    job.tick(cap, minutes=2)
    job.add(ClockRan(False), minutes=1)
    job.tick(
        next(it for it in job.work.steps if it.kind == "fit"), minutes=5
    )  # the clock stands: not timed
    assert timing.actual_min(job.record) == {
        "route:1": pytest.approx(3.0),
        "route:2": pytest.approx(2.0),
    }
    assert timing.ran_min(job.record.entries, job.at) == pytest.approx(6.0)
    assert not timing.is_running(job.record)


def test_what_is_told_in_one_go_shares_its_minutes():
    """By hand: grille and cap after 6 min, 3 each; a step told while the clock stands gets none."""
    job = Job({"headlamp": (GRILLE, CAP)}, LAMPS[:1])
    grille, cap = (it for it in job.work.steps if it.kind == "open")
    job.add(ClockRan(True))
    job.tick(grille, minutes=6)
    job.tick(cap, minutes=0)
    job.add(ClockRan(False), minutes=1)
    job.tick(next(it for it in job.work.steps if it.kind == "fit"), minutes=5)
    assert timing.actual_min(job.record) == {
        "route:1": pytest.approx(3.0),
        "route:2": pytest.approx(3.0),
    }


def test_two_people_are_timed_each_by_their_own_ticks():
    job = Job({"headlamp": (CAP,)}, LAMPS[:2])
    left, right = (it for it in job.work.steps if it.kind == "open")
    job.add(ClockRan(True))
    job.tick(left, "Ines", minutes=2)
    job.tick(right, "Bram", minutes=1)
    fits = [it for it in job.work.steps if it.kind == "fit"]
    job.tick(fits[0], "Ines", minutes=2)
    assert timing.actual_min(job.record)[fits[0].ticks[0][1]] == pytest.approx(3.0)
    assert timing.step_min(job.record, job.at + dt.timedelta(minutes=4), "Bram") == pytest.approx(
        6.0
    )


def test_what_a_part_took_and_broke_is_remembered_once_it_is_closed():
    """By hand: out 4 min, back 5 with one pin broken: 9 of the 6 planned."""
    job = Job({"headlamp": (GRILLE,)}, LAMPS[:1])
    job.add(ClockRan(True))
    job.tick(next(it for it in job.work.steps if it.kind == "open"), minutes=4)
    assert done_of(job.record) == []
    closing = next(it for it in job.work.steps if it.kind == "close")
    job.tick(closing, minutes=5)
    job.add(FastenerBack(1, "push pin", 3, 1, "", "grille", 1), UnitKey("headlamp", Side.LEFT))
    (done,) = done_of(job.record)
    assert (done.part, done.planned, done.out, done.broken) == ("grille", 6, 4, 1)
    assert done.actual == pytest.approx(9.0)


def test_wall_work_waits_for_the_dark_and_nothing_else_does():
    job = Job({"headlamp": (GRILLE, CAP)})
    dark = {task.id for task in carwork.tasks(job.record, job.record.plan) if task.dark}
    assert dark == {"aim", "verify"}
    slots = schedule(carwork.tasks(job.record, job.record.plan), 1, dark_from=600.0)
    starts = {slot.task.id: slot.start for slot in slots}
    assert min(starts["aim"], starts["verify"]) >= 600.0
    assert all(start < 600.0 for name, start in starts.items() if name not in dark)


def test_a_task_on_the_wall_is_over_once_its_need_is_met():
    job = Job({"headlamp": (CAP,)}, LAMPS[:1])

    def left():
        return {
            it.id
            for it in carwork.still_to_do(job.record, carwork.tasks(job.record, job.record.plan))
        }

    assert {"aim", "verify"} <= left()
    beam = job.record.road_beams[0]
    job.add(Aimed(AimPhase.LEFT, "un-r48-low", 0.65, 10, -0.012, ""), beam)
    assert "aim" not in left()
    assert "verify" in left()
    job.add(Passed("verify", "no dark today"), beam)
    assert "verify" not in left()
