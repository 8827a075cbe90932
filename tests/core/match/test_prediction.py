"""What is predicted of a candidate. Trade facts are common practice, no published source."""

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam.report import beam_of, report_of
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Function, Optic
from cold_arc.core.findings import Level
from cold_arc.core.match.prediction import findings, known, outlook, pattern, predict, sensitivity
from cold_arc.demo.shelf import SHELF
from tests.core.match.lamps import GOOD, REFLECTOR, UNIT, lamp, setup

HAZY = replace(REFLECTOR, condition=UnitCondition(haze=3))
PROJECTOR = lamp(optic=Optic.PROJECTOR)
THICK = replace(GOOD, faces=4, gap_mm=5.0, width_mm=3.0)
SHALLOW = replace(GOOD, lcl_mm=27.1)


@pytest.mark.parametrize("source", [None, GOOD, THICK, SHALLOW])
@pytest.mark.parametrize("setting", [REFLECTOR, PROJECTOR], ids=["reflector", "projector"])
def test_the_quick_prediction_agrees_with_the_full_beam(source, setting):
    """WiringResult out roughly: within 5 % of the bench's hot spot, a point of light above."""
    quick, full = predict(setup(source, setting)), report_of(setup(source, setting))
    assert quick.peak_cd == pytest.approx(full.peak_cd, rel=0.05)
    assert quick.above == pytest.approx(full.share_above_cutoff, abs=0.01)
    assert quick.de_boer == pytest.approx(full.glare_50m.de_boer, abs=0.3)
    if source:
        assert quick.kept == pytest.approx(full.fidelity.kept, abs=0.03)


def test_reflectors_show_what_is_wrong_and_projectors_hide_it():
    """Thick cores and wrong depth throw light above in a reflector; a projector's shield keeps the
    cut-off.
    """
    own, cut = predict(setup()), predict(setup(None, PROJECTOR))
    assert predict(setup(GOOD)).above < own.above + 0.02
    for bad in (THICK, SHALLOW):
        assert predict(setup(bad)).above > 0.04
        assert predict(setup(bad)).de_boer < predict(setup(GOOD)).de_boer
        assert predict(setup(bad, PROJECTOR)).above < cut.above + 0.01


def test_a_high_beams_width_is_read_level():
    """It has no line to read under: where its own row at 0° falls under 1000 cd."""
    high = setup(None, lamp(Function.HIGH))
    beam = beam_of(high)
    assert beam.housing.cut_off.shape == "none"
    row = beam.at(beam.grid.h, np.zeros_like(beam.grid.h))
    lit = beam.grid.h[row >= 1000]
    assert predict(high).spread_deg == pytest.approx(float(np.ptp(lit)), rel=0.1)


def test_chips_off_the_axis_lift_or_drop_the_beam():
    """Mirrors turn the picture over: chips below the axis throw light up, chips above it throw it
    down.
    """
    low, middle, high = (predict(setup(replace(GOOD, off_axis_mm=off))) for off in (-0.6, 0.0, 0.6))
    assert low.above > middle.above + 0.03
    assert high.above <= middle.above
    assert high.de_boer + 0.05 >= middle.de_boer > low.de_boer + 0.1


def test_a_candidate_is_believed_only_so_far():
    """Claims beyond 150 lm/W, and what heat takes, do not reach the road."""
    boast, honest = (
        setup(replace(GOOD, claimed_lm=20000)),
        setup(replace(GOOD, claimed_lm=24 * 150)),
    )
    assert boast == honest
    assert setup(replace(GOOD, claimed_lm=3600, claim_basis="set")).flux == 1800
    assert setup(GOOD).droop > 0.1


def test_an_assembly_brings_its_own_clear_optic():
    unit = setup(UNIT, HAZY)
    assert (unit.housing, unit.source, unit.haze) == ("projector", "nominal", 0.0)
    assert predict(unit).kept is None
    assert sensitivity(unit) is None
    behind_haze = setup(replace(UNIT, kind="projector"), HAZY)
    assert behind_haze.haze > 0
    assert predict(behind_haze).peak_cd < predict(unit).peak_cd
    assert setup(replace(UNIT, optic=None)) is None
    sealed = lamp(optic=Optic.SEALED)
    assert setup(UNIT, sealed) == setup(UNIT)
    assert setup(GOOD, sealed) is None


def test_seats_matter_more_in_reflectors():
    reflector, projector = sensitivity(setup(GOOD)), sensitivity(setup(GOOD, PROJECTOR))
    assert [(tried.axial_mm, tried.clock_deg) for tried in reflector.tries] == [
        (-1, 0),
        (1, 0),
        (0, -10),
        (0, 10),
    ]
    assert reflector.stray > 0.02
    assert projector.stray < predict(setup(None, PROJECTOR)).above + 0.01
    assert projector.forgiveness > reflector.forgiveness
    assert all(0.5 < tried.peak_share < 1.2 for tried in reflector.tries)


def test_a_seat_is_tried_about_where_it_is():
    """A bulb 20° off loses more of its spot by ten degrees on than by ten back."""
    off = replace(setup(GOOD), clock=20.0)
    kept = {(each.axial_mm, each.clock_deg): each.peak_share for each in sensitivity(off).tries}
    (back, on) = (kept[0.0, clock] for clock in (-10.0, 10.0))
    assert back > on
    about_upright = sensitivity(setup(GOOD)).tries
    assert kept != {(each.axial_mm, each.clock_deg): each.peak_share for each in about_upright}


def test_the_spread_is_read_under_the_line_and_level_for_a_high_beam():
    low, high = predict(setup()), predict(setup(setting=lamp(Function.HIGH)))
    assert 20 < low.spread_deg <= 90
    assert 5 < high.spread_deg <= 90


def test_how_much_light_there_is_changes_no_sensitivity():
    dim, bright = (
        sensitivity(setup(replace(GOOD, claimed_lm=900))),
        sensitivity(setup(replace(GOOD, claimed_lm=3000))),
    )
    assert dim.loss == pytest.approx(bright.loss, abs=1e-9)
    assert dim.stray == bright.stray


def test_a_prediction_is_put_in_words():
    own = predict(setup())
    told = {finding.id: finding.level for finding in findings(outlook(setup(THICK)), own)}
    assert told["cutoff-dazzles"] is Level.STOP
    assert "glare-disturbing" in told
    assert (
        findings(outlook(setup(GOOD, PROJECTOR)), predict(setup(None, PROJECTOR)))[0].level
        is Level.OK
    )
    wide = replace(GOOD, gap_mm=6.5, base="H11")
    slit = lamp(base="H11", optic=Optic.PROJECTOR)
    assert any(
        finding.id == "hot-spots-two" for finding in findings(outlook(setup(wide, slit)), own)
    )


def test_a_clear_pattern_holds_and_a_hazed_one_fails():
    """UN R112 points as a yardstick, from memory; haze raises stray light and no source undoes
    it.
    """
    assert pattern(setup()).level is Level.OK
    fails = pattern(setup(setting=HAZY))
    assert fails.level is Level.STOP
    assert fails.id == "pattern-lost-in-haze"
    assert "B50L" in fails.values["lost"]
    assert fails.advice


def test_no_yardstick_judges_fog_and_high():
    high = lamp(Function.HIGH)
    assert pattern(setup(setting=high)) is None
    assert predict(setup(GOOD, high)).above is None


def test_what_is_worked_out_is_known():
    once = setup(replace(GOOD, claimed_lm=1234))
    assert known(once) is None
    told = outlook(once)
    assert known(once) is told
    assert told.prediction == predict(once)


def test_the_demo_shelf_is_predicted_wherever_it_can_be():
    assert len(SHELF) >= 25
    h7 = [source for source in SHELF.values() if source.base == "H7"]
    assert all(predict(setup(source, PROJECTOR)).peak_cd > 1000 for source in h7)
