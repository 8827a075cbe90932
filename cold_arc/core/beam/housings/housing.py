"""What the model asks of any housing, and how a kind of housing is registered."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Protocol, Self, TypeVar

from cold_arc.core import data
from cold_arc.core.beam.housings.pillows import HIGH_PATTERN, USUAL_PATTERN, Pattern
from cold_arc.core.beam.housings.shapes import CutOff, FrontOptic, Mirror
from cold_arc.core.beam.sources import Source
from cold_arc.core.car.lamps import Traffic


@dataclass(frozen=True)
class Sizes:
    """A housing's own figures in place of its kind's, mm; None where it has none.

    *focal* and *opening* (across) of the mirror, or of a projector's lens; *opening_up* of the
    mirror; *hole*: the bulb hole's radius; *focus*: the focus screw.
    """

    focal: float | None = None
    opening: float | None = None
    opening_up: float | None = None
    hole: float | None = None
    focus: float | None = None


class Housing(Protocol):
    """A lamp's optic. Lengths mm, angles degrees, shares 0 to 1.

    *finish_deg*: scatter of the mirror; *soft_deg*: how far its elements, or the glass, spread
    sideways besides; *source_points*: how finely a source is cut here; *dipped*: the low beam's
    line where this is the high beam out of the same mirror.
    """

    def __hash__(self) -> int: ...
    @property
    def cut_off(self) -> CutOff: ...
    @property
    def dipped(self) -> CutOff | None: ...
    @property
    def reflectance(self) -> float: ...
    @property
    def lens_transmittance(self) -> float: ...
    @property
    def finish_deg(self) -> float: ...
    @property
    def soft_deg(self) -> float: ...
    @property
    def window_deg(self) -> tuple[float, float] | None:
        """Between which angles off the axis light leaves straight, past the cap before the bulb and
        inside the bezel; None where none does."""
        ...

    @property
    def fore_share(self) -> float:
        """The share of its light that mirror and glass spread down before the car."""
        ...

    @property
    def pattern(self) -> Pattern | None:
        """How its mirror shares the light out; None for a plain mirror."""
        ...

    @property
    def source_points(self) -> int: ...

    @property
    def has_facets(self) -> bool:
        """Whether parts of its mirror, called facets in the trade, each image the source by
        themselves.
        """
        ...

    @property
    def hole_mm(self) -> float:
        """Radius of the bulb hole; 0 where it is told otherwise."""
        ...

    @property
    def narrowest_mm(self) -> float:
        """The least width of mirror a bulb hole is cut into; infinite where that is no matter."""
        ...

    def mirror(self, nominal: Source) -> Mirror:
        """Its mirror, designed for *nominal*; of the high beam of a dual bulb, the one its low beam
        is designed for.
        """
        ...

    def optic(self) -> FrontOptic:
        """What stands in front of the mirror."""
        ...

    def resized(self, sizes: Sizes) -> Self:
        """The housing with figures of its own."""
        ...

    def with_line(self, cut_off: CutOff, dipped: CutOff | None = None) -> Self:
        """The housing made for another line; *dipped*: the line its mirror keeps all the same."""
        ...


Shape = TypeVar("Shape")


def resized(housing: Shape, **sizes: float | None) -> Shape:
    """A housing's dataclass with the sizes that are told."""
    changed: dict[str, Any] = {name: size for name, size in sizes.items() if size is not None}
    return replace(housing, **changed)  # type: ignore[type-var]


# Bases of bulbs that no lamp takes for its high beam (common practice).
NO_HIGH = ("H8", "H16", "9006")
# The beams that lamps take a bulb for, where it is not all of them (common practice): driving and
# fog lamps, fog lamps, high beam beside a daytime filament, low beam of 25 W.
BEAMS_OF = {
    "H3": ("high", "fog"),
    "H10": ("fog",),
    "H15": ("high",),
    "D5S": ("low",),
    "D8S": ("low",),
}
# Of those, what no mirror, and what no lens throws a low or high beam with.
NO_MIRROR, NO_LENS = ("H10", "D5S", "D8S"), ("H3", "H10", "H15")
# A bulb whose lamps were approved by an older US table alone (from memory).
NO_LAMP = ("9004",)
# Dual bulbs no fog lamp is made for (common practice).
NO_FOG = ("H4", "H13", "9004", "9007")


@dataclass(frozen=True)
class HousingKind:
    """A kind of housing: id, words, and how it is made for a line and a pattern.

    *line*: its low beam's; *low*, *high*: its usual patterns, where it is not fitted to a base
    (``data/patterns.toml``). *law*: whose points it is fitted to: "un", "us" or "fog".
    *one_mirror*: the mirror itself makes the pattern, so that both filaments of a dual bulb share
    it. *images_source*: it pictures the source itself, which a rough prediction must cut the finer.
    *without*: bases no lamp of the kind is made for, so that none is approved.
    """

    id: str
    label: str
    make: Callable[[CutOff, Pattern], Housing]
    line: CutOff = CutOff()
    low: Pattern = USUAL_PATTERN
    high: Pattern = HIGH_PATTERN
    law: str = "un"
    one_mirror: bool = False
    images_source: bool = False
    without: tuple[str, ...] = ()

    @property
    def is_fog(self) -> bool:
        """Whether it is a fog lamp's, which has no high beam."""
        return self.law == "fog"

    def beam(self, high: bool = False) -> str:
        """The beam it gives: "low", "high" or "fog"."""
        return "fog" if self.is_fog else "high" if high else "low"

    def is_made_for(self, base: str, high: bool = False) -> bool:
        """Whether lamps of the kind are made for a base, and take it for a high beam where that is
        meant.
        """
        beam = self.beam(high)
        if base in self.without or beam not in BEAMS_OF.get(base, (beam,)):
            return False
        return not (high and (self.is_fog or base in NO_HIGH))

    def pattern(self, lamp: str = "", high: bool = False) -> Pattern:
        """The pattern it is fitted by for a *lamp*: a base's name, and its volts where they are not
        12; "" for any.
        """
        fitted = data.load("patterns").get(self.id, {})
        row = fitted.get(f"{lamp} high" if high else lamp)
        return Pattern(**row) if row else self.high if high else self.low

    def made(
        self,
        traffic: Traffic = Traffic.RIGHT,
        high: bool = False,
        dual: bool = False,
        lamp: str = "",
        pattern: Pattern | None = None,
    ) -> Housing:
        """The housing; the *high* beam of a *dual* bulb comes from the mirror of its low beam where
        they share one.

        *lamp*: what it is fitted for; a *pattern* is taken instead of the fitted one.
        """
        line, none = replace(self.line, traffic=traffic), CutOff("none", traffic=traffic)
        if high and dual and self.one_mirror:
            return self.make(line, pattern or self.pattern(lamp)).with_line(none, dipped=line)
        return self.make(none if high else line, pattern or self.pattern(lamp, high))
