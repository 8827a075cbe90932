"""Whole cars, drawn at random, worked on from the first touch to the last panel: the promises that
bind stage to stage. Common practice, no published source.
"""

import re
from collections import Counter
from itertools import combinations

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cold_arc.core.car.bases import find
from cold_arc.core.car.lamps import Holds
from cold_arc.core.job import at_lamp, carwork, proofs
from cold_arc.core.job.entries.fit import Clocked, FastenerBack, Ticked
from cold_arc.core.job.entries.match import (
    Chosen,
    SwitchingPlanned,
)
from cold_arc.core.job.entries.prove import Interlocked, Proved
from cold_arc.core.job.entries.stages import Reopened
from cold_arc.core.job.facts import lead_of, wires_of
from cold_arc.core.job.record import LENS_RESTORED
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.step_order import SAFE_AGAIN
from cold_arc.core.job.tray import tray
from cold_arc.core.work import fitting
from cold_arc.core.work.extras import extras
from tests.core.job.drawn_cars import COVERED, cars, source

SLOW = settings(
    max_examples=settings.default.max_examples // 2,
    deadline=None,
    suppress_health_check=list(HealthCheck),
)
CLOSING = re.compile("close-|live-")
# A car worked through from first to last step takes half a second.
WORKED = settings(SLOW, max_examples=settings.default.max_examples // 4)


@WORKED
@given(cars())
def test_every_part_opened_is_closed_once_after_what_it_covers_was_proved(car):
    done = car.work_through()
    places = {step.id: place for place, step in enumerate(done)}
    for opening in car.record.plan.openings:
        closings = [s for s in done if s.kind in ("close", "plug") and s.opening == opening]
        assert len(closings) == (1 if opening.step.comes_back else 0)
        for closing in closings:
            proofs_before = [
                s for s in done if s.kind == "prove" and set(s.units) & set(closing.units)
            ]
            first = closing.kind == "close"
            assert all((places[s.id] < places[closing.id]) is first for s in proofs_before)
    closed = [step.opening for step in done if step.kind == "close"]
    opened = [step.opening for step in done if step.kind == "open" and step.opening in closed]
    for deeper, over in combinations(closed, 2):
        if set(deeper.units) & set(over.units):
            assert opened.index(deeper) >= opened.index(over)


@SLOW
@given(cars())
def test_what_is_told_in_one_go_could_be_told_one_after_another(car):
    """No step of it waits for anything once those named before it are done; each go ends."""
    car.read_clocks()
    goes = 0
    while can := car.can_be_done():
        work = car.work
        run = work.together(work.steps, can[0]) or can[:1]
        assert run[0] == can[0]
        for step in run:
            assert not car.work.waits_for(step), step.text
            car.do(step)
        goes += 1
    assert not [step for step in car.work.steps if not car.work.done(step)]
    assert goes <= len(car.work.steps)


@given(cars())
def test_no_step_stands_twice(car):
    steps = car.work.steps
    assert max(Counter(step.id for step in steps).values()) == 1
    said = Counter(
        (step.text, key) for step in steps for key, _ in step.ticks if step.kind != "open"
    )
    assert not [text for text, count in said.items() if count > 1]
    for unit in filter(car.is_replaced, car.record.units):  # one lamp, however many sockets
        texts = [step.text for step in steps if step.kind == "fit" and unit in step.units]
        assert len(texts) == len(set(texts))
    for extra in (extra for extra in extras().values() if extra.once):
        assert sum(step.text == extra.text for step in steps) <= 1


@SLOW
@given(cars())
def test_no_step_is_for_what_the_lamp_does_not_have(car):
    for step in car.work.steps:
        assert not (step.kind in ("close", "plug") and "old bulb" in step.text)
        for unit in step.units:
            if step.kind == "seal" or step.text.startswith(COVERED):
                assert at_lamp.covers(car.record, unit) & {"cap", "boot"}
            if car.record.leaves(unit):
                assert "bulb" not in step.text or step.kind in ("extra", "tools", "fit")
                assert not step.text.startswith(("Sand", "Restore", "Cap ", "Turn and lift"))


@SLOW
@given(cars())
def test_a_bulb_is_seated_and_clocked_as_its_base_has_it(car):
    for key in car.record.sockets:
        mine = [step.text for step in car.work.steps if step.is_about(key)]
        if not at_lamp.needs_clocking(car.record, key):
            assert not [text for text in mine if "preset the collar" in text]
        elif find(car.record.socket(key).base).looks in ("wedge", "bayonet"):
            assert not [text for text in mine if "tab in" in text or "O-ring" in text]


@SLOW
@given(cars())
def test_nothing_is_said_of_what_does_not_hang_there(car):
    """No base, bulb or collar of what holds none; nothing taken out where nothing hung; a new
    housing is held against the old, and its old lens not restored.
    """
    for key in car.record.sockets:
        socket, mine = car.record.socket(key), [s.text for s in at_lamp.fit_steps(car.record, key)]
        if not socket.holds_bulb:
            assert not [text for text in mine if "collar" in text or "Seat the bulb" in text]
        if socket.holds is Holds.NOTHING:
            assert not [text for text in mine if "old" in text.lower()]
        if car.record.has_new_housing(key.of_unit):
            assert socket.holds is Holds.NOTHING or any("against the old" in text for text in mine)
            assert not [text for text in mine if "Restore the lens" in text]
        if car.record.leaves(key.of_unit) and not car.record.latest(Chosen, key).source:
            assert not [text for text in mine if text.startswith("Refit")]


@SLOW
@given(cars())
def test_what_was_told_of_a_lead_is_done_at_the_lamp_it_was_told_of(car):
    """Every part of a lead and the wire map are steps where something new goes in, and nowhere
    else; only a lamp the car lacked asks how it is switched.
    """
    for key in car.record.sockets:
        texts = [step.text for step in at_lamp.fit_steps(car.record, key)]
        new = bool(car.record.latest(Chosen, key).source)
        for part in lead_of(car.record, key).parts:
            said = [text for text in texts if text.startswith(part.words)]
            assert len(said) == (new and part.kind != "driver")
        mapped = wires_of(car.record, key)
        said = [text for text in texts if mapped.wires and mapped.words in text]
        assert bool(said) is bool(new and mapped.wires)
        if mapped.reversed == "kills" and said:
            assert "measure first" in said[0]
    asked = {interlock.id for interlock in proofs.interlocks_asked(car.progress)}
    planned = [
        key
        for key in car.record.sockets
        if car.record.socket(key).holds is Holds.NOTHING
        and car.record.latest(SwitchingPlanned, key)
    ]
    assert ("switched-as-planned" in asked) is bool(planned)


@WORKED
@given(cars())
def test_high_voltage_comes_first_and_again_after_proving(car):
    done = car.work_through()
    places = {step.id: place for place, step in enumerate(done)}
    for unit in car.record.units:
        sockets = at_lamp.sockets_of(car.record, unit)
        mine = [step for step in done if unit in step.units]
        if any(car.record.is_gas_discharge(key) for key in sockets):
            assert mine[0].kind == "safe"
        if any(at_lamp.keeps_ballast(car.record, key) for key in sockets):
            again = next(step for step in mine if step.text == SAFE_AGAIN)
            proved = next(step for step in mine if step.kind == "prove")
            assert places[proved.id] < places[again.id]
            assert all(
                places[again.id] < places[step.id]
                for step in mine
                if step.kind in ("seal", "close")
            )


@WORKED
@given(cars())
def test_a_battery_that_is_off_as_panels_close_is_on_again_once_and_last(car):
    """But for the bonnet, which it stands under."""
    done = car.work_through()
    closed = [step for step in done if step.kind in ("seal", "close", "live")]
    panels = [step for step in closed if not step.shuts_bonnet]
    on = [step for step in closed if step.puts_battery_on]
    assert len(on) == any(step.text == SAFE_AGAIN for step in done)
    assert not on or panels[-1] == on[0]
    assert not on or closed[: len(panels)] == panels
    slots = carwork.day_of(carwork.tasks(car.record, car.record.plan), people=2).slots
    starts = {slot.task.text: slot.start for slot in slots if CLOSING.match(slot.task.id)}
    ends = {slot.task.text: slot.end for slot in slots if CLOSING.match(slot.task.id)}
    for step in on:
        assert all(ends[step.text] <= starts[bonnet.text] for bonnet in closed[len(panels) :])
        laid = [panel.text for panel in panels if panel.kind == "close"]
        assert all(ends[text] <= ends[step.text] for text in laid)


@WORKED
@given(cars())
def test_the_timeline_has_every_step_the_list_has(car):
    """What the plan lays on a day is what is ticked at the car, in the same words; a lens is
    restored before its lamp is opened, glass after.
    """

    def opens(each, unit):
        return each.kind == "open" and unit in each.units

    named = {task.text for task in carwork.tasks(car.record, car.record.plan)}
    for step in car.work.steps:
        if step.kind in ("open", "close", "plug", "safe", "live"):
            assert step.text in named
    tasks = {task.id for task in carwork.tasks(car.record, car.record.plan)}
    for socket, tick in (tick for step in car.work.steps for tick in step.ticks):
        if tick == LENS_RESTORED:
            assert f"polish-{socket.of_unit}" in tasks
            opened = [each for each in car.work.steps if opens(each, socket.of_unit)]
            in_order = [each for each in car.work.steps if each in (step, *opened[:1])]
            glass = car.record.condition(socket.of_unit).is_glass
            assert (in_order[0] is not step) is (glass and bool(opened))
    car.work_through()
    left = carwork.still_to_do(car.record, carwork.tasks(car.record, car.record.plan))
    assert {task.id for task in left} <= {"prove-open", "prove-closed", "aim", "verify"}


@WORKED
@given(cars(), st.data())
def test_a_proof_falls_only_with_what_it_proved_and_there_is_always_an_honest_way_on(car, data):
    car.work_through()
    assert car.missing(Stage.FIT) == []
    for _ in range(2):  # finishing Fit, opening it again and finishing it wipes nothing
        car.finish(Stage.BOOK_IN, Stage.INSPECT, Stage.BASELINE, Stage.MATCH, Stage.PLAN, Stage.FIT)
        car.prove_closed()
        assert car.missing(Stage.PROVE) == []
        car.add(Reopened("fit"), *car.record.sockets)
        assert car.missing(Stage.PROVE) == []
    key = data.draw(st.sampled_from(car.record.sockets))
    what = data.draw(st.sampled_from(["opened", "replaced"]))
    # A function is proved as a whole: what gives one of this socket's too shares its proof.
    gives = set(car.record.front.socket(key).functions)
    others = [
        other
        for other in car.record.sockets
        if other.of_unit != key.of_unit
        and not gives & set(car.record.front.socket(other).functions)
    ]
    before = {other: proofs.unproved_open(car.record, other) for other in others}
    if what == "replaced":
        car.add(Chosen(source(name="another"), "another"), key)
    else:
        openings = [s for s in car.work.steps if s.kind == "open" and key.of_unit in s.units]
        coming_back = [s for s in openings if s.opening.step.comes_back]
        if not coming_back:
            return
        car.tick(data.draw(st.sampled_from(coming_back)))
    given = set(car.record.front.socket(key).functions) and set(
        proofs.unproved_open(car.record, key)
    )
    absent = car.record.absent_functions()
    if {f.value for f in car.record.front.socket(key).functions} - absent:
        assert given
    if what == "replaced":
        assert before == {other: proofs.unproved_open(car.record, other) for other in others}
    car.work_through()
    car.prove_closed()
    assert car.missing(Stage.FIT) + car.missing(Stage.PROVE) == []
    assert sum(row.loose for unit in car.record.units for row in tray(car.record, unit)) == 0


@WORKED
@given(cars(), st.data())
def test_nothing_is_over_while_any_one_entry_of_the_work_is_missing(car, data):
    """The table turned round: of a car that is done, any tick, proof or count taken out shows."""
    car.work_through()
    car.prove_closed()
    assert car.missing(Stage.FIT) + car.missing(Stage.PROVE) == []
    telling = [
        number
        for number, entry in enumerate(car.entries)
        if isinstance(entry.payload, Proved | FastenerBack | Clocked | Interlocked)
        or (isinstance(entry.payload, Ticked) and _counts(car, entry))
    ]
    if telling:
        gone = data.draw(st.sampled_from(telling))
        car.entries = car.entries[:gone] + car.entries[gone + 1 :]
        assert car.missing(Stage.FIT) + car.missing(Stage.PROVE) or _another_says(car)


def _counts(car, entry):
    """Whether a tick is one something else waits for: not what is only laid out or set aside."""
    what, _, name = entry.payload.step.partition(":")
    looks = {step.id for step in fitting.all_steps() if step.at_closing}
    return what in ("fit", "close") and name not in looks


def _another_says(car):
    """Whether what is missing is said at the car itself: a step of the list stands undone, or a
    part that several lamps lie behind was ticked for another of them.
    """
    return any(not car.work.done(step) for step in car.work.steps) or any(
        len(opening.units) > 1 for opening in car.record.plan.openings
    )
