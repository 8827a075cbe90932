"""What several sockets, sides and visits make of one another, asked of the record alone."""

import datetime as dt
from dataclasses import replace

import pytest

from cold_arc.core import ballast
from cold_arc.core.ballast import BallastTest
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import UnitKey
from cold_arc.core.car.keys import BeamKey, SocketKey
from cold_arc.core.car.lamps import Drive, Function, Optic, Present, Side
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level
from cold_arc.core.job import (
    again,
    at_lamp,
    carwork,
    facts,
    outcome,
    plausible,
    proofs,
    stand,
    tables,
)
from cold_arc.core.job.car_history import CarVisit
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.book_in import Booking, Identified
from cold_arc.core.job.entries.fit import Clocked, Ticked
from cold_arc.core.job.entries.inspect import Inspected
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.later import RECHECK, WORK, FittedBefore
from cold_arc.core.job.entries.match import (
    BallastTested,
    Chosen,
    Quoted,
    QuotedWay,
    Renewed,
    Supplied,
    WiresMapped,
)
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.entries.prove import Proved
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.record import LENS_RESTORED
from cold_arc.core.match import measuring
from cold_arc.core.match.modelled import HAZE_OF_GRADE
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units import UnitSystem
from cold_arc.core.wiring.leads import MappedWire, WireMap
from cold_arc.core.work import proof
from cold_arc.core.work.access import RouteStep
from cold_arc.core.work.tick import Tick
from tests.core.job.test_record import BEAM, LEFT, RIGHT, SLIM, Story

HIGH = SocketKey("headlamp", 2, Side.LEFT)
DAY = dt.date(2026, 3, 3)
WAY = QuotedWay("bulb", "A bulb", "slim", 50.0, 60.0, 45.0, "", "")
SIGNED = Quoted((WAY,), "bulb", 20.0, "R. Oster")


@pytest.mark.parametrize(
    ("reference", "taken", "booked"),
    [
        ("A-1", (), "A-1, more work"),
        ("A-1", ("A-1, more work",), "A-1, more work 2"),
        ("A-1, more work 2", ("A-1, more work", "A-1, more work 2"), "A-1, more work 3"),
    ],
)
def test_a_car_that_comes_back_gets_a_reference_of_its_own(reference, taken, booked):
    left = again.LeftJob(Booking(reference, "V", "D", Drive.LEFT, "un"), Story().record, DAY)
    assert again.booked_again(left, WORK, taken).reference == booked


def test_a_long_reference_is_cut_so_that_its_ending_stands():
    left = again.LeftJob(Booking("A" * 200, "V", "D", Drive.LEFT, "un"), Story().record, DAY)
    booked = again.booked_again(left, RECHECK, ()).reference
    assert len(booked) == again.LONGEST_REFERENCE
    assert booked.endswith("A, re-check")


def test_what_was_signed_for_is_held_against_each_socket_by_itself():
    """One socket without a quote, one as signed, one otherwise: that one is told."""
    story = Story().add(Chosen(SLIM, "x"), LEFT)
    assert outcome.quoted_findings(story.record) == []
    story.add(SIGNED, RIGHT).add(Chosen(SLIM, "x"), RIGHT)
    assert outcome.quoted_findings(story.record) == []
    story.add(Chosen(replace(SLIM, name="thick"), "x"), RIGHT)
    (told,) = outcome.quoted_findings(story.record)
    assert (told.values["signed"], told.values["now"]) == ("A bulb, slim", "thick")
    story.add(Chosen(None, "stays"), RIGHT)
    (kept,) = outcome.quoted_findings(story.record)
    assert kept.values["now"] == "the original, kept"
    story.add(FittedBefore(replace(SLIM, name="round"), "A-0", DAY), RIGHT)
    (kept,) = outcome.quoted_findings(story.record)
    assert kept.values["now"] == "round, kept"


@pytest.mark.parametrize(("market", "usual_m"), [("us", 7.62), ("un", 10.0), ("uk", 10.0)])
def test_the_wall_stands_as_usual_where_the_car_is(market, usual_m):
    """25 ft in the United States, 10 m elsewhere: common practice, no published source."""
    story = Story().add(Booking("A", "V", "D", Drive.LEFT, market))
    told = stand.distance(story.record, [BEAM])
    assert (told.value, told.assumed) == (pytest.approx(usual_m), True)


def seated(optic, *clocked):
    story = Story().add(Identified(optic, "H7", Present.HALOGEN), LEFT)
    story.add(Inspected(UnitCondition(haze=0)), LEFT.of_unit).add(Chosen(SLIM, "thin"), LEFT)
    for each in clocked:
        story.add(each, LEFT)
    return {finding.id: finding for finding in at_lamp.seat_findings(story.record, LEFT)}


BOOKING = Booking("A", "V", "D", Drive.LEFT, "un")


@pytest.mark.parametrize("source", [None, replace(SLIM, faces=2, gap_mm=1.5, emitter_mm=4.2)])
def test_a_lens_restored_at_fit_is_what_a_reading_is_expected_through(source):
    """What was clouded strews ten times the light above the cut-off: as found it does, as left it
    does not, and no reading is asked back for that.
    """
    story = Story().add(BOOKING).add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), LEFT)
    story.add(Inspected(UnitCondition(haze=4)), LEFT.of_unit).add(Chosen(source, "x"), LEFT)

    def haze(phase):
        return measuring.setup_at(story.record, BOOKING, BEAM, phase, "right").haze

    clouded = HAZE_OF_GRADE[4]
    assert (haze(Phase.BEFORE), haze(Phase.AFTER)) == (clouded, clouded)
    story.add(Ticked(LENS_RESTORED), LEFT)
    assert haze(Phase.AFTER) == 0
    as_found, chosen = measuring.setups(story.record, BOOKING, BEAM, "right")
    assert as_found.haze == clouded
    assert chosen is None if source is None else chosen.haze == 0


def test_the_last_clocking_is_judged_and_two_tell_of_the_collar():
    assert seated(Optic.REFLECTOR) == {}
    assert set(seated(Optic.REFLECTOR, Clocked(20.0))) == {"clock-far-off"}
    assert set(seated(Optic.REFLECTOR, Clocked(20.0), Clocked(1.0))) == {"clock-faces"}
    slips = seated(Optic.REFLECTOR, Clocked(20.0), Clocked(19.0))
    assert set(slips) == {"clock-far-off", "collar-slips"}
    slips = seated(Optic.REFLECTOR, Clocked(90.0), Clocked(20.0), Clocked(19.0))
    assert slips["collar-slips"].values["first"] == "20° clockwise"


def test_a_depth_matters_more_in_a_reflector_than_in_a_projector():
    """H7's light centre stands 25.0 mm off its flange (UN R37, from memory)."""
    deep = Clocked(0.0, depth_mm=27.5)
    assert seated(Optic.REFLECTOR, deep)["seat-far-off"].level is Level.STOP
    assert seated(Optic.PROJECTOR, deep)["seat-off"].level is Level.CAUTION
    first, last = Clocked(0.0, depth_mm=27.5), Clocked(0.0, depth_mm=25.0)
    assert "seat-good" in seated(Optic.REFLECTOR, first, last)


def gas_discharge(*after):
    """Two lamps on their ballasts, the right one's failed, and what was told *after*."""
    story = Story().add(Identified(Optic.PROJECTOR, "D2S", Present.HID), LEFT, RIGHT)
    story.add(BallastTested(BallastTest("right", "stayed", 12.4)), LEFT, RIGHT)
    for payload, *about in after:
        story.add(payload, *about)
    return story.record


POSITIVE = Booking("A", "V", "D", Drive.LEFT, "un", earth_positive=True)
GUESSED = MappedWire("low", "red", "white", "colour")
STARVED = BallastTested(BallastTest("right", "", 8.0)), LEFT, RIGHT


def visits_after(record):
    """The records a re-check and more work begin with."""
    left = again.LeftJob(record.booking, record, DAY)
    for visit in (RECHECK, WORK):
        back = Story().add(again.booked_again(left, visit, ()))
        for payload, about in again.carried(left, visit):
            back.add(payload, *about)
        yield back.record


def open_at(record):
    return [key for key, finding in at_lamp.left_open(record)]


@pytest.mark.parametrize(
    ("after", "told"),
    [
        ([], [RIGHT]),
        ([(Chosen(None, "stays"), LEFT, RIGHT)], [RIGHT]),
        ([(Chosen(replace(SLIM, driver="ballast"), "fed by it"), RIGHT)], [RIGHT]),
        ([(Chosen(replace(SLIM, driver="in-place"), "past it"), RIGHT)], []),
        ([(Renewed("ballast", 90.0), RIGHT)], []),
        ([(Renewed("ballast", 90.0), LEFT)], [RIGHT]),
        ([(Renewed("ballast", 90.0), RIGHT), (Renewed("ballast", off=True), RIGHT)], [RIGHT]),
        ([(BallastTested(BallastTest("none")), LEFT, RIGHT)], []),
        ([(BallastTested(BallastTest("right", "stayed", 8.0)), LEFT, RIGHT)], [RIGHT]),  # starved
        ([(BallastTested(BallastTest("right", "moved")), LEFT, RIGHT)], []),
        ([(BallastTested(BallastTest("right", "", 8.0)), LEFT, RIGHT)], [RIGHT]),  # no swap asked
        ([STARVED, (Renewed("ballast", 90.0), RIGHT)], [RIGHT]),  # a new one cures no feed
        ([STARVED, (Chosen(replace(SLIM, driver="in-place"), "past it"), RIGHT)], []),
        ([STARVED, (BallastTested(BallastTest("none", "", 12.6)), LEFT, RIGHT)], []),
        ([(BallastTested(BallastTest("none", "", 8.0)), LEFT, RIGHT)], [LEFT, RIGHT]),
        ([(BallastTested(BallastTest("both")), LEFT, RIGHT)], [LEFT, RIGHT]),
        ([(BallastTested(BallastTest("right")), LEFT, RIGHT)], [RIGHT]),  # not ended
    ],
)
def test_a_ballast_its_test_does_not_speak_for_is_open_as_the_car_leaves(after, told):
    record = gas_discharge(*after)
    assert open_at(record) == told
    for back in visits_after(record):
        assert open_at(back) == told
        assert not told or back.latest(BallastTested, LEFT)  # a pair is judged by its left


def test_a_re_check_takes_the_wall_only_more_work_the_whole_way():
    way = Routed("way", (RouteStep(1, "Cap off", 2),))
    record = gas_discharge((way, LEFT.of_unit, RIGHT.of_unit))
    at_recheck, at_work = (
        [task.id for task in carwork.tasks(back, back.plan)] for back in visits_after(record)
    )
    assert at_recheck == ["aim", "verify"]
    assert {"safe-off", "open-0", "close-0", "live-on", "aim"} <= set(at_work)


def test_a_supply_told_otherwise_later_leaves_a_ballast_unjudged_and_breaks_nothing():
    """7 V starves a ballast of a 12 V car, so that nothing was swapped; of a 6 V car it is full."""
    starved = BallastTested(BallastTest("right", "", 7.0)), LEFT, RIGHT
    record = gas_discharge(starved, (Booking("A", "V", "D", Drive.LEFT, "un", volts=6.0),))
    assert at_lamp.left_open(record) == [(RIGHT, ballast.staying("unswapped"))]
    assert facts.setting_of(record, record.booking, RIGHT).ballast_good is None
    assert ballast.findings(starved[0].test, 6.0)[0].id == "ballast-open"


def test_what_was_read_into_a_ballast_is_not_asked_again_of_its_feed():
    record = gas_discharge(STARVED)
    assert facts.supply_facts(record, RIGHT).feed_volts == 8.0
    assert facts.supply_facts(record, LEFT).feed_volts is None  # read at the other
    told = gas_discharge(STARVED, (Supplied(SupplyFacts(feed_volts=12.5)), RIGHT))
    assert facts.supply_facts(told, RIGHT).feed_volts == 12.5


@pytest.mark.parametrize("test", [BallastTest("odd"), BallastTest("left", "turned")])
def test_a_ballast_test_of_no_kind_is_not_recorded(test):
    with pytest.raises(plausible.ImplausibleError):
        plausible.check(BallastTested(test))


@pytest.mark.parametrize(
    ("after", "stopped"),
    [
        ([(Supplied(SupplyFacts(resistor_on="plastic")), RIGHT)], ["resistor-on-plastic"]),
        ([(Supplied(SupplyFacts(feed_at="out")), RIGHT)], ["feed-behind-ballast"]),
        ([(Supplied(SupplyFacts(wire_mm2=0.35, fuse_a=30)), RIGHT)], ["tap-fuse-above-wire"]),
        ([(Supplied(SupplyFacts(resistor_on="metal")), RIGHT)], []),
        (
            [(Chosen(replace(SLIM, supply_min_v=21.0, supply_max_v=32.0), "all the same"), RIGHT)],
            ["supply-short"],
        ),
        ([(POSITIVE,), (Chosen(replace(SLIM, earth_insulated=True), "fits"), LEFT)], ["body-live"]),
        ([(WiresMapped(WireMap((GUESSED,), "kills", "crimp")), RIGHT)], []),  # it was proved
        (
            [
                (Supplied(SupplyFacts(resistor_on="plastic")), RIGHT),
                (Supplied(SupplyFacts(resistor_on="metal")), RIGHT),
            ],
            [],
        ),
        (
            [
                (Supplied(SupplyFacts(resistor_on="plastic")), RIGHT),
                (Chosen(None, "stays after all"), RIGHT),
            ],
            [],
        ),
    ],
)
def test_what_is_wired_against_a_stop_is_told_at_the_lamp_and_as_the_car_leaves(after, stopped):
    story = Story().add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    story.add(Chosen(SLIM, "fits"), LEFT, RIGHT)
    for payload, *about in after:
        story.add(payload, *about)
    record = story.add(Ticked(Tick("fit:seat")), LEFT, RIGHT).record
    for each in (record, *visits_after(record)):
        still = [(key, finding.id) for key, finding in at_lamp.left_open(each)]
        assert still == [(RIGHT, stop) for stop in stopped]
    assert set(stopped) <= {finding.id for finding in at_lamp.wire_findings(record, RIGHT)}


WET = UnitCondition(haze=4, condensation="drops", crack="through")
DULL = UnitCondition(haze=0, mirror="peeling", strip_dead=True)


@pytest.mark.parametrize(
    ("seen", "after", "unfit"),
    [
        (WET, [], ["water-stands", "crack-through"]),
        (WET, [(Chosen(None, "stays"), LEFT)], ["water-stands", "crack-through"]),
        (WET, [(Chosen(replace(SLIM, kind="assembly"), "whole"), LEFT)], []),
        (WET, [(Renewed("housing", 140.0), LEFT)], []),
        (WET, [(Renewed("seal", 25.0), LEFT)], ["crack-through"]),
        (WET, [(Inspected(UnitCondition(haze=0)), LEFT.of_unit)], []),  # looked at again, mended
        (DULL, [], ["mirror-gone", "strip-dead"]),
        (DULL, [(Chosen(replace(SLIM, kind="projector"), "a kit"), LEFT)], ["strip-dead"]),
        (DULL, [(Chosen(replace(SLIM, kind="module"), "a strip"), LEFT)], ["mirror-gone"]),
        (DULL, [(Chosen(SLIM, "a bulb"), LEFT)], ["mirror-gone", "strip-dead"]),
    ],
)
def test_a_lamp_that_stays_though_it_is_unfit_is_told_as_the_car_leaves(seen, after, unfit):
    story = Story().add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    story.add(Inspected(seen), LEFT.of_unit)
    for payload, *about in after:
        story.add(payload, *about)
    still = [(key, finding.id) for key, finding in at_lamp.left_open(story.record)]
    assert still == [(LEFT.of_unit, name) for name in unfit]


def test_reversed_wires_that_kill_are_not_tried_the_other_way_round():
    cell = proof.Cell("low", "left", "off")
    story = Story().add(Identified(Optic.REFLECTOR, "H7", Present.HALOGEN), LEFT, RIGHT)
    usual = proofs.turning(story.record, cell)
    wire = MappedWire("low", "red", "white", "light")
    story.add(WiresMapped(WireMap((wire,), "kills", "crimp")), LEFT)
    assert proofs.turning(story.record, cell) == proof.TURNING_KILLS != usual
    other = proof.Cell("low", "right", "off")
    assert proofs.turning(story.record, other) == usual
    assert proofs.turning(story.record, proof.Cell("fog", "left", "off")) == proof.turning(None)


def test_a_lamp_is_proved_open_by_its_own_sides_cells():
    story = Story()
    mine = proofs.unproved_open(story.record, LEFT)
    assert {cell.side for cell in mine} == {"left"}
    for cell in mine:
        story.add(Proved(proofs.OPEN, cell.function, Side.LEFT, cell.engine, "works"))
    assert proofs.unproved_open(story.record, LEFT) == []
    assert {cell.side for cell in proofs.unproved_open(story.record, RIGHT)} == {"right"}


def test_a_new_housing_and_an_opened_lamp_are_the_units_they_were_told_of():
    left, right = LEFT.of_unit, RIGHT.of_unit
    record = Story().add(Renewed("housing"), LEFT).record
    assert (record.has_new_housing(left), record.has_new_housing(right)) == (True, False)
    record = Story().add(Renewed("seal"), RIGHT).record
    assert (record.is_opened(left), record.is_opened(right)) == (False, True)
    assert not record.has_new_housing(UnitKey("foglamp", Side.LEFT))


def test_a_table_of_gains_has_per_cents_and_leaves_open_what_was_not_read():
    story = Story()
    for phase, lux in ((Phase.BEFORE, 200.0), (Phase.AFTER, 500.0)):
        story.add(Read(phase, "", WallReading("peak", lux, 10.0, 13.2)), BEAM)
    story.add(Read(Phase.AFTER, "", WallReading("stray", 2.0, 10.0, 13.2)), BEAM)
    story.add(Read(Phase.BEFORE, "", WallReading("stray", 0.0, 10.0, 13.2)), BEAM)
    booking = Booking("A", "Velmar", "Dorin", Drive.LEFT, "un")
    visit = CarVisit(1, DAY, None, booking, story.record)
    rows = {row["point"]: row for row in tables.TABLES["gains"].rows(visit)}
    assert rows["peak"]["gain_pct"] == pytest.approx(150.0)
    assert 0 < rows["peak"]["uncertainty_pct"] < 100
    assert rows["stray"]["gain_pct"] is None


def test_left_and_right_as_left_are_told_once_for_the_pair():
    story = Story()
    across = BeamKey(Function.LOW, Side.RIGHT)
    for beam, slope in ((BEAM, -0.012), (across, -0.018)):
        story.add(Aimed(AimPhase.LEFT, "un-r48-low", 0.65, 10, slope, ""), beam)
    (apart,) = outcome.parallel_findings(story.record, [BEAM, across], UnitSystem.METRIC)
    assert (apart.id, apart.values["higher"]) == ("sides-apart", "left")
    assert outcome.parallel_findings(story.record, [across], UnitSystem.METRIC) == []
