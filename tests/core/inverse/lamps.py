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


@contextmanager
def wavy_mirrors(seed, slope_deg=SLOPE_DEG):
    """While it lasts every mirror has low-order waves, drawn by *seed*, that the model knows
    nothing of: its slopes are off by *slope_deg*, root mean square.
    """
    made = model._mirror

    def wavy(housing, nominal, thins=0):
        mirror = made(housing, nominal, thins)
        slopes = _slopes(mirror.positions, seed) * np.radians(slope_deg)
        normals = mirror.normals - np.column_stack([slopes, np.zeros(len(slopes))])
        normals /= np.linalg.norm(normals, axis=1)[:, None]
        return mirror._replace(normals=normals.astype(mirror.normals.dtype))

    model.forget()
    model._mirror = wavy
    try:
        yield
    finally:
        model._mirror = made
        model.forget()


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
