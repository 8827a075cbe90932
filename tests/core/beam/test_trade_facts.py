"""What the trade sees, from the model. Common practice, no published source."""

import math
from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived, housings, nominal
from cold_arc.core.beam.derived import peak, share_above
from cold_arc.core.beam.housings import BEAMS_OF
from cold_arc.core.beam.model import illuminate
from cold_arc.core.beam.report import beam_of, report_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Function, Optic
from cold_arc.core.match.modelled import setup_of
from cold_arc.demo.shelf import SHELF
from tests.core.match.lamps import REFLECTOR, lamp
from tests.thorough import usual

NOMINAL = SetUp()
LED = SetUp(source="led")
THICK = {"faces": 4, "gap": 6.0, "width": 2.0}


def top(**changes):
    return peak(beam_of(replace(LED, **changes))).candela


def above(**changes):
    return share_above(beam_of(replace(LED, **changes)))


def test_1_a_bulb_like_the_filament_beats_halogen_at_like_flux():
    assert top() > peak(beam_of(NOMINAL)).candela
    assert above() - share_above(beam_of(NOMINAL)) < 0.02


def test_2_clocked_90_the_peak_falls_to_a_third_to_a_half_and_20_is_no_disaster():
    assert 0.30 < top(clock=90.0) / top() < 0.52
    assert 0.7 < top(clock=20.0) / top() < 0.97
    assert above(clock=20.0) < 0.03


def test_3_two_millimetres_off_in_depth_dazzles_one_way():
    assert max(above(axial=2.0), above(axial=-2.0)) > 0.10


@pytest.mark.parametrize("faces", [3, 4])
def test_4_a_thick_core_loses_half_its_peak_and_dazzles(faces):
    thick = THICK | {"faces": faces}
    assert 0.28 < top(**thick) / peak(beam_of(NOMINAL)).candela < 0.52
    assert above(**thick) > 0.10


@pytest.mark.parametrize("clock", [0.0, 20.0, 45.0, 90.0, 160.0])
def test_5a_a_projector_keeps_its_cut_off_whatever_the_clocking(clock):
    """No more above it than what its lens lifts to the signs on purpose."""
    assert (
        abs(
            above(housing="projector", clock=clock)
            - share_above(beam_of(replace(NOMINAL, housing="projector")))
        )
        < 0.008
    )


def test_5b_a_projector_loses_output_at_the_wrong_depth():
    right = beam_of(replace(LED, housing="projector")).flux_lm
    losses = [
        1 - beam_of(replace(LED, housing="projector", axial=axial)).flux_lm / right
        for axial in (-3.0, 3.0)
    ]
    assert 0.15 < max(losses) < 0.45


def test_5c_a_wide_gap_gives_two_hot_spots_with_a_darker_middle():
    spots, shadow = derived.hot_spots(beam_of(replace(LED, housing="projector", gap=6.0)))
    assert len(spots) == 2
    assert shadow > 0.1
    assert spots[0].h_deg * spots[1].h_deg < 0
    assert len(derived.hot_spots(beam_of(replace(LED, housing="projector")))[0]) == 1


def test_5d_a_thick_four_sided_bulb_gives_a_third_of_the_peak():
    ratio = (
        top(housing="projector", **THICK)
        / peak(beam_of(replace(NOMINAL, housing="projector"))).candela
    )
    assert 0.2 < ratio < 0.42


@pytest.mark.parametrize("housing", ["reflector", "projector", "lens-optic"])
def test_6_haze_cuts_the_peak_and_raises_stray_light(housing):
    clear, hazy = (beam_of(replace(LED, housing=housing, haze=haze)) for haze in (0.0, 0.5))
    assert peak(hazy).candela < 0.75 * peak(clear).candela
    assert float(hazy.at(-3.43, 4.0)) > 1.5 * float(clear.at(-3.43, 4.0))


def test_7_doubling_flux_doubles_candela_everywhere():
    once, twice = beam_of(replace(LED, flux=1000.0)), beam_of(replace(LED, flux=2000.0))
    assert np.allclose(twice.intensity, 2 * once.intensity, rtol=1e-9)


def test_halogen_follows_its_supply_and_led_its_heat():
    """V^3.4, lighting handbooks, from memory."""
    dim = beam_of(replace(NOMINAL, volts=12.0))
    assert dim.emitted_lm / beam_of(NOMINAL).emitted_lm == pytest.approx((12 / 13.2) ** 3.4)
    assert beam_of(replace(LED, droop=0.2)).emitted_lm == pytest.approx(0.8 * 1350)
    assert beam_of(replace(LED, volts=12.0)).emitted_lm == pytest.approx(1350)


LOW_BASES = [base for base in nominal.BEAM_BASES if "low" in BEAMS_OF.get(base, ("low",))]


def test_yellow_takes_its_share():
    assert beam_of(replace(LED, yellow=True)).flux_lm == pytest.approx(0.7 * beam_of(LED).flux_lm)


@pytest.mark.parametrize("base", usual(LOW_BASES, ["H4", "9006", "D2S"]))
def test_every_base_with_a_forward_beam_has_a_beam_with_a_cut_off(base):
    kind = "projector" if base.startswith("D") else "reflector"
    numbers = report_of(SetUp(housing=kind, base=base))
    assert numbers.share_above_cutoff < 0.05
    assert -0.8 < numbers.cutoff_v_deg < -0.3
    assert numbers.peak_cd > 8000
    assert numbers.fidelity.kept == pytest.approx(1)


@pytest.mark.parametrize("base", ["9005", "H9", "9011"])
def test_high_beam_peaks_stand_in_un_r112(base):
    """UN R112 class B, from memory: I_M 40500 to 215000 cd, HV at least 0.8 of it."""
    points = {
        point.name: point
        for point in derived.at_yardstick(beam_of(SetUp(base=base, high=True)), "un-r112-high")
    }
    assert points["I_M"].holds
    assert points["HV"].holds


def test_us_points_are_measured_too():
    """49 CFR 571.108 LB2V, from memory: a European low beam holds most of it."""
    points = report_of(NOMINAL).test_points_us
    assert sum(point.holds for point in points.values()) >= len(points) - 3
    assert report_of(replace(NOMINAL, housing="vol-reflector")).test_points_us == {}
    assert report_of(SetUp(base="9005", high=True)).test_points_us == {}


def test_fog_hangs_lower_and_wider():
    fog, low = beam_of(SetUp(housing="fog-reflector")), beam_of(NOMINAL)
    assert derived.cut_off_height(fog) < derived.cut_off_height(low) - 0.3
    assert float(fog.at(32, -2.5)) > 2 * float(low.at(32, -2.5))


@pytest.mark.parametrize("housing", ["fog-reflector", "fog-projector"])
@pytest.mark.parametrize("source", ["nominal", "led"])
def test_a_fog_beam_is_brightest_ahead_and_fades_to_its_sides(housing, source):
    """Common practice, no published source."""
    summit = peak(beam := beam_of(SetUp(housing=housing, source=source)))
    assert abs(summit.h_deg) < 6
    sides = [float(beam.at(h, summit.v_deg)) for h in (0.0, 10.0, 20.0)]
    assert sides[0] > sides[1] > sides[2] > 0.1 * sides[0]
    assert sides[2] < 0.7 * sides[0]


def test_the_focus_screw_gathers_and_spreads():
    peaks = {
        focus: peak(beam_of(SetUp(housing="lens-optic", base="H4", focus=focus))).candela
        for focus in (-2, 0, 2, 6)
    }
    assert peaks[6] < 0.8 * max(peaks.values())


def test_sharpness_lies_where_un_r112_calls_an_edge_usable():
    """G between 0.13 and 0.40 (UN R112/R149, from memory); a projector's edge is the harder one."""
    soft, hard = (report_of(SetUp(housing=kind)).sharpness_g for kind in ("reflector", "projector"))
    assert 0.13 < soft < 0.40
    assert soft < hard < 0.5


def test_the_elbow_is_found_where_the_shield_puts_it():
    shape = derived.cut_off_shape(beam_of(SetUp(housing="projector")))
    assert shape.elbow_h_deg == pytest.approx(0, abs=0.3)
    assert shape.kerb_slope_deg == pytest.approx(15, abs=1.5)
    assert shape.level_deg == pytest.approx(-0.57, abs=0.12)


def test_a_catalogue_source_becomes_a_set_up():
    hazy = replace(REFLECTOR, condition=UnitCondition(haze=3))
    setup = setup_of(hazy, Function.LOW, SHELF["Quadrant 7 four-face"], "left")
    assert (setup.faces, setup.gap, setup.axial, setup.traffic) == (4, 6.0, 1.4, "left")
    assert setup.haze > setup_of(REFLECTOR, Function.LOW, None, "left").haze == 0
    assert setup_of(lamp(optic=Optic.SEALED), Function.LOW, None, "left") is None
    assert setup_of(lamp(base="W5W"), Function.LOW, None, "left") is None


def test_wall_meter_road_and_glare():
    beam = illuminate(housings.kind("reflector").made(), NOMINAL.nominal, NOMINAL.nominal)
    top_cd = peak(beam)
    right, down = (
        10 * math.tan(math.radians(top_cd.h_deg)),
        -10 * math.tan(math.radians(top_cd.v_deg)),
    )
    here = float(derived.wall_lux(beam, np.array(right), np.array(down), 10.0))
    assert here == pytest.approx(top_cd.candela / 100, rel=0.02)
    assert derived.meter_lux(beam, right, down, 10.0, head_mm=10) == pytest.approx(here, rel=0.01)
    assert derived.meter_lux(beam, right, down, 10.0, head_mm=200) < here
    assert derived.reach_m(beam, 1.0) > derived.reach_m(beam, 3.0) > 40
    calm = derived.oncoming_glare(beam)
    dazzling = derived.oncoming_glare(beam_of(replace(LED, axial=-3.0)))
    assert calm.de_boer > 4.5 > 3.5 > dazzling.de_boer
    assert dazzling.lux > 5 * calm.lux


def test_schmidt_clausen_bindels_worked_by_hand():
    """Schmidt-Clausen & Bindels 1974, from memory; worked with a table of logarithms.

    1 lx at the eye from 4.004° (240.3 minutes) aside, adapted to 1 cd/m²: 240.3^0.46 = 12.45,
    0.003·6·12.45 = 0.2241, log10(1/0.2241) = 0.6496, W = 5 − 1.299 = 3.70. Twice the light costs
    2·log10 2 = 0.602.
    """

    class Even:
        def __init__(self, eye_lux):
            self.candela = eye_lux / 2 * (50**2 + 3.5**2)

        def at(self, h, v):
            return np.array(self.candela)

    mounting = derived.Mounting(height_m=1.2, half_track_m=0.0)
    one, two = (derived.oncoming_glare(Even(lux), mounting).de_boer for lux in (1.0, 2.0))
    assert one == pytest.approx(3.70, abs=0.01)
    assert one - two == pytest.approx(0.602, abs=0.001)


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("housing", "tin"),
        ("base", "W5W"),
        ("source", "candle"),
        ("faces", 9),
        ("haze", 1.5),
        ("gap", -1.0),
        ("volts", 230.0),
    ],
)
def test_impossible_set_ups_name_their_field(field, value):
    with pytest.raises(ValueError) as refused:
        SetUp(**{field: value})
    assert refused.value.field == field
