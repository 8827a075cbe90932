"""Ready set-ups: a nominal source for every base that carries a forward beam, and a housing of each kind for it."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from cold_arc.core.beam.housings import CutOff, Housing, LensOptic, Projector, Reflector
from cold_arc.core.beam.sources import Arc, Dual, Filament, Source
from cold_arc.core.car.bases import Base, Rating, find
from cold_arc.core.car.lamps import Function

HOUSINGS = {
    "reflector": "Reflector",
    "projector": "Projector",
    "lens-optic": "Lens-optic",
    "fog-reflector": "Fog reflector",
    "fog-projector": "Fog projector",
}
BEAM_BASES = (
    *("H1", "H4", "H7", "H8", "H9", "H11", "H13", "H16"),
    *("9004", "9005", "9006", "9007", "9011", "9012"),
    *("D1S", "D1R", "D2S", "D2R", "D3S", "D3R", "D4S", "D4R"),
)
DEFAULT_LENGTH_MM = {"H4": 4.5, "H16": 3.2, "H13": 4.6, "9004": 4.8, "9007": 4.8, "9011": 5.0, "9012": 5.0}
FOG_LEVEL_DEG = -1.1


def beam_base(name: str) -> Base:
    """The base *name*, if it carries a forward beam; ValueError otherwise."""
    base = find(name)
    if base is None or base.name not in BEAM_BASES:
        raise ValueError(f"{name} is not a base with a forward beam here. Known: {', '.join(BEAM_BASES)}.")
    return base


def length_mm(base: Base) -> float:
    """The lit length of its filament or arc: from the catalogue, or common practice where that has none."""
    return base.filament_mm or DEFAULT_LENGTH_MM[base.name]


def rating(base: Base, high: bool = False, nominal_v: float = 12.0) -> Rating:
    """The filament or arc a beam burns: a dual base has one for each."""
    return base.rating(Function.HIGH if high else Function.LOW, nominal_v)


def nominal_source(base: Base, traffic: str = "right", high: bool = False, nominal_v: float = 12.0) -> Source:
    """The filament or arc that gives a beam, at its rated flux and in its place; ValueError where no flux is told."""
    lumens = rating(base, high, nominal_v).lumens
    if lumens is None:
        raise ValueError(f"The {nominal_v:g} V figures of {base.name} are not known here.")
    if base.kind == "hid":
        return Arc(length_mm=length_mm(base), flux_lm=lumens)
    return Filament(
        length_mm=length_mm(base),
        flux_lm=lumens,
        transverse=base.filament == "transverse",
        dip_shield=base.dip_shield and not high,
        traffic=traffic,
        offset_mm=high_offset_mm(base) if high and base.is_dual else (0.0, 0.0, 0.0),
    )


# Where the high-beam filament of a dual bulb is taken to stand, mm right, up, ahead of the low-beam one, if the
# catalogue does not know: low enough to lift the typical reflector's beam from dipped to straight ahead (chosen, no
# published source).
ASSUMED_HIGH_OFFSET_MM = (0.0, -1.6, 0.0)


def high_offset_mm(base: Base) -> tuple[float, float, float]:
    """Where a dual bulb's high-beam filament stands from its low-beam one: right, up, ahead."""
    return base.high_offset_mm or ASSUMED_HIGH_OFFSET_MM


# Kinds whose mirror itself makes the pattern, so that both filaments of a dual bulb share it.
ONE_MIRROR = ("reflector", "lens-optic")


def shares_mirror(kind: str, base: Base) -> bool:
    """Whether low and high beam of a base come from one mirror in a kind of housing: both filaments of a dual bulb."""
    return base.is_dual and kind in ONE_MIRROR


def design_source(kind: str, base: Base, traffic: str = "right", high: bool = False, nominal_v: float = 12.0) -> Source:
    """What a housing's mirror is designed around: the beam's own source, or both filaments of a dual bulb."""
    if not shares_mirror(kind, base):
        return nominal_source(base, traffic, high, nominal_v)
    low, driving = (nominal_source(base, traffic, it, nominal_v) for it in (False, True))
    assert isinstance(low, Filament)
    assert isinstance(driving, Filament)
    return Dual(low, driving)


def housing(kind: str, traffic: str = "right", high: bool = False, dual: bool = False) -> Housing:
    """A housing of a kind for traffic on a side; *high*: no cut-off; *dual*: its mirror is the low beam's.

    ValueError for an unknown kind.
    """
    if high and dual and kind in ONE_MIRROR:
        low = housing(kind, traffic)
        assert isinstance(low, Reflector | LensOptic)
        return replace(low, cut_off=CutOff("none", traffic=traffic), dipped=low.cut_off)
    cut_off = CutOff("none" if high else "elbow", traffic=traffic)
    flat = CutOff("flat", FOG_LEVEL_DEG, traffic)
    made: dict[str, Housing] = {
        "reflector": replace(Reflector(cut_off=cut_off), **_HIGH) if high else Reflector(cut_off=cut_off),
        "projector": Projector(cut_off=cut_off),
        "lens-optic": LensOptic(
            cut_off=replace(cut_off, shape="none" if high else "flat"), flute_deg=7.0 if high else 16.0
        ),
        "fog-reflector": Reflector(
            focal_mm=14.0, width_mm=92.0, height_mm=66.0, hole_mm=10.0, narrow_deg=11.0, wide_deg=24.0,
            cut_off=flat, kind="fog-reflector",
        ),
        "fog-projector": Projector(
            vertex_mm=12.0, second_focus_mm=38.0, lens_focal_mm=34.0, lens_radius_mm=27.0, spread_mm=24.0,
            cut_off=flat, kind="fog-projector",
        ),
    }  # fmt: skip
    if kind not in made:
        raise ValueError(f"{kind} is not a kind of housing. Known: {', '.join(HOUSINGS)}.")
    return made[kind]


# A round mirror has no corners beside its bulb hole: a tenth of it must stay as a rim (chosen, no published source).
ROUND_USED = 0.9


def mirror_sizes_mm(housing: Housing) -> tuple[float, ...]:
    """Across and up of a mirror with a bulb hole; a projector's bowl has its own measure of it."""
    if isinstance(housing, Reflector):
        return housing.width_mm, housing.height_mm
    return (ROUND_USED * housing.diameter_mm,) if isinstance(housing, LensOptic) else (math.inf,)


_HIGH: dict[str, Any] = {"narrow_deg": 2.5, "wide_deg": 6.0}
