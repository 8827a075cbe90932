"""The beam model against closed forms, and against a general-purpose optics package (prysm) on
single surfaces.
"""

import ast
import math
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cold_arc.core.beam import derived, housings, kernel
from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.housings.lens_optic import LensOptic
from cold_arc.core.beam.housings.projector import Projector
from cold_arc.core.beam.housings.reflector import Reflector
from cold_arc.core.beam.model import GRID, Conditions, illuminate
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.beam.sources import Arc, Filament, Led, lattice, mirrored
from cold_arc.core.car.lamps import Traffic
from tests.core.beam.optics_package import Surface, raytrace

NO_LINE = CutOff("none")
PARABOLOID = LensOptic(pattern=None, cut_off=NO_LINE, samples=4096, finish_deg=0.0, soft_deg=0.0)
ELLIPSOID = Projector(pattern=None, cut_off=NO_LINE, samples=4096)
COIL = Filament(4.5)


def reflected(places, normals, start):
    """Unit directions of rays from *start* after each mirror element."""
    arriving = places - start
    arriving = arriving / np.linalg.norm(arriving, axis=1)[:, None]
    return arriving - 2 * np.einsum("ij,ij->i", arriving, normals)[:, None] * normals


def test_a_paraboloid_sends_its_focus_out_parallel():
    mirror = PARABOLOID.mirror(COIL)
    out = reflected(mirror.positions, mirror.normals, np.zeros(3))
    assert np.abs(out - [0, 0, 1]).max() < 1e-9


def test_an_ellipsoid_sends_focus_to_focus():
    mirror = ELLIPSOID.mirror(COIL)
    out = reflected(mirror.positions, mirror.normals, np.zeros(3))
    run = (ELLIPSOID.second_focus_mm - mirror.positions[:, 2]) / out[:, 2]
    assert np.abs((mirror.positions + run[:, None] * out)[:, :2]).max() < 1e-9


def test_an_offset_across_the_ray_turns_it_by_offset_over_distance():
    """To first order a source offset δ across the ray turns the reflected ray by δ/ρ."""
    mirror = PARABOLOID.mirror(COIL)
    distance = np.linalg.norm(mirror.positions, axis=1)
    across = np.cross(mirror.positions / distance[:, None], [0.3, 0.5, 0.2])
    across /= np.linalg.norm(across, axis=1)[:, None]
    for offset in (1e-3, 1e-4):
        turned = np.linalg.norm(
            reflected(mirror.positions, mirror.normals, offset * across) - [0, 0, 1], axis=1
        )
        assert np.abs(turned / (offset / distance) - 1).max() < 20 * offset


@pytest.mark.parametrize("offset", [(0, 0, 0), (0.4, -0.7, 1.2), (0, 0, -2.0)])
def test_single_reflections_agree_with_a_general_optics_package(offset):
    """prysm traces the same rays to the same conic surfaces: paraboloid k = −1, ellipsoid k =
    −e².
    """
    start = np.array(offset, dtype=float)
    a, c = ELLIPSOID.half_axis_mm, ELLIPSOID.second_focus_mm / 2
    surfaces = {
        PARABOLOID: Surface.conic(
            1 / (2 * PARABOLOID.focal_mm), -1.0, "refl", [0, 0, -PARABOLOID.focal_mm]
        ),
        ELLIPSOID: Surface.conic(a / (a * a - c * c), -((c / a) ** 2), "refl", [0, 0, c - a]),
    }
    for housing, surface in surfaces.items():
        mirror = housing.mirror(COIL)
        rays = mirror.positions - start
        rays /= np.linalg.norm(rays, axis=1)[:, None]
        # prysm looks for the surface from where a ray meets the vertex plane: that must be a place
        # it can start from
        vertex = start + rays * ((surface.P[2] - start[2]) / rays[:, 2])[:, None]
        back = (rays[:, 2] < 0) & (np.hypot(vertex[:, 0], vertex[:, 1]) < 25)
        held, normals, rays = mirror.positions[back], mirror.normals[back], rays[back]
        assert back.sum() > 20
        places, directions = raytrace([surface], held - 2.0 * rays, rays, 0.55)
        assert np.abs(places[-1] - held).max() < 1e-6
        ours = reflected(held, normals, start)
        assert np.abs(np.abs(directions[-1]) - np.abs(ours)).max() < 1e-6


def test_the_kernel_puts_a_parallel_beam_in_one_place():
    """All of a point-like source's flux lands in the four cells round straight ahead."""
    mirror = PARABOLOID.mirror(COIL)
    tiny = Filament(1e-6, diameter_mm=1e-6, flux_lm=100.0).cloud(64)
    angles = kernel.Angles(GRID.h[0], GRID.v[0], 0.2, 0.1, GRID.v.size, GRID.h.size)
    flux, _ = kernel.trace(tiny.emitters, mirror, housings.FrontOptic(), angles)
    row, column = np.unravel_index(flux.argmax(), flux.shape)
    assert (GRID.h[column], GRID.v[row]) == pytest.approx((0, 0), abs=1e-9)
    assert flux[row - 1 : row + 2, column - 1 : column + 2].sum() == pytest.approx(
        flux.sum(), rel=1e-9
    )


@pytest.mark.parametrize(
    "source", [COIL, Filament(5.0, transverse=True), Arc(4.2), Led(1), Led(2), Led(3)]
)
def test_what_is_left_out_of_a_trace_sees_nothing_of_the_mirror(source):
    """Bundles of a source whose elements all look away from a place; a quarter and more of all."""
    bundles, looks = kernel._bundled(source.cloud(256).emitters)
    places = PARABOLOID.mirror(COIL).positions[::16]
    far = np.linalg.norm(places, axis=1)
    dark = looks[:, :3] @ places.T + looks[:, 3:4] * far <= looks[:, 4:]
    for bundle, (stands, ways) in enumerate(zip(bundles[:, :3], bundles[:, 3:6], strict=True)):
        unseen = places[dark[bundle]]
        towards = unseen @ ways - (stands * ways).sum(axis=0)
        assert towards.max(initial=0.0) < 1e-3
    assert 0.25 < dark.mean() < 0.75


def test_light_caught_is_the_solid_angle_of_the_mirror():
    """A small evenly radiating source: the paraboloid from rim to hole catches Ω/4π of its light,
    in closed form.
    """
    f, rim, hole = 25.0, 82.5, 16.0
    housing = LensOptic(
        focal_mm=f, hole_mm=hole, pattern=None, samples=4096, cut_off=NO_LINE, window_deg=None
    )

    def cosine(radius):
        z = radius**2 / (4 * f) - f
        return z / math.hypot(radius, z)

    share = (cosine(rim) - cosine(hole)) / 2
    faces = [
        Led(2, 0.001, 0.001, 0.001, clock_deg=angle, flux_lm=100.0 / 24)
        for angle in range(0, 180, 15)
    ]
    caught = 0.0
    # Lambertian faces all round the axis, two at a time, are not even: compare with the same sum
    for face in faces:
        beam = illuminate(housing, COIL, face, Conditions(source_points=64))
        caught += face.flux_lm - beam.losses["missed mirror"]
    sideways = _lambertian_ring_share(cosine(hole), cosine(rim))
    assert caught / 50.0 == pytest.approx(sideways, rel=2e-3)
    assert sideways > share  # faces looking sideways feed the mirror better than an even source


def _lambertian_ring_share(low, high):
    """Share of a ring of sideways Lambertian faces between two polar cosines: ∫
    (2/π)·sinθ·dcosθ.
    """

    def integral(c):
        return (c * math.sqrt(1 - c * c) + math.asin(c)) / math.pi

    return integral(high) - integral(low)


SOURCES = st.one_of(
    st.builds(Filament, st.floats(1, 8), transverse=st.booleans(), dip_shield=st.booleans()),
    st.builds(Arc, st.floats(1, 6)),
    st.builds(
        Led,
        st.integers(1, 5),
        st.floats(0, 8),
        st.floats(0.2, 4),
        st.floats(0.5, 8),
        st.integers(1, 2),
        clock_deg=st.floats(-180, 180),
        axial_mm=st.floats(-8, 8),
        radial_x_mm=st.floats(-4, 4),
        tilt_deg=st.floats(-20, 20),
    ),
)


@settings(max_examples=30, deadline=None)
@given(SOURCES, st.sampled_from(sorted(housings.KINDS)), st.booleans(), st.floats(0, 1))
def test_every_lumen_is_accounted_for(source, kind, high, haze):
    housing = housings.kind(kind).made(high=high)
    beam = illuminate(
        housing, COIL, source, Conditions(haze=haze, source_points=48, filter_factor=0.7)
    )
    assert beam.flux_lm + sum(beam.losses.values()) == pytest.approx(beam.emitted_lm, rel=1e-3)
    assert beam.losses["missed mirror"] > -1e-3 * beam.emitted_lm
    assert beam.flux.min() > -1e-9


def test_same_inputs_same_bytes():
    setup = SetUp(source="led", clock=17.0)
    first = beam_of(setup).flux.tobytes()
    beam_of.cache_clear()
    assert beam_of(setup).flux.tobytes() == first


def test_what_is_compiled_calls_nothing_that_is_compiled_apart():
    """What is compiled apart is optimised once where it is compiled, and once more in the entry's
    own copy that is loaded: a rounding otherwise.
    """
    tree = ast.parse(Path(kernel.__file__).read_text())
    marks = {
        node.name: ast.unparse(node.decorator_list[0])
        for node in tree.body
        if isinstance(node, ast.FunctionDef) and node.decorator_list
    }
    apart = {name for name, mark in marks.items() if "inline='always'" not in mark}
    assert {"_trace", "_each_image", "images"} <= apart < set(marks)
    for node in tree.body:
        if isinstance(node, ast.FunctionDef) and node.name in marks:
            called = {
                call.func.id
                for call in ast.walk(node)
                if isinstance(call, ast.Call) and isinstance(call.func, ast.Name)
            }
            assert not called & apart, node.name


def digest_of_a_beam(env):
    """A beam's bytes, hashed, as a new process computes it."""
    script = (
        "import hashlib; from cold_arc.core.beam.report import beam_of;"
        "from cold_arc.core.beam.setup import SetUp;"
        "print(hashlib.sha256(beam_of(SetUp(source='led')).flux.tobytes()).hexdigest())"
    )
    command = [sys.executable, "-c", script]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=True).stdout


@pytest.mark.thorough
def test_the_start_that_compiles_and_those_that_load_give_the_same_bytes(tmp_path):
    """Sums in another order, which a compiler may take where it is allowed to, come out otherwise
    where the kernel was just compiled and where it is loaded.
    """
    env = {**os.environ, "NUMBA_CACHE_DIR": str(tmp_path)}
    assert digest_of_a_beam(env) == digest_of_a_beam(env)


@pytest.mark.parametrize("kind", ["reflector", "projector"])
@pytest.mark.parametrize("source", [COIL, Led(flux_lm=1500)])
def test_doubling_the_samples_moves_little(kind, source):
    housing = housings.kind(kind).made()
    once = illuminate(housing, COIL, source).intensity
    finer_source = illuminate(
        housing, COIL, source, Conditions(source_points=2 * housing.source_points)
    ).intensity
    finer_mirror = illuminate(replace(housing, samples=2 * housing.samples), COIL, source).intensity
    stable = (
        0.03 if kind == "projector" else 0.022
    )  # a lens shows every element of a bowl the larger
    assert np.abs(once - finer_source).max() < stable * once.max()
    assert np.abs(once - finer_mirror).max() < stable * once.max()


def test_a_degree_of_clock_moves_numbers_smoothly():
    peaks = [
        beam_of(SetUp(source="led", clock=float(clock))).intensity.max() for clock in range(0, 13)
    ]
    steps = np.abs(np.diff(peaks)) / peaks[0]
    assert steps.max() < 0.03


def test_lattice_is_even():
    u = lattice(4096)
    counts, *_ = np.histogram2d(u[:, 0], u[:, 1], bins=16)
    assert counts.min() >= 12
    assert counts.max() <= 20


def test_left_hand_traffic_mirrors():
    right, left = (beam_of(SetUp(source="nominal", traffic=side)) for side in Traffic)
    assert left.flux_lm == pytest.approx(right.flux_lm, rel=0.02)
    for h, v in ((4.0, -0.3), (3.0, -1.2), (-3.43, 0.57)):
        assert float(left.at(-h, v)) == pytest.approx(float(right.at(h, v)), rel=0.15, abs=400)


def test_aim_shifts_the_whole_beam():
    level, raised = (beam_of(SetUp(aim_v=aim)) for aim in (0.0, 1.0))
    assert float(raised.at(1.0, -0.2)) == pytest.approx(float(level.at(1.0, -1.2)), rel=0.02)


def test_impossible_conditions_are_refused():
    for conditions in (Conditions(haze=1.2), Conditions(filter_factor=0)):
        with pytest.raises(ValueError):
            illuminate(Reflector(), COIL, COIL, conditions)


def test_the_bowl_is_the_ellipsoid_it_says():
    mirror = ELLIPSOID.mirror(COIL)
    far = mirror.positions - [0, 0, ELLIPSOID.second_focus_mm]
    lengths = np.linalg.norm(mirror.positions, axis=1) + np.linalg.norm(far, axis=1)
    assert np.abs(lengths - 2 * ELLIPSOID.half_axis_mm).max() < 1e-9


def test_the_high_beam_flap_lets_light_up():
    low, high = Projector(), replace(Projector(), flap=True)
    beams = [illuminate(housing, COIL, COIL) for housing in (low, high)]
    assert beams[1].losses["cut-off shield"] == 0
    assert float(beams[1].at(0, 1)) > 5 * float(beams[0].at(0, 1))


def test_a_bare_bulb_shines_past_the_cap_as_lambert_says():
    """Φ/π·cosθ of each face that looks there, between cap and bezel only; a filament's painted tip
    keeps it dark.
    """
    led, coil = beam_of(SetUp(source="led", flux=1000.0)), beam_of(SetUp())
    h, v = 34.0, 6.0
    toward = np.array(
        [math.sin(math.radians(h)), math.cos(math.radians(h)) * math.sin(math.radians(v))]
    )
    expected = 500.0 / math.pi * toward[0] * Reflector().lens_transmittance
    assert float(led.at(h, v)) - float(coil.at(h, v)) == pytest.approx(expected, rel=0.15)
    assert float(led.at(26.0, 9.0)) < 0.5 * expected
    assert float(led.at(44.0, 9.0)) < 0.2 * expected
    upright = beam_of(
        SetUp(source="led", flux=1000.0, clock=90.0)
    )  # its faces look up and down: little goes aside
    assert float(upright.at(h, v)) - float(coil.at(h, v)) < 0.4 * expected


def test_a_projector_sends_nothing_past_its_lens():
    led = beam_of(SetUp("projector", source="led"))
    assert float(led.at(33.0, 6.0)) < 30


@pytest.mark.parametrize(("h", "v"), [(0.0, 0.0), (12.0, -3.0), (-30.0, 9.0), (5.0, 14.0)])
def test_places_on_a_wall_and_directions_are_each_others_inverse(h, v):
    place = derived.wall_place(h, v, 7.62)
    assert derived.wall_direction(*place, 7.62) == pytest.approx((h, v))


@pytest.mark.parametrize(
    "source", [Filament(4.5, dip_shield=True, offset_mm=(0.3, 0.1, -1.0)), Arc(), Led(clock_deg=20)]
)
def test_a_source_mirrored_twice_is_itself(source):
    once = mirrored(source)
    assert mirrored(once) == source
    lit, other = (it.cloud(2000) for it in (source, once))
    middles = [np.average(it.positions, axis=0, weights=it.flux) for it in (lit, other)]
    assert middles[1] == pytest.approx(middles[0] * [-1, 1, 1], abs=0.02)


def test_the_other_sides_mirror_is_the_mirror_image():
    right, left = (housings.kind("reflector").made(side, lamp="H7") for side in Traffic)
    one, other = right.mirror(COIL), left.mirror(COIL)
    assert np.array_equal(one.positions * [-1, 1, 1], other.positions)
    assert np.array_equal(one.normals * [-1, 1, 1], other.normals)


@pytest.mark.parametrize("kind", ["reflector", "projector"])
def test_a_thinned_mirror_keeps_its_light_and_its_share_of_each_part(kind):
    mirror = housings.kind(kind).made(lamp="H7").mirror(COIL)
    thin = mirror.thinned(6)
    assert thin.areas.sum() == pytest.approx(mirror.areas.sum())
    for axis in (0, 1):
        whole, part = (
            np.average(it.positions[:, axis] > 0, weights=it.areas) for it in (mirror, thin)
        )
        assert part == pytest.approx(whole, abs=0.02)


def test_kinds_say_what_they_are_made_for():
    reflector, fog = housings.kind("reflector"), housings.kind("fog-reflector")
    assert reflector.is_made_for("H7", high=True)
    assert not reflector.is_made_for("9006", high=True)
    assert not fog.is_made_for("H4")
    assert not fog.is_made_for("H11", high=True)
