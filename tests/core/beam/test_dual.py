"""One bulb, two beams, one mirror. Trade facts: common practice, no published source; H4's geometry
after UN R37.
"""

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived, nominal
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Dual
from cold_arc.core.car.bases import find
from cold_arc.core.car.lamps import Function, Optic
from cold_arc.core.match.modelled import setup_of
from cold_arc.demo.shelf import SHELF
from tests.core.match.lamps import lamp

DUALS = ["H4", "H13", "9004", "9007"]


def share_above(setup, v_deg=0.3):
    beam = beam_of(setup)
    return beam.flux[beam.grid.v > v_deg].sum() / beam.flux.sum()


@pytest.mark.parametrize("kind", ["reflector", "lens-optic"])
@pytest.mark.parametrize("base", DUALS)
def test_low_and_high_come_from_one_mirror(kind, base):
    low, high = SetUp(kind, base), SetUp(kind, base, high=True)
    assert isinstance(low.nominal, Dual)
    mirrors = [setup.built_housing().mirror(setup.nominal) for setup in (low, high)]
    assert np.array_equal(mirrors[0].normals, mirrors[1].normals)
    assert np.array_equal(mirrors[0].positions, mirrors[1].positions)


@pytest.mark.parametrize("base", DUALS)
def test_the_high_beam_is_lifted_and_stronger(base):
    """Changing up lifts the beam by about its dip, and the driving filament is the stronger."""
    low, high = (derived.peak(beam_of(SetUp("reflector", base, high=it))) for it in (False, True))
    assert low.v_deg <= -0.8
    assert abs(high.v_deg) <= 0.6
    assert share_above(SetUp("reflector", base, high=True)) > 6 * share_above(
        SetUp("reflector", base)
    )
    assert (
        beam_of(SetUp("reflector", base, high=True)).flux_lm
        > beam_of(SetUp("reflector", base)).flux_lm
    )


def test_a_single_bulbs_high_beam_has_a_mirror_of_its_own():
    assert not nominal.shares_mirror("reflector", find("H7"))
    assert not isinstance(SetUp("reflector", "H7", high=True).nominal, Dual)
    assert not nominal.shares_mirror("projector", find("H4"))


def test_h4s_driving_filament_lies_behind_the_dipped_one():
    """UN R37, from memory: the dipped filament stands ahead of the driving one, over its cup, a
    little higher.
    """
    right, up, ahead = nominal.high_offset_mm(find("H4"))
    assert right == 0
    assert up < 0
    assert -7 < ahead < -4


def led(high_by):
    return SetUp(
        "reflector", "H4", "led", length=4.8, rows=1, flux=1500.0, high=True, high_by=high_by
    )


def test_an_led_makes_its_high_beam_as_it_is_told_to():
    """A second row behind lifts the beam; a shield that moves lets light up; more light in one
    place lifts nothing.
    """
    lifted, opened, same = (share_above(led(way)) for way in ("row", "shield", "same"))
    assert lifted > 0.4
    assert 0.1 < opened < lifted + 0.2
    assert same < 0.14
    low = SetUp("reflector", "H4", "led", length=4.8, rows=1, flux=1500.0)
    assert derived.peak(beam_of(led("same"))).v_deg == pytest.approx(
        derived.peak(beam_of(low)).v_deg, abs=0.3
    )


@pytest.mark.parametrize(
    ("name", "way"),
    [("Longshade H4 dual", "row"), ("Hearthlight six H4", "row"), ("Sableline H7 slim", "none")],
)
def test_the_shelf_tells_how_a_bulb_makes_high_beam(name, way):
    assert SHELF[name].high_beam_by == way


def test_a_candidate_for_one_socket_is_modelled_for_both_beams():
    dual = lamp(Function.LOW, Function.HIGH, base="H4", optic=Optic.REFLECTOR)
    low, high = (
        setup_of(dual, beam, SHELF["Longshade H4 dual"], "right") for beam in dual.socket.functions
    )
    assert (low.high, high.high, high.high_by) == (False, True, "row")
    (single,) = (source for source in SHELF.values() if source.name == "Sableline H7 slim")
    assert setup_of(dual, Function.HIGH, single, "right") is None


def test_both_rows_together_are_the_sum_of_each_with_half_the_light():
    """The beam is linear in the light: the row where the high filament stood, and the low row in
    its cup; nothing is lost or won.
    """
    both, row = beam_of(led("both")), beam_of(led("row"))
    low = beam_of(SetUp("reflector", "H4", "led", length=4.8, rows=1, flux=750.0))
    assert both.emitted_lm == pytest.approx(1500.0, rel=0.02)
    assert both.flux_lm + sum(both.losses.values()) == pytest.approx(both.emitted_lm, rel=1e-3)
    assert both.flux_lm == pytest.approx(row.flux_lm / 2 + low.flux_lm, rel=0.06)
    assert share_above(led("both")) < share_above(led("row"))
    down = float(both.at(0.0, -2.0))
    assert down == pytest.approx(float(row.at(0.0, -2.0)) / 2 + float(low.at(0.0, -2.0)), rel=0.1)


def test_a_bulb_that_lights_both_rows_has_half_its_light_on_low():
    dual = lamp(Function.LOW, Function.HIGH, base="H4", optic=Optic.REFLECTOR)
    bulb = replace(SHELF["Longshade H4 dual"], high_by="both")
    low, high = (setup_of(dual, beam, bulb, "right") for beam in dual.socket.functions)
    assert (low.flux, high.high_by) == (high.flux / 2, "both")
