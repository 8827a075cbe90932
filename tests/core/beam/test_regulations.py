"""Which filament burns, on which supply, and how a beam is measured against its regulation. Figures
from memory of UN R37, UN R112, UN R98, UN R19; the points are tried on beams made by hand, where
every value is known."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.beam import derived, nominal
from cold_arc.core.beam import findings as beam_findings
from cold_arc.core.beam.housings import BEAMS_OF
from cold_arc.core.beam.model import illuminate
from cold_arc.core.beam.report import beam_of, report_of, yardstick_for
from cold_arc.core.beam.setup import SetUp, SetUpError
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Level
from cold_arc.core.match.prediction import PREDICTED_POINTS, READ_AT_M, pattern, predict
from cold_arc.core.metering.readings import PLACES
from tests.core.beam.test_findings import made, spot
from tests.thorough import usual

DUAL = [base for base in nominal.BEAM_BASES if nominal.beam_base(base).is_dual]


@pytest.mark.parametrize(
    ("base", "low", "high"),
    [("H4", 1000, 1650), ("H13", 1100, 1700), ("9004", 700, 1200), ("9007", 1000, 1350)],
)
def test_low_and_high_burn_a_filament_each(base, low, high):
    """UN R37: flux of the dipped and the driving filament."""
    assert report_of(SetUp(base=base)).flux_source_lm == pytest.approx(low)
    assert report_of(SetUp(base=base, high=True)).flux_source_lm == pytest.approx(high)
    assert not beam_of(SetUp(base=base, high=True)).losses.get("dip shield")


def test_the_flux_told_of_a_dipped_filament_is_past_its_shield():
    """UN R37's 1000 lm of H4 are measured with the shield in place: none of them is taken off
    again.
    """
    setup = SetUp(base="H4")
    cloud = setup.nominal.cloud(4000)
    passes = [
        not np.all(cloud.shield @ np.array([np.cos(a), np.sin(a), 0.0]) < 0)
        for a in np.radians(np.arange(0, 360, 0.25) + 0.1)
    ]
    assert float(cloud.flux.sum()) * np.mean(passes) == pytest.approx(1000, rel=2e-3)
    beam = beam_of(setup)
    assert "dip shield" not in beam.losses
    assert beam.flux_lm + sum(beam.losses.values()) == pytest.approx(1000)
    assert min(beam.losses.values()) > -1e-9


def test_an_led_with_a_cup_loses_what_its_cup_takes():
    beam = beam_of(SetUp(base="H4", source="led", flux=1000.0))
    assert beam.losses["dip shield"] > 50
    assert beam.flux_lm + sum(beam.losses.values()) == pytest.approx(1000)


def test_flux_follows_the_supply_from_the_lamps_own_test_voltage():
    """V^3.4 (lighting handbook, from memory) from 13.2 V at 12 V, 28 V at 24 V."""
    at = lambda **changes: report_of(SetUp(base="H7", **changes)).flux_source_lm  # noqa: E731
    assert at(volts=13.2) == pytest.approx(1500)
    assert at(volts=12.0) == pytest.approx(1500 * (12 / 13.2) ** 3.4)
    assert at(rated_volts=24.0) == pytest.approx(1750)
    assert at(rated_volts=24.0, volts=28.0) == pytest.approx(1750)


@pytest.mark.parametrize(
    ("base", "rated", "volts", "field"),
    [
        ("H7", 12.0, 28.0, "volts"), ("H16", 12.0, 6.6, "volts"), ("H7", 24.0, 13.2, "volts"),
        ("H9", 24.0, None, "rated_volts"), ("H4", 6.0, None, "rated_volts"),
        ("H7", 9.0, None, "rated_volts"),
    ],
)  # fmt: skip
def test_a_supply_far_from_the_lamps_is_refused_in_words(base, rated, volts, field):
    with pytest.raises(SetUpError) as refused:
        SetUp(base=base, rated_volts=rated, volts=volts)
    assert refused.value.field == field
    assert "V" in str(refused.value)


def test_what_regulates_its_own_supply_is_not_refused():
    assert SetUp(base="D2S", volts=24.0).nominal.flux_lm == 3200
    assert SetUp(base="H7", source="led", volts=24.0)


@pytest.mark.parametrize("base", ["H4", "H1", "9007"])
def test_a_lens_optics_high_beam_points_ahead(base):
    numbers = report_of(SetUp("lens-optic", base, high=True))
    assert abs(numbers.peak_h_deg) <= (2.0 if base == "9007" else 0.6)
    assert abs(numbers.peak_v_deg) <= 0.6
    assert numbers.test_points["HV"].holds


@pytest.mark.parametrize("peak", [50e3, 300e3, 2e6])
def test_reach_does_not_stop_at_the_end_of_a_scan(peak):
    """Both lamps on an even beam: √(2·I/E)."""
    beam = made(lambda h, v: np.full(h.shape, peak))
    assert derived.reach_m(beam, 1.0) == pytest.approx((2 * peak) ** 0.5, rel=0.01)


@given(st.floats(0, 1e7))
def test_the_de_boer_scale_ends_at_1_and_9(candela):
    """Schmidt-Clausen & Bindels 1974, from memory: 1 unbearable to 9 unnoticeable."""
    assert (
        1.0 <= derived.oncoming_glare(made(lambda h, v: np.full(h.shape, candela))).de_boer <= 9.0
    )


def points(beam, regulation, traffic=Traffic.RIGHT):
    return {point.name: point for point in derived.at_yardstick(beam, regulation, traffic)}


def test_zone_one_is_measured_against_50r():
    """UN R112 class B: at most twice the value at 50R (0.86D, 1.72R); 17 600 cd is class A's."""
    beam = made(spot(0, -3, 30000, 2.0))
    zone, at_50r = points(beam, "un-r112")["zone I"], points(beam, "un-r112")["50R"]
    assert zone.most == pytest.approx(2 * at_50r.candela)
    assert not zone.holds
    assert points(made(spot(1.5, -1.2, 30000, 2.0)), "un-r112")["zone I"].holds


def test_sign_points_are_added_up():
    """UN R112: 1+2+3 (4U at 8L, 0, 8R) at least 190 cd, 4+5+6 (2U at 4L, 0, 4R) 375, 7 (8L) 65, 8
    (4L) 125.
    """
    found = points(made(lambda h, v: np.full(h.shape, 70.0)), "un-r112")
    assert found["signs 1+2+3"].candela == pytest.approx(210)
    assert found["signs 1+2+3"].holds
    assert found["signs 4+5+6"].candela == pytest.approx(210)
    assert not found["signs 4+5+6"].holds
    assert found["sign 7"].holds
    assert not found["sign 8"].holds


def test_high_beam_is_measured_beside_its_axis():
    """UN R112 class B: 20 300 cd at 2.6°, 5 100 at 5.2°."""
    narrow = points(made(spot(0, 0, 100000, 1.0), "none"), "un-r112-high")
    wide = points(made(spot(0, 0, 100000, 3.0), "none"), "un-r112-high")
    assert [name for name in narrow if not narrow[name].holds] == [
        "H-2.6L",
        "H-2.6R",
        "H-5.2L",
        "H-5.2R",
    ]
    assert all(point.holds for point in wide.values())


@pytest.mark.parametrize(
    ("setup", "regulation"),
    [
        (SetUp(), "un-r112"), (SetUp(base="9005", high=True), "un-r112-high"),
        (SetUp("projector", "D2S"), "un-r98"),
        (SetUp("projector", "D2S", high=True), "un-r98-high"),
        (SetUp("fog-reflector", "H16"), "un-r19-f3"),
        (SetUp("fog-projector", "H11"), "un-r19-f3"),
    ],
)  # fmt: skip
def test_each_kind_of_lamp_has_its_regulation(setup, regulation):
    assert yardstick_for(setup) == regulation
    assert report_of(setup).regulation == regulation
    assert set(report_of(setup).test_points) == {
        row["name"] for row in derived.yardsticks()[regulation]["points"]
    }


def test_a_fog_lamp_is_measured_by_both_classes():
    """UN R19: class F3, and class B's 625 cd at most above the line, 940 cd at least at 1.5° down
    (doubtful).
    """
    assert (
        report_of(SetUp("fog-reflector", "H11")).test_points_class_b["above the line"].most == 625
    )
    assert report_of(SetUp()).test_points_class_b == {}


def test_a_fog_lamp_has_no_high_beam():
    with pytest.raises(SetUpError, match="no high beam"):
        SetUp("fog-reflector", high=True)


@pytest.mark.parametrize(
    ("base", "beam", "words"),
    [
        ("H15", {}, "H15 gives no low beam: lamps take it for high"),
        ("H10", {"high": True}, "H10 gives no high beam: lamps take it for fog"),
        ("D8S", {"housing": "reflector"}, "No reflector is made for D8S"),
        ("D5S", {"housing": "fog-projector"}, "D5S gives no fog beam"),
    ],
)
def test_what_no_lamp_takes_a_bulb_for_is_refused_with_a_sentence(base, beam, words):
    with pytest.raises(SetUpError, match=words):
        SetUp(base=base, **beam)


@pytest.mark.parametrize(
    "base",
    usual(
        [name for name in nominal.BEAM_BASES if name not in BEAMS_OF], ("H7", "9006", "H4", "D2R")
    ),
)
@pytest.mark.parametrize("kind", ["reflector", "projector", "lens-optic"])
def test_the_models_own_faults_are_not_the_lamps(kind, base):
    """Behind a clear lens no lamp's own pattern is said to fail, nor its nominal source to
    dazzle.
    """
    clear = SetUp(kind, base)
    assert pattern(clear).level <= Level.NOTE
    assert all(finding.level <= Level.NOTE for finding in beam_findings.findings(clear)), (
        beam_findings.findings(clear)
    )


def test_what_the_model_cannot_judge_is_said():
    told = pattern(SetUp("projector", "H16"))
    assert told.id == "pattern-unknown"
    assert told.values["judged"]


def test_a_prediction_is_what_a_meter_reads():
    """The 30 mm head at 10 m, not the point under its middle."""
    setup = SetUp(source="led", axial=-1.0)
    told = predict(setup)
    beam = illuminate(
        setup.built_housing(),
        setup.nominal,
        setup.built_source(),
        replace(setup.conditions, source_points=PREDICTED_POINTS),
        rough=True,
    )
    assert told.stray_cd == pytest.approx(
        derived.meter_candela(beam, *PLACES["low"]["stray"], READ_AT_M)
    )
    assert told.stray_cd != pytest.approx(float(beam.at(*PLACES["low"]["stray"])), rel=1e-6)
