"""The work at the car: order, what a panel must not close over, the tray, how long it took. Common
practice, no published source; sums worked by hand."""

import datetime as dt
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.car import front_building as fronts
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import SocketKey, UnitKey
from cold_arc.core.car.lamps import Drive, Optic, Present, Side
from cold_arc.core.job import at_lamp, carwork, timing
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import Booking, FrontSet, Identified, WorkChosen
from cold_arc.core.job.entries.fit import Checked, Clocked, ClockRan, FastenerBack, Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import ExtraWork, Routed
from cold_arc.core.job.entries.prove import Proved
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.handwork import LIVE_WHY, done_of
from cold_arc.core.job.needs import missing
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.tray import tray, tray_of
from cold_arc.core.light_source import LightSource
from cold_arc.core.work import proof
from cold_arc.core.work.access import PLUG, Fasteners, RouteStep
from cold_arc.core.work.schedule import schedule
from cold_arc.core.work.tick import Tick
from tests.core.job.written import WrittenJob
from tests.timing import quickest

LAMPS = [SocketKey(name, 1, side) for name in ("headlamp", "foglamp") for side in Side]
SLIM = LightSource("slim", "bulb", "H7", 24, 1900, 9, 16, 50, faces=2)
GRILLE = RouteStep(
    1,
    "Grille",
    6,
    ("T20",),
    (Fasteners("push pin", 4, "grille"),),
    shared=True,
    opens="grille",
    unplug=("camera",),
)
CAP = RouteStep(2, "Cap", 2)
DEEP = RouteStep(
    3,
    "Frame",
    4,
    (),
    (Fasteners("bolt", 2, "frame"),),
    shared=True,
    opens="frame",
    behind=("grille",),
)


class Job(WrittenJob):
    """A job whose entries are a minute apart."""

    def __init__(self, ways, sockets=LAMPS, source=SLIM):
        super().__init__()
        self.add(Booking("A", "Velmar", "Dorin", Drive.LEFT, "un"))
        self.add(FrontSet(fronts.made("two-singles", ["fog", "turn"])))
        self.add(WorkChosen(), *sockets)
        self.add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), *sockets)
        self.add(Chosen(source, "thin"), *sockets)
        first = 1
        for name, steps in ways.items():
            units = [key.of_unit for key in sockets if key.unit == name]
            self.add(
                Routed("way", tuple(replace(it, id=first + n) for n, it in enumerate(steps))),
                *units,
            )
            first += len(steps)

    def tick(self, step, who="", minutes=1.0):
        for key, name in step.ticks:
            self.add(Ticked(name, who), key, minutes=minutes)
            minutes = 0.0

    def do(self, *kinds):
        """Ticks every step of some kinds that can be done, in order."""
        for step in self.work.steps:
            if step.kind in kinds and not self.work.done(step) and not self.work.waits_for(step):
                self.tick(step)

    def prove(self, stage_pass="open"):
        for function in ("low", "high", "fog", "turn"):
            for cell in proof.cells([function]):
                self.add(Proved(stage_pass, function, Side(cell.side), cell.engine, "works"))

    def fit_all(self):
        self.do("tools", "extra", "open", "fit")
        for key in LAMPS:
            self.add(Clocked(0.0), key)

    def closing(self, words):
        return next(it for it in self.work.steps if it.kind == "close" and words in it.text)


def two_lamps():
    return Job({"headlamp": (GRILLE, DEEP, CAP), "foglamp": (GRILLE, CAP)})


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
    assert [it.text.split()[0] for it in extra] == ["Sand", "Sand", "Feed"]
    assert job.work.steps.index(extra[0]) < next(
        n for n, it in enumerate(job.work.steps) if it.kind == "open"
    )
    job.add(Inspected(UnitCondition(haze=2)), units[0])
    assert sum(it.text.startswith("Sand") for it in job.work.steps) == 1


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


@pytest.mark.timed
def test_three_hundred_steps_are_weighed_in_a_tenth_of_a_second():
    clip = (Fasteners("clip", 1, "x"),)
    steps = [
        RouteStep(n, f"part {n}", 1, (), clip, shared=n < 10, opens=f"p{n}" * (n % 2))
        for n in range(48)
    ]
    job = Job({"headlamp": tuple(steps), "foglamp": tuple(steps)})
    job.fit_all()

    def weighed():
        work = job.work
        return [work.waits_for(step) for step in work.steps]

    assert quickest(weighed) < 0.1
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


def test_wall_work_waits_for_the_dark_and_nothing_else_does():
    job = Job({"headlamp": (GRILLE, CAP)})
    dark = {task.id for task in carwork.tasks(job.record, job.record.plan) if task.dark}
    assert dark == {"aim", "verify"}
    slots = schedule(carwork.tasks(job.record, job.record.plan), 1, dark_from=600.0)
    starts = {slot.task.id: slot.start for slot in slots}
    assert min(starts["aim"], starts["verify"]) >= 600.0
    assert all(start < 600.0 for name, start in starts.items() if name not in dark)


def gas_discharge():
    """The same two lamps, their headlamps with D2S bulbs."""
    job = two_lamps()
    lamps = [key for key in LAMPS if key.unit == "headlamp"]
    job.add(Identified(Optic.PROJECTOR, "D2S", Present.HID), *lamps)
    return job


def test_high_voltage_comes_first_and_holds_every_touch_of_its_lamp():
    job = gas_discharge()
    safe, *others = job.work.steps
    assert safe.kind == "safe"
    assert "battery off; wait five minutes" in safe.text
    assert {key.unit for key in safe.units} == {"headlamp"}
    touching = [step for step in others if step.kind in ("open", "fit", "extra")]
    held = [step for step in touching if set(step.units) & set(safe.units)]
    assert held
    for step in held:
        assert job.work.waits_for(step) == [f"First: {safe.text}"]
    job.tick(safe)
    assert not any("battery off" in why for step in held for why in job.work.waits_for(step))


def test_at_a_ballast_that_stays_nothing_closes_until_the_battery_is_off_again():
    job = gas_discharge()
    lamps = [key for key in LAMPS if key.unit == "headlamp"]
    job.add(Chosen(replace(SLIM, driver="ballast"), "on the ballast"), *lamps)
    (first, again) = [step for step in job.work.steps if step.kind == "safe"]
    job.tick(first)
    job.fit_all()
    job.do("plug")
    assert job.work.waits_for(again)  # there is nothing to make safe before it was lit
    job.prove()
    closing = [
        step
        for step in job.work.steps
        if step.kind in ("seal", "close") and set(step.units) & set(again.units)
    ]
    assert closing
    for step in closing:
        assert f"First: {again.text}" in job.work.waits_for(step)
    job.tick(again)
    assert not any("attery off" in why for step in closing for why in job.work.waits_for(step))


def test_fog_lamps_beside_it_are_worked_on_as_ever():
    job = gas_discharge()
    own = [
        step
        for step in job.work.steps
        if step.kind == "open" and {key.unit for key in step.units} == {"foglamp"}
    ]
    assert own
    assert not any("battery off" in why for step in own for why in job.work.waits_for(step))


def test_a_halogen_lamp_has_no_such_step():
    assert not any(step.kind == "safe" for step in two_lamps().work.steps)


def test_what_is_waited_for_names_its_bulb_where_a_lamp_has_two():
    low, high = (SocketKey("headlamp", number, Side.LEFT) for number in (1, 2))
    job = Job({"headlamp": (CAP,)}, (low, high))
    opened = next(step for step in job.work.steps if step.kind == "open")
    job.tick(opened)
    for step in job.work.steps:
        if step.kind == "fit" and step.ticks[0][0] == low:
            job.tick(step)
    assert job.work.waits_for(job.closing("Cap"))[:2] == [
        "Headlamp left: 9 steps not done, first: High beam bulb left: Remove shipping covers and "
        "film; check the new part for damage",
        "Low beam bulb left: clocking not read",
    ]
    proving = next(step for step in job.work.steps if step.kind == "prove")
    fits = [step for step in job.work.steps if step.kind == "fit"]
    places = {job.work.where(step, (low, high)) for step in fits}
    assert places == {"low beam bulb left", "high beam bulb left"}
    assert {job.work.where(step, (low,)) for step in fits} == {"left"}
    assert job.work.where(opened, (low, high)) == "left"
    assert job.work.waits_for(proving)[0].startswith("First: High beam bulb left: ")
    assert "Low beam bulb left: clocking not read" in job.work.waits_for(proving)


def test_a_lamp_behind_a_battery_taken_off_is_proved_with_hands_off():
    battery = RouteStep(1, "Battery off", 5, shared=True, opens="battery")
    for ways, why in (((battery, CAP), LIVE_WHY), ((CAP,), "")):
        job = Job({"headlamp": ways}, LAMPS[:1])
        (proving,) = [step for step in job.work.steps if step.kind == "prove"]
        assert proving.why == why


def test_a_bulb_clocked_anew_is_proved_anew():
    """What it takes to set it right undoes what was seen."""
    job = Job({"headlamp": (CAP,)}, LAMPS[:1])
    job.do("open", "fit")
    job.add(Clocked(0.0), LAMPS[0])
    job.prove()

    def proving():
        return next(step for step in job.work.steps if step.kind == "prove")

    assert job.work.done(proving())
    job.add(Clocked(2.0), LAMPS[0])
    assert not job.work.done(proving())


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


def test_a_way_that_leaves_the_old_lamp_in_the_car_is_warned_of():
    whole = replace(SLIM, kind="assembly")
    housing = RouteStep(3, "Housing out", 8, cover="housing")
    for ways, source, is_warned in (
        ((CAP,), whole, True),
        ((CAP, housing), whole, False),
        ((CAP,), SLIM, False),
    ):
        job = Job({"headlamp": ways}, LAMPS[:1], source)
        assert bool(at_lamp.way_findings(job.record, LAMPS[0].of_unit)) is is_warned


def test_a_lens_is_restored_once_however_many_bulbs_are_behind_it():
    low, high = (SocketKey("headlamp", number, Side.LEFT) for number in (1, 2))
    job = Job({"headlamp": (CAP,)}, (low, high))
    job.add(Inspected(UnitCondition(haze=2)), low.of_unit)
    (restored,) = [step for step in job.work.steps if step.text.startswith("Restore the lens")]
    assert {key for key, _ in restored.ticks} == {low, high}
