"""Sources as clouds: where their elements sit, which way they look, how their flux is shared."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cold_arc.core.beam import housings, kernel, model, nominal
from cold_arc.core.beam.housings import CutOff, images
from cold_arc.core.beam.housings.projector import Projector
from cold_arc.core.beam.housings.reflector import Reflector
from cold_arc.core.beam.housings.shapes import CLEAR_FRONT, each_image
from cold_arc.core.beam.model import illuminate
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Arc, Filament, Led, spiral
from cold_arc.core.car.lamps import Traffic


def spread(cloud, axis):
    return float(np.ptp(cloud.positions[:, axis]))


def test_an_axial_coil_lies_along_the_axis():
    cloud = Filament(4.5, 1.3).cloud(800)
    assert spread(cloud, 2) == pytest.approx(4.5, abs=0.02)
    assert spread(cloud, 0) == pytest.approx(1.3, abs=0.02)
    assert np.abs(cloud.positions.mean(axis=0)).max() < 0.02


def test_a_transverse_coil_lies_across_it():
    cloud = Filament(4.8, 1.3, transverse=True).cloud(800)
    assert spread(cloud, 0) == pytest.approx(4.8, abs=0.02)
    assert spread(cloud, 2) == pytest.approx(1.3, abs=0.02)


@pytest.mark.parametrize(
    "source", [Filament(), Arc(), Led(), Led(faces=4, rows=2), Led(faces=3, clock_deg=33)]
)
def test_flux_and_normals(source):
    cloud = source.cloud(600)
    assert cloud.total_lm == pytest.approx(source.flux_lm)
    assert np.linalg.norm(cloud.normals, axis=1) == pytest.approx(np.ones(len(cloud.normals)))


def test_an_arc_bows_up_and_is_brighter_at_its_ends():
    cloud = Arc(4.2).cloud(2000)
    middle = np.abs(cloud.positions[:, 2]) < 0.5
    ends = np.abs(cloud.positions[:, 2]) > 1.6
    assert cloud.positions[middle, 1].mean() > cloud.positions[ends, 1].mean() + 0.1
    assert cloud.flux[ends].mean() > 1.5 * cloud.flux[middle].mean()


def test_two_faces_look_to_3_and_9_o_clock():
    cloud = Led(gap_mm=1.4).cloud(400)
    assert set(np.round(cloud.normals[:, 0])) == {-1.0, 1.0}
    assert np.abs(cloud.positions[:, 0]) == pytest.approx(np.full(400, 0.7))


def test_the_clock_turns_clockwise_seen_from_behind():
    """From behind, x is right and y up: the face at 3 o'clock, turned 90° clockwise, looks down."""
    cloud = Led(faces=1, clock_deg=90).cloud(50)
    assert cloud.normals[0] == pytest.approx([0, -1, 0], abs=1e-12)


@given(st.floats(-180, 180), st.integers(1, 5))
def test_turning_keeps_the_distance_from_the_axis(clock, faces):
    cloud = Led(faces=faces, gap_mm=3.0, clock_deg=clock).cloud(120)
    outward = np.einsum("ij,ij->i", cloud.positions, cloud.normals)
    assert outward == pytest.approx(np.full(outward.size, 1.5))


def test_errors_of_the_seat_move_the_whole_body():
    moved = Led(axial_mm=1.5, radial_x_mm=-0.4, radial_y_mm=0.3).cloud(400)
    assert moved.positions.mean(axis=0) == pytest.approx([-0.4, 0.3, 1.5], abs=0.01)


def test_tilt_lifts_the_nose():
    cloud = Led(tilt_deg=5.0).cloud(400)
    front, back = cloud.positions[:, 2] > 1, cloud.positions[:, 2] < -1
    assert cloud.positions[front, 1].mean() > 0 > cloud.positions[back, 1].mean()


def test_two_rows_share_the_flux_as_told():
    cloud = Led(rows=2, width_mm=1.0, row_flux=(3.0, 1.0)).cloud(400)
    upper = cloud.flux[cloud.positions[:, 1] * cloud.normals[:, 0] > 0].sum()
    assert upper / cloud.total_lm == pytest.approx(0.25, abs=0.01)
    assert spread(Led(rows=2, width_mm=1.0).cloud(400), 1) == pytest.approx(2.0, abs=0.05)


def test_the_dip_shield_blocks_what_goes_down():
    """Common practice, no published source: level on the kerb side, 15° lower on the other."""
    right, left = (Filament(dip_shield=True, traffic=side).cloud(4).shield for side in Traffic)

    def passes(shield, degrees):
        ray = np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees)), 0.0])
        return not np.all(shield @ ray < 0)

    assert [passes(right, angle) for angle in (90, 45, 5, 170, 185, 194, 196, -5, -90)] == [
        True, True, True, True, True, True, False, False, False,
    ]  # fmt: skip
    assert passes(left, -5) is True
    assert passes(left, -16) is False
    assert passes(left, 185) is False


def test_cut_off_lines():
    elbow, left = CutOff("elbow"), CutOff("elbow", traffic=Traffic.LEFT)
    h = np.array([-10.0, 0.0, 2.0, 30.0])
    assert elbow.at(h) == pytest.approx(
        [-0.57, -0.57, -0.57 + 2 * math.tan(math.radians(15)), 1.13], abs=1e-3
    )
    assert left.at(-h) == pytest.approx(elbow.at(h))
    assert CutOff("flat", -1.1).at(h) == pytest.approx([-1.1] * 4)
    assert CutOff("step").at(np.array([-1.0, 1.0])) == pytest.approx([-0.57, 0.0])
    assert CutOff("none").at(h).min() == 90


def test_images_are_plain_reflections_with_a_dip_shields_shadow_left_out():
    """Against the law of reflection and Lambertian exchange, written out for each path."""
    mirror, cloud = Reflector().mirror(Filament(4.5)), Filament(4.5, dip_shield=True).cloud(24)
    places, normals = mirror.positions[::2399], mirror.normals[::2399]
    expected = []
    for place, normal in zip(places, normals, strict=True):
        for start, outward in zip(cloud.positions, cloud.normals, strict=True):
            ray = place - start
            if ray @ outward <= 0 or ray @ normal >= 0 or np.all(cloud.shield @ ray < 0):
                continue
            out = (ray - 2 * (ray @ normal) * normal) / np.linalg.norm(ray)
            share = -(ray @ outward) * (ray @ normal) / np.linalg.norm(ray) ** 4
            expected.append(
                (math.degrees(math.asin(out[0])), math.degrees(math.atan2(out[1], out[2])), share)
            )
    assert 0 < len(expected) < len(places) * 24 / 2
    np.testing.assert_allclose(
        np.stack(images(cloud, places, normals), axis=1), expected, rtol=1e-9, atol=1e-9
    )


def test_nothing_is_compiled_once_the_kernel_is_warm():
    """Whatever arrays a page hands over, sliced ones too: no page waits for a compiler."""
    model.warm()
    compiled = (kernel.images, kernel._each_image, kernel._trace)
    ready = [len(part.signatures) for part in compiled]
    mirror, cloud = Reflector().mirror(Filament(4.5)), Filament(4.5).cloud(48)
    images(cloud, mirror.positions[::7], mirror.normals[::7])
    for kind, rough in itertools.product(housings.KINDS.values(), (False, True)):
        illuminate(kind.made(), Filament(4.5), Led(clock_deg=5.0), rough=rough)
    assert beam_of(SetUp("projector", opening=60, focal=40, aim_v=1)).flux_lm > 0
    assert [len(part.signatures) for part in compiled] == ready


def test_a_plain_images_facts_are_those_of_its_rays():
    """Light, middle, height and room under the line of each element's image, against its rays one
    by one.
    """
    mirror, cloud, line = (
        Reflector().mirror(Filament(4.5)),
        Filament(4.5, dip_shield=True).cloud(96),
        CutOff("flat"),
    )
    facts = each_image(cloud, mirror.positions[::4001], mirror.normals[::4001], line, CLEAR_FRONT)
    for place, normal, told in zip(
        mirror.positions[::4001], mirror.normals[::4001], facts, strict=True
    ):
        h, v, weight = images(cloud, place[None], normal[None])
        assert told[kernel.PAST] == pytest.approx(weight.sum())
        assert told[kernel.BARE] >= told[kernel.PAST]
        if not weight.size:
            continue
        # In single precision: a ten-thousandth of a degree is a fiftieth of a millimetre at 10 m.
        middle = np.average(h, weights=weight), np.average(v, weights=weight)
        assert told[[kernel.MEAN_H, kernel.MEAN_V]] == pytest.approx(middle, abs=1e-4)
        assert told[kernel.ROOM] == pytest.approx(-0.57 - v.max(), abs=1e-4)


def test_every_elements_nominal_image_hangs_under_the_line():
    shape = Reflector()
    mirror, cloud = shape.mirror(Filament(4.5)), Filament(4.5).cloud(48)
    h, v, weight = images(cloud, mirror.positions[::7], mirror.normals[::7])
    over = v > shape.cut_off.at(h)
    assert weight[over].sum() / weight.sum() < 0.01


def test_elements_beside_the_bulb_make_flat_images_and_those_above_tall_ones():
    mirror, cloud = Reflector().mirror(Filament(4.5)), Filament(4.5).cloud(96)
    x, y = mirror.positions[:, 0], mirror.positions[:, 1]
    beside = np.flatnonzero((np.abs(y) < 4) & (np.abs(x) > 40))[:1]
    above = np.flatnonzero((np.abs(x) < 4) & (y > 40))[:1]
    heights = {}
    for name, place in (("beside", beside), ("above", above)):
        _, v, _ = images(cloud, mirror.positions[place], mirror.normals[place])
        heights[name] = float(np.ptp(v))
    assert heights["above"] > 2.5 * heights["beside"]


def test_the_shields_edge_is_the_cut_off_as_the_lens_throws_it():
    projector = Projector()
    edge = projector.optic().edge_deg
    assert edge[0] < edge[-1]  # right traffic: light rises on the right
    left = Projector(cut_off=CutOff(traffic=Traffic.LEFT)).optic().edge_deg
    assert left[::-1] == pytest.approx(edge)


def test_presets_cover_every_forward_base_and_name_what_they_do_not_know():
    for name in nominal.BEAM_BASES:
        assert nominal.nominal_source(nominal.beam_base(name)).flux_lm > 300
    for kind in housings.KINDS:
        assert housings.kind(kind).made(Traffic.LEFT).cut_off.traffic is Traffic.LEFT
    with pytest.raises(ValueError, match="W5W"):
        nominal.beam_base("W5W")
    with pytest.raises(ValueError, match="bathtub"):
        housings.kind("bathtub")


def test_the_spiral_fills_the_square():
    u = spiral(1000)
    assert u.min() >= 0
    assert u.max() < 1
    counts, *_ = np.histogram2d(u[:, 0], u[:, 1], bins=10)
    assert counts.min() >= 8


@pytest.mark.parametrize("faces", [1, 2, 3, 4])
def test_what_one_face_gives_more_the_others_give_less(faces):
    """Of two with half more and half less one gives three times the other; the flux stays."""
    even, uneven, dark = (
        Led(faces=faces, uneven=share).cloud(120 * faces) for share in (0.0, 0.5, -1.0)
    )
    assert uneven.flux.sum() == pytest.approx(even.flux.sum(), rel=1e-12)
    assert dark.flux.sum() == pytest.approx(even.flux.sum(), rel=1e-12)
    if faces == 2:
        right = uneven.positions[:, 0] > 0
        assert uneven.flux[right].sum() == pytest.approx(3 * uneven.flux[~right].sum())
