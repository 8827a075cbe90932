"""Ready set-ups: a nominal source for every base that carries a forward beam, and a housing of each kind for it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from cold_arc.core.bases import Base, find
from cold_arc.core.beam.housings import CutOff, Housing, LensOptic, Projector, Reflector
from cold_arc.core.beam.sources import Arc, Filament, Led, Source
from cold_arc.core.light_source import LightSource

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
USUAL_FACE_MM = 1.2


def beam_base(name: str) -> Base:
    """The base *name*, if it carries a forward beam; ValueError otherwise."""
    base = find(name)
    if base is None or base.name not in BEAM_BASES:
        raise ValueError(f"{name} is not a base with a forward beam here. Known: {', '.join(BEAM_BASES)}.")
    return base


def length_mm(base: Base) -> float:
    """The lit length of its filament or arc: from the catalogue, or common practice where that has none."""
    return base.filament_mm or DEFAULT_LENGTH_MM[base.name]


def low_flux_lm(base: Base) -> float:
    """Flux of the beam that counts: the low filament of a dual base."""
    return float(base.lumens[-1])


def nominal_source(base: Base, traffic: str = "right") -> Source:
    """The filament or arc the base's housings are designed around, at its rated flux."""
    if base.kind == "hid":
        return Arc(length_mm=length_mm(base), flux_lm=low_flux_lm(base))
    return Filament(
        length_mm=length_mm(base),
        flux_lm=low_flux_lm(base),
        transverse=base.filament == "transverse",
        dip_shield=base.dip_shield,
        traffic=traffic,
    )


def housing(kind: str, traffic: str = "right", high: bool = False) -> Housing:
    """A housing of a kind for traffic on a side; *high*: no cut-off. ValueError for an unknown kind."""
    cut_off = CutOff("none" if high else "elbow", traffic=traffic)
    flat = CutOff("flat", FOG_LEVEL_DEG, traffic)
    made: dict[str, Housing] = {
        "reflector": replace(Reflector(cut_off=cut_off), **_HIGH) if high else Reflector(cut_off=cut_off),
        "projector": Projector(cut_off=cut_off),
        "lens-optic": LensOptic(cut_off=replace(cut_off, shape="none" if high else "flat")),
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


_HIGH: dict[str, Any] = {"narrow_deg": 2.5, "wide_deg": 6.0}


def led_from(source: LightSource, base: Base, traffic: str = "right") -> Led | None:
    """The LED source of a catalogue entry seated on *base*; None where its geometry is not known."""
    if source.faces is None or source.gap_mm is None or source.emitter_mm is None:
        return None
    axial = (source.lcl_mm - base.lcl_mm) if source.lcl_mm is not None and base.lcl_mm is not None else 0.0
    return Led(
        faces=source.faces,
        gap_mm=source.gap_mm,
        width_mm=source.width_mm or USUAL_FACE_MM,
        length_mm=source.emitter_mm,
        rows=1 if base.is_dual else source.rows,
        flux_lm=source.believable_lm,
        axial_mm=axial,
        radial_y_mm=source.off_axis_mm or 0.0,
        dip_shield=source.dip_shield,
        traffic=traffic,
    )
