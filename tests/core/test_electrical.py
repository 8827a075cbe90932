"""Electrical sizes against worked examples, IEC 60063 series, ASTM B258 gauges; limits are common
practice.
"""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core import electrical
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.findings import Level


@pytest.mark.parametrize(
    ("ohm", "chosen"),
    [
        (5.81, 5.6),
        (5.6, 5.6),
        (10.0, 10.0),
        (9.99, 9.1),
        (0.47, 0.47),
        (1234.0, 1200.0),
        (1.05, 1.0),
    ],
)
def test_e24_at_most(ohm, chosen):
    """IEC 60063's E24 series, from memory."""
    assert electrical.e24_at_most(ohm) == pytest.approx(chosen)


@given(st.floats(0.01, 1e6))
def test_e24_is_never_above_and_never_far_below(ohm):
    chosen = electrical.e24_at_most(ohm)
    assert ohm * 0.86 < chosen <= ohm * (1 + 1e-9)


@given(st.floats(0.01, 1e6))
def test_e6_is_never_below_and_never_far_above(value):
    assert value * (1 - 1e-9) <= electrical.e6_at_least(value) <= value * 1.51


@pytest.mark.parametrize(
    ("gauge", "mm2"),
    [
        (20, 0.518),
        (18, 0.823),
        (16, 1.31),
        (14, 2.08),
        (12, 3.31),
        (10, 5.26),
        (8, 8.37),
    ],  # ASTM B258 table
)
def test_wire_gauges(gauge, mm2):
    assert electrical.awg_mm2(gauge) == pytest.approx(mm2, rel=5e-3)


def test_a_filaments_power_follows_the_voltage():
    """Lighting handbook exponent 1.6, from memory: 55 W at 13.2 V draws 63.2 W at 14.4 V."""
    draw = electrical.filament_draw(55, 13.2, 14.4)
    assert draw.watts == pytest.approx(55 * (14.4 / 13.2) ** 1.6)
    assert draw.amps == pytest.approx(63.2 / 14.4, rel=1e-3)
    assert electrical.driver_draw(25, 12.5).amps == 2.0


def test_load_resistor_worked_example():
    """55 W wanted, 25 W drawn: R ≤ 13.2²/30 = 5.81 Ω, so 5.6 Ω; 14.4²/5.6 = 37 W; twice is 74 W:
    buy 75, better 150.
    """
    found = electrical.load_resistor(30, 12)
    assert found.exact_ohm == pytest.approx(5.808, abs=1e-3)
    assert found.ohm == 5.6
    assert found.worst_w == pytest.approx(37.03, abs=0.01)
    assert (found.least_rating_w, found.better_rating_w) == (75, 150)
    assert found.amps == pytest.approx(14.4 / 5.6)


def test_a_resistor_for_nothing_is_refused():
    with pytest.raises(ValueError, match="Nothing is missing"):
        electrical.load_resistor(0, 12)
    assert electrical.monitor_resistor(30, 25, 12) is None
    assert electrical.monitor_resistor(30, None, 12) is None
    assert electrical.monitor_resistor(20, 25, 12).exact_ohm == pytest.approx(13.2**2 / 5)


def test_smoothing_capacitor_worked_example():
    """2 A over 1 ms gaps (100 Hz, 90 %), sag 1.2 V: C = 2·0.001/1.2 = 1667 µF, so 2200; 1.5·14.4 =
    21.6, so 25 V.
    """
    found = electrical.smoothing(2.0, 100, 0.9, 12)
    assert found.gap_s == pytest.approx(0.001)
    assert found.exact_uf == pytest.approx(1666.7, abs=0.1)
    assert (found.microfarad, found.rated_v) == (2200, 25)
    assert electrical.say_smoothing(found).endswith("µF, 25 V")


@pytest.mark.parametrize(("hz", "duty"), [(0, 0.5), (100, 0), (100, 1.0)])
def test_a_plain_feed_needs_no_capacitor(hz, duty):
    with pytest.raises(ValueError, match="pulsed feed"):
        electrical.smoothing(1, hz, duty, 12)


def test_copper_worked_example():
    """1 mm², 5 m one way, 20 °C: 0.0172·10 = 0.172 Ω; at 60 °C 0.39 %/K more: 0.199 Ω; 4 A lose
    0.80 V.
    """
    assert electrical.resistance_ohm(5, 1.0) == pytest.approx(0.172)
    assert electrical.resistance_ohm(5, 1.0, 60) == pytest.approx(0.172 * 1.156)
    assert electrical.drop_v(4, 5, 1.0, 60) == pytest.approx(0.795, abs=1e-3)


@pytest.mark.parametrize(
    ("amps", "fuse"), [(0.8, 1), (4.0, 5), (4.01, 7.5), (12.0, 15), (24.0, 30), (24.1, None)]
)  # 80 % of a blade fuse, common practice
def test_fuses(amps, fuse):
    assert electrical.fuse(amps) == fuse


def test_wire_worked_example():
    """4 A over 3 m, 12 V, 60 °C: 4·0.0172·1.156·6/0.36 = 1.33 mm², so 1.5 mm², AWG 14; a 5 A fuse,
    which it carries.
    """
    found = electrical.wire(4, 3, 12, 60)
    assert found.needed_mm2 == pytest.approx(1.326, abs=1e-3)
    assert (found.mm2, found.awg, found.fuse_a) == (1.5, 14, 5)
    assert found.drop_v == pytest.approx(0.318, abs=1e-3)


def test_six_volts_needs_four_times_the_copper():
    """Same watts: twice the current, half the drop."""
    watts = 36
    twelve = electrical.wire(watts / 12, 2, 12, 20)
    six = electrical.wire(watts / 6, 2, 6, 20)
    assert six.needed_mm2 == pytest.approx(4 * twelve.needed_mm2)


@given(st.floats(0.2, 20), st.floats(0.5, 8), st.sampled_from([6.0, 12.0, 24.0]))
def test_a_chosen_wire_always_holds(amps, run_m, volts):
    found = electrical.wire(amps, run_m, volts)
    if found is not None:
        assert found.drop_v <= found.allowed_v * (1 + 1e-9)
        assert amps / 0.8 <= found.fuse_a <= electrical.WIRES_A[found.mm2]


def test_a_long_heavy_feed_has_no_single_wire():
    assert electrical.wire(20, 20, 6) is None
    assert electrical.wire(60, 1, 12) is None


def test_the_wire_as_laid_is_judged():
    good = electrical.laid_wire(SupplyFacts(run_m=2, wire_mm2=2.5), 4, 12)
    assert [finding.level for finding in good] == [Level.OK, Level.OK]
    thin = electrical.laid_wire(SupplyFacts(run_m=4, wire_mm2=0.5), 8, 12)
    assert [finding.level for finding in thin] == [Level.CAUTION, Level.STOP]
    assert electrical.laid_wire(SupplyFacts(), 4, 12) == []


@pytest.mark.parametrize(
    ("point", "volts", "level"),
    [
        (
            "out",
            12.6,
            Level.STOP,
        ),  # UN R99, from memory: ignition up to about 23 kV, arc 85 or 42 V a.c.
        ("in", 12.6, Level.OK),
        ("in", 14.4, Level.OK),
        ("in", 6.0, Level.STOP),
        ("in", None, Level.NOTE),
    ],
)
def test_where_an_led_may_be_fed(point, volts, level):
    (finding,) = electrical.feed_point(point, volts, 12)
    assert finding.level is level


@pytest.mark.parametrize(
    ("mm2", "air_c", "insulation", "amps"),
    [
        (1.0, 30, "B", 13.0),  # the table itself
        (1.0, 60, "B", 13.0 * math.sqrt(40 / 70)),
        (0.5, 140, "D", 8.0 * math.sqrt(10 / 70)),
        (0.5, 140, "B", 0.0),
        (0.3, 30, "B", 0.0),  # thinner than any sold
    ],
)
def test_a_wire_carries_less_in_warm_air(mm2, air_c, insulation, amps):
    """Heat balance I²R ∝ T − T_air (textbook); insulation classes of ISO 6722, from memory."""
    assert electrical.ampacity_a(mm2, air_c, insulation) == pytest.approx(amps)


def test_hot_places_take_a_hotter_class_or_no_wire():
    assert electrical.wire(4, 1, 12, 60).insulation == "B"
    assert electrical.wire(4, 1, 12, 95).insulation == "C"
    assert electrical.wire(4, 1, 12, 130).insulation == "D"
    assert electrical.wire(4, 1, 12, 150) is None
    hot = electrical.laid_wire(SupplyFacts(run_m=1, wire_mm2=0.5, air_c=130), 7.5, 12)
    assert hot[1].level is Level.STOP
    assert "class B" in hot[1].limit


@given(
    st.floats(0.5, 20), st.floats(0.2, 20), st.floats(-40, 130), st.sampled_from([6.0, 12.0, 24.0])
)
def test_no_fuse_is_ever_above_its_wire(amps, run_m, celsius, volts):
    found = electrical.wire(amps, run_m, volts, celsius)
    if found:
        assert amps <= 0.8 * found.fuse_a + 1e-9
        assert found.fuse_a <= electrical.ampacity_a(found.mm2, celsius, found.insulation) + 1e-9
        assert found.drop_v <= found.allowed_v + 1e-9


def test_a_capacitor_is_not_without_its_diode():
    """2 A on 12 V: twice is 4 A, so 5 A; twice 14.4 V is 28.8, so 40 V; 14.4/20 = 0.72 Ω, so 1
    Ω.
    """
    found = electrical.smoothing(2.0, 100, 0.9, 12)
    assert (found.diode_a, found.diode_v, found.limiter_ohm) == (5, 40, 1.0)
    assert found.inrush_a == pytest.approx(144)
    assert electrical.say_blocking(found) == "Schottky diode 5 A, 40 V"


@pytest.mark.parametrize("volts", [10.5, 12.4, 14.4, 14.8, 15.0])
def test_one_range_of_supply_for_every_page(volts):
    """14.8 V from a modern alternator is good on the feed and asked of the bulb."""
    assert electrical.feed_point("in", volts, 12)[0].level is Level.OK
    low, high = electrical.RUNNING_VOLTS[12.0]
    assert low <= volts <= high
