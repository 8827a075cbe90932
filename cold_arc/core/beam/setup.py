"""A set-up to try: one light source in one housing, as a flat record that a command line or a link
can carry.

What a field holds, between which bounds and in which words is declared once, beside the field: the
form, the command, the address and the check of a set-up are made from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cache, lru_cache
from typing import Any

from cold_arc.core.beam import nominal
from cold_arc.core.beam.housings import BEAMS_OF, KINDS, Housing, Pattern, Sizes, kind
from cold_arc.core.beam.model import Conditions
from cold_arc.core.beam.sources import Arc, Filament, Led, Source
from cold_arc.core.car.bases import Base
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.errors import ColdArcError
from cold_arc.core.light import photometry
from cold_arc.core.light.colour import ARC_K, FILAMENT_K
from cold_arc.core.light.photometry import REFERENCE_VOLTS
from cold_arc.core.units import Meaning
from cold_arc.core.units.quantities import Quantity
from cold_arc.core.units.reading import Within

# A bulb hole's radius over its mirror's least width, at most: it may touch the edge, where corners
# are left.
HOLE_SHARE = 0.5
# How far from its test voltage a filament is still itself: weak battery to runaway alternator,
# common practice.
SUPPLY_SHARE = (0.65, 1.25)
SOURCES = {"nominal": "Filament or arc the base fixes", "led": "LED", "arc": "Arc"}
# Share of white light a selective-yellow filter passes (rule of thumb, no published source).
YELLOW_FACTOR = 0.7
# What a white LED usually shines with, K (common practice).
LED_K = 6000.0
OF_THE_LAMP = (
    *("housing", "base", "rated_volts", "haze", "traffic", "high", "yellow", "aim_v", "aim_h"),
    *("focal", "opening", "opening_up", "hole", "cut_off", "gain", "widen", "pattern"),
)
HIGH_BY = {
    "row": "A second row",
    "both": "Both rows together",
    "shield": "A shield that moves",
    "same": "More light in the same place",
}
# Of them the one that lights two rows; and what its low row is by itself, which nobody chooses.
BOTH_ROWS, LOW_ROW = "both", "low row"
CUT_OFFS = {"": "As its kind", "elbow": "Rises 15°", "step": "Steps up", "flat": "Flat"}


class SetUpError(ColdArcError, ValueError):
    """A field holds what it can't; *field* names it, *meanings* are its readings where it has
    several.
    """

    def __init__(self, field: str, message: str, meanings: tuple[Meaning, ...] = ()) -> None:
        super().__init__(message)
        self.field, self.meanings = field, meanings


@cache
def _bounds(quantity: Quantity) -> Within:
    """A quantity's bounds; made once, for every set-up asks for all of them."""
    return quantity.within


@dataclass(frozen=True)
class Fact:
    """What a field of a set-up holds: its words in a form, in the command's help, and its bounds or
    its choices.
    """

    label: str
    help: str = ""
    within: Quantity | None = None
    choices: Mapping[str, str] | None = None

    @property
    def unit(self) -> str:
        """The unit it is given in; "" for none."""
        return self.within.unit if self.within else ""

    def refuse(self, name: str, value: Any) -> None:
        """SetUpError, naming the field, for a value it can't hold; None stands for "its own"."""
        if self.choices is not None and value not in self.choices:
            raise SetUpError(name, f"“{value}” is not one of {', '.join(self.choices)}.")
        if self.within is not None and value is not None and not _bounds(self.within).holds(value):
            raise SetUpError(name, f"Must be {self.within.words}.")


def number(
    default: float | None, label: str, low: float, high: float, unit: str = "", help: str = ""
) -> Any:
    """A field that holds a figure between bounds; whole where its default is."""
    fact = Fact(label, help, Quantity(low, high, unit, whole=isinstance(default, int)))
    return field(default=default, metadata={"fact": fact})


def chosen(default: str, label: str, choices: Mapping[str, str]) -> Any:
    """A field that holds one of several choices."""
    return field(default=default, metadata={"fact": Fact(label, choices=choices)})


PATTERN_FIGURES = {figure.name for figure in fields(Pattern)}
# What a pattern's figure may be at most; and how many digits of it are written.
MOST_FIGURE, PATTERN_DIGITS = 1000.0, 6


def pattern_text(figures: Mapping[str, float]) -> str:
    """Figures of a pattern as a set-up carries them, like "narrow:5.2 wide:13"."""
    return " ".join(f"{name}:{value:.{PATTERN_DIGITS}g}" for name, value in figures.items())


@lru_cache(maxsize=256)
def _figures_of(text: str) -> dict[str, float]:
    """The figures of `pattern_text`; SetUpError for anything else."""
    figures = {}
    for part in text.split():
        name, _, written = part.partition(":")
        try:
            value = float(written)
        except ValueError:
            value = -1.0
        if name not in PATTERN_FIGURES or not 0 <= value <= MOST_FIGURE:
            raise SetUpError("pattern", f"“{part}” is no figure of a pattern.")
        figures[name] = value
    return figures


@dataclass(frozen=True)
class SetUp:
    """Lengths mm, angles degrees, flux lm (None: the base's rated flux), *droop* the share an LED
    loses warm.

    *clock* clockwise from behind, 0 with two faces at 3 and 9 o'clock, *uneven* what the first
    gives more than the mean; *axial* forward; *radial_x* right, *radial_y* up. *volts*: the supply
    a filament's light follows, *rated_volts* what its bulb is made for (6, 12, 24). *focus*: the
    focus screw of a lens-optic lamp. *focal*, *opening* across and *opening_up*, *hole* and
    *cut_off* reshape the housing (None, "": as its kind has them); of a projector *focal* and
    *opening* are its lens's. *gain* and *widen*: how much brighter and wider this very housing
    shines than its kind (:mod:`cold_arc.core.beam.fitted`). *high_by*: how an LED bulb makes the
    high beam of a dual base. *pattern*: figures in place of its kind's pattern's, of a housing
    read from its wall, as `pattern_text` writes them.
    """

    housing: str = chosen("reflector", "Housing", {kind.id: kind.label for kind in KINDS.values()})
    base: str = "H11"
    source: str = chosen("nominal", "Source", SOURCES)
    faces: int = number(2, "Faces", 1, 6, help="LED faces")
    gap: float = number(1.4, "Gap", 0.0, 20.0, "mm", "between opposite faces")
    width: float = number(1.2, "Width", 0.1, 12.0, "mm", "width of a row of chips")
    length: float | None = number(
        None, "Length", 0.5, 30.0, "mm", "lit length (default: the base's filament)"
    )
    rows: int = number(1, "Rows", 1, 2, help="rows of chips a face")
    clock: float = number(0.0, "Clock", -180.0, 180.0, "°", "clockwise from behind")
    axial: float = number(0.0, "Depth, forward", -15.0, 15.0, "mm", "forward")
    radial_x: float = number(0.0, "Right", -10.0, 10.0, "mm", "right")
    radial_y: float = number(0.0, "Up", -10.0, 10.0, "mm", "up")
    tilt: float = number(0.0, "Tilt, nose up", -30.0, 30.0, "°", "nose up")
    uneven: float = number(
        0.0,
        "Faces uneven",
        -1.0,
        1.0,
        help="how much more than the mean the face at 3 o'clock gives, the one across less",
    )
    flux: float | None = number(None, "Flux", 1.0, 50000.0, "lm", "default: the base's rated flux")
    droop: float = number(0.0, "Droop", 0.0, 0.9, help="share of its flux an LED loses when warm")
    cct: float | None = number(
        None, "Colour", 1700.0, 20000.0, "K", "colour temperature (default: its kind of source's)"
    )
    haze: float = number(0.0, "Haze", 0.0, 1.0, help="lens haze, 0 to 1")
    volts: float | None = number(None, "Supply", 3.0, 32.0, "V", "supply of a filament")
    rated_volts: float = number(
        12.0, "Lamp made for", 6.0, 24.0, "V", "what the lamp's bulb is made for: 6, 12 or 24"
    )
    focus: float = number(0.0, "Focus screw", -10.0, 10.0, "mm", "focus screw of a lens-optic lamp")
    aim_v: float = number(0.0, "Aim up", -5.0, 5.0, "°", "up")
    aim_h: float = number(0.0, "Aim right", -5.0, 5.0, "°", "right")
    traffic: Traffic = chosen(
        Traffic.RIGHT, "Traffic", {Traffic.RIGHT: "On the right", Traffic.LEFT: "On the left"}
    )
    high: bool = False
    yellow: bool = False
    focal: float | None = number(
        None,
        "Focal length",
        12.0,
        80.0,
        "mm",
        "of the mirror, or of a projector's lens (default: its own)",
    )
    opening: float | None = number(
        None,
        "Opening across",
        40.0,
        260.0,
        "mm",
        "across the mirror, or a projector's lens (default: its own)",
    )
    opening_up: float | None = number(
        None, "Opening up", 30.0, 200.0, "mm", "up a reflector's mirror (default: its own)"
    )
    hole: float | None = number(
        None, "Bulb hole, radius", 4.0, 40.0, "mm", "radius of the bulb hole (default: its own)"
    )
    cut_off: str = chosen("", "Cut-off", CUT_OFFS)
    gain: float = number(
        1.0, "Brightness against its kind", 0.1, 4.0, help="of this housing against its kind's"
    )
    widen: float = number(
        1.0, "Width against its kind", 0.4, 2.5, help="of this housing's beam against its kind's"
    )
    high_by: str = chosen("row", "High beam of an LED on a dual base", HIGH_BY)
    pattern: str = ""

    def __post_init__(self) -> None:
        """Refuses what no set-up can be, naming the field."""
        for name, fact in FACTS.items():
            fact.refuse(name, getattr(self, name))
        object.__setattr__(self, "traffic", Traffic(self.traffic))
        try:
            nominal.beam_base(self.base)
        except ValueError as error:
            raise SetUpError("base", str(error)) from error
        if self.is_fog and self.high:
            raise SetUpError("high", "A fog lamp has no high beam.")
        _figures_of(self.pattern)
        self._refuse_base()
        self._refuse_hole()
        if self.traffic == Traffic.LEFT and kind(self.housing).law == "us":
            raise SetUpError("traffic", "A lamp of the United States is for traffic on the right.")
        self._refuse_supply()

    def _refuse_base(self) -> None:
        """A bulb no such lamp is made for, so that there is no approval to go by; one no lamp takes
        for this beam.
        """
        beam = kind(self.housing).beam(self.high)
        beams = BEAMS_OF.get(self.base)
        if beams and beam not in beams:
            there = " and ".join(beams)
            raise SetUpError(
                "base", f"{self.base} gives no {beam} beam: lamps take it for {there}."
            )
        made_for = kind(self.housing).is_made_for(self.base, self.high)
        if not made_for and (self.is_fog or beams):
            words = kind(self.housing).label.lower()
            raise SetUpError("base", f"No {words} is made for {self.base}: no approval to go by.")

    def _refuse_hole(self) -> None:
        """A bulb hole that leaves next to no mirror."""
        housing = self.built_housing()
        most = HOLE_SHARE * housing.narrowest_mm
        if housing.hole_mm > most:
            field = "opening" if self.hole is None else "hole"
            raise SetUpError(
                field,
                f"Leaves no mirror round the bulb hole: {most:.0f} mm of radius at most here.",
            )

    def _refuse_supply(self) -> None:
        """A lamp of a rating that is not known, or a filament on a supply far from what it is made
        for.
        """
        if self.rated_volts not in REFERENCE_VOLTS:
            raise SetUpError("rated_volts", "Must be 6, 12 or 24 V.")
        rating = nominal.rating(self.catalogue_base, self.high, self.rated_volts)
        if rating.lumens is None:
            raise SetUpError(
                "rated_volts",
                f"The {self.rated_volts:g} V figures of {self.base} are not known here.",
            )
        low, high = (share * rating.test_volts for share in SUPPLY_SHARE)
        burns = self.source == "nominal" and self.catalogue_base.kind != "hid"
        if burns and self.volts is not None and not low <= self.volts <= high:
            others = " or ".join(
                f"{volts:g}" for volts in REFERENCE_VOLTS if volts != self.rated_volts
            )
            text = (
                f"Far from what a {self.rated_volts:g} V lamp is made for: {low:.1f} to "
                f"{high:.1f} V."
            )
            raise SetUpError("volts", f"{text} For a {others} V lamp say what it is rated for.")

    @property
    def is_fog(self) -> bool:
        """Whether its housing is a fog lamp's."""
        return kind(self.housing).is_fog

    @property
    def catalogue_base(self) -> Base:
        """The base's catalogue entry."""
        return nominal.beam_base(self.base)

    @property
    def nominal(self) -> Source:
        """What its housing was designed for, at rated flux: of a dual bulb in one mirror, both
        filaments.
        """
        return nominal.design_source(
            self.housing, self.catalogue_base, self.traffic, self.high, self.rated_volts
        )

    @property
    def own_source(self) -> Source:
        """The filament or arc that gives this beam, at rated flux and in its place."""
        return nominal.nominal_source(
            self.catalogue_base, self.traffic, self.high, self.rated_volts
        )

    @property
    def colour_k(self) -> float:
        """The colour temperature it shines with: as told, or its kind of source's; a filament's
        follows its supply.
        """
        if self.cct:
            return self.cct
        if self.source == "nominal" and self.catalogue_base.kind != "hid":
            test = self.catalogue_base.test_volts(self.rated_volts)
            volts, exponent = self.volts or test, photometry.COLOUR_TEMPERATURE_EXPONENT
            return FILAMENT_K * photometry.filament_factor(volts, test, exponent)
        return LED_K if self.source == "led" else ARC_K

    @property
    def lamp(self) -> str:
        """What its housing is fitted for: the base, and its volts where they are not 12."""
        return self.base if self.rated_volts == 12.0 else f"{self.base} {self.rated_volts:g} V"

    @property
    def usual_pattern(self) -> Pattern:
        """The pattern of its kind of housing, for what it is fitted for."""
        shared = nominal.shares_mirror(self.housing, self.catalogue_base)
        return kind(self.housing).pattern(self.lamp, self.high and not shared)

    def built_housing(self) -> Housing:
        """The housing with its parameters."""
        housing = kind(self.housing).made(
            self.traffic,
            self.high,
            self.catalogue_base.is_dual,
            self.lamp,
            replace(self.usual_pattern, **_figures_of(self.pattern)) if self.pattern else None,
        )
        if self.cut_off and not self.high:
            housing = housing.with_line(replace(housing.cut_off, shape=self.cut_off))
        return housing.resized(
            Sizes(self.focal, self.opening, self.opening_up, self.hole, self.focus)
        )

    def built_sources(self) -> list[Source]:
        """Everything that is lit, as seated; of a high beam by both rows each with half the
        light.
        """
        if self.source != "led" or self.high_by != BOTH_ROWS or not self._is_dual_high:
            return [self.built_source()]
        own = self.own_source
        flux = (self.flux or own.flux_lm) * (1 - self.droop) / 2
        length = self.length or nominal.length_mm(self.catalogue_base)
        return [self._led(flux, length, way) for way in ("row", LOW_ROW)]

    @property
    def _is_dual_high(self) -> bool:
        """Whether it is the high beam of a dual bulb out of its low beam's mirror."""
        return self.high and nominal.shares_mirror(self.housing, self.catalogue_base)

    def built_source(self) -> Source:
        """The source as seated, at the flux it gives here."""
        own = self.own_source
        base, flux = self.catalogue_base, self.flux or own.flux_lm
        length = self.length or nominal.length_mm(base)
        if self.source == "led":
            return self._led(flux * (1 - self.droop), length, self.high_by)
        seat = (self.radial_x, self.radial_y, self.axial)
        if self.source == "arc" or not isinstance(own, Filament):
            return Arc(length, flux_lm=flux, offset_mm=seat)
        if self.volts:
            flux *= photometry.filament_factor(self.volts, base.test_volts(self.rated_volts))
        right, up, ahead = (place + off for place, off in zip(own.offset_mm, seat, strict=True))
        return replace(own, flux_lm=flux, length_mm=length, offset_mm=(right, up, ahead))

    def _led(self, flux: float, length: float, way: str) -> Led:
        """The LED bulb as seated; on high beam of a dual base lit in a *way* of HIGH_BY.

        A second row where the high-beam filament stood, the same chips with the shield moved away,
        or merely more light in the same place.
        """
        base = self.catalogue_base
        right, up, ahead, rows = self.radial_x, self.radial_y, self.axial, self.rows
        shield = base.dip_shield
        if self._is_dual_high:
            shield = shield and way in ("same", LOW_ROW)
            rows = 2 if way == "same" else self.rows
            if way in ("row", BOTH_ROWS):
                place = nominal.high_offset_mm(base)
                right, up, ahead = right + place[0], up + place[1], ahead + place[2]
        else:
            shield = shield and not self.high
        return Led(
            self.faces,
            self.gap,
            self.width,
            length,
            rows,
            flux,
            self.clock,
            ahead,
            right,
            up,
            self.tilt,
            dip_shield=shield,
            traffic=self.traffic,
            uneven=self.uneven,
        )

    @property
    def conditions(self) -> Conditions:
        """Haze, filter and aim."""
        filtered = YELLOW_FACTOR if self.yellow else 1.0
        return Conditions(
            self.haze, filtered, self.aim_v, self.aim_h, gain=self.gain, widen=self.widen
        )

    def reference(self) -> SetUp:
        """The same lamp with its nominal source, seated right."""
        return SetUp(**{name: getattr(self, name) for name in OF_THE_LAMP})


FACTS: dict[str, Fact] = {
    figure.name: figure.metadata["fact"] for figure in fields(SetUp) if "fact" in figure.metadata
}
LIMITS: dict[str, Quantity] = {name: fact.within for name, fact in FACTS.items() if fact.within}
