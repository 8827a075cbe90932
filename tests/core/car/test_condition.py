"""Inspect. Common practice, no published source."""

import itertools

import pytest

from cold_arc.core.car import condition
from cold_arc.core.car.condition import UnitCondition, Verdict
from cold_arc.core.findings import Level


def judge(**seen):
    lamp = UnitCondition(**({"haze": 0} | seen))
    found = condition.findings(lamp)
    return condition.verdict(lamp, found), found


def test_heavy_haze_is_sanded_up_the_grits():
    assert condition.grits(3) == (1000, 1500, 2000, 3000)
    assert condition.grits(3, patient=True) == (1000, 1500, 2000, 3000, 4000)
    assert condition.grits(1) == ()


@pytest.mark.parametrize("haze", [2, 3, 4])
def test_no_grit_step_is_more_than_double(haze):
    for patient in (False, True):
        steps = condition.grits(haze, patient)
        assert all(finer <= 2 * coarser for coarser, finer in itertools.pairwise(steps))


@pytest.mark.parametrize("haze", [1, 2, 3, 4])
def test_a_restoration_always_ends_in_a_uv_coat(haze):
    assert "UV coat" in condition.restoration(haze)[-1].text


def test_minutes_add_up():
    assert condition.restoration_minutes(UnitCondition(0)) == 0
    assert condition.restoration_minutes(UnitCondition(3)) == 8 + 4 * 7 + 10 + 12


@pytest.mark.parametrize("haze", range(1, 5))
def test_glass_is_neither_sanded_nor_coated(haze):
    glass = UnitCondition(haze, lens="glass")
    words = " ".join(step.text for step in condition.restoration_of(glass))
    words += " ".join(f"{it.text} {it.advice}" for it in condition.findings(glass))
    assert "grit" not in words
    assert "UV coat" not in words
    assert condition.verdict(glass, condition.findings(glass)) is condition.Verdict.RESTORE


@pytest.mark.parametrize(
    ("seen", "verdict"),
    [
        ({}, Verdict.GO),
        ({"haze": 1}, Verdict.RESTORE),
        ({"haze": 3}, Verdict.RESTORE),
        ({"condensation": "mist"}, Verdict.GO),
        ({"condensation": "drops"}, Verdict.REPLACE),
        ({"crack": "through"}, Verdict.REPLACE),
        ({"mirror": "peeling"}, Verdict.REPLACE),
        ({"strip_dead": True}, Verdict.REPLACE),
        ({"seating": "broken-tab"}, Verdict.GO),
    ],
)
def test_verdicts(seen, verdict):
    assert judge(**seen)[0] is verdict


def test_a_cheap_assembly_beats_the_labour():
    assert judge(haze=3, replacement_price=40, labour_rate=60)[0] is Verdict.REPLACE
    verdict, found = judge(haze=3, replacement_price=310, labour_rate=60)
    assert verdict is Verdict.RESTORE
    assert any(finding.values.get("cost") == 58 for finding in found)


def test_the_price_that_decides_is_that_of_the_labour():
    """58 minutes at 60 an hour are 58: a new one for as much is no cheaper, a penny less it is."""
    assert judge(haze=3, replacement_price=58.0, labour_rate=60)[0] is Verdict.RESTORE
    assert judge(haze=3, replacement_price=57.99, labour_rate=60)[0] is Verdict.REPLACE
    assert judge(haze=3, replacement_price=87.0, labour_rate=90)[0] is Verdict.RESTORE


def test_tight_room_is_noted():
    assert any(finding.level is Level.NOTE for finding in judge(room_mm=30)[1])
    assert not any(finding.level is Level.NOTE for finding in judge(room_mm=60)[1])
