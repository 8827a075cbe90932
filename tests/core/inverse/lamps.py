"""Lamps whose truth is known: housings that differ from the typical one in all their figures, drawn
anew, and their light.
"""

from contextlib import contextmanager
from dataclasses import replace

import numpy as np

from cold_arc.core.beam import model
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.inverse.housing import FittedLamp, figure_names

# How far figures of a pattern differ, as a standard deviation of their logarithms.
DIFFERS = 0.12
OWN = SetUp("reflector", "H7")
LED = replace(OWN, source="led", gap=1.6, flux=1500.0, length=4.2)


def drawn_lamp(setup, seed):
    """A lamp of a kind with figures of its own."""
    random = np.random.default_rng(seed)
    names = figure_names(setup)
    pattern = setup.usual_pattern
    values = []
    for name in names:
        if name == "gain":
            values.append(float(np.exp(random.normal(0, 0.2))))
        elif name == "haze":
            values.append(float(random.uniform(0, 0.2)))
        elif name in ("aim_v", "aim_h"):
            values.append(float(random.normal(0, 0.4)))
        else:
            values.append(getattr(pattern, name) * float(np.exp(random.normal(0, DIFFERS))))
    return FittedLamp(setup, names, tuple(values), (), 0.0, True)


def changed(lamp, **figures):
    """A lamp with some figures set otherwise."""
    values = [figures.get(name, v) for name, v in zip(lamp.names, lamp.values, strict=True)]
    return replace(lamp, values=tuple(values))


# A mirror's own error: so many waves of one to so many lengths across it; their slope, degrees.
WAVES, MOST_LENGTHS, SLOPE_DEG = 9, 4.0, 0.1


# Of a dull mirror a third gives so much of its light.
DULL_SHARE, DULL_LEAVES = 0.3, 0.4


@contextmanager
def mirrors_made(otherwise):
    """While it lasts every mirror is made *otherwise* than the model has it."""
    made = model._mirror
    model.forget()
    model._mirror = lambda *asked, **more: otherwise(made(*asked, **more))
    try:
        yield
    finally:
        model._mirror = made
        model.forget()


def wavy_mirrors(seed, slope_deg=SLOPE_DEG):
    """Mirrors with low-order waves, drawn by *seed*, that the model knows nothing of: their slopes
    are off by *slope_deg*, root mean square.
    """

    def wavy(mirror):
        slopes = _slopes(mirror.positions, seed) * np.radians(slope_deg)
        normals = mirror.normals - np.column_stack([slopes, np.zeros(len(slopes))])
        normals /= np.linalg.norm(normals, axis=1)[:, None]
        return mirror._replace(normals=normals.astype(mirror.normals.dtype))

    return mirrors_made(wavy)


def dull_mirrors(seed):
    """Mirrors with a round dull place, drawn by *seed*, that the model knows nothing of."""

    def dull(mirror):
        random, places = np.random.default_rng(seed), mirror.positions[:, :2]
        size = np.ptp(places, axis=0)
        middle = places.mean(axis=0) + random.uniform(-0.3, 0.3, 2) * size
        inside = np.hypot(*(places - middle).T) < np.sqrt(DULL_SHARE * size.prod() / np.pi)
        areas = mirror.areas * np.where(inside, DULL_LEAVES, 1.0)
        return mirror._replace(areas=areas.astype(mirror.areas.dtype))

    return mirrors_made(dull)


def _slopes(positions, seed):
    """Slopes right and up (n, 2) of a sum of waves, one in the root mean square of both."""
    random = np.random.default_rng(seed)
    across = np.ptp(positions[:, :2], axis=0).max()
    lengths = random.uniform(1.0, MOST_LENGTHS, WAVES)
    around, phase = random.uniform(0, 2 * np.pi, (2, WAVES))
    ways = np.stack([np.cos(around), np.sin(around)])  # (2, waves)
    steep = np.sin(2 * np.pi * lengths / across * (positions[:, :2] @ ways) + phase)
    slopes = steep @ ways.T
    return slopes / np.sqrt(np.mean(np.sum(slopes**2, axis=1)))
