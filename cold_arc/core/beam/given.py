"""A beam that is given as candela over the grid, read off a wall or out of a file, instead of
computed.
"""

from __future__ import annotations

from cold_arc.core.beam.housings import CutOff
from cold_arc.core.beam.housings.reflector import Reflector
from cold_arc.core.beam.model import GRID, Array, Beam
from cold_arc.core.car.lamps import Traffic


def given_beam(candela: Array, traffic: Traffic = Traffic.RIGHT, high: bool = False) -> Beam:
    """The beam of *candela*, cd, over the model's grid (rows up, columns right), judged against the
    line of an ordinary low beam for *traffic*, or as a *high* beam.
    """
    flux = candela * GRID.solid_angles
    cut_off = CutOff("none" if high else "elbow", traffic=traffic)
    return Beam(GRID, flux, float(flux.sum()), {}, Reflector(cut_off=cut_off))
