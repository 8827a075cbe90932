"""Uncertainty after the GUM: worked figures, and how often the stated interval holds the true
gain.
"""

import math
import statistics

import numpy as np
import pytest

from cold_arc.core.light import photometry
from cold_arc.core.metering import comparing, uncertainty
from cold_arc.core.metering.differing import SourceChange
from cold_arc.core.metering.meters import meter, meters
from cold_arc.core.metering.readings import WallReading, joined

# 95 % of cases, within what 500 draws of a fair interval leave (binomial, two standard deviations).
CASES, LEAST, MOST = 500, 0.93, 0.97
HALOGEN_TO_LED = SourceChange(before_follows=True)


def reading(lux=400.0, point="peak", **taken):
    return WallReading(point, lux, **({"distance_m": 10.0, "volts": 13.2, "meter": "a"} | taken))


def share(made_of, part):
    return next((it.share for it in made_of.parts if it.id == part), None)


@pytest.mark.parametrize(
    ("part", "expected"),
    [
        ("calibration", 0.05 / math.sqrt(3)),  # JCGM 100 4.3.7, from memory: a limit a is a/√3
        (
            "display",
            0.1 / (2 * math.sqrt(3)) / 400,
        ),  # JCGM 100 F.2.2.1, from memory: a step q is q/(2√3)
        ("distance", 2 * 0.01 / 10),  # inverse square: twice the distance's own share
        ("supply", 3.4 * 0.05 / 13.2),  # flux ∝ V^3.4 (lighting handbooks, from memory)
    ],
)
def test_each_part_by_its_formula(part, expected):
    assert share(uncertainty.of_reading(reading(), True), part) == pytest.approx(expected)


def test_parts_add_in_quadrature_with_k_2():
    made_of = uncertainty.of_reading(reading(), True)
    assert made_of.expanded == pytest.approx(
        2 * math.sqrt(sum(part.share**2 for part in made_of.parts))
    )
    assert made_of.largest.id == "calibration"


def test_repeats_count_by_their_mean_and_spread():
    """s/√n of five readings, JCGM 100 4.2.3, by Student's t for four degrees of freedom, 2.87 for
    95.45 % (JCGM 100 G.2); from memory.
    """
    lux = [398.0, 401.0, 400.0, 403.0, 399.0]
    taken = joined([reading(it) for it in lux])
    assert taken.lux == pytest.approx(statistics.fmean(lux))
    mean_sd = statistics.stdev(lux) / statistics.fmean(lux) / math.sqrt(5)
    expected = math.hypot(2.87 / 2 * mean_sd, uncertainty.SETTLING)
    told = share(uncertainty.of_reading(taken, False), "repeats")
    assert told == pytest.approx(expected, rel=2e-3)
    assert (
        uncertainty.of_reading(taken, False).standard
        < uncertainty.of_reading(reading(), False).standard
    )


def test_the_mean_of_two_readings_holds_as_often_as_it_says():
    """Two readings of a normal spread: twice the doubt holds the truth 95 times of a hundred, where
    s/√2 alone would 70 times.
    """
    random = np.random.default_rng(3)
    drawn = random.normal(400, 4, (4000, 2))
    means, spreads = drawn.mean(axis=1), drawn.std(axis=1, ddof=1)
    told = 2 * uncertainty.few_readings(2) * spreads / math.sqrt(2)
    assert np.mean(np.abs(means - 400) <= told) == pytest.approx(0.9545, abs=0.012)


def test_readings_taken_otherwise_are_no_repeats():
    assert joined([reading(400), reading(420, volts=12.6)]).repeats == 1


def test_the_same_meter_falls_away_in_a_gain_and_two_do_not():
    one = uncertainty.of_gain(reading(400), reading(960), (True, False))
    two = uncertainty.of_gain(reading(400), reading(960, meter="b"), (True, False))
    assert share(one, "calibration") is None
    assert share(two, "calibration") == pytest.approx(math.hypot(0.05, 0.10) / math.sqrt(3))
    assert two.standard > 2 * one.standard


def test_a_correction_for_the_supply_is_doubtful_by_its_exponent():
    """1.1 V of 13.2: ln(13.2/12.1) = 0.0870; times 0.2/√3 is 1.00 % (worked by hand)."""
    told = uncertainty.of_gain(reading(400, volts=12.1), reading(960), (True, False))
    assert share(told, "exponent") == pytest.approx(0.01005, abs=5e-5)
    assert share(uncertainty.of_gain(reading(400), reading(960), (True, False)), "exponent") is None
    assert (
        share(
            uncertainty.of_gain(reading(400, volts=12.1), reading(960), (False, False)), "exponent"
        )
        is None
    )


def test_a_gain_within_its_uncertainty_is_called_that():
    told = comparing.gain(reading(400), reading(412), HALOGEN_TO_LED)
    assert told.verdict == comparing.SAME
    assert comparing.gain(reading(400), reading(960), HALOGEN_TO_LED).verdict == comparing.BRIGHTER
    assert comparing.gain(reading(400), reading(200), HALOGEN_TO_LED).verdict == comparing.DIMMER


def test_head_averaging_is_corrected_only_between_distances():
    near, far = reading(4, "stray", distance_m=3.0), reading(0.4, "stray")
    told = comparing.gain(near, far, SourceChange(False))
    expected = (1 + (photometry.head_excess(10.0) - 1) / 2) / (
        1 + (photometry.head_excess(3.0) - 1) / 2
    )
    assert told.before_cd == pytest.approx(near.candela * expected)
    assert told.correction
    assert comparing.gain(far, far, SourceChange(False)).before_cd == far.candela


def test_overall_leaves_stray_out_and_means_geometrically():
    before = {
        name: reading(lux, name) for name, lux in (("peak", 400), ("edge", 100), ("stray", 3))
    }
    after = {name: reading(lux, name) for name, lux in (("peak", 800), ("edge", 50), ("stray", 30))}
    assert comparing.compare(before, after, SourceChange(False)).overall.ratio == pytest.approx(1.0)


def test_what_all_places_share_does_not_average_away():
    """Ten places with the same wrong distance are as wrong as one; ten places each held a little
    off are less so.
    """
    names = [f"free-{number}" for number in range(1, 11)]
    before, after = ({name: reading(lux, name) for name in names} for lux in (400, 800))
    whole = comparing.compare(before, after, HALOGEN_TO_LED).overall.budget
    one = uncertainty.of_gain(before["free-1"], after["free-1"], (True, False))
    assert share(whole, "distance") == pytest.approx(share(one, "distance"))
    assert share(whole, "place") == pytest.approx(share(one, "place") / math.sqrt(10))


def simulated(rng, true_cd, set_up, common):
    """One reading as a meter of the class would show it: every error drawn as the budget says it is
    spread.

    *true_cd* is what the source gives at *common*'s volts; a filament's own exponent is in there
    too.
    """
    kind, point = meter(set_up["meter"]), set_up["point"]
    distance = set_up["distance_m"] + common["distance"]
    off = np.degrees(np.arctan(rng.normal(0, uncertainty.PLACE_M) / distance))
    seen = true_cd * math.exp(uncertainty.FALL_OFF["low"][point] * off)
    if common["follows"]:
        seen *= ((set_up["volts"] + common["supply"]) / common["volts"]) ** common["exponent"]
    seen *= 1 + common["calibration"] + common["spectral"] + rng.uniform(-1, 1) * kind.linearity
    lux = seen / distance**2 * (1 + rng.normal(0, uncertainty.UNSTEADY))
    lux += set_up["ambient_lx"] * (1 + rng.uniform(-1, 1) * uncertainty.AMBIENT_LIMIT)
    return WallReading(**set_up, lux=round(lux / kind.digit_lx) * kind.digit_lx)


def drawn_common(rng, kind, follows, calibration, volts):
    return {
        "distance": rng.normal(0, uncertainty.DISTANCE_M),
        "supply": rng.normal(0, uncertainty.SUPPLY_V),
        "spectral": rng.uniform(-1, 1) * kind.spectral if not follows else 0.0,
        "calibration": calibration,
        "follows": follows,
        "exponent": 3.4 + rng.uniform(-1, 1) * uncertainty.EXPONENT_LIMIT,
        "volts": volts,
    }


@pytest.mark.parametrize("of", ["peak", "edge", "overall"])
def test_the_stated_interval_holds_the_true_gain(of, capsys):
    """500 jobs before and after, each with its own lamp, meter, wall and supply; coverage is
    printed.
    """
    rng, held = np.random.default_rng(20), 0
    for _ in range(CASES):
        kind = meter(rng.choice(["a", "b", "c"]))
        gain, calibration = math.exp(rng.uniform(-0.3, 2.0)), rng.uniform(-1, 1) * kind.total
        lamp = {
            "peak": rng.uniform(8e3, 4e4),
            "edge": rng.uniform(4e3, 2e4),
            "below": rng.uniform(5e3, 3e4),
        }
        supplies = rng.uniform(11.8, 14.4, 2)
        taken = {"distance_m": rng.uniform(5, 12), "meter": kind.id}
        taken["ambient_lx"] = rng.uniform(0, 2)
        phases = []
        for follows, factor, volts in ((True, 1.0, supplies[0]), (False, gain, supplies[1])):
            common = drawn_common(rng, kind, follows, calibration, supplies[1])
            taken |= {"volts": volts}
            phases.append(
                {
                    name: simulated(rng, cd * factor, taken | {"point": name}, common)
                    for name, cd in lamp.items()
                }
            )
        told = comparing.compare(*phases, HALOGEN_TO_LED)
        stated = told.overall if of == "overall" else told.gains[of]
        held += abs(stated.ratio - gain) <= stated.uncertainty
    with capsys.disabled():
        print(f"\n  interval of {of}: holds the true gain in {held / CASES:.1%} of {CASES}")
    assert LEAST <= held / CASES <= MOST


def test_every_class_of_meter_says_where_it_comes_from():
    assert set(meters()) == {"l", "a", "b", "c", "none", "simulated"}
    totals = [meter(name).total for name in ("l", "a", "b", "c")]
    assert totals == [0.03, 0.05, 0.10, 0.20]  # DIN 5032-7, from memory
    assert all(it.sources for it in meters().values())
    assert meter("never heard of").id == "none"
