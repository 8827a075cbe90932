"""A set-up to try: one light source in one housing, as a flat record that a command line or a link can carry."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

from cold_arc.core.beam import derived, presets
from cold_arc.core.beam.housings import Housing as LampOptic
from cold_arc.core.beam.housings import LensOptic, Projector
from cold_arc.core.beam.model import Beam, Conditions, illuminate
from cold_arc.core.beam.sources import Arc, Filament, Led, Source
from cold_arc.core.car.bases import Base
from cold_arc.core.light import photometry
from cold_arc.core.light.photometry import REFERENCE_VOLTS
from cold_arc.core.units import Meaning
from cold_arc.core.units.quantities import Quantity

# A bulb hole's radius over its mirror's least width, at most: it may touch the edge, where corners are left.
HOLE_SHARE = 0.5
# How far from its test voltage a filament is still itself: weak battery to runaway alternator, common practice.
SUPPLY_SHARE = (0.65, 1.25)
SOURCES = {"nominal": "Filament or arc the base fixes", "led": "LED", "arc": "Arc"}
YELLOW_FACTOR = 0.7
LIMITS: dict[str, Quantity] = {
    "faces": Quantity(1, 6, whole=True),
    "gap": Quantity(0.0, 20.0, "mm"),
    "width": Quantity(0.1, 12.0, "mm"),
    "length": Quantity(0.5, 30.0, "mm"),
    "rows": Quantity(1, 2, whole=True),
    "clock": Quantity(-180.0, 180.0, "°"),
    "axial": Quantity(-15.0, 15.0, "mm"),
    "radial_x": Quantity(-10.0, 10.0, "mm"),
    "radial_y": Quantity(-10.0, 10.0, "mm"),
    "tilt": Quantity(-30.0, 30.0, "°"),
    "flux": Quantity(1.0, 50000.0, "lm"),
    "droop": Quantity(0.0, 0.9),
    "haze": Quantity(0.0, 1.0),
    "volts": Quantity(3.0, 32.0, "V"),
    "rated_volts": Quantity(6.0, 24.0, "V"),
    "focus": Quantity(-10.0, 10.0, "mm"),
    "aim_v": Quantity(-5.0, 5.0, "°"),
    "aim_h": Quantity(-5.0, 5.0, "°"),
    "focal": Quantity(12.0, 80.0, "mm"),
    "opening": Quantity(40.0, 260.0, "mm"),
    "opening_up": Quantity(30.0, 200.0, "mm"),
    "hole": Quantity(4.0, 40.0, "mm"),
}
OF_THE_LAMP = (
    *("housing", "base", "rated_volts", "haze", "traffic", "high", "yellow", "aim_v", "aim_h"),
    *("focal", "opening", "opening_up", "hole", "cut_off"),
)
HIGH_BY = {"row": "A second row", "shield": "A shield that moves", "same": "More light in the same place"}
CUT_OFFS = {"": "As its kind", "elbow": "Rises 15°", "step": "Steps up", "flat": "Flat"}


class SetUpError(ValueError):
    """A field holds what it can't; *field* names it, *meanings* are its readings where it has several."""

    def __init__(self, field: str, message: str, meanings: tuple[Meaning, ...] = ()) -> None:
        super().__init__(message)
        self.field, self.meanings = field, meanings


@dataclass(frozen=True)
class SetUp:
    """Lengths mm, angles degrees, flux lm (None: the base's rated flux), *droop* the share an LED loses warm.

    *clock* clockwise from behind, 0 with two faces at 3 and 9 o'clock; *axial* forward; *radial_x* right,
    *radial_y* up.
    *volts*: the supply a filament's light follows, *rated_volts* what its bulb is made for (6, 12, 24). *focus*: the
    focus screw of a lens-optic lamp. *focal*, *opening* across and *opening_up*, *hole* and *cut_off* reshape the
    housing (None, "": as its kind has them); of a projector *focal* and *opening* are its lens's. *high_by*: how an LED
    bulb makes the high beam of a dual base.
    """

    housing: str = "reflector"
    base: str = "H11"
    source: str = "nominal"
    faces: int = 2
    gap: float = 1.4
    width: float = 1.2
    length: float | None = None
    rows: int = 1
    clock: float = 0.0
    axial: float = 0.0
    radial_x: float = 0.0
    radial_y: float = 0.0
    tilt: float = 0.0
    flux: float | None = None
    droop: float = 0.0
    haze: float = 0.0
    volts: float | None = None
    rated_volts: float = 12.0
    focus: float = 0.0
    aim_v: float = 0.0
    aim_h: float = 0.0
    traffic: str = "right"
    high: bool = False
    yellow: bool = False
    focal: float | None = None
    opening: float | None = None
    opening_up: float | None = None
    hole: float | None = None
    cut_off: str = ""
    high_by: str = "row"

    def __post_init__(self) -> None:
        """Refuses what no set-up can be, naming the field."""
        choices: dict[str, Any] = {
            "housing": presets.HOUSINGS,
            "source": SOURCES,
            "cut_off": CUT_OFFS,
            "high_by": HIGH_BY,
        }
        for name, words in (choices | {"traffic": ("left", "right")}).items():
            if getattr(self, name) not in words:
                raise SetUpError(name, f"“{getattr(self, name)}” is not one of {', '.join(words)}.")
        try:
            presets.beam_base(self.base)
        except ValueError as error:
            raise SetUpError("base", str(error)) from error
        for name, quantity in LIMITS.items():
            value = getattr(self, name)
            if value is not None and not quantity.within.holds(value):
                raise SetUpError(name, f"Must be {quantity.words}.")
        self._refuse_hole()
        if self.is_fog and self.high:
            raise SetUpError("high", "A fog lamp has no high beam.")
        self._refuse_supply()

    def _refuse_hole(self) -> None:
        """A bulb hole that leaves next to no mirror."""
        housing = self.built_housing()
        most = HOLE_SHARE * min(presets.mirror_sizes_mm(housing))
        if getattr(housing, "hole_mm", 0.0) > most:
            field = "opening" if self.hole is None else "hole"
            raise SetUpError(field, f"Leaves no mirror round the bulb hole: {most:.0f} mm of radius at most here.")

    def _refuse_supply(self) -> None:
        """A lamp of a rating that is not known, or a filament on a supply far from what it is made for."""
        if self.rated_volts not in REFERENCE_VOLTS:
            raise SetUpError("rated_volts", "Must be 6, 12 or 24 V.")
        told = presets.rating(self.catalogue_base, self.high, self.rated_volts)
        if told.lumens is None:
            raise SetUpError("rated_volts", f"The {self.rated_volts:g} V figures of {self.base} are not known here.")
        low, high = (share * told.test_volts for share in SUPPLY_SHARE)
        burns = self.source == "nominal" and self.catalogue_base.kind != "hid"
        if burns and self.volts is not None and not low <= self.volts <= high:
            others = " or ".join(f"{volts:g}" for volts in REFERENCE_VOLTS if volts != self.rated_volts)
            text = f"Far from what a {self.rated_volts:g} V lamp is made for: {low:.1f} to {high:.1f} V."
            raise SetUpError("volts", f"{text} For a {others} V lamp say what it is rated for.")

    @property
    def is_fog(self) -> bool:
        """Whether its housing is a fog lamp's."""
        return self.housing.startswith("fog-")

    @property
    def catalogue_base(self) -> Base:
        """The base's catalogue entry."""
        return presets.beam_base(self.base)

    @property
    def nominal(self) -> Source:
        """What its housing was designed for, at rated flux: of a dual bulb in one mirror, both filaments."""
        return presets.design_source(self.housing, self.catalogue_base, self.traffic, self.high, self.rated_volts)

    @property
    def own_source(self) -> Source:
        """The filament or arc that gives this beam, at rated flux and in its place."""
        return presets.nominal_source(self.catalogue_base, self.traffic, self.high, self.rated_volts)

    def built_housing(self) -> LampOptic:
        """The housing with its parameters."""
        housing = presets.housing(self.housing, self.traffic, self.high, self.catalogue_base.is_dual)
        if self.cut_off and not self.high:
            housing = replace(housing, cut_off=replace(housing.cut_off, shape=self.cut_off))
        return _reshaped(housing, self)

    def built_source(self) -> Source:
        """The source as seated, at the flux it gives here."""
        own = self.own_source
        base, flux = self.catalogue_base, self.flux or own.flux_lm
        length = self.length or presets.length_mm(base)
        if self.source == "led":
            return self._led(flux * (1 - self.droop), length)
        seat = (self.radial_x, self.radial_y, self.axial)
        if self.source == "arc" or not isinstance(own, Filament):
            return Arc(length, flux_lm=flux, offset_mm=seat)
        if self.volts:
            flux *= photometry.filament_factor(self.volts, base.test_volts(self.rated_volts))
        right, up, ahead = (place + off for place, off in zip(own.offset_mm, seat, strict=True))
        return replace(own, flux_lm=flux, length_mm=length, offset_mm=(right, up, ahead))

    def _led(self, flux: float, length: float) -> Led:
        """The LED bulb as seated; on high beam of a dual base lit as *high_by* says.

        A second row where the high-beam filament stood, the same chips with the shield moved away, or merely more light
        in the same place.
        """
        base = self.catalogue_base
        right, up, ahead, rows = self.radial_x, self.radial_y, self.axial, self.rows
        shield = base.dip_shield
        if self.high and presets.shares_mirror(self.housing, base):
            shield = shield and self.high_by == "same"
            rows = 2 if self.high_by == "same" else self.rows
            if self.high_by == "row":
                place = presets.high_offset_mm(base)
                right, up, ahead = right + place[0], up + place[1], ahead + place[2]
        else:
            shield = shield and not self.high
        return Led(
            self.faces, self.gap, self.width, length, rows, flux, self.clock, ahead, right, up, self.tilt,
            dip_shield=shield, traffic=self.traffic,
        )  # fmt: skip

    @property
    def conditions(self) -> Conditions:
        """Haze, filter and aim."""
        return Conditions(self.haze, YELLOW_FACTOR if self.yellow else 1.0, self.aim_v, self.aim_h)

    def reference(self) -> SetUp:
        """The same lamp with its nominal source, seated right."""
        return SetUp(**{name: getattr(self, name) for name in OF_THE_LAMP})


CHOICES: dict[str, Any] = {
    "housing": presets.HOUSINGS,
    "source": SOURCES,
    "traffic": ("right", "left"),
    "cut_off": CUT_OFFS,
    "high_by": HIGH_BY,
}


def _reshaped(housing: LampOptic, setup: SetUp) -> LampOptic:
    """The housing with the set-up's own figures where it gives any."""
    sizes: dict[str, float | None]
    if isinstance(housing, LensOptic):
        sizes = {"focal_mm": setup.focal, "diameter_mm": setup.opening, "hole_mm": setup.hole, "focus_mm": setup.focus}
    elif isinstance(housing, Projector):
        radius = setup.opening / 2 if setup.opening else None
        sizes = {"lens_focal_mm": setup.focal, "lens_radius_mm": radius}
    else:
        sizes = {"focal_mm": setup.focal, "width_mm": setup.opening, "height_mm": setup.opening_up}
        sizes["hole_mm"] = setup.hole
    told: dict[str, Any] = {name: size for name, size in sizes.items() if size is not None}
    return replace(housing, **told)


LOW_BEAMS = ("un-r112", "un-r98")


@lru_cache(maxsize=48)
def beam_of(setup: SetUp) -> Beam:
    """The beam of a set-up; remembered."""
    return illuminate(setup.built_housing(), setup.nominal, setup.built_source(), setup.conditions)


def yardstick_for(setup: SetUp) -> str:
    """Which regulation's points measure it: by fog, by gas discharge, by beam."""
    if setup.is_fog:
        return "un-r19-f3"
    regulation = "un-r98" if setup.catalogue_base.kind == "hid" else "un-r112"
    return f"{regulation}-high" if setup.high else regulation


def _points(beam: Beam, yardstick: str, traffic: str) -> dict[str, dict[str, Any]]:
    """A yardstick's points as plain values."""
    return {
        point.name: {"cd": point.candela, "min": point.least, "max": point.most, "holds": point.holds}
        for point in derived.at_yardstick(beam, yardstick, traffic)
    }


def measured(beam: Beam, traffic: str = "right", regulation: str = "") -> dict[str, Any]:
    """Everything derived from a beam by itself, as plain values: cd, degrees, lm, shares, m, lx.

    *regulation*: the yardstick of its test points; UN R112's for its kind of beam by default.
    """
    top, (spots, shadow) = derived.peak(beam), derived.hot_spots(beam)
    high = beam.housing.cut_off.shape == "none"
    regulation = regulation or ("un-r112-high" if high else "un-r112")
    flat_h = -2.5 if traffic == "right" else 2.5
    return {
        "peak_cd": top.candela,
        "peak_h_deg": top.h_deg,
        "peak_v_deg": top.v_deg,
        "flux_source_lm": beam.emitted_lm,
        "flux_beam_lm": beam.flux_lm,
        "losses": beam.losses,
        "share_above_cutoff": derived.share_above(beam),
        "cutoff_v_deg": None if high else derived.cut_off_height(beam, flat_h),
        "sharpness_g": None if high else derived.sharpness(beam, flat_h),
        "cut_off": None if high else asdict(derived.cut_off_shape(beam, traffic)),
        "hot_spots": [asdict(spot) for spot in spots],
        "shadow": shadow,
        "regulation": regulation,
        "test_points": _points(beam, regulation, traffic),
        "test_points_us": _points(beam, "us-108", traffic) if regulation in LOW_BEAMS else {},
        "test_points_class_b": _points(beam, "un-r19-b", traffic) if regulation == "un-r19-f3" else {},
        "reach_3lx_m": derived.reach_m(beam, 3.0),
        "reach_1lx_m": derived.reach_m(beam, 1.0),
        "glare_50m": asdict(derived.oncoming_glare(beam, traffic=traffic)),
    }


@lru_cache(maxsize=48)
def _summary(setup: SetUp) -> dict[str, Any]:
    beam = beam_of(setup)
    fidelity = asdict(derived.fidelity(beam, beam_of(setup.reference())))
    return {**measured(beam, setup.traffic, yardstick_for(setup)), "fidelity": fidelity}


def summary(setup: SetUp) -> dict[str, Any]:
    """Everything derived, as plain values: cd, degrees, lm, shares, m, lx."""
    return dict(_summary(setup))
