"""A set-up to try: one light source in one housing, as a flat record that a command line or a link can carry."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import lru_cache
from typing import Any

from cold_arc.core import photometry
from cold_arc.core.bases import Base
from cold_arc.core.beam import derived, presets
from cold_arc.core.beam.housings import Housing as LampOptic
from cold_arc.core.beam.housings import LensOptic, Projector
from cold_arc.core.beam.model import Beam, Conditions, illuminate
from cold_arc.core.beam.sources import Arc, Filament, Led, Source
from cold_arc.core.condition import LampCondition
from cold_arc.core.heat import warmth
from cold_arc.core.lamps import Function, Housing, Lamp
from cold_arc.core.light_source import LightSource

SOURCES = {"nominal": "Filament or arc the base fixes", "led": "LED", "arc": "Arc"}
YELLOW_FACTOR = 0.7
LIMITS: dict[str, tuple[float, float]] = {
    "faces": (1, 6),
    "gap": (0.0, 20.0),
    "width": (0.1, 12.0),
    "length": (0.5, 30.0),
    "rows": (1, 2),
    "clock": (-180.0, 180.0),
    "axial": (-15.0, 15.0),
    "radial_x": (-10.0, 10.0),
    "radial_y": (-10.0, 10.0),
    "tilt": (-30.0, 30.0),
    "flux": (1.0, 20000.0),
    "droop": (0.0, 0.9),
    "haze": (0.0, 1.0),
    "volts": (3.0, 32.0),
    "focus": (-10.0, 10.0),
    "aim_v": (-5.0, 5.0),
    "aim_h": (-5.0, 5.0),
    "focal": (12.0, 80.0),
    "opening": (40.0, 260.0),
    "opening_up": (30.0, 200.0),
    "hole": (4.0, 40.0),
}
OF_THE_LAMP = (
    *("housing", "base", "haze", "traffic", "high", "yellow", "aim_v", "aim_h"),
    *("focal", "opening", "opening_up", "hole", "cut_off"),
)
CUT_OFFS = {"": "As its kind", "elbow": "Rises 15°", "step": "Steps up", "flat": "Flat"}


class BadSetUp(ValueError):  # noqa: N818 - reads as the sentence it carries
    """A field holds what it can't; *field* names it."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class SetUp:
    """Lengths mm, angles degrees, flux lm (None: the base's rated flux), *droop* the share an LED loses warm.

    *clock* clockwise from behind, 0 with two faces at 3 and 9 o'clock; *axial* forward; *radial_x* right,
    *radial_y* up.
    *volts*: the supply a filament's light follows. *focus*: the focus screw of a lens-optic lamp. *focal*, *opening*
    across and *opening_up*, *hole* and *cut_off* reshape the housing (None, "": as its kind has them); of a projector
    *focal* and *opening* are its lens's.
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

    def __post_init__(self) -> None:
        """Refuses what no set-up can be, naming the field."""
        choices: dict[str, Any] = {"housing": presets.HOUSINGS, "source": SOURCES, "cut_off": CUT_OFFS}
        for name, words in (choices | {"traffic": ("left", "right")}).items():
            if getattr(self, name) not in words:
                raise BadSetUp(name, f"“{getattr(self, name)}” is not one of {', '.join(words)}.")
        try:
            presets.beam_base(self.base)
        except ValueError as error:
            raise BadSetUp("base", str(error)) from error
        for name, (low, high) in LIMITS.items():
            value = getattr(self, name)
            if value is not None and not low <= value <= high:
                raise BadSetUp(name, f"Must be between {low:g} and {high:g}.")

    @property
    def catalogue_base(self) -> Base:
        """The base's catalogue entry."""
        return presets.beam_base(self.base)

    @property
    def nominal(self) -> Source:
        """The source its housing was designed for, at rated flux."""
        return presets.nominal_source(self.catalogue_base, self.traffic)

    def built_housing(self) -> LampOptic:
        """The housing with its parameters."""
        housing = presets.housing(self.housing, self.traffic, self.high)
        if self.cut_off and not self.high:
            housing = replace(housing, cut_off=replace(housing.cut_off, shape=self.cut_off))
        return _reshaped(housing, self)

    def built_source(self) -> Source:
        """The source as seated, at the flux it gives here."""
        base, flux = self.catalogue_base, self.flux or self.nominal.flux_lm
        length, offset = self.length or presets.length_mm(base), (self.radial_x, self.radial_y, self.axial)
        if self.source == "led":
            return Led(
                self.faces, self.gap, self.width, length, self.rows, flux * (1 - self.droop), self.clock,
                self.axial, self.radial_x, self.radial_y, self.tilt, dip_shield=base.dip_shield, traffic=self.traffic,
            )  # fmt: skip
        nominal = self.nominal
        if self.source == "arc" or not isinstance(nominal, Filament):
            return Arc(length, flux_lm=flux, offset_mm=offset)
        if self.volts:
            flux *= photometry.filament_factor(self.volts, photometry.reference_volts(12.0))
        return replace(nominal, flux_lm=flux, length_mm=length, offset_mm=offset)

    @property
    def conditions(self) -> Conditions:
        """Haze, filter and aim."""
        return Conditions(self.haze, YELLOW_FACTOR if self.yellow else 1.0, self.aim_v, self.aim_h)

    def reference(self) -> SetUp:
        """The same lamp with its nominal source, seated right."""
        return SetUp(**{name: getattr(self, name) for name in OF_THE_LAMP})


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


HAZE_OF_GRADE = (0.0, 0.12, 0.3, 0.55, 0.8)


def setup_of(lamp: Lamp, condition: LampCondition | None, candidate: LightSource | None, traffic: str) -> SetUp | None:
    """The set-up of a lamp as identified and inspected, with a candidate or (None) its present kind of source.

    A candidate shines as brightly as its claim is believable, less what heat takes. None where the lamp, its base or
    the candidate's geometry can't be modelled.
    """
    if lamp.base is None or lamp.base not in presets.BEAM_BASES or not lamp.key.function.is_road_beam:
        return None
    if candidate is not None and not candidate.is_bulb:
        return _own_optic(lamp, lamp.base, candidate, condition, traffic)
    kind = _housing_kind(lamp)
    if kind is None:
        return None
    common: dict[str, Any] = {
        "housing": kind,
        "base": lamp.base,
        "traffic": traffic,
        "haze": HAZE_OF_GRADE[condition.haze] if condition else 0.0,
        "high": lamp.key.function is Function.HIGH,
    }
    if candidate is None:
        return SetUp(**common)
    led = presets.led_from(candidate, presets.beam_base(lamp.base))
    if led is None:
        return None
    return SetUp(
        **common, source="led", faces=led.faces, gap=led.gap_mm, width=led.width_mm, length=led.length_mm,
        rows=led.rows, flux=led.flux_lm, droop=round(warmth(candidate).fade, 3), axial=round(led.axial_mm, 2),
        radial_y=led.radial_y_mm, yellow=candidate.colour == "yellow",
    )  # fmt: skip


def _own_optic(
    lamp: Lamp, base: str, candidate: LightSource, condition: LampCondition | None, traffic: str
) -> SetUp | None:
    """An assembly, or a projector behind the old lens: an optic made for its own source, at its believable flux."""
    if candidate.optic is None:
        return None
    fog = "fog-" if lamp.key.function is Function.FOG else ""
    return SetUp(
        housing=f"{fog}{candidate.optic}",
        base=base,
        flux=candidate.believable_lm,
        haze=HAZE_OF_GRADE[condition.haze] if condition and candidate.kind == "projector" else 0.0,
        traffic=traffic,
        high=lamp.key.function is Function.HIGH,
        yellow=candidate.colour == "yellow",
    )


def _housing_kind(lamp: Lamp) -> str | None:
    """The modelled kind of a lamp's housing; None for a complete assembly."""
    if lamp.housing is None or lamp.housing is Housing.ASSEMBLY:
        return None
    fog = lamp.key.function is Function.FOG and lamp.housing is not Housing.LENS_OPTIC
    return f"fog-{lamp.housing.value}" if fog else lamp.housing.value


@lru_cache(maxsize=48)
def beam_of(setup: SetUp) -> Beam:
    """The beam of a set-up; remembered."""
    return illuminate(setup.built_housing(), setup.nominal, setup.built_source(), setup.conditions)


def yardstick_for(setup: SetUp) -> str:
    """Which yardstick measures it."""
    return "un-r112-high" if setup.high else "un-r112"


def _points(beam: Beam, yardstick: str, traffic: str) -> dict[str, dict[str, Any]]:
    """A yardstick's points as plain values."""
    return {
        point.name: {"cd": point.candela, "min": point.least, "max": point.most, "holds": point.holds}
        for point in derived.at_yardstick(beam, yardstick, traffic)
    }


def measured(beam: Beam, traffic: str = "right") -> dict[str, Any]:
    """Everything derived from a beam by itself, as plain values: cd, degrees, lm, shares, m, lx."""
    top, (spots, shadow) = derived.peak(beam), derived.hot_spots(beam)
    high = beam.housing.cut_off.shape == "none"
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
        "test_points": _points(beam, "un-r112-high" if high else "un-r112", traffic),
        "test_points_us": {} if high else _points(beam, "us-108", traffic),
        "reach_3lx_m": derived.reach_m(beam, 3.0),
        "reach_1lx_m": derived.reach_m(beam, 1.0),
        "glare_50m": asdict(derived.oncoming_glare(beam, traffic=traffic)),
    }


@lru_cache(maxsize=48)
def _summary(setup: SetUp) -> dict[str, Any]:
    beam = beam_of(setup)
    fidelity = asdict(derived.fidelity(beam, beam_of(setup.reference())))
    return {**measured(beam, setup.traffic), "fidelity": fidelity}


def summary(setup: SetUp) -> dict[str, Any]:
    """Everything derived, as plain values: cd, degrees, lm, shares, m, lx."""
    return dict(_summary(setup))
