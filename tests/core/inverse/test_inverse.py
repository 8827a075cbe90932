"""Backwards: a housing whose figures are known is told from its own light, foretells a source it
was not fitted with, and tells how that sits. The truth is the model's own, drawn anew; what a real
mirror adds is not in it.
"""

import itertools
import json
import re
from dataclasses import replace

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.inverse.housing import fit_lamp, foretold_doubts, typical
from cold_arc.core.inverse.light_map import LampBeside, of_beam, of_pair, texture_of
from cold_arc.core.inverse.seat import HYPOTHESES, Hypothesis, fit_seat
from cold_arc.formats import fitted_lamp
from tests.core.inverse.lamps import LED, OWN, changed, drawn_lamp, dull_mirrors, wavy_mirrors
from tests.thorough import usual

TRUE = drawn_lamp(OWN, 3)


# A fit takes some ten seconds: each time one is tried in test_read_command.py, from a
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


BESIDE = LampBeside(1.2, 7.62)


@pytest.mark.thorough
def test_a_lamp_is_told_where_the_other_one_was_lit_too():
    """A third brighter, aimed half a degree lower and aside; taken for one lamp's light it misleads
    by most of the beam.
    """
    light = of_pair(TRUE.beam(OWN), BESIDE, 1.33, -0.5, 0.5)
    pair = fit_lamp(OWN, light, beside=BESIDE)
    other = pair.figures["other_gain"], pair.figures["other_v"], pair.figures["other_h"]
    for (value, standard), true in zip(other, (1.33, -0.5, 0.5), strict=True):
        assert value == pytest.approx(true, abs=max(0.1, 3 * standard))
    assert off_by(pair.alone, LED) < off_by(typical(OWN), LED) / 3
    assert set(pair.alone.figures) == set(TRUE.names)
    assert any("other lamp was lit" in note for note in pair.notes)
    assert not any("hardly any light" in note for note in pair.notes)
    untold, not_lit = fit_lamp(OWN, light), fit_lamp(OWN, of_beam(TRUE.beam(OWN)), beside=BESIDE)
    assert off_by(untold, LED) > 0.3
    assert any("or the other lamp lit too" in note for note in untold.notes)
    assert any("hardly any light" in note for note in not_lit.notes)


@pytest.mark.parametrize("apart_m", [1.2, -1.2])
def test_a_pair_of_lamps_lights_the_wall_by_what_each_gives_there(apart_m):
    """E = I·cos³θ/d² of either, at places of the wall."""
    beam = TRUE.beam(OWN, rough=True)
    light = of_pair(beam, LampBeside(apart_m, 7.62), 1.5, 0.0, 0.0)
    for column, row in itertools.product(range(20, 40, 4), range(6, 14, 2)):
        inside = np.linspace(-0.5, 0.5, 21)
        h, v = np.meshgrid(light.h[column] + inside, light.v[row] + inside * 0.5)
        right = 7.62 * np.tan(np.radians(h)) / np.cos(np.radians(v))
        down = -7.62 * np.tan(np.radians(v))
        lux = derived.wall_lux(beam, right, down, 7.62)
        lux += 1.5 * derived.wall_lux(beam, right - apart_m, down, 7.62)
        cosine = np.cos(np.radians(h)) * np.cos(np.radians(v))
        expected = float(np.mean(lux * 7.62**2 / cosine**3))
        assert light.candela[row, column] == pytest.approx(expected, rel=0.1, abs=30)


def test_the_beam_is_linear_in_the_light(lamp):
    one, two = (lamp.beam(replace(LED, flux=flux), rough=True) for flux in (700.0, 1400.0))
    assert two.flux == pytest.approx(2 * one.flux, rel=1e-9, abs=1e-12)


def with_texture(lamp):
    """The lamp with a place to the right of its hot spot that gives three quarters of its light."""
    light = lamp.light(OWN)
    dull = np.where(abs(light.h - 4.5) < 2, 0.75, 1.0) * light.candela
    aim = (lamp.figures[name][0] for name in ("aim_v", "aim_h"))
    return replace(lamp, texture=texture_of(replace(light, candela=dull), light, *aim))


def test_a_dull_place_is_kept_in_what_is_foretold_and_goes_where_the_lamp_is_aimed(lamp):
    marked = with_texture(lamp)
    plain, dull = lamp.light(LED), marked.light(LED)
    bright = plain.candela > 0.3 * plain.peak
    shares = np.where(abs(plain.h - 4.5) < 2, 0.75, 1.0) * np.ones_like(plain.candela)
    assert (dull.candela / plain.candela)[bright] == pytest.approx(shares[bright], abs=0.02)
    moved, moved_dull = (each.turned(-0.5, 2.0).light(LED) for each in (lamp, marked))
    bright = moved.candela > 0.3 * moved.peak
    shares = np.where(abs(plain.h - 6.5) < 2, 0.75, 1.0) * np.ones_like(plain.candela)
    assert (moved_dull.candela / moved.candela)[bright] == pytest.approx(shares[bright], abs=0.02)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", [1, 5])
def test_a_dull_mirror_is_kept_in_what_match_foretells(seed):
    """A third of a mirror gives 40 % of its light: most of that the figures take up, so that an LED
    not fitted on is foretold less than a third as far off as in the lamp with a sound mirror.
    """
    true = drawn_lamp(OWN, 100 + seed)
    with dull_mirrors(seed):
        own, led = of_beam(true.beam(OWN)), of_beam(true.beam(LED))
    fit = fit_lamp(OWN, own)
    bright = led.candela > 0.05 * led.peak
    kept, sound = (
        np.median(np.abs(of_beam(each.beam(LED)).candela / led.candela - 1)[bright])
        for each in (fit, true)
    )
    assert sound > 0.2
    assert kept < 0.3 * sound
    assert of_beam(fit.beam(LED)).peak == pytest.approx(led.peak, rel=0.07)


def test_what_a_fit_leaves_over_is_its_texture(lamp):
    """What was not seen keeps the model's light, what is dark too, and no cell gains more than
    twice.
    """
    light = lamp.light(OWN)
    known = light.known & (light.h > -10)
    seen = replace(light, candela=3 * light.candela, known=known)
    times = np.array(texture_of(seen, light, 0.0, 0.0).times)
    assert (times[~known] == 1.0).all()
    assert times.max() == 2.0
    assert times[known & (light.candela < 1e-4 * light.peak)] == pytest.approx(1.0, abs=0.02)


@pytest.mark.thorough
def test_in_a_mirror_with_waves_a_clock_is_told_the_better_for_what_the_fit_left_over():
    """Figures as they are, waves of three times what is usual: what is left over of the own light
    tells of the LED's.
    """
    cover = tuple(map(tuple, (1e-4 * np.eye(len(TRUE.names))).tolist()))
    plain, turned = replace(TRUE, covariance=cover), replace(LED, clock=16.0)
    with wavy_mirrors(5, 0.2):
        own, after = of_beam(TRUE.beam(OWN)), of_beam(TRUE.beam(turned))
    aim = (plain.figures[name][0] for name in ("aim_v", "aim_h"))
    marked = replace(plain, texture=texture_of(own, plain.light(OWN), *aim))
    off = [abs(fit_seat(lamp, LED, after).figures["clock"][0] - 16.0) for lamp in (plain, marked)]
    assert off[1] < off[0]
    assert off[1] < 3.0


@pytest.mark.parametrize("kept", [lambda lamp: lamp, with_texture])
def test_a_fitted_housing_is_kept_and_read_again(lamp, kept):
    lamp = kept(lamp)
    text = fitted_lamp.to_json(lamp)
    again = fitted_lamp.from_json(text.encode())
    assert again.values == lamp.values
    assert again.setup == lamp.setup
    assert again.texture == lamp.texture
    before = {name: value for name, value in json.loads(text).items() if name != "texture"}
    assert fitted_lamp.from_json(json.dumps(before).encode()).texture is None
    assert np.array(again.covariance) == pytest.approx(np.array(lamp.covariance))


TEXTURES_AIM = r'"aim_v": \S+(\s+"aim_h": \S+\s+})'


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (lambda text: text[: len(text) // 2], "no JSON"),
        (lambda text: text.replace("cold-arc-fitted-housing", "x"), "no fitted housing"),
        (lambda text: text.replace('"version": 1', '"version": 9'), "another version"),
        (lambda text: text.replace('"narrow"', '"height"'), "damaged"),
        (lambda text: text.replace('"base": "H7"', '"base": "X7"'), "damaged"),
        (lambda text: text.replace("0.75", "7.5"), "damaged"),
        (lambda text: text.replace('"times": [', '"times": 1, "x": ['), "damaged"),
        (lambda text: text.replace('"times": [', '"times": [[1.0],'), "damaged"),
        (
            lambda text: re.sub(r'"aim_v": \S+(\s+"aim_h": \S+\s+})', r'"aim_v": 9,\1', text),
            "damaged",
        ),
    ],
)
def test_a_damaged_file_is_refused(lamp, damage, words):
    text = fitted_lamp.to_json(with_texture(lamp))
    assert damage(text) != text
    with pytest.raises(fitted_lamp.FittedLampError, match=words):
        fitted_lamp.from_json(damage(text).encode())


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
