"""The mirror that makes the pattern itself: many small soft elements, each one's image hung under
the line.

How wide an element throws goes by how tall an image of the nominal source it makes: the flat small
ones (of an axial filament those beside the bulb) build the hot spot and the edge, the tall ones the
spread and the foreground. Taken in that order, elements aim sideways and down by a low-discrepancy
sequence through two bells, so that every part of the order fills its share of the beam evenly: no
lattice of facets. Then each is tilted until the top of its image meets the line, and lowered by its
drop.
"""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from cold_arc.core.beam import kernel
from cold_arc.core.beam.housings.shapes import (
    CLEAR_FRONT,
    DESIGN_POINTS,
    FINISH_MARGIN,
    CutOff,
    FrontOptic,
    Mirror,
    each_image,
    normals_for,
    towards,
)
from cold_arc.core.beam.sources import Array, Dual, PointCloud, Source, lattice, mirrored
from cold_arc.core.car.lamps import Traffic

# A bell ends where this share of it is left on a side (own).
BELL_TAIL = 0.003
# Where elements that draw the kerb's 15° rise aim, as a middle and a standard deviation, degrees
# (own, chosen by looking at its slope on the wall).
KERB_AIM_DEG, KERB_WIDTH_DEG = 3.2, 2.0
# How little of the low beam's light reaches an element past a dip shield, for it to serve the high
# beam alone (own).
SHADED_SHARE = 0.2
# Images whose heights agree to so many places of a degree count as equally tall and keep the bowl's
# own order, whatever the last bit of the arithmetic says; the beam is the more even for it (own).
HEIGHT_PLACES = 6
# Left and right exchanged.
FLIP = np.array([-1.0, 1.0, 1.0])
# How far those of them with the tallest images spread up and down, degrees (own).
HIGH_DEEP = 1.5
# Elements of a mirror without a lens that hang lower under the line than this many standard
# deviations hang lower still, by this many degrees times the square of what is over, the tallest
# images most: the light before the car has no lower edge (own, chosen by looking).
FALLS_FROM, FALLS_DEG = 0.8, 2.0


@dataclass(frozen=True)
class Pattern:
    """How the light is shared out, degrees: what a housing is fitted by.

    *aim*: how far to the kerb the flattest images aim; *narrow*, *wide*: standard deviations across
    of the flattest and the tallest images, *grows* by which power of the rank between; *shallow*,
    *deep*: mean drops under the line likewise. *high_narrow*, *high_wide*: of elements that serve
    the high beam of a dual bulb alone. *kerb*: how many degrees round the bulb from the kerb's 15°,
    as a standard deviation, elements draw its rise. *sign*: share of the beam that a strip of the
    lens lifts to the signs. *over*: how far an image stands over a shield's line, as a multiple of
    its standard height.
    """

    aim: float = 2.0
    narrow: float = 6.5
    wide: float = 15.0
    grows: float = 1.4
    shallow: float = 0.06
    deep: float = 2.1
    high_narrow: float = 2.2
    high_wide: float = 5.0
    kerb: float = 4.0
    sign: float = 0.025
    over: float = 0.0


USUAL_PATTERN = Pattern()
HIGH_PATTERN = Pattern(aim=0.0, narrow=2.0, wide=6.0, shallow=0.1, deep=0.6, sign=0.0)
FOG_PATTERN = Pattern(aim=0.0, narrow=12.5, wide=21.0, grows=0.8, shallow=0.2, deep=2.0, sign=0.0)


def bell(share: Array) -> Array:
    """Standard deviations at *share* (0 to 1) of a bell without its far tails."""
    return np.asarray(ndtri(BELL_TAIL + (1 - 2 * BELL_TAIL) * share))


@dataclass(frozen=True)
class Design:
    """What a mirror is designed by: the nominal source, the pattern (None: a plain mirror), the
    line and the mirror's finish, what stands in front (directions are those past it), and how
    closely (−1 to 1) a side of it keeps to its own side of the beam.
    """

    nominal: Source
    pattern: Pattern | None
    cut_off: CutOff
    finish_deg: float
    optic: FrontOptic = CLEAR_FRONT
    sided: float = 0.0


class Bowl(Hashable, Protocol):
    """A mirror before any pattern: what it is cut into. What it makes of a source is kept."""

    def elements(self) -> tuple[Array, Array]:
        """Its elements: positions (n, 3), mm, and areas (n,), mm²."""


class Part(NamedTuple):
    """Elements of a mirror that serve one light of its nominal source, in the order of their
    images' heights: positions (n, 3), mm, areas (n,), mm², the *light* (n,) each meets, and the
    source's elements.
    """

    positions: Array
    areas: Array
    light: Array
    cloud: PointCloud


def pillowed(bowl: Bowl, design: Design) -> Mirror:
    """The mirror of a *bowl*'s elements, in the order of their images' heights; *design*: what each
    throws where.
    """
    if design.pattern is None:
        positions, areas = bowl.elements()
        return Mirror(positions, _straight(positions, design.optic), areas)
    if design.cut_off.traffic == Traffic.LEFT:
        other = replace(
            design,
            nominal=mirrored(design.nominal),
            cut_off=replace(design.cut_off, traffic=Traffic.RIGHT),
        )
        made = pillowed(bowl, other)
        return Mirror(made.positions * FLIP, made.normals * FLIP, made.areas)
    line = replace(
        design.cut_off, level_deg=design.cut_off.level_deg - FINISH_MARGIN * design.finish_deg
    )
    driving = replace(
        HIGH_PATTERN,
        narrow=design.pattern.high_narrow,
        wide=design.pattern.high_wide,
        deep=HIGH_DEEP,
    )
    designs = (
        replace(design, cut_off=line),
        replace(design, pattern=driving, cut_off=CutOff("none")),
    )
    lens = design.optic.has_lens, design.optic.shield_at_mm, design.optic.focal_mm
    made_parts = map(_aimed, _parts(bowl, design.nominal, lens), designs)
    return Mirror(*(np.concatenate(columns) for columns in zip(*made_parts, strict=True)))


@lru_cache(maxsize=8)
def _parts(bowl: Bowl, nominal: Source, lens: tuple[bool, float, float]) -> tuple[Part, ...]:
    """A bowl's elements by what of a nominal source they serve: all, or what a dip shield leaves
    lit and, where that is not all, the rest; *lens* as the first fields of a FrontOptic.
    """
    positions, areas = bowl.elements()
    optic, cloud = FrontOptic(*lens), nominal.cloud(DESIGN_POINTS)
    if not isinstance(nominal, Dual):
        return (_by_height(positions, areas, cloud, optic),)
    lit = _lit(cloud, positions)
    first = _by_height(positions[lit], areas[lit], cloud, optic)
    if lit.all():
        return (first,)
    high = nominal.high.cloud(DESIGN_POINTS)
    return first, _by_height(positions[~lit], areas[~lit], high, optic)


def _by_height(positions: Array, areas: Array, cloud: PointCloud, optic: FrontOptic) -> Part:
    """Some elements as a part, each throwing straight ahead."""
    facts = each_image(cloud, positions, _straight(positions, optic), CutOff("none"), optic)
    order = np.argsort(np.round(facts[:, kernel.HEIGHT], HEIGHT_PLACES), kind="stable")
    light = facts[:, kernel.PAST] * areas
    return Part(positions[order], areas[order], light[order], cloud)


def _straight(positions: Array, optic: FrontOptic = CLEAR_FRONT) -> Array:
    ahead = np.zeros(len(positions))
    return normals_for(positions, towards(positions, ahead, ahead, optic))


def _lit(cloud: PointCloud, positions: Array) -> NDArray[np.bool_]:
    """Which elements a dip shield lets some of a cloud's light reach (n,)."""
    facts = each_image(cloud, positions, _straight(positions), CutOff("none"), CLEAR_FRONT)
    return np.asarray(facts[:, kernel.PAST] >= SHADED_SHARE * facts[:, kernel.BARE])


def _side(across: Array) -> Array:
    """Standard deviations of a bell at each element's place from one side of the mirror to the
    other.
    """
    share = np.empty_like(across)
    share[np.argsort(across, kind="stable")] = (np.arange(across.size) + 0.5) / across.size
    return bell(share)


def _aimed(part: Part, design: Design) -> Mirror:
    """Elements that share a light out by a pattern, under a line; about the horizon where there is
    none.
    """
    pattern, line, optic = design.pattern or USUAL_PATTERN, design.cut_off, design.optic
    positions, areas, light, cloud = part
    rank = (np.cumsum(light) / max(float(light.sum()), 1e-12)) ** pattern.grows
    across, down = bell(lattice(len(light))).T
    across = math.sqrt(1 - design.sided**2) * across + design.sided * _side(positions[:, 0])
    width = pattern.narrow + (pattern.wide - pattern.narrow) * rank
    middle = pattern.aim * line.kerb * (1 - rank)
    if line.shape == "elbow" and not optic.has_lens:
        round_bulb = np.degrees(np.arctan2(positions[:, 1], positions[:, 0] * line.kerb)) % 180.0
        draws = np.exp(-0.5 * ((round_bulb - 15.0) / pattern.kerb) ** 2)
        middle += draws * (KERB_AIM_DEG * line.kerb - middle)
        width += draws * (KERB_WIDTH_DEG - width)
    aim_h = middle + width * across
    drop = pattern.shallow + (pattern.deep - pattern.shallow) * rank
    turn, tilt = aim_h.copy(), np.zeros_like(aim_h)
    level = line.shape == "none"
    for _ in range(2):
        facts = each_image(
            cloud,
            positions,
            normals_for(positions, towards(positions, turn, tilt, optic)),
            line,
            optic,
        )
        lit = facts[:, kernel.PAST] > 0
        turn += np.where(lit, aim_h - facts[:, kernel.MEAN_H], 0.0)
        tilt += np.where(lit, -facts[:, kernel.MEAN_V] if level else facts[:, kernel.ROOM], 0.0)
    below = np.abs(down)
    under = drop * below
    if not optic.has_lens:
        under += FALLS_DEG * rank * np.maximum(below - FALLS_FROM, 0.0) ** 2
    tilt += drop * down if level else pattern.over * facts[:, kernel.HEIGHT] - under
    return Mirror(positions, normals_for(positions, towards(positions, turn, tilt, optic)), areas)
