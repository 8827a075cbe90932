"""Predictions held against lamps that are not typical: drawn about their kind, with a bulb that
gives other than claimed and sits somewhat off.
"""

import math
from dataclasses import replace

import numpy as np

from cold_arc.core.beam import derived
from cold_arc.core.inverse.housing import FIGURE, FittedLamp, figure_names
from cold_arc.core.match.doubt import CLAIM, of_prediction
from tests.core.match.lamps import GOOD, lamp, setup

# How lamps of a kind differ in brightness, how far an LED may sit off: degrees, mm (own).
BRIGHT, CLOCK_DEG, AXIAL_MM = 0.15, 4.0, 0.2


def lamp_of_kind(own, random=None):
    """A lamp of the kind of *own*: typical, or its figures as lamps of a kind differ."""
    usual, names = own.usual_pattern, figure_names(own)

    def off(spread):
        return math.exp(random.normal(0, spread)) if random else 1.0

    figures = {name: getattr(usual, name) * off(FIGURE) for name in names if hasattr(usual, name)}
    figures["gain"] = own.gain * off(BRIGHT)
    values = tuple(float(figures.get(name, 0.0)) for name in names)
    return FittedLamp(own, names, values, (), 0.0, True)


def foretold(optic, base, count, seed):
    """By how much the brightest point of each lamp drawn is off what was foretold of a typical one,
    in the deviations stated.
    """
    random, setting = np.random.default_rng(seed), lamp(optic=optic, base=base)
    bulb = replace(GOOD, base=base)
    own, candidate = setup(None, setting), setup(bulb, setting)
    doubt = of_prediction(bulb, None)
    typical = lamp_of_kind(own)
    expected = derived.peak(typical.beam(candidate, rough=True)).candela
    for _ in range(count):
        fitted = replace(
            candidate,
            flux=candidate.flux * math.exp(random.normal(0, CLAIM)),
            clock=candidate.clock + random.normal(0, CLOCK_DEG),
            axial=candidate.axial + random.normal(0, AXIAL_MM),
        )
        true = derived.peak(lamp_of_kind(own, random).beam(fitted, rough=True)).candela
        yield abs(math.log(true / expected)) / math.log(1 + doubt)
