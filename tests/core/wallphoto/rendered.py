"""Photographs rendered with their truth known."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy import ndimage

from cold_arc.core.beam.model import Beam
from cold_arc.core.beam.report import beam_of
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Side, Traffic
from cold_arc.core.light.cut_off import H_SEEN, V_SEEN, find_edge
from cold_arc.core.wallphoto import directions
from cold_arc.core.wallphoto import measure as photo
from cold_arc.core.wallphoto.camera import CLICKED_PX, find_camera
from cold_arc.core.wallphoto.directions import Directions, Subject
from cold_arc.core.wallphoto.lines import fit_cut_off
from cold_arc.core.wallphoto.measure import MeasuredPhoto, measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, light_of
from cold_arc.core.wallphoto.wall_target import covered, find_marks
from cold_arc.devices.wall_camera import Photograph, Pose, Shot, marks_of, photograph

# What is asked of each figure, degrees.
LIMITS = {
    "cutoff_v_deg": 0.05,
    "roll_deg": 0.5,
    "elbow_h_deg": 0.2,
    "elbow_v_deg": 0.1,
    "hot_spot_h_deg": 0.3,
    "hot_spot_v_deg": 0.3,
}
LENS_DEG = 0.04
SETUPS = [
    (SetUp(housing="reflector", base="H7"), "low"),
    (SetUp(housing="reflector", base="H11", source="led"), "low"),
    (SetUp(housing="projector", base="H7"), "low"),
    (SetUp(housing="projector", base="D2S", source="nominal"), "low"),
    (SetUp(housing="reflector", base="H7", traffic=Traffic.LEFT), "low"),
    (SetUp(housing="reflector", base="H7", source="led", clock=12.0), "low"),
]


@lru_cache(maxsize=16)
def lit(setup: SetUp) -> Beam:
    return beam_of(setup)


@lru_cache(maxsize=16)
def ideal(setup: SetUp, function: str) -> MeasuredPhoto:
    """What the definitions say of the beam itself, as a lens of LENS_DEG sees it: the model's grid
    is no finer.
    """
    beam = lit(setup)
    h = np.arange(H_SEEN[0], H_SEEN[1] + 1e-9, directions.H_STEP)
    v = np.arange(V_SEEN[0], V_SEEN[1] + 1e-9, directions.V_STEP)
    across, up = np.meshgrid(h, v)
    light = beam.at(across, up)
    light = light / light.max()
    hot, _ = photo.hot_spot(Directions(h, v, light, *2 * [np.zeros(light.shape, dtype=bool)]))
    seen = photo.sharpened(
        ndimage.gaussian_filter1d(light, photo.ACROSS_DEG / directions.H_STEP, axis=1), LENS_DEG
    )
    edge = find_edge(seen, h, v, float(np.percentile(light, 1)))
    cut = fit_cut_off(edge, setup.traffic, bends=function == "low")
    elbow = photo.Spot(*cut.elbow) if cut.elbow else None
    return MeasuredPhoto(
        cut.level_deg, math.degrees(math.atan(cut.slope)), elbow, hot, None, {}, ()
    )


@dataclass(frozen=True)
class Trial:
    """One photograph: the errors of its figures, degrees, and what each was said to be worth;
    *shape*: what was told of a shape that the rule does not expect.
    """

    errors: dict[str, float]
    stated: dict[str, float]
    shape: tuple[str, ...] = ()


@dataclass(frozen=True)
class Scene:
    """A photograph and what it is of."""

    photograph: Photograph
    subject: Subject
    truth: MeasuredPhoto
    aim: tuple[float, float]


def scene(random: np.random.Generator, target: bool = False) -> Scene:
    """A random photograph that shows all its marks, as a hand clicks them; or whose printed target
    is found.
    """
    while (drawn := _drawn(random, target)) is None:
        pass
    return drawn


def _drawn(random: np.random.Generator, target: bool) -> Scene | None:
    setup, function = SETUPS[random.integers(len(SETUPS))]
    subject = Subject(
        random.uniform(5.0, 10.0), random.uniform(0.55, 0.95), function, setup.traffic
    )
    aim = (float(random.uniform(-0.6, 0.6)), float(random.uniform(-0.8, 0.6)))
    back = subject.distance_m * (random.uniform(0.5, 0.8) if target else random.uniform(0.7, 1.0))
    tall = random.uniform(1.0, 1.7)
    pose = Pose(
        x_m=random.uniform(-1.2, 1.2),
        y_m=tall,
        z_m=back,
        pan_deg=0.0,
        roll_deg=random.uniform(-3, 3),
        focal=random.uniform(0.7, 1.0),
        k1=random.uniform(-0.04, 0.04) if random.random() < 0.6 else 0.0,
    )
    looks = subject.lamp_height_m + random.uniform(-0.1, 0.3)
    pan = -math.degrees(math.atan2(pose.x_m, back)) + random.uniform(-2, 2)
    pose = replace(pose, tilt_deg=-math.degrees(math.atan2(tall - looks, back)), pan_deg=pan)
    wide = random.random() < 0.5
    shot = Shot(
        *((2400, 1800) if target else (1600, 1200) if wide else (1200, 900)),
        random.uniform(-1.0, 0.15),
        random.uniform(0.001, 0.008),
        random.uniform(0.4, 1.6),
        random.uniform(0.0, 0.3),
        int(random.integers(75, 96)),
        random.uniform(0.001, 0.006),
        int(random.integers(1 << 30)),
    )
    half, low, high = (
        100 * subject.distance_m * 0.17,
        15.0,
        100 * subject.lamp_height_m + random.uniform(40, 70),
    )
    places = [(-half, low), (half, low), (half, high), (-half, high)]
    if pose.k1:
        places += [(0.0, low), (0.0, high), (-half, (low + high) / 2), (half, (low + high) / 2)]
    seen = marks_of(pose, (shot.across, shot.down), places)
    if not all(
        3 < u < shot.across - 4 and 3 < v < shot.down - 4 for u, v in (mark.px for mark in seen)
    ):
        return None
    side = Side.LEFT if target else None
    shown = () if target else places
    taken = photograph(
        lit(setup), pose, shot, shown, subject.distance_m, subject.lamp_height_m, aim, side
    )
    if target:
        return _found(taken, subject, ideal(setup, function), aim)
    by = CLICKED_PX * max(shot.across / 1500, 1.0)
    clicked = tuple(
        replace(mark, px=(mark.px[0] + random.normal(0, by), mark.px[1] + random.normal(0, by)))
        for mark in taken.marks
    )
    return Scene(replace(taken, marks=clicked), subject, ideal(setup, function), aim)


def _found(
    taken: Photograph, subject: Subject, truth: MeasuredPhoto, aim: tuple[float, float]
) -> Scene | None:
    try:
        marks = find_marks(taken.pixels, Side.LEFT, 100 * subject.lamp_height_m)
        find_camera(marks, taken.pixels.shape[1::-1])
    except PhotoUnusableError:
        return None
    hung = replace(subject, covered=covered(Side.LEFT, 100 * subject.lamp_height_m))
    return Scene(replace(taken, marks=tuple(marks)), hung, truth, aim)


def told(found: MeasuredPhoto) -> dict[str, float]:
    """The figures of a measurement by name."""
    figures = {"hot_spot_h_deg": found.hot_spot.h_deg, "hot_spot_v_deg": found.hot_spot.v_deg}
    if found.cutoff_v_deg is not None:
        figures |= {"cutoff_v_deg": found.cutoff_v_deg, "roll_deg": found.roll_deg or 0.0}
    if found.elbow:
        figures |= {"elbow_h_deg": found.elbow.h_deg, "elbow_v_deg": found.elbow.v_deg}
    return figures


def trials(count: int, seed: int, target: bool = False) -> Iterator[Trial]:
    """Random photographs, measured, and held against what they are of."""
    random = np.random.default_rng(seed)
    for _ in range(count):
        it = scene(random, target)
        found = measure(light_of(it.photograph.pixels), it.photograph.marks, it.subject)
        figures, truth = told(found), told(it.truth)
        level = it.truth.cutoff_v_deg
        slope = math.tan(math.radians(it.truth.roll_deg or 0.0))
        moved = {name: it.aim[0] if "_h_" in name else it.aim[1] for name in truth} | {
            "roll_deg": 0.0
        }
        if level is not None:
            moved["cutoff_v_deg"] = it.aim[1] - slope * it.aim[0]
        errors = {
            name: figures[name] - truth[name] - moved[name] for name in figures if name in truth
        }
        yield Trial(errors, found.uncertainty)
