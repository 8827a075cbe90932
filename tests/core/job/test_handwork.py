"""The work at the car: order, what a panel must not close over, the tray, how long it took. Common
practice, no published source; sums worked by hand."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car.condition import UnitCondition, restoration_minutes
from cold_arc.core.job import at_lamp, carwork
from cold_arc.core.job.entries.fit import Checked, Clocked, FastenerBack, Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.plan import ExtraWork, Routed
from cold_arc.core.job.entries.prove import Proved
from cold_arc.core.job.needs import missing
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import tray, tray_of
from cold_arc.core.work.access import PLUG, Fasteners, RouteStep
from cold_arc.core.work.tick import Tick, TickKind
from tests.core.job.handworked import CAP, GRILLE, LAMPS, Job, two_lamps


def test_what_two_lamps_share_is_opened_and_closed_once():
    job = two_lamps()
    opened = [it.text for it in job.work.steps if it.kind == "open"]
    assert opened == ["Grille", "Frame", "Cap", "Cap", "Cap", "Cap"]
    assert [it.text for it in job.work.steps if it.kind == "close"] == [
        f"Back: {it}" for it in opened[::-1]
    ]
    grille = next(it for it in job.work.steps if it.text == "Grille")
    assert len(grille.units) == 4
    job.tick(grille)
    assert job.work.done(grille)
    assert {row.fasteners.kind for row in tray(job.record, LAMPS[0].of_unit) if row.loose} == {
        "push pin",
        PLUG,
    }


def test_each_step_says_at_which_lamp_where_a_job_has_several():
    job = two_lamps()
    places = {it.text: job.work.where(it, LAMPS) for it in job.work.steps if it.kind == "open"}
    assert places["Grille"] == "both sides"
    caps = [job.work.where(it, LAMPS) for it in job.work.steps if it.text == "Cap"]
    assert caps == ["headlamp left", "fog lamp left", "headlamp right", "fog lamp right"]
    fits = {job.work.where(it, LAMPS) for it in job.work.steps if it.kind == "fit"}
    assert fits == set(caps)
    cap = next(it for it in job.work.steps if it.text == "Cap")
    assert job.work.where(cap, LAMPS[:2]) == "left"


def test_a_tick_for_one_lamp_opens_the_part_for_all_behind_it():
    job = two_lamps()
    grille = next(it for it in job.work.steps if it.text == "Grille")
    key, name = grille.ticks[0]
    job.add(Ticked(Tick(name)), key)
    assert job.work.done(grille)


@pytest.mark.parametrize(
    ("left_out", "told"),
    [
        ("fit", "steps not done"),
        ("clock", "clocking not read"),
        ("prove", "not proved before closing"),
        (None, None),
    ],
)
def test_a_panel_is_not_closed_over_what_must_come_first(left_out, told):
    job = two_lamps()
    job.do("tools", "open")
    if left_out != "fit":
        job.do("fit")
    if left_out != "clock":
        for key in LAMPS:
            job.add(Clocked(0.0), key)
    if left_out != "prove":
        job.prove()
    cap = next(it for it in job.work.steps if it.kind == "close")
    waits = job.work.waits_for(cap)
    assert any(told in why for why in waits) if told else waits == []


def test_a_fault_seen_open_keeps_it_open():
    job = two_lamps()
    job.fit_all()
    job.prove()
    closing = next(it for it in job.work.steps if it.kind == "close")
    assert job.work.waits_for(closing) == []
    (unit,) = closing.units
    job.add(Proved("open", "fog" if unit.unit == "foglamp" else "low", unit.side, "on", "dark"))
    assert any("before closing: " in why and "dark" in why for why in job.work.waits_for(closing))


def test_a_check_that_is_not_right_keeps_it_open_until_it_is():
    job = two_lamps()
    job.fit_all()
    job.prove()
    key = LAMPS[-1]
    closing = next(it for it in job.work.steps if it.kind == "close" and key.of_unit in it.units)
    job.add(Checked("O-ring", False, "too thick"), key)
    assert any("O-ring not right (too thick)" in why for why in job.work.waits_for(closing))
    job.add(Checked("O-ring", True), key)
    assert job.work.waits_for(closing) == []


def test_what_lies_deeper_is_closed_first_with_all_its_fasteners():
    job = two_lamps()
    job.fit_all()
    job.prove()
    assert any("Close first" in why for why in job.work.waits_for(job.closing("Grille")))
    for words in ("Cap", "Cap", "Cap", "Cap", "Frame"):
        step = next(
            it
            for it in job.work.steps
            if it.kind == "close" and words in it.text and not job.work.done(it)
        )
        assert job.work.waits_for(step) == []
        job.tick(step)
    assert job.work.waits_for(job.closing("Grille")) == ["2 bolt, frame: not back"]
    frame = next(it for it in job.record.plan.openings if it.step.text == "Frame")
    job.add(FastenerBack(frame.step.id, "bolt", 1, 1, "sheared", "frame", 1), *frame.units)
    assert job.work.waits_for(job.closing("Grille")) == []


def test_tools_are_counted_back_last():
    job = two_lamps()
    back = job.work.steps[-1]
    assert back.text.startswith("Count back")
    assert job.work.waits_for(back) == ["Close everything first"]


def test_a_lamp_planned_after_its_part_was_closed_opens_it_again():
    job = Job({"headlamp": (GRILLE, CAP)})
    job.fit_all()
    job.prove()
    job.do("close")
    grille = job.closing("Grille")
    assert job.work.done(grille)
    fog = [key.of_unit for key in LAMPS if key.unit == "foglamp"]
    job.add(Routed("way", (replace(GRILLE, id=11), replace(CAP, id=12))), *fog)
    assert not job.work.done(
        next(it for it in job.work.steps if it.kind == "open" and it.text == "Grille")
    )


def test_polish_stands_before_opening_and_a_haze_step_at_fit_stands_for_it():
    job = two_lamps()
    units = [key.of_unit for key in LAMPS[:2]]
    job.add(ExtraWork(("polish", "drl-feed")), *units)
    extra = [it for it in job.work.steps if it.kind == "extra"]
    assert [it.text.split()[0] for it in extra] == ["Restore", "Restore", "Feed"]
    assert job.work.steps.index(extra[0]) < next(
        n for n, it in enumerate(job.work.steps) if it.kind == "open"
    )
    job.add(Inspected(UnitCondition(haze=2)), units[0])
    restored = [step for step in job.work.steps if step.text.startswith("Restore")]
    assert [step.kind for step in restored] == ["extra", "extra"]
    assert [step.kind for step in job.work.steps].index("open") > job.work.steps.index(restored[1])


def test_a_hazed_lens_takes_its_time_and_tools_whether_it_was_asked_for_or_not():
    """The minutes of the steps from Inspect, 60 min to cure before it is aimed, a polisher; glass
    is only cleaned, once it is open.
    """
    for seen, on_plastic, uses in (
        (UnitCondition(haze=1), True, ("polish", "UV coat")),
        (UnitCondition(haze=2), True, ("wet paper 2000, 3000", "polish", "UV coat")),
        (UnitCondition(haze=2, lens="glass"), False, ("cerium oxide",)),
    ):
        job = Job({"headlamp": (CAP,)}, LAMPS[:1])
        job.add(Inspected(seen), LAMPS[0].of_unit)
        day = {task.id: task for task in carwork.tasks(job.record, job.record.plan)}
        polish = day[f"polish-{LAMPS[0].of_unit}"]
        (extra,) = at_lamp.extra_work(job.record, LAMPS[0].of_unit)
        assert extra.consumables == uses
        assert ("polisher" in job.work.tools) is on_plastic
        assert polish.minutes == restoration_minutes(seen)
        assert polish.cures == (60 if on_plastic else 0)
        assert (polish.id in day["aim"].cured) is on_plastic
        assert bool(polish.after) is not on_plastic
        ticks = (tick for step in job.work.steps for _, tick in step.ticks)
        assert TickKind.EXTRA not in {tick.kind for tick in ticks}


def test_a_polish_is_wanted_and_done_by_its_own_tick_or_by_the_step_at_fit_that_stands_for_it():
    """On a clear lens its own; on a hazy one the step that restores the lens, and not twice."""
    for haze in (0, 2):
        job = Job({"headlamp": (CAP,)}, LAMPS[:1])
        job.add(Inspected(UnitCondition(haze=haze)), LAMPS[0].of_unit)
        job.add(ExtraWork(("polish",)), LAMPS[0].of_unit)
        assert at_lamp.own_extras(job.record, LAMPS[0].of_unit) == (
            [] if haze else ["extra:polish"]
        )
        polish = f"polish-{LAMPS[0].of_unit}"

        def left(job=job):
            return {
                it.id
                for it in carwork.still_to_do(
                    job.record, carwork.tasks(job.record, job.record.plan)
                )
            }

        assert polish in left()
        job.do("tools", "extra", "open", "fit")
        assert polish not in left()


PARTS = [
    RouteStep(0, "bonnet", 1, shared=True, opens="bonnet"),
    RouteStep(
        0, "grille", 5, shared=True, opens="grille", fasteners=(Fasteners("clip", 3, "grille"),)
    ),
    RouteStep(
        0, "frame", 5, opens="frame", behind=("grille",), fasteners=(Fasteners("bolt", 2, "frame"),)
    ),
    RouteStep(0, "arch", 2, opens="arch"),
    RouteStep(0, "cap", 1),
]


WAYS = st.fixed_dictionaries(
    {},
    optional={
        name: st.lists(st.sampled_from(PARTS), min_size=1, max_size=5).map(tuple)
        for name in ("headlamp", "foglamp")
    },
).filter(bool)


def try_all(job, data, proved=False):
    """Does what can be done, in random order, until nothing can; what held a part goes back with
    it.
    """
    work = job.work
    while can := [
        it
        for it in work.steps
        if it.kind != "prove" and not work.done(it) and not work.waits_for(it)
    ]:
        step = data.draw(st.sampled_from(can))
        if step.kind == "close":
            inside = [
                it
                for it in work.steps
                if it.kind in ("open", "fit") and set(it.units) & set(step.units)
            ]
            assert proved
            assert all(work.done(it) for it in inside)
            back(job, step)
        job.tick(step)
        work = job.work


def back(job, step):
    for row in tray_of(job.record, step.opening):
        count, place = row.fasteners.count, row.fasteners.place
        job.add(FastenerBack(row.step, row.fasteners.kind, count, place=place), *row.units)


@given(WAYS, st.data())
def test_in_whatever_order_it_is_tried_nothing_closes_over_open_work(ways, data):
    """Any step that says it waits for nothing is done, in random order; at the end the tray
    balances.
    """
    sockets = [key for key in LAMPS if key.unit in ways]
    job = Job(ways, sockets, source=None)
    try_all(job, data)
    job.prove()
    try_all(job, data, proved=True)
    assert all(job.work.done(it) for it in job.work.steps)
    assert sum(row.loose for key in job.record.units for row in tray(job.record, key)) == 0


def not_closed(job):
    """What Prove still wants of the left headlamp's parts."""
    wanted = missing(Progress(job.record), Stage.PROVE, LAMPS[0])
    return [text for text in wanted if "not closed" in text]


def test_prove_wants_every_opened_part_closed():
    job = Job({"headlamp": (GRILLE, CAP)})
    assert not_closed(job) == []  # nothing was opened
    job.fit_all()
    job.prove()
    assert not_closed(job) == ["2 parts not closed again"]
    for closing in [step for step in job.work.steps if step.kind == "close" and "Cap" in step.text]:
        job.tick(closing)
    assert not_closed(job) == ["1 part not closed again"]
    for number in (1, 2):
        job.add(Ticked(Tick(f"close:{number}")), *(key.of_unit for key in LAMPS))
    assert not_closed(job) == []
