"""What is dangerous is made safe first: gas discharge, batteries; and what is proved anew."""

from dataclasses import replace

from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.keys import SocketKey
from cold_arc.core.car.lamps import Optic, Present, Side
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.book_in import Identified
from cold_arc.core.job.entries.fit import Clocked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.step_order import LIVE_WHY
from cold_arc.core.work.access import RouteStep, starter_parts
from tests.core.job.handworked import CAP, LAMPS, SLIM, Job, two_lamps

HEAD = LAMPS[0].of_unit
ON = starter_parts()["battery"]["closing"]


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


def test_what_takes_a_battery_off_for_a_ballast_is_laid_out_and_counted_back():
    socket = "10 mm socket"
    assert socket not in two_lamps().work.tools
    steps = [step for step in gas_discharge().work.steps if step.kind == "tools"]
    assert [socket in step.text for step in steps] == [True, True]


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


def test_the_battery_is_on_again_after_every_lamp_and_told_once():
    battery = RouteStep(1, "Battery off", 5, shared=True, opens="battery", closing="Battery on")
    fogs = [key for key in LAMPS if key.unit == "foglamp"]
    for of_fogs, words in (((CAP,), ON), ((battery, replace(CAP, id=2)), "Battery on")):
        job = Job({"foglamp": of_fogs, "headlamp": (CAP,)}, LAMPS)
        job.add(Identified(Optic.PROJECTOR, "D2S", Present.HID), *(set(LAMPS) - set(fogs)))
        job.add(Chosen(None, "stays"), *LAMPS)
        closings = [step for step in job.work.steps if step.kind in ("seal", "close", "live")]
        assert [step.text for step in closings if "Battery on" in step.text] == [words]
        assert closings[-1].text == words
        last = next(step for step in closings if "Back: Cap" in step.text and HEAD in step.units)
        for step in job.work.steps:
            if step not in (last, closings[-1]):
                job.prove() if step.kind == "prove" else job.tick(step)
        assert job.work.waits_for(closings[-1])
        job.tick(last)
        assert not job.work.waits_for(closings[-1])


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
