"""What is in each socket now, and the other facts of a car with where they were told. Common
practice, no published source."""

from dataclasses import replace

import pytest

from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Function, Optic, Present, Side
from cold_arc.core.findings import Level
from cold_arc.core.job.entries.book_in import Identified
from cold_arc.core.job.entries.fit import Ticked
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.prove import NotOnCar
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.entries.stages import Passed
from cold_arc.core.job.in_socket import in_socket, phase_findings
from cold_arc.core.job.known import known_facts
from cold_arc.core.job.stages import Stage
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units import UnitSystem
from cold_arc.core.work.tick import Tick
from tests.core.job.handworked import CAP, SLIM, Job

LOW = SocketKey("headlamp", 1, Side.LEFT)


@pytest.fixture
def job():
    return Job({"headlamp": (CAP,)}, [LOW])


def now(job):
    return in_socket(job.record, LOW)


def warned(job, phase):
    findings = phase_findings(job.record, job.record.road_beams, phase)
    return [(one.id, one.values["lamp"]) for one in findings]


def test_a_lamp_holds_what_it_came_with_until_the_new_source_is_seated(job):
    assert (now(job).words, now(job).origin) == ("H7 Halogen", "told at Book in")
    job.add(Ticked(Tick("fit:film")), LOW)
    assert now(job).source is None
    job.add(Ticked(Tick("fit:seat")), LOW)
    assert (now(job).words, now(job).origin) == ("slim", "told at Fit")


def test_a_reading_of_another_source_than_its_phase_is_about_is_warned_of(job):
    assert not warned(job, "before")
    assert warned(job, "after") == [("chosen-not-in", "Low beam bulb left")]
    job.add(Ticked(Tick("fit:seat")), LOW)
    assert warned(job, "before") == [("read-not-before", "Low beam bulb left")]
    assert not warned(job, "after")


def test_read_before_in_time_it_is_no_more_than_a_note(job):
    job.add(
        Read(Phase.BEFORE, "", WallReading("peak", 240, 10, 13.2)), BeamKey(Function.LOW, Side.LEFT)
    )
    job.add(Ticked(Tick("fit:seat")), LOW)
    (finding,) = phase_findings(job.record, job.record.road_beams, "before")
    assert finding.level is Level.NOTE


def test_another_choice_is_not_in_before_it_is_fitted_too(job):
    job.add(Ticked(Tick("fit:seat")), LOW)
    job.add(Chosen(replace(SLIM, name="other"), "brighter"), LOW)
    assert now(job).words == "slim"
    assert warned(job, "after")
    job.add(Ticked(Tick("fit:seat")), LOW)
    assert now(job).words == "other"


def test_its_own_source_put_back_is_what_is_in_it(job):
    job.add(Ticked(Tick("fit:seat")), LOW)
    job.add(Chosen(None, "it dazzled"), LOW)
    assert now(job).words == "slim"
    job.add(Ticked(Tick("fit:refit-old")), LOW)
    assert now(job).source is None
    assert not warned(job, "before")
    assert not warned(job, "after")


def test_where_fit_was_finished_without_its_steps_what_is_in_is_assumed(job):
    job.add(Passed(Stage.FIT.value, "done by another shop"), LOW)
    assert now(job).source == SLIM
    assert now(job).assumed


def test_what_nobody_identified_is_assumed_of_its_front():
    job = Job({}, [LOW])
    job.entries = [it for it in job.entries if not isinstance(it.payload, Identified)]
    assert now(job).assumed


def test_every_fact_says_where_it_was_told(job):
    facts = {it.what: it for it in known_facts(job.record, UnitSystem.METRIC)}
    assert (facts["Supply"].value, facts["Supply"].origin) == (
        "12\N{NO-BREAK SPACE}V",
        "told at Book in",
    )
    assert facts["Low beam left, height"].assumed
    assert facts["Lamp to wall"].assumed
    assert facts["Turn signal"].origin == "told at Book in, by its front"
    assert facts["Hazard"].assumed
    job.add(NotOnCar("hazard"))
    hazard = {it.what: it for it in known_facts(job.record, UnitSystem.METRIC)}["Hazard"]
    assert (hazard.value, hazard.assumed) == ("not on this car", False)


def test_a_clip_identified_anew_is_what_it_came_with(job):
    job.add(Identified(Optic.REFLECTOR, "H7", Present.LED), LOW)
    assert now(job).words == "H7 LED"
