"""Nominal sources: the filament or arc of every base that carries a forward beam, at rated flux and
in its place.
"""

from __future__ import annotations

from cold_arc.core.beam.housings import kind
from cold_arc.core.beam.sources import Arc, Dual, Filament, Source
from cold_arc.core.car.bases import Base, Rating, find
from cold_arc.core.car.lamps import Function, Traffic

BEAM_BASES = (
    *("H1", "H4", "H7", "H8", "H9", "H11", "H13", "H16"),
    *("9004", "9005", "9006", "9007", "9011", "9012"),
    *("D1S", "D1R", "D2S", "D2R", "D3S", "D3R", "D4S", "D4R"),
    *("H3", "H10", "H15", "D5S", "D8S"),
)
# Lit lengths, mm, where the catalogue has none: common practice, no published source.
USUAL_LENGTH_MM = {
    "H4": 4.5,
    "H16": 3.2,
    "H13": 4.6,
    "9004": 4.8,
    "9007": 4.8,
    "9011": 5.0,
    "9012": 5.0,
    "H3": 5.0,
    "H10": 4.3,
    "H15": 4.3,
    "D5S": 3.9,
    "D8S": 3.9,
}


def beam_base(name: str) -> Base:
    """The base *name*, if it carries a forward beam; ValueError otherwise."""
    base = find(name)
    if base is None or base.name not in BEAM_BASES:
        raise ValueError(
            f"{name} is not a base with a forward beam here. Known: {', '.join(BEAM_BASES)}."
        )
    return base


def length_mm(base: Base) -> float:
    """The lit length of its filament or arc: from the catalogue, or common practice where that has
    none.
    """
    return base.filament_mm or USUAL_LENGTH_MM[base.name]


def rating(base: Base, high: bool = False, nominal_v: float = 12.0) -> Rating:
    """The filament or arc that a beam of *base* burns on a supply of *nominal_v*: a dual base has
    one for low and one for *high*.
    """
    return base.rating(Function.HIGH if high else Function.LOW, nominal_v)


def nominal_source(
    base: Base, traffic: Traffic = Traffic.RIGHT, high: bool = False, nominal_v: float = 12.0
) -> Source:
    """The filament or arc of *base* that gives low or *high* beam for *traffic*, at its rated flux,
    lm at *nominal_v*, and in its place, mm; ValueError where no flux is told.
    """
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


# Where the high-beam filament of a dual bulb is taken to stand, mm right, up, ahead of the low-beam
# one, if the catalogue does not know: low enough to lift the typical reflector's beam from dipped
# to straight ahead (chosen, no published source).
ASSUMED_HIGH_OFFSET_MM = (0.0, -1.8, 0.0)


def high_offset_mm(base: Base) -> tuple[float, float, float]:
    """Where a dual bulb's high-beam filament stands from its low-beam one: right, up, ahead."""
    return base.high_offset_mm or ASSUMED_HIGH_OFFSET_MM


def shares_mirror(housing: str, base: Base) -> bool:
    """Whether low and high beam of a *base* come from one mirror in a kind of *housing*: both
    filaments of a dual bulb.
    """
    return base.is_dual and kind(housing).one_mirror


def design_source(
    housing: str,
    base: Base,
    traffic: Traffic = Traffic.RIGHT,
    high: bool = False,
    nominal_v: float = 12.0,
) -> Source:
    """What the mirror of a kind of *housing* is designed around: the own source of *base* that
    gives low or *high* beam for *traffic* on *nominal_v*, or both filaments of a dual bulb.
    """
    if not shares_mirror(housing, base):
        return nominal_source(base, traffic, high, nominal_v)
    low, driving = (nominal_source(base, traffic, high, nominal_v) for high in (False, True))
    assert isinstance(low, Filament)
    assert isinstance(driving, Filament)
    return Dual(low, driving)
