"""A housing fitted to readings: what was put in comes out, few readings bend it little, and what is
left over is told."""

import math
from dataclasses import replace

import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.fitted import BeamReading, fit_housing
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp

PLACES = [
    (0, -0.86),
    (0, -1.72),
    (-3.43, -0.86),
    (3.43, -0.86),
    (-3.43, 0.57),
    (-12, -3),
    (9, -1.72),
]
USUAL = SetUp("reflector", "H7")


def read(setup, places=PLACES, factor=1.0):
    beam = beam_of(setup)
    found = [BeamReading(f"{h} {v}", factor * float(beam.at(h, v)), h, v) for h, v in places]
    return (*found, BeamReading("peak", factor * derived.peak(beam).candela, None, None))


@pytest.mark.parametrize("gain", [0.6, 1.4])
@pytest.mark.parametrize("widen", [0.85, 1.25])
def test_what_differs_from_the_kind_is_found(gain, widen):
    true = replace(USUAL, gain=gain, widen=widen, aim_v=-0.5, haze=0.2)
    fit = fit_housing(replace(USUAL, haze=0.12), read(true), -0.57 - 0.5)
    assert fit.setup.gain == pytest.approx(gain, rel=0.1)
    assert fit.setup.widen == pytest.approx(widen, rel=0.12)
    assert fit.setup.aim_v == pytest.approx(-0.5, abs=0.15)
    assert fit.left_over < 0.06


def test_a_typical_lamp_stays_typical():
    fit = fit_housing(USUAL, read(USUAL))
    assert (fit.setup.gain, fit.setup.widen) == pytest.approx((1, 1), rel=0.05)
    assert fit.left_over < 0.03


def test_predictions_follow_the_fitted_housing():
    """A dim housing is dim with another source too."""
    fit = fit_housing(USUAL, read(replace(USUAL, gain=0.6)))
    led = replace(USUAL, source="led")
    dim = replace(led, gain=fit.setup.gain, widen=fit.setup.widen)
    ratio = derived.peak(beam_of(dim)).candela / derived.peak(beam_of(led)).candela
    assert ratio == pytest.approx(0.6, rel=0.1)


def test_fewer_than_five_readings_fit_nothing():
    assert fit_housing(USUAL, read(USUAL, PLACES[:3])) is None
    assert fit_housing(USUAL, read(USUAL, PLACES[:4])) is not None


def test_readings_no_such_housing_gives_leave_much_over():
    odd = list(read(USUAL))
    odd[0] = replace(odd[0], candela=12 * odd[0].candela)
    fit = fit_housing(USUAL, tuple(odd))
    assert fit.left_over > 0.3
    _, said, modelled = fit.pairs[0]
    assert said == pytest.approx(odd[0].candela)
    assert modelled < said / 2


def test_a_fitted_housing_accounts_for_every_lumen():
    for gain, widen in ((0.5, 1.0), (1.7, 1.3), (1.0, 0.7)):
        beam = beam_of(replace(USUAL, gain=gain, widen=widen))
        assert math.fsum([beam.flux_lm, *beam.losses.values()]) == pytest.approx(
            beam.emitted_lm, rel=1e-3
        )
        assert beam.flux.min() > -1e-9


def test_wider_is_wider_and_moves_no_light_up_or_down():
    usual, wide = beam_of(USUAL), beam_of(replace(USUAL, widen=1.3))
    assert wide.flux.sum(axis=1) == pytest.approx(usual.flux.sum(axis=1), rel=0.02, abs=0.02)
    spreads = [
        float((abs(it.grid.h) * it.flux.sum(axis=0)).sum() / it.flux_lm) for it in (usual, wide)
    ]
    assert spreads[1] / spreads[0] == pytest.approx(1.3, rel=0.05)
