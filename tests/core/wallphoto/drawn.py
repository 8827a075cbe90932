"""Photographs of beams drawn by formula through a pinhole: nothing of the beam model or the
simulated camera.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from scipy.special import erf

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.directions import Subject
from cold_arc.core.wallphoto.measure import measure
from cold_arc.core.wallphoto.picture import PhotoUnusableError, as_shown, light_of
from tests.core.wallphoto.rendered import Trial, told

SIZE, FOCAL_PX, DISTANCE_M, LAMP_M = (1600, 1200), 1350.0, 10.0, 0.7
CAMERA_M, PAN_DEG, TILT_DEG, ROLL_DEG = np.array([0.3, 1.3, -6.0]), -2.0, -4.0, 0.5
MARKS_CM = ((-150, 20), (150, 20), (150, 140), (-150, 140))


@dataclass(frozen=True)
class Drawn:
    """A beam: its flat cut-off and elbow, degrees; how it goes on (*shape*), its tilt, how soft its
    edge is (σ), what strays above, of the brightest."""

    cut: float = -1.0
    elbow: float = 0.0
    shape: str = "kink"
    roll: float = 0.0
    sigma: float = 0.03
    stray: float = 0.004
    traffic: Traffic = Traffic.RIGHT

    def light(self, h, v):
        """The light in directions right and up, degrees; the edge is the error function, half
        height on the line.
        """
        along = (h - self.elbow) * self.traffic.kerb
        rises = {
            "kink": np.tan(np.radians(15)) * along,
            "step": np.clip(along, 0, 0.6),
            "flat": 0 * along,
        }
        line = self.cut + np.tan(np.radians(self.roll)) * h + np.maximum(rises[self.shape], 0)
        spot = 0.15 + np.exp(-(((along - 1.2) / 4.5) ** 2) - ((v - self.cut + 0.7) / 1.3) ** 2)
        beam = 0.5 * (1 - erf((v - line) / (self.sigma * np.sqrt(2)))) * spot
        return beam / beam.max() + self.stray * np.exp(-(((v - line) / 4) ** 2))

    @property
    def subject(self):
        return Subject(DISTANCE_M, LAMP_M, "low", self.traffic)


def _axes():
    """The camera's right, up and forward, in the wall's."""
    pan, tilt, roll = np.radians([PAN_DEG, TILT_DEG, ROLL_DEG])
    forward = np.array([np.sin(pan) * np.cos(tilt), np.sin(tilt), np.cos(pan) * np.cos(tilt)])
    level = np.array([np.cos(pan), 0.0, -np.sin(pan)])
    upright = np.cross(forward, level)
    return (
        np.cos(roll) * level + np.sin(roll) * upright,
        np.cos(roll) * upright - np.sin(roll) * level,
        forward,
    )


@lru_cache(maxsize=1)
def _directions():
    """For every pixel the direction right, the height, degrees, and what a cosine leaves of its
    light.
    """
    right, up, forward = _axes()
    u, v = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
    middle = (np.array(SIZE) - 1) / 2
    a, b = (u - middle[0]) / FOCAL_PX, (middle[1] - v) / FOCAL_PX
    ray = a[..., None] * right + b[..., None] * up + forward
    reach = -CAMERA_M[2] / ray[..., 2]
    x, y = CAMERA_M[0] + reach * ray[..., 0], CAMERA_M[1] + reach * ray[..., 1]
    h, rise = np.arctan2(x, DISTANCE_M), np.arctan2(y - LAMP_M, np.hypot(x, DISTANCE_M))
    height = np.degrees(np.arctan2(y - LAMP_M, DISTANCE_M))
    left = (np.cos(h) * np.cos(rise)) ** 3
    return tuple(each.astype(np.float32) for each in (np.degrees(h), height, left))


def _both(lit, beam, across, height, left, random):
    """The other lamp lit too, 1.2 m beside it, somewhat brighter or darker and higher or lower."""
    aside = np.degrees(np.arctan(np.tan(np.radians(across)) + 1.2 / DISTANCE_M))
    other = beam.light(aside, height + random.uniform(-0.1, 0.1)) * left
    return lit + random.uniform(0.8, 1.2) * other


def _bands(lit, beam, across, height, left, random):
    """A lamp that pulses at 120 Hz under a rolling shutter: bands across the picture."""
    rows = np.arange(SIZE[1])[:, None] / random.uniform(60, 240)
    return lit * (1 + random.uniform(0.03, 0.12) * np.sin(2 * np.pi * (rows + random.random())))


def _ribs(lit, beam, across, height, left, random):
    """A ribbed door for a wall: upright ribs of some centimetres."""
    at_m = DISTANCE_M * np.tan(np.radians(across))
    ribs = np.sin(2 * np.pi * at_m / random.uniform(0.04, 0.12))
    return lit * (1 + random.uniform(0.05, 0.2) * ribs)


def _haze(lit, beam, across, height, left, random):
    """A hazed lens: some of the light a wide glow."""
    share = random.uniform(0.03, 0.12)
    return (1 - share) * lit + share * _blurred(lit.astype(np.float32), 60)


# What spoils the light on the wall, by its name; a telephone's tone curve and a picture upright
# spoil the picture itself.
SPOILT = {"both lamps lit": _both, "120 Hz bands": _bands, "ribbed wall": _ribs, "haze": _haze}
TONE, UPRIGHT, SOFT = "tone curve", "portrait", "soft edge"
CONDITIONS = ("", TONE, UPRIGHT, SOFT, *SPOILT)


# How much larger a sheet of grain is than a picture, px.
SPARE_PX = 64


@lru_cache(maxsize=1)
def _sheet():
    size = (SIZE[1] + SPARE_PX, SIZE[0] + SPARE_PX, 3)
    return np.random.default_rng(1).standard_normal(size, dtype=np.float32)


def _grain(random):
    """Noise of a picture, one standard deviation: a piece of one sheet, for drawing takes long."""
    down, right = random.integers(SPARE_PX, size=2)
    return _sheet()[down : down + SIZE[1], right : right + SIZE[0]]


def _blurred(light, sigma_px):
    return cv2.GaussianBlur(light, (0, 0), sigma_px)


def _toned(pixels, random):
    """A telephone's own curve over the picture: shadows and lights pressed together."""
    shown = np.arange(256) / 255.0
    curve = shown * shown * (3 - 2 * shown)
    share = random.uniform(0.2, 0.6)
    return cv2.LUT(pixels, np.uint8(np.round(255 * ((1 - share) * shown + share * curve))))


def _upright(pixels, marks):
    """The picture turned a quarter anticlockwise, its marks with it."""
    last = pixels.shape[1] - 1
    turned = [PhotoMark((mark.px[1], last - mark.px[0]), mark.wall_cm) for mark in marks]
    return np.ascontiguousarray(np.rot90(pixels)), turned


def photographed(beam, random, blur_px=0.7, noise=0.004, clicked_px=0.5, condition=""):
    """Its pixels, and its marks as a hand clicks them; *condition*: one of CONDITIONS."""
    across, height, left = _directions()
    lit = beam.light(across, height) * left
    if condition in SPOILT:
        lit = SPOILT[condition](lit, beam, across, height, left, random)
    shown = (0.85 * lit / lit.max() + 0.002).astype(np.float32)
    tint = np.array([1, 0.97, 0.9], dtype=np.float32)
    light = _blurred(shown, blur_px)[..., None] * tint
    pixels = as_shown(light + np.float32(noise) * _grain(random))
    marks = [
        _mark(at, _axes(), (np.array(SIZE) - 1) / 2, random.normal(0, clicked_px, 2))
        for at in MARKS_CM
    ]
    if condition == UPRIGHT:
        return _upright(pixels, marks)
    return (_toned(pixels, random) if condition == TONE else pixels), marks


def _mark(at, axes, middle, off):
    ray = np.array([at[0] / 100, at[1] / 100, 0.0]) - CAMERA_M
    across, up, away = (float(ray @ axis) for axis in axes)
    px = middle + FOCAL_PX * np.array([across, -up]) / away + off
    return PhotoMark((float(px[0]), float(px[1])), (float(at[0]), float(at[1])))


def drawn_trials(count, seed, condition=""):
    """Random beams drawn by formula, photographed under a *condition*, measured, and held against
    the lines they were drawn along; those refused as unusable are left out.
    """
    random = np.random.default_rng(seed)
    for _ in range(count):
        beam = Drawn(
            random.uniform(-2.2, 0.4),
            random.uniform(-1.2, 1.2),
            ("kink", "step", "flat")[random.integers(3)],
            random.uniform(-1.5, 1.5),
            random.uniform(0.1, 0.3) if condition == SOFT else random.uniform(0.01, 0.06),
            random.uniform(0.0, 0.02),
            tuple(Traffic)[random.integers(2)],
        )
        blur_px, noise = random.uniform(0.4, 1.5), random.uniform(0.001, 0.006)
        pixels, marks = photographed(beam, random, blur_px, noise, condition=condition)
        try:
            found = measure(light_of(pixels), marks, beam.subject)
        except PhotoUnusableError:
            continue
        truth = {"cutoff_v_deg": beam.cut, "roll_deg": beam.roll, "elbow_h_deg": beam.elbow}
        truth["elbow_v_deg"] = beam.cut + np.tan(np.radians(beam.roll)) * beam.elbow
        figures = told(found)
        errors = {name: figures[name] - truth[name] for name in truth if name in figures}
        yield Trial(errors, found.uncertainty, found.shape)
