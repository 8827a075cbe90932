"""The map of light: closed forms, and no light lost between a photograph and its map."""

import json

import numpy as np
import pytest

from cold_arc.core.beam import derived
from cold_arc.core.beam.given import given_beam
from cold_arc.core.beam.model import GRID
from cold_arc.core.beam.report import beam_of
from cold_arc.core.inverse.light_map import H_CELL, V_CELL, LightMap, of_beam, of_picture
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.isolux import LuxReading
from cold_arc.core.wallphoto.picture import (
    LUMINANCE,
    TO_LINEAR,
    PhotoUnusableError,
    as_shown,
    light_of,
)
from cold_arc.devices.wall_camera import Shot, before_the_wall, photograph
from cold_arc.formats import table
from cold_arc.formats.light_maps import ENDINGS, WHOLE, read_map, write_map
from cold_arc.formats.photometric import MalformedFileError
from tests.core.inverse.lamps import OWN

MARKS_CM = [(-200, 20), (200, 20), (-200, 130), (200, 130), (0, 140), (0, 10)]
SUBJECT = Subject(7.62, 0.72)


def gaussian(h_deg, v_deg, wide, peak=10_000.0):
    h, v = np.meshgrid(GRID.h, GRID.v)
    return given_beam(peak * np.exp(-((h - h_deg) ** 2 + (v - v_deg) ** 2) / (2 * wide**2)))


def photographed(beam, **shot):
    pose = before_the_wall(7.62, 0.72)
    taken = photograph(beam, pose, Shot(1200, 900, **shot), MARKS_CM, 7.62, 0.72)
    return light_of(taken.pixels), list(taken.marks)


def test_a_known_gaussian_keeps_its_middle_its_width_and_its_sum():
    light = of_beam(gaussian(2.0, -1.5, 1.8))
    weight = light.candela / light.candela.sum()
    h, v = (weight.sum(axis=0) @ light.h, weight.sum(axis=1) @ light.v)
    assert (h, v) == (pytest.approx(2.0, abs=0.1), pytest.approx(-1.5, abs=0.1))
    wide = np.sqrt(weight.sum(axis=0) @ (light.h - h) ** 2)
    assert wide == pytest.approx(np.sqrt(1.8**2 + H_CELL**2 / 12), rel=0.02)
    assert light.candela.sum() * H_CELL * V_CELL == pytest.approx(
        10_000 * 2 * np.pi * 1.8**2, rel=0.01
    )


def test_left_and_right_exchanged_twice_is_the_same():
    light = of_beam(gaussian(3.0, -1.0, 1.0))
    assert np.array_equal(light.mirrored().mirrored().candela, light.candela)
    assert light.mirrored().candela[:, ::-1] == pytest.approx(light.candela)


def test_a_photograph_and_one_reading_give_the_beams_own_candela():
    beam = beam_of(OWN)
    lux = float(derived.wall_lux(beam, np.array([0.0]), np.array([0.15]), 7.62)[0])
    picture, marks = photographed(beam)
    seen = of_picture(picture, marks, SUBJECT, LuxReading(lux, (0.0, 57.0)))
    truth = of_beam(beam)
    bright = seen.known & (truth.candela > 0.05 * truth.peak)
    assert bright.sum() > 100
    off = seen.candela[bright] / truth.candela[bright] - 1
    assert np.median(np.abs(off)) < 0.06
    assert seen.candela[bright].sum() == pytest.approx(truth.candela[bright].sum(), rel=0.06)


def test_what_is_clipped_is_not_known():
    picture, marks = photographed(beam_of(OWN), exposure=1.5)
    seen = of_picture(picture, marks, SUBJECT)
    row, column = np.unravel_index(np.argmax(of_beam(beam_of(OWN)).candela), seen.known.shape)
    assert not seen.known[row, column]
    assert not seen.absolute


def tinted(cast):
    """A photograph of a beam whose channels stand as *cast* ((rows, columns,) 3) has them, 1 where
    the hot spot fills one; and its true light."""
    pose = before_the_wall(7.62, 0.72)
    taken = photograph(beam_of(OWN), pose, Shot(1200, 900, exposure=-1.0), MARKS_CM, 7.62, 0.72)
    linear = TO_LINEAR[taken.pixels]
    shone = linear / linear.max() * cast
    return light_of(as_shown(shone)), list(taken.marks), shone @ LUMINANCE


def test_a_full_channel_is_made_good_by_the_others():
    """A lamp's warm light under a cold white balance fills red long before blue."""
    picture, marks, true = tinted(np.array([2.0, 0.9, 0.5]))
    assert picture.clipped.mean() > 0.005
    assert not picture.lost.any()
    assert picture.light[picture.clipped] == pytest.approx(true[picture.clipped], rel=0.05)
    seen, truth = of_picture(picture, marks, SUBJECT), of_beam(beam_of(OWN))
    bright = seen.known & (truth.candela > 0.3 * truth.peak)
    assert bright[truth.candela == truth.peak].all()
    ratio = seen.candela[bright] / truth.candela[bright]
    assert np.std(np.log(ratio)) < 0.06


def test_of_a_light_in_two_colours_nothing_is_made_good_by_what_tells_little_of_it():
    """Blue says nothing of how much a place shines that is red here and green there."""
    across = np.linspace(0.3, 1.7, 1200)[None, :, None]
    cast = np.concatenate([2.0 * across, 2.0 / across, 0.5 + 0 * across], axis=2)
    picture, _, _ = tinted(cast)
    assert picture.clipped.any()
    assert np.array_equal(picture.lost, picture.clipped)


def test_a_reading_outside_the_picture_is_refused():
    picture, marks = photographed(beam_of(OWN))
    with pytest.raises(PhotoUnusableError, match="outside the picture"):
        of_picture(picture, marks, SUBJECT, LuxReading(100.0, (900.0, 57.0)))


def test_a_table_is_read_as_the_beam_it_was_written_from():
    beam = beam_of(OWN)
    light, truth = read_map(table.from_beam(beam, ""), ".csv"), of_beam(beam)
    bright = truth.candela > 0.1 * truth.peak
    off = light.candela[bright] / truth.candela[bright] - 1
    assert np.median(np.abs(off)) < 0.03


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,b,c\n1,2,3\n", "line 1: the columns must be"),
        ("h_deg,v_deg,cd\n0,0\n", "line 2: 2 cells"),
        ("h_deg,v_deg,cd\n0,0,x\n", "line 2: cd must be a number"),
        ("h_deg,v_deg,cd\n0,0,1\n1,1,2\n", "every h must stand with every v"),
        ("h_deg,v_deg,cd\n0,0,1\n0,0,1\n1,1,2\n1,0,2\n", "stands twice"),
    ],
)
def test_a_table_that_is_none_is_refused_with_its_line(text, words):
    with pytest.raises(MalformedFileError, match=words):
        read_map(text.encode(), ".csv")


def test_a_table_of_darkness_tells_no_lamp():
    rows = "".join(f"{h},{v},0\n" for h in range(-20, 21) for v in range(-8, 6))
    with pytest.raises(ValueError, match="too little"):
        read_map(("h_deg,v_deg,cd\n" + rows).encode(), ".csv")


@pytest.mark.parametrize("ending", ENDINGS)
@pytest.mark.parametrize("absolute", [True, False])
def test_a_map_is_read_as_it_was_written(ending, absolute):
    """JSON and CSV hold light, what was seen, and whether it is in candela. IES and EULUMDAT hold
    candela alone: what was seen is the rectangle about it."""
    full = of_beam(beam_of(OWN))
    known = full.known & (np.abs(full.h) < 12)[None, :] & (full.v > -6)[:, None]
    known[20:22, 18:20] = False
    light = LightMap(full.h, full.v, full.candela, known, absolute)
    if ending not in WHOLE and not absolute:
        with pytest.raises(ValueError, match="no candela"):
            write_map(light, ending, "A-1")
        return
    again = read_map(write_map(light, ending, "A-1"), ending)
    both = known & again.known & (light.candela > 0.1 * light.peak)
    if ending in WHOLE:
        assert (again.known == known).all()
        assert np.allclose(again.candela, light.candela, rtol=1e-5)
        assert again.absolute is absolute
    assert both.sum() > 20
    assert np.median(np.abs(again.candela[both] / light.candela[both] - 1)) < 0.03


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda plain: plain | {"format": "other"}, "no map is told"),
        (lambda plain: plain | {"h_deg": plain["h_deg"][1:]}, "other cells"),
        (lambda plain: plain | {"cd": plain["cd"][1:]}, "not whole"),
        (lambda plain: plain | {"known": plain["known"][1:]}, "not whole"),
        (lambda plain: plain | {"cd": [[-1.0 for _ in row] for row in plain["cd"]]}, "can't be"),
    ],
)
def test_a_map_that_is_none_is_refused(change, words):
    written = json.loads(write_map(of_beam(beam_of(OWN)), ".json", ""))
    with pytest.raises(MalformedFileError, match=words):
        read_map(json.dumps(change(written)).encode(), ".json")
