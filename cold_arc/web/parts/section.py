"""Section: the bulb cut through, to scale. One drawing unit is one millimetre; the reference plane
is x = 0.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car.bases import Base
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.geometry import say_off_axis
from cold_arc.core.match.seat import ROOM_MARGIN_MM
from cold_arc.web.parts.wall import Rect

DRAWN_FILAMENT_MM = 1.3
DRAWN_TAIL_WIDTH_MM = 36.0
DRAWN_CHIP_MM = 0.6


@dataclass(frozen=True)
class Section:
    """The filament box of the base (before), the chips and tail of the candidate (after), and the
    room.

    *room_x*: the cap as it is; *cap_x*: where an extended one must be, None where there is room;
    *opening* its width. The cut is level, chips to the sides: *off_axis*, how far they stand above
    or below the axis, is told in words.
    """

    filament: Rect | None
    chips: tuple[Rect, ...]
    tail: Rect | None
    stem: Rect | None
    room_x: float | None
    off_mm: float | None
    off_axis: str = ""
    opening: float | None = None
    cap_x: float | None = None
    view_box: str = "-96 -36 144 72"
    close_x: float = 0.0

    @property
    def close_view_box(self) -> str:
        """A close-up, 12 by 10 mm, around the filament and the chips."""
        return f"{self.close_x:.1f} -5 12 10"


def _extended_cap(tail_mm: float, seen: UnitCondition | None) -> float | None:
    """Where the cap must move to for the tail and its margin, x; None where it may stay."""
    if seen is None or seen.room_mm is None or seen.room_mm >= tail_mm + ROOM_MARGIN_MM:
        return None
    return -(tail_mm + ROOM_MARGIN_MM)


def build_section(base: Base, source: LightSource, seen: UnitCondition | None) -> Section | None:
    """The section of *source* on *base*; None where the figures to draw it are not known."""
    if (
        base.lcl_mm is None
        or source.lcl_mm is None
        or source.emitter_mm is None
        or source.gap_mm is None
    ):
        return None
    tail_mm = source.tail_mm or 0.0
    start = source.lcl_mm - source.emitter_mm / 2
    chips = tuple(
        Rect(start, y, source.emitter_mm, DRAWN_CHIP_MM)
        for y in (-source.gap_mm / 2 - DRAWN_CHIP_MM, source.gap_mm / 2)
    )
    return Section(
        filament=_filament(base.lcl_mm, base.filament_mm),
        chips=chips,
        tail=_tail(tail_mm, source.tail_width_mm or DRAWN_TAIL_WIDTH_MM),
        stem=Rect(0, -source.gap_mm / 2, start + source.emitter_mm + 2, source.gap_mm),
        room_x=_room_x(seen),
        off_mm=source.lcl_mm - base.lcl_mm,
        off_axis=say_off_axis(source.off_axis_mm) if source.off_axis_mm else "",
        opening=seen.opening_mm if seen else None,
        cap_x=_extended_cap(tail_mm, seen),
        close_x=(base.lcl_mm + source.lcl_mm) / 2 - 6,
    )


def _filament(lcl_mm: float, length_mm: float | None) -> Rect | None:
    """The own filament; None where its length is not known."""
    if not length_mm:
        return None
    return Rect(lcl_mm - length_mm / 2, -DRAWN_FILAMENT_MM / 2, length_mm, DRAWN_FILAMENT_MM)


def _tail(tail_mm: float, width_mm: float) -> Rect | None:
    """What stands out behind; None where that is not known."""
    return Rect(-tail_mm, -width_mm / 2, tail_mm, width_mm) if tail_mm else None


def _room_x(seen: UnitCondition | None) -> float | None:
    """Where the room behind ends; None where it was not measured."""
    return -seen.room_mm if seen and seen.room_mm is not None else None
