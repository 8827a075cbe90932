"""Warm-up runs: fitted against a reference library on synthetic data; a cold value is never the
result.
"""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.findings import Level
from cold_arc.core.metering.warming import LEAST_SAMPLES, warm_up, warm_up_findings


def run(settled=400.0, share=0.12, tau=90.0, seconds=600, every=10, noise=0.002, seed=1):
    rng = np.random.default_rng(seed)
    return [
        (float(t), settled * (1 + share * math.exp(-t / tau)) * (1 + rng.normal(0, noise)))
        for t in range(0, seconds + 1, every)
    ]


def test_an_led_fades_to_its_settled_value():
    told = warm_up(run())
    assert told.settled_lx == pytest.approx(400, rel=0.003)
    assert told.fade == pytest.approx(0.12 / 1.12, abs=0.01)
    assert told.settle_s == pytest.approx(90 * math.log(12), rel=0.1)
    assert told.settled
    assert told.progress == 1.0


def test_an_arc_runs_up():
    told = warm_up(run(share=-0.6, tau=25.0))
    assert told.settled_lx == pytest.approx(400, rel=0.003)
    assert told.fade < 0


@pytest.mark.parametrize("seed", range(6))
def test_it_agrees_with_a_reference_library(seed):
    """lmfit's ExponentialModel plus a constant, on the same samples."""
    import lmfit  # in a second; every worker reads in every test

    samples = run(tau=60 + 25 * seed, share=0.05 + 0.05 * seed, seed=seed)
    t, lux = np.array(samples).T
    model = lmfit.models.ExponentialModel() + lmfit.models.ConstantModel()
    fitted = model.fit(
        lux, model.make_params(amplitude=lux[0] - lux[-1], decay=100, c=lux[-1]), x=t
    )
    told = warm_up(samples)
    assert told.settled_lx == pytest.approx(fitted.params["c"].value, rel=1e-4)
    assert told.tau_s == pytest.approx(fitted.params["decay"].value, rel=1e-3)
    assert told.doubt == pytest.approx(
        fitted.params["c"].stderr / fitted.params["c"].value, rel=0.05
    )


@pytest.mark.parametrize("seconds", [60, 90, 150])
def test_a_run_cut_short_is_not_settled(seconds):
    told = warm_up(run(seconds=seconds, every=3))
    assert not told.settled
    assert told.progress < 1
    (finding,) = warm_up_findings(told)
    assert finding.level is Level.CAUTION
    assert finding.id == "not-settled"


def test_too_little_to_fit_is_no_result():
    assert warm_up(run(seconds=600)[: LEAST_SAMPLES - 1]) is None
    assert warm_up([(t / 10, 400.0) for t in range(30)]) is None
    assert warm_up([]) is None


def test_a_steady_source_is_settled_at_once():
    told = warm_up(run(share=0.0, noise=0.001))
    assert told.settled
    assert abs(told.fade) < 0.01


@pytest.mark.parametrize(
    "samples", [[(0, 1), (0, 2)], [(5, 1), (3, 2)], [(0, 0.0)], [(0, math.nan)], [(-1, 4)]]
)
def test_what_is_no_run_is_refused(samples):
    with pytest.raises(ValueError):
        warm_up(samples)


@given(st.lists(st.floats(0.01, 1e5), min_size=LEAST_SAMPLES, max_size=40), st.floats(3, 30))
def test_any_run_gives_finite_figures(lux, every):
    told = warm_up([(index * every, value) for index, value in enumerate(lux)])
    if told is not None:
        assert all(
            math.isfinite(value)
            for value in (told.settled_lx, told.fade, told.settle_s, told.doubt)
        )
        assert 0 <= told.progress <= 1
        assert told.settled_lx > 0


def two_bodies(seconds, seed, noise=0.002, every=3):
    """An LED whose chips lose 4 % within 12 s, its body 10 % more within 300 s; settles at 400."""
    random = np.random.default_rng(seed)
    return [
        (
            t,
            400
            * (1 + 0.04 * math.exp(-t / 12) + 0.1 * math.exp(-t / 300))
            * random.normal(1, noise),
        )
        for t in np.arange(0.0, seconds + 1, every)
    ]


@pytest.mark.parametrize("seconds", [60, 90, 150, 300])
@pytest.mark.parametrize("seed", range(5))
def test_what_is_still_fading_is_never_settled(seconds, seed):
    assert not warm_up(two_bodies(seconds, seed)).settled


@pytest.mark.parametrize("seed", range(5))
def test_two_bodies_are_told_apart_and_settle_where_they_do(seed):
    run = warm_up(two_bodies(1500, seed))
    assert run.settled
    assert run.settled_lx == pytest.approx(400, rel=0.003)
    (fast, fast_tau), (slow, slow_tau) = run.parts
    assert (fast, slow) == pytest.approx((0.04, 0.10), abs=0.01)
    assert fast_tau == pytest.approx(12, rel=0.4)
    assert slow_tau == pytest.approx(300, rel=0.15)


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("noise", [0.001, 0.005])
def test_a_steady_lamp_is_told_no_fade(seed, noise):
    """Noise alone is no course: nothing is lost, and it is not to be waited for for hours."""
    random = np.random.default_rng(seed)
    run = warm_up([(t, 400 * random.normal(1, noise)) for t in np.arange(0.0, 301.0, 3.0)])
    assert abs(run.fade) < 0.02
    assert run.settle_s < 3600


def test_the_doubt_of_a_settled_value_holds():
    """Forty runs long enough: twice the doubt holds the truth in 93 % or more."""
    runs = [warm_up(two_bodies(1500, seed, 0.005)) for seed in range(40)]
    held = sum(abs(run.settled_lx / 400 - 1) <= 2 * run.doubt for run in runs)
    assert held >= 37


def test_the_fitted_run_begins_cold_and_ends_settled():
    """By hand: 400 lx settled, 12 % more cold, 1/e of that left after one time constant."""
    told = warm_up(run(noise=0.0))
    assert told.cold_lx == pytest.approx(448, rel=1e-3)
    assert told.at(0.0) == pytest.approx(448, rel=1e-3)
    assert told.at(90.0) == pytest.approx(400 * (1 + 0.12 / math.e), rel=1e-3)
    assert told.at(1e5) == pytest.approx(400, rel=1e-3)
