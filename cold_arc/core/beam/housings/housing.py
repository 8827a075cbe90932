"""What the model asks of any housing, and how a kind of housing is registered."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Protocol, Self, TypeVar

from cold_arc.core.beam.housings.shapes import CutOff, Mirror, Optic
from cold_arc.core.beam.sources import Source


@dataclass(frozen=True)
class Sizes:
    """A housing's own figures in place of its kind's, mm; None where it has none.

    *focal* and *opening* (across) of the mirror, or of a projector's lens; *opening_up* of the mirror; *hole*: the bulb
    hole's radius; *focus*: the focus screw.
    """

    focal: float | None = None
    opening: float | None = None
    opening_up: float | None = None
    hole: float | None = None
    focus: float | None = None


class Housing(Protocol):
    """A lamp's optic. Lengths mm, angles degrees, shares 0 to 1.

    *finish_deg* and *flute_deg*: scatter of the mirror and half spread of the front's flutes; *source_points*: how
    finely a source is cut here; *dipped*: the low beam's line where this is the high beam out of the same mirror.
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
    def flute_deg(self) -> float: ...
    @property
    def source_points(self) -> int: ...

    @property
    def has_facets(self) -> bool:
        """Whether its mirror is made of facets that each image the source by themselves."""
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
        """Its mirror, designed for *nominal*; of the high beam of a dual bulb, the one its low beam is designed for."""
        ...

    def optic(self) -> Optic:
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
    told: dict[str, Any] = {name: size for name, size in sizes.items() if size is not None}
    return replace(housing, **told)  # type: ignore[type-var]


@dataclass(frozen=True)
class Kind:
    """A kind of housing: id, words, and how it is made for traffic on a side, for low (False) or high beam.

    *one_mirror*: the mirror itself makes the pattern, so that both filaments of a dual bulb share it. *is_fog*: it has
    no high beam. *images_source*: it pictures the source itself, which a rough prediction must cut the finer.
    """

    id: str
    label: str
    make: Callable[[str, bool], Housing]
    one_mirror: bool = False
    is_fog: bool = False
    images_source: bool = False

    def made(self, traffic: str = "right", high: bool = False, dual: bool = False) -> Housing:
        """The housing; the *high* beam of a *dual* bulb comes from the mirror of its low beam where they share one."""
        if not (high and dual and self.one_mirror):
            return self.make(traffic, high)
        low = self.make(traffic, False)
        return low.with_line(CutOff("none", traffic=traffic), dipped=low.cut_off)
