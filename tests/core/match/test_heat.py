"""How much an LED fades. Trade facts, common practice, no published source: they fade as they heat;
fans help.
"""

from dataclasses import replace

import pytest

from cold_arc.core.match.heat import FOLD_BACK_C, body_area_m2, warmth
from tests.core.match.lamps import GOOD


def test_area_of_a_finned_cylinder():
    """Side π·d·l and end π·d²/4, times three for fins: 30 by 40 mm."""
    assert body_area_m2(40, 30) == pytest.approx(
        3 * (3.14159 * 30 * 40 + 3.14159 * 225) * 1e-6, rel=1e-4
    )


def test_a_fan_bulb_loses_a_tenth_to_a_quarter():
    assert 0.1 < warmth(GOOD).fade < 0.25
    assert not warmth(GOOD).folds_back


def test_the_resistor_chain_by_hand():
    """24 W, fan, 40 by 36 mm: heat 16.8 W, h·A = 35·3·5542e-6 = 0.582 W/K; rise 16.8·(1/0.582 + 1)
    = 45.7 K.
    """
    assert warmth(GOOD).junction_c == pytest.approx(40 + 45.7, abs=0.3)
    assert warmth(GOOD).fade == pytest.approx(0.0025 * (85.7 - 25), abs=1e-3)


def test_passive_fades_more_and_more_watts_fade_more():
    passive = warmth(replace(GOOD, cooling="passive"))
    assert passive.fade > warmth(GOOD).fade
    assert warmth(replace(GOOD, watts=40)).fade > warmth(GOOD).fade
    assert warmth(replace(GOOD, tail_mm=80)).fade < warmth(GOOD).fade


def test_too_much_heat_folds_back_at_the_limit():
    hot = warmth(replace(GOOD, watts=60, cooling="passive"))
    assert hot.folds_back
    assert hot.junction_c == pytest.approx(FOLD_BACK_C)
    assert 0.4 < hot.fade < 1


def test_unknown_cooling_is_refused():
    with pytest.raises(ValueError, match="not a kind of cooling"):
        warmth(replace(GOOD, cooling="water"))
