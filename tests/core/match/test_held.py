"""A lamp that an earlier visit put an LED bulb in: that is what shines in it, wherever its beam is
judged or foretold.
"""

import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core.beam.fitted import BeamReading
from cold_arc.core.beam.report import beam_of
from cold_arc.core.car.lamps import Function, Optic, Present
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.book_in import Identified
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.later import FittedBefore
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.facts import fitted_before, leaves_with_words, setting_of
from cold_arc.core.job.in_socket import in_socket
from cold_arc.core.match import measuring
from cold_arc.core.match.choice import of_present
from cold_arc.core.match.experience import KnownSource
from cold_arc.core.match.modelled import setup_of
from cold_arc.core.match.options import compare
from cold_arc.core.match.own_housing import fit_of
from cold_arc.core.match.weighing import weigh
from cold_arc.core.wiring import working
from cold_arc.core.wiring.ribbon import ribbon
from tests.core.job.test_record import BEAM, Story
from tests.core.job.test_record import LEFT as SOCKET
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp
from tests.core.match.test_experience import BOOKING, identified, read, told

HELD = replace(REFLECTOR, held=GOOD)
BEFORE = FittedBefore(GOOD, "A-1", dt.date(2026, 3, 3))
PLACES = ((0.0, -0.9), (-4.0, -1.5), (4.0, -1.5), (0.0, -3.0), (-9.0, -2.0), (9.0, -2.0))


def come_back():
    story = Story().add(BOOKING).add(Identified(Optic.REFLECTOR, "H7", Present.LED), SOCKET)
    return story.add(BEFORE, SOCKET)


def test_readings_of_an_led_bulb_tell_of_its_housing_as_an_led_bulbs():
    """A lamp that gives 0.7 of the light of its kind: what it read is what it is said to read
    again, not a quarter more.
    """
    present = setup_of(HELD, Function.LOW, None, "right")
    dim = beam_of(replace(present, gain=0.7))
    readings = tuple(BeamReading(str(at), float(dim.at(*at)), *at) for at in PLACES)
    setting = replace(HELD, fit=fit_of((present, readings, None), True))
    foretold = beam_of(setup_of(setting, Function.LOW, GOOD, "right"))
    for reading in readings:
        now = float(foretold.at(reading.h_deg, reading.v_deg))
        assert now == pytest.approx(reading.candela, rel=0.05)


def test_an_led_bulb_nobody_told_of_is_not_taken_for_a_filament():
    """Its readings fit no housing; beams are held against what the lamp was made for, said so."""
    unknown = lamp(present=Present.LED)
    assert setup_of(unknown, Function.LOW, None, "right") is None
    assert setup_of(unknown, Function.LOW, GOOD, "right") == setup_of(
        REFLECTOR, Function.LOW, GOOD, "right"
    )
    weighed = weigh(unknown, Function.LOW, "right", {1: GOOD}, {}, 30.0)
    assert weighed.as_it_is == weighed.nominal
    assert weighed.nominal is not None
    assert not weighed.is_told
    assert weigh(HELD, Function.LOW, "right", {}, {}, 0.0).is_told
    assert [finding.id for finding in of_present(unknown)] == ["present-led-unknown"]
    assert not list(of_present(replace(unknown, held=GOOD))) + list(of_present(REFLECTOR))
    stay = compare(unknown, [], 2, None)[0]
    assert stay.kind.name == "Restore and stay with the LED bulb in it"
    story = Story().add(Identified(Optic.REFLECTOR, "H7", Present.LED), SOCKET)
    story.add(Chosen(None, "stays"), SOCKET)
    assert leaves_with_words(story.record, SOCKET) == "the LED bulb in it, kept"
    assert stay.law.level is Level.CAUTION


def test_what_is_in_it_is_held_against_itself_as_measured():
    known = {GOOD.name: KnownSource(1.6, 0.05, 2, 1.6, 1.5)}
    shelf = {1: GOOD, 2: replace(GOOD, name="Other", claimed_lm=1200)}
    weighed = weigh(HELD, Function.LOW, "right", shelf, known, 30.0)
    by_id = {judged.id: judged.prediction for judged in weighed.judged}
    assert weighed.as_it_is == by_id[1] != by_id[2]
    assert weighed.nominal.peak_cd < weighed.as_it_is.peak_cd
    plain = weigh(REFLECTOR, Function.LOW, "right", shelf, known, 30.0)
    assert plain.as_it_is == plain.nominal == weighed.nominal


def test_a_tint_takes_of_the_filament_what_a_filament_loses():
    """Yellow glass passes more of a filament than of an LED; what the lamp was made for is held
    against as a filament whatever is in it.
    """
    yellow = replace(REFLECTOR.condition, tint="yellow")
    made, held = (
        weigh(replace(lamp, condition=yellow), Function.LOW, "right", {}, {}, 30.0)
        for lamp in (REFLECTOR, HELD)
    )
    assert held.nominal == made.nominal
    assert held.present.gain != made.present.gain


def test_staying_with_it_is_named_and_judged_as_the_bulb_it_is():
    stay = compare(HELD, [], 2, None)[0]
    assert stay.kind.name == "Restore and stay with Test slim"
    assert stay.law.level is Level.CAUTION
    assert compare(REFLECTOR, [], 2, None)[0].law.level is Level.OK
    whole = compare(replace(HELD, held=UNIT), [], 2, None)[0]
    assert (whole.kind.name, whole.law.id) == ("Restore and stay with Unit", "marks-unread")
    assert working.before_of(HELD).watts == GOOD.watts
    (part,) = [each for each in ribbon(HELD, SupplyFacts(), None) if each.kind == "lamp"]
    assert (part.words, part.says) == ("Test slim", "2.29 A at most")  # 24 W at 10.5 V
    on_ballast = replace(GOOD, driver="ballast")
    assert working.before_of(replace(HELD, held=on_ballast)).watts > GOOD.watts


def test_a_ballast_that_stays_takes_most_where_the_supply_is_lowest():
    """35 W and 15 % more at 10.5 V, where a filament takes most at the highest; P = U I."""
    kept = lamp(optic=Optic.PROJECTOR, base="D2S", present=Present.HID)
    amps = working.lamp_amps(kept, SupplyFacts(), None)
    assert amps == pytest.approx(35 * 1.15 / 10.5, rel=1e-3)
    assert working.lamp_amps(REFLECTOR, SupplyFacts(), None) > 55 / 13.2


def test_what_an_earlier_visit_put_in_shines_before_until_book_in_finds_something_else():
    story = come_back()
    assert setting_of(story.record, BOOKING, SOCKET).held is GOOD
    shining = measuring.setup_at(story.record, BOOKING, BEAM, Phase.BEFORE, "right")
    assert (shining.source, shining.flux) == ("led", GOOD.believable_lm)
    assert leaves_with_words(story.record, SOCKET) == "Test slim, kept"
    story.add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), SOCKET)
    assert fitted_before(story.record, SOCKET) is None
    assert setting_of(story.record, BOOKING, SOCKET).held is None
    assert leaves_with_words(story.record, SOCKET) == "the original, kept"
    assert "H7" in in_socket(story.record, SOCKET).words


def test_a_ballast_that_an_earlier_visit_took_out_is_there_no_more():
    for driver, is_there in (("ballast", True), ("in-place", False)):
        fitted = FittedBefore(replace(GOOD, base="D2S", driver=driver), "A-1", dt.date(2026, 3, 3))
        story = Story().add(Identified(Optic.PROJECTOR, "D2S", Present.LED), SOCKET)
        story.add(fitted, SOCKET).add(Chosen(None, "stays"), SOCKET)
        assert at_lamp.keeps_ballast(story.record, SOCKET) is is_there


def test_what_is_gained_on_an_led_bulb_teaches_nothing_of_such_lamps():
    story = read(read(identified(), "before", 1), "after", 2)
    assert told(story)
    assert told(story.add(BEFORE, SOCKET)) == []
    unknown = Story().add(Identified(Optic.REFLECTOR, "H7", Present.LED), SOCKET)
    unknown.add(Chosen(GOOD, "thin"), SOCKET)
    assert told(read(read(unknown, "before", 1), "after", 2)) == []
