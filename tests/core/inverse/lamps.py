"""Lamps whose truth is known: housings that differ from the typical one in all their figures, drawn
anew, and their light.
"""

from dataclasses import replace

import numpy as np

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
