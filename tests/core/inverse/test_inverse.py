"""Backwards: a housing whose figures are known is told from its own light, foretells a source it
was not fitted with, and tells how that sits. The truth is the model's own, drawn anew; what a real
mirror adds is not in it.
"""

from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.inverse.housing import fit_lamp, foretold_doubts, typical
from cold_arc.core.inverse.light_map import of_beam
from cold_arc.core.inverse.seat import HYPOTHESES, Hypothesis, fit_seat
from cold_arc.formats import fitted_lamp
from tests.core.inverse.lamps import LED, OWN, changed, drawn_lamp
from tests.thorough import usual

TRUE = drawn_lamp(OWN, 3)


# A fit takes a quarter of a minute: each time one is tried in test_read_command.py, from a
# photograph; the seat in tests/web/test_read_wall.py.
@pytest.fixture(scope="module")
def fitted():
    return fit_lamp(OWN, of_beam(TRUE.beam(OWN)))


@pytest.fixture(scope="module")
def lamp():
    """A housing as a fit tells it, without one."""
    cover = 1e-4 * np.eye(len(TRUE.names))
    return replace(TRUE, covariance=tuple(map(tuple, cover.tolist())))


def off_by(lamp, source):
    """The median error over the wall's cells above a twentieth of the peak."""
    truth, foretold = of_beam(TRUE.beam(source)), of_beam(lamp.beam(source))
    bright = truth.candela > 0.05 * truth.peak
    return float(np.median(np.abs(foretold.candela[bright] / truth.candela[bright] - 1)))


@pytest.mark.thorough
def test_a_source_not_fitted_on_is_foretold_three_times_as_well_as_in_a_typical_housing(fitted):
    assert off_by(fitted, LED) < off_by(typical(OWN), LED) / 3
    peak = derived.peak(fitted.beam(LED)).candela
    assert peak == pytest.approx(derived.peak(TRUE.beam(LED)).candela, rel=0.10)


@pytest.mark.thorough
def test_what_is_told_is_near_and_what_is_not_stays_typical(fitted):
    figures = fitted.figures
    true = dict(zip(TRUE.names, TRUE.values, strict=True))
    for name in ("gain", "aim_v", "narrow", "wide"):
        value, standard = figures[name]
        assert value == pytest.approx(true[name], rel=0.1, abs=3 * standard)
        assert standard < 0.15 * max(abs(true[name]), 1.0)
    assert fitted.left_pct < 2
    assert any("taken as typical" in note for note in fitted.notes)


@pytest.mark.thorough
def test_a_prediction_says_its_doubt_and_lamps_are_drawn_alike(fitted):
    doubts = foretold_doubts(fitted, LED)
    peak = derived.peak(fitted.beam(LED)).candela
    assert 0 < doubts["peak_cd"] < 0.2 * peak
    assert [lamp.values for lamp in fitted.drawn(3)] == [lamp.values for lamp in fitted.drawn(3)]


def test_the_beam_is_linear_in_the_light(lamp):
    one, two = (lamp.beam(replace(LED, flux=flux), rough=True) for flux in (700.0, 1400.0))
    assert two.flux == pytest.approx(2 * one.flux, rel=1e-9, abs=1e-12)


def test_a_fitted_housing_is_kept_and_read_again(lamp):
    again = fitted_lamp.from_json(fitted_lamp.to_json(lamp).encode())
    assert again.values == lamp.values
    assert again.setup == lamp.setup
    assert np.array(again.covariance) == pytest.approx(np.array(lamp.covariance))


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (lambda text: text[: len(text) // 2], "no JSON"),
        (lambda text: text.replace("cold-arc-fitted-housing", "x"), "no fitted housing"),
        (lambda text: text.replace('"version": 1', '"version": 9'), "another version"),
        (lambda text: text.replace('"narrow"', '"height"'), "damaged"),
        (lambda text: text.replace('"base": "H7"', '"base": "X7"'), "damaged"),
    ],
)
def test_a_damaged_file_is_refused(lamp, damage, words):
    with pytest.raises(fitted_lamp.FittedLampError, match=words):
        fitted_lamp.from_json(damage(fitted_lamp.to_json(lamp)).encode())


AIM_V = dict(zip(TRUE.names, TRUE.values, strict=True))["aim_v"]
WRONG = {
    "clock": (TRUE, replace(LED, clock=16.0)),
    "depth": (TRUE, replace(LED, axial=0.9)),
    "seat": (TRUE, replace(LED, clock=-25.0, axial=-0.8)),
    "aim": (changed(TRUE, aim_v=AIM_V - 0.6), LED),
    "haze": (changed(TRUE, haze=0.5), LED),
}


OTHERWISE = {
    "face": (OWN, {"uneven": 0.4}),
    "shade": (SetUp("projector", "H7"), {"cut_off": "flat"}),
    "upside": (SetUp("reflector", "H4"), {"clock": 180.0}),
    "right": (SetUp("projector", "H7"), {}),
}


@pytest.mark.parametrize("wrong", usual(OTHERWISE, []))
def test_a_dark_face_a_bent_shade_and_a_bulb_upside_down_are_told(wrong):
    own, changes = OTHERWISE[wrong]
    led = replace(own, source="led", gap=1.6, flux=1300.0, length=4.2)
    true = drawn_lamp(own, 4)
    lamp = replace(true, covariance=tuple(map(tuple, (1e-4 * np.eye(len(true.names))).tolist())))
    shone = Hypothesis("", (), 1.0, "", "", changes=changes).supposed(true, led)
    first = fit_seat(lamp, led, of_beam(shone[0].beam(shone[1]))).explained[0]
    assert first.hypothesis.id == wrong
    if wrong == "face":
        assert "9 o'clock gives 5" in first.words  # 1 - 0.6 / 1.4 = 57 %


@pytest.mark.parametrize(
    ("setup", "befall"),
    [
        (LED, {"face"}),
        (OWN, set()),
        (replace(LED, faces=1), set()),
        (SetUp("projector", "H7"), {"shade"}),
        (SetUp("projector", "H7", cut_off="flat"), set()),
        (SetUp("projector", "H7", high=True), set()),
        (SetUp("fog-projector", "H11", source="led"), {"face"}),
        (SetUp("reflector", "H4", source="led"), {"face", "upside"}),
    ],
)
def test_only_what_can_befall_a_lamp_is_asked_of_it(setup, befall):
    asked = {each.id for each in HYPOTHESES if each.befalls(setup)}
    assert asked & {"face", "shade", "upside"} == befall


@pytest.mark.parametrize("wrong", usual(WRONG, []))
def test_what_is_wrong_is_named_first_with_what_to_do(fitted, wrong):
    lamp, seated = WRONG[wrong]
    seat = fit_seat(fitted, LED, of_beam(lamp.beam(seated)))
    assert seat.explained[0].hypothesis.id == wrong
    assert sum(one.probability for one in seat.explained) == pytest.approx(1.0)
    asked = {each.id for each in HYPOTHESES if each.befalls(LED)}
    assert {one.hypothesis.id for one in seat.explained} == asked
    assert seat.advice
    if lamp is TRUE:
        assert seat.figures["clock"][0] == pytest.approx(seated.clock, abs=6.0)
        assert seat.figures["axial"][0] == pytest.approx(seated.axial, abs=0.5)
    if wrong == "clock":
        assert "Turn the collar back" in seat.advice
        assert "clockwise" in seat.explained[0].words
