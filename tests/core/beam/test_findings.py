"""What a beam's numbers mean, in words, and the derived quantities on beams made by hand."""

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.housings.reflector import Reflector
from cold_arc.core.beam.model import GRID, Beam
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.findings import Level

LED = SetUp(source="led")


def made(candela, shape="flat", level=-0.57):
    """A beam whose intensity is *candela*(h, v), cd, in a housing with a line of *shape*."""
    h, v = np.meshgrid(GRID.h, GRID.v)
    flux = candela(h, v) * GRID.solid_angles
    return Beam(GRID, flux, float(flux.sum()), {}, Reflector(cut_off=CutOff(shape, level)))


def spot(h0, v0, peak, width=1.5):
    return lambda h, v: peak * np.exp(-(((h - h0) ** 2 + (v - v0) ** 2) / (2 * width**2)))


def found(setup, *ids):
    return [finding for finding in beam_findings.findings(setup) if finding.id in ids]


def test_a_good_seat_is_praised_with_numbers():
    (holds,) = found(LED, "cutoff-holds")
    assert holds.level is Level.OK
    assert 0 < holds.values["share"] < 0.1
    assert found(LED, "hot-spot-strong")[0].level is Level.OK


def test_a_dazzling_seat_is_stopped_and_the_facets_named():
    wrong = replace(LED, axial=-2.0)
    assert found(wrong, "cutoff-dazzles")[0].level is Level.STOP
    assert found(wrong, "glare-disturbing")[0].level >= Level.CAUTION
    assert found(replace(LED, axial=-4.0), "glare-disturbing")[0].level is Level.STOP
    assert found(wrong, "facets-raised")
    assert not found(LED, "facets-raised")


def test_more_lumens_alone_change_no_judgement_of_the_pattern():
    once, twice = (beam_findings.findings(replace(LED, flux=lm)) for lm in (1000.0, 2000.0))
    lumens_matter = {"glare-disturbing", "yardstick-points"}
    assert {one.id for one in once} - lumens_matter == {one.id for one in twice} - lumens_matter


def test_a_high_beam_has_no_cut_off_to_judge():
    assert not found(
        SetUp(base="9005", high=True), "cutoff-holds", "cutoff-lighter", "cutoff-dazzles"
    )


def test_findings_are_worst_first_and_name_their_source():
    listed = beam_findings.findings(replace(LED, faces=4, gap=6.0, width=2.0))
    assert [finding.level for finding in listed] == sorted(
        (finding.level for finding in listed), reverse=True
    )
    assert all(finding.sources for finding in listed)


def test_a_peak_is_found_where_it_was_put():
    top = derived.peak(made(spot(2.0, -1.5, 30000)))
    assert (top.h_deg, top.v_deg) == pytest.approx((2.0, -1.5))
    assert top.candela == pytest.approx(30000, rel=1e-6)


def test_flux_of_a_made_beam_is_its_integral():
    """A Gaussian of peak I and width s (radians) holds 2π·I·s² lumens."""
    beam = made(spot(0.0, 0.0, 1000, width=1.0))
    assert beam.flux_lm == pytest.approx(2 * np.pi * 1000 * np.radians(1.0) ** 2, rel=1e-3)


def test_two_spots_are_counted_and_the_dip_measured():
    apart = made(lambda h, v: spot(-4, -1.5, 20000)(h, v) + spot(4, -1.5, 20000)(h, v))
    spots, shadow = derived.hot_spots(apart)
    assert len(spots) == 2
    assert shadow > 0.8
    together = made(lambda h, v: spot(-1, -1.5, 20000)(h, v) + spot(1, -1.5, 20000)(h, v))
    assert len(derived.hot_spots(together)[0]) == 1


def test_a_weak_spot_is_no_hot_spot():
    beam = made(lambda h, v: spot(-4, -1.5, 20000)(h, v) + spot(5, -1.5, 8000)(h, v))
    assert len(derived.hot_spots(beam)[0]) == 1


@pytest.mark.parametrize("level", [-1.0, -0.57, 0.5])
def test_a_step_of_light_is_found_at_its_height(level):
    beam = made(lambda h, v: 10000 / (1 + np.exp((v - level) / 0.08)))
    assert derived.cut_off_height(beam) == pytest.approx(level, abs=0.35)
    assert derived.sharpness(beam) > derived.sharpness(
        made(lambda h, v: 10000 / (1 + np.exp((v - level) / 0.4)))
    )


def test_share_above_counts_only_what_is_above():
    below, above = made(spot(0, -6, 1000, width=0.8)), made(spot(0, 6, 1000, width=0.8))
    assert derived.share_above(below) < 1e-6
    assert derived.share_above(above) > 0.999
    assert derived.share_above(made(spot(0, 0, 1000), shape="none")) is None


def test_fidelity_of_a_beam_with_itself_and_with_darkness():
    beam = made(spot(1, -1.5, 20000))
    same = derived.fidelity(beam, beam)
    assert (same.kept, same.lost, same.above) == pytest.approx((1, 0, 0))
    assert same.zones["hot spot"] == pytest.approx(1)
    moved = derived.fidelity(made(spot(-20, -1.5, 20000)), beam)
    assert moved.kept < 0.01


def test_wall_lux_of_an_even_beam_falls_with_the_cube_of_the_cosine():
    even = made(lambda h, v: 1000.0 + 0 * h)
    lux = derived.wall_lux(even, np.array([0.0, 5.0]), np.array([0.0, 0.0]), 10.0)
    assert lux[0] == pytest.approx(10.0)
    assert lux[1] == pytest.approx(10.0 * (10 / np.hypot(10, 5)) ** 3, rel=1e-6)


def test_reach_of_a_made_beam_is_the_inverse_square_of_both_lamps():
    """Two even lamps of 1500 cd give 3 lx where 2·1500/d² = 3: at 31.6 m."""
    even = made(lambda h, v: 1500.0 + 0 * h)
    assert derived.reach_m(even, 3.0) == pytest.approx(31.6, abs=0.6)
    assert derived.reach_m(made(lambda h, v: 0 * h), 3.0) == 0


def test_left_traffic_flips_the_un_points():
    lopsided = made(spot(3.43, 0.57, 1000, width=0.5))
    right = {point.name: point.candela for point in derived.at_yardstick(lopsided, "un-r112")}
    left = {
        point.name: point.candela for point in derived.at_yardstick(lopsided, "un-r112", "left")
    }
    assert right["B50L"] < 1
    assert left["B50L"] == pytest.approx(1000, rel=0.05)


def test_an_unknown_yardstick():
    with pytest.raises(KeyError):
        derived.at_yardstick(made(spot(0, 0, 1)), "cubit")
