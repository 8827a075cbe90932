"""How far a candidate's hot spot may be off among lamps that agree as well with what was read."""

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam.fitted import HousingFit
from cold_arc.core.beam.setup import LIMITS, SetUp
from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.match import doubt, own_housing, prediction
from cold_arc.core.match.weighing import weigh
from tests.core.match.lamps import GOOD, REFLECTOR, setup
from tests.standing.rare import HOUSING

OWN = SetUp(haze=0.2)
GAINS = (0.8, 0.9, 1.05, 1.3)


def fit_of(*drawn):
    return HousingFit(OWN, (), 0.02, drawn=drawn)


def test_lamps_that_differ_in_brightness_alone_spread_by_that():
    fit = fit_of(*(replace(OWN, gain=gain) for gain in GAINS))
    share = prediction.spread_among(setup(GOOD), fit)
    assert share == pytest.approx(np.std(np.log(GAINS), ddof=1), rel=1e-6)
    assert prediction.SPREADS.get((setup(GOOD), fit.drawn)) == share


def test_lamps_beyond_what_is_modelled_are_left_out():
    bright = replace(OWN, gain=LIMITS["gain"].high)
    fit = fit_of(bright, *(replace(OWN, gain=gain) for gain in GAINS))
    source = replace(setup(GOOD), gain=2.0)
    assert prediction.spread_among(source, fit) == pytest.approx(np.std(np.log(GAINS), ddof=1))
    assert prediction.spread_among(source, fit_of(bright, bright)) == 0.0


def test_a_lens_made_clear_since_is_as_clear_in_each():
    hazed, clear = replace(setup(GOOD), haze=0.2), replace(setup(GOOD), haze=0.0)
    fit = fit_of(replace(OWN, haze=0.1), replace(OWN, haze=0.3))
    assert prediction.spread_among(clear, fit) == pytest.approx(0, abs=1e-9)
    assert prediction.spread_among(hazed, fit) > 0.02


def test_the_larger_of_what_is_left_over_and_what_lamps_differ_by_counts():
    fit = replace(fit_of(), left_over=0.15)
    plain = doubt.of_prediction(GOOD, fit)
    assert doubt.of_prediction(GOOD, fit, share=0.1) == plain
    own = doubt.of_source(GOOD)
    assert doubt.of_prediction(GOOD, fit, share=0.4) == pytest.approx(np.hypot(own, 0.4))


def test_of_a_lamp_whose_brightness_nobody_read_candela_are_as_doubtful_as_of_any():
    read = replace(HOUSING, doubt=0.03, left_pct=4.0, absolute=False)
    left_over = own_housing.fit_from(read, "as read").left_over
    assert left_over == pytest.approx(np.hypot(0.05, doubt.TYPICAL_HOUSING))


def test_lamps_are_drawn_of_a_housing_that_was_read_and_each_can_be_built():
    fit = own_housing.fit_from(HOUSING, "as read")
    assert 1 < len(fit.drawn) <= own_housing.DRAWN
    assert len({lamp.pattern for lamp in fit.drawn}) == len(fit.drawn)
    assert own_housing.fit_from(HOUSING, "as read").drawn == fit.drawn


def test_a_shelfs_spreads_come_with_its_predictions_for_bulbs_alone():
    shelf = {1: GOOD, 2: replace(GOOD, name="Whole", kind="assembly", optic="reflector")}
    setting = replace(REFLECTOR, fit=fit_of(replace(OWN, gain=0.9), replace(OWN, gain=1.1)))

    def shares(seconds, setting=setting):
        return weigh(setting, Function.LOW, Traffic.RIGHT, shelf, {}, seconds).shares

    prediction.SPREADS.forget()
    assert shares(0.0) == {1: None}
    assert shares(60.0) == {1: pytest.approx(np.std(np.log([0.9, 1.1]), ddof=1))}
    assert shares(0.0) == shares(60.0)
    assert shares(60.0, replace(setting, fit=fit_of())) == {}
