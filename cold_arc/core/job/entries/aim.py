"""What is said at Aim: the wall, the lamps before it, photographs of it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from cold_arc.core.aim import rims
from cold_arc.core.aim.rims import Rim
from cold_arc.core.aim.rules import AimRule, Target, built_in, target_for
from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.aim.taping import CHECKS, Floor
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.entries.kind import (
    FARTHEST_M,
    NEAREST_M,
    AimPhase,
    EntryKind,
    Payload,
    Subject,
    must,
    tells_more,
)
from cold_arc.core.units import say_count, say_degrees, say_number, say_percent
from cold_arc.core.wallphoto.camera import MOST_MARKS, PhotoMark
from cold_arc.core.wallphoto.isolux import LuxReading
from cold_arc.core.wallphoto.measure import MeasuredPhoto as PhotoMeasured
from cold_arc.core.wallphoto.merging import MOST_EXPOSURES


@dataclass(frozen=True)
class Aimed(Payload):
    """Where the cut-off or hot spot stands: slope, up positive; sideways slope, right positive.

    *phase* is "found" or "left"; *turns* of the height screw and *turns_side* of the side screw
    since the reading before, clockwise positive, if any; *spacing_m* between the two lamps'
    centres; *mark* the slope the maker marks; *own*: the shop's own copy of the rule, where it goes
    by one; *simulated*: no lamp was looked at.
    """

    # 2: turns of a side screw; 3: the maker's mark.
    ENTRY = EntryKind("aimed", 3, older={1: tells_more, 2: tells_more})

    phase: AimPhase
    rule: str
    height_m: float
    distance_m: float
    slope: float
    typed: str
    sideways: float | None = None
    turns: float | None = None
    spacing_m: float | None = None
    turns_side: float | None = None
    mark: float | None = None
    own: ShopRule | None = None
    simulated: bool = False

    def subject(self) -> Subject:
        return (self.phase,)

    def must_hold(self) -> None:
        must(self.rule in built_in() and self.phase in tuple(AimPhase), "An aim by no known rule")
        must(
            NEAREST_M <= self.distance_m <= FARTHEST_M and abs(self.slope) <= 1,
            "An aim from nowhere",
        )
        must(self.spacing_m is None or 0 < self.spacing_m <= FARTHEST_M, "Such a spacing")
        target_of(self)

    def in_words(self) -> str:
        return f"Aim as {self.phase}: {say_percent(self.slope, 2)}{_practised(self)}"


@dataclass(frozen=True)
class WallLaid(Payload):
    """How the entry's lamps stand before the wall they are aimed on: the *rule*, heights and
    distances, the *floor* where it is not level, and the maker's own slope where one is marked on
    the lamp (*mark*, down negative); *own*: the shop's own copy of the rule; *right_height_m*: the
    right lamp's height, where it stands otherwise than the left."""

    # 2: the right lamp's height.
    ENTRY = EntryKind("wall-laid", 2, older={1: tells_more})

    rule: str
    height_m: float
    distance_m: float
    spacing_m: float | None = None
    floor: Floor | None = None
    mark: float | None = None
    own: ShopRule | None = None
    right_height_m: float | None = None

    def of(self, side: Side) -> WallLaid:
        """The same for the lamp of one side, at its own height."""
        own = (self.right_height_m if side is Side.RIGHT else None) or self.height_m
        return replace(self, height_m=own, right_height_m=None)

    def must_hold(self) -> None:
        must(
            self.rule in built_in() and NEAREST_M <= self.distance_m <= FARTHEST_M,
            "Such a wall",
        )
        for side in Side:
            target_of(self.of(side))
            must(0 < self.of(side).height_m <= FARTHEST_M, "Such a lamp before a wall")
        must(self.mark is None or abs(self.mark) <= 1, "Such a mark")

    def in_words(self) -> str:
        uneven = ", floor as measured" if self.floor else ""
        heights = dict.fromkeys(self.of(side).height_m for side in Side)
        off, *high = (f"{say_number(height_m)}\u00a0m" for height_m in (self.distance_m, *heights))
        return f"Wall for aiming: {off} off, lamps {' and '.join(high)} high{uneven}"


@dataclass(frozen=True)
class AdjustersTold(Payload):
    """Whether one adjuster moves low and high beam of the entry's units, which have a bulb for
    each.
    """

    ENTRY = EntryKind("adjusters-told")

    shared: bool

    def in_words(self) -> str:
        return (
            "One adjuster moves low and high beam"
            if self.shared
            else "Low and high beam have an adjuster each"
        )


@dataclass(frozen=True)
class Readied(Payload):
    """What of the list before aiming holds (ids of `core.aim.taping.CHECKS`)."""

    ENTRY = EntryKind("readied")

    done: tuple[str, ...]

    def must_hold(self) -> None:
        must(set(self.done) <= set(CHECKS), "Checked what is not on the list")

    def in_words(self) -> str:
        return f"Before aiming: {len(self.done)} of {len(CHECKS)} checked"


@dataclass(frozen=True)
class RimSet(Payload):
    """How the *rim* of the entry's lamps stands against a straight edge and a level."""

    ENTRY = EntryKind("rim-set")

    rim: Rim

    def must_hold(self) -> None:
        low, high = rims.RIM_MM
        gaps = (self.rim.inner_mm, self.rim.outer_mm)
        must(low <= self.rim.rim_mm <= high, "Such a rim")
        must(all(0 <= gap <= rims.WIDEST_GAP_MM for gap in gaps), "Such a gap")
        must(self.rim.bubble in rims.BUBBLES, "Such a bubble")

    def in_words(self) -> str:
        return f"Straight edge: {say_degrees(self.rim.toe_out_deg, 1, signed=True)} outwards"


@dataclass(frozen=True)
class WallPhotographed(Payload):
    """A photograph of the entry's beam on the wall, as found or as left (*phase*).

    *pictures*: the numbers of its pictures, of a series from the darkest to the brightest; the
    middle one is shown, *across* by *down* pixels, in which the *marks* are told. *axis_m*: the
    lamp's axis above the floor at the wall. *found*: what it says, once measured; *wall* the
    picture laid flat, whose white is *white_lux*; *simulated*: no lamp was looked at.
    """

    ENTRY = EntryKind("wall-photographed")

    phase: AimPhase
    pictures: tuple[int, ...]
    distance_m: float
    axis_m: float
    across: int = 0
    down: int = 0
    marks: tuple[PhotoMark, ...] = ()
    by_target: bool = False
    lux: LuxReading | None = None
    found: PhotoMeasured | None = None
    wall: int | None = None
    white_lux: float | None = None
    simulated: bool = False

    @property
    def shown(self) -> int:
        """The number of the picture shown, by which the photograph goes."""
        return self.pictures[len(self.pictures) // 2]

    def subject(self) -> Subject:
        return (self.shown,)

    def must_hold(self) -> None:
        must(
            self.phase in tuple(AimPhase)
            and 0 < len(self.pictures) <= MOST_EXPOSURES
            and min(self.pictures) > 0,
            "Such a photograph",
        )
        must(
            NEAREST_M <= self.distance_m <= FARTHEST_M and 0 < self.axis_m <= FARTHEST_M,
            "A photograph from nowhere",
        )
        must(
            self.across > 0 and self.down > 0 and len(self.marks) <= MOST_MARKS,
            "A photograph of no size, or so many marks",
        )

    def in_words(self) -> str:
        if self.found is None:
            return f"Photograph of the wall as {self.phase}{_practised(self)}"
        stands = say_degrees(self.found.aim_deg[0], 2, signed=True)
        return f"Photograph as {self.phase}: {stands}{_practised(self)}"


def target_of(aim: Aimed | WallLaid) -> Target:
    """What its rule asks of an aimed lamp, or of lamps before a wall; OutsideRuleError where it has
    no answer.
    """
    return target_for(rule_of(aim), aim.height_m, aim.mark)


def rule_of(aim: Aimed | WallLaid) -> AimRule:
    """The rule gone by: one that came with the program, or the shop's own copy as it then was."""
    return aim.own.as_rule() if aim.own else built_in()[aim.rule]


def _practised(payload: Aimed | WallPhotographed) -> str:
    return ", simulated" if payload.simulated else ""


@dataclass(frozen=True)
class OriginalsDeleted(Payload):
    """The pictures of a photograph as they came from the camera were deleted, by whom the shop
    knows; *shown*: the number it goes by, *count*: how many. What was measured in them stays.
    """

    ENTRY = EntryKind("originals-deleted")

    shown: int
    count: int

    def subject(self) -> Subject:
        return (self.shown,)

    def must_hold(self) -> None:
        must(self.shown > 0 and 0 < self.count <= MOST_EXPOSURES, "Such pictures")

    def in_words(self) -> str:
        return f"{say_count(self.count, 'picture')} as taken, deleted"
