"""The front of a car, drawn from its own facts, so that a car is known by its face: round, square
or slim lamps, one or two a side, fogs in the bumper, grille and number plate. Left is left as seen
from the driver's seat.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from functools import cache

from cold_arc.core.car import damage
from cold_arc.core.car.front import Front, UnitPlan
from cold_arc.core.car.front_building import made, ready_made
from cold_arc.core.car.keys import UnitKey, UnitKind
from cold_arc.core.car.lamps import Optic, Present, Side

WIDTH, HEIGHT = 320, 150
# From its side and its top: where lamps stand, and how wide and high a cluster of them is.
CLUSTER_X, CLUSTER_Y, CLUSTER, TALL = 16.0, 48.0, 84.0, 40.0
GAP = 4.0
# Where the body's places stand: x, y, width, height.
BODY_AT = {
    "bonnet": (70.0, 6.0, 180.0, 34.0),
    "grille": (106.0, 48.0, 108.0, 38.0),
    "wing-left": (24.0, 18.0, 44.0, 26.0),
    "wing-right": (252.0, 18.0, 44.0, 26.0),
    "bumper-left": (8.0, 94.0, 96.0, 44.0),
    "bumper-middle": (106.0, 94.0, 108.0, 22.0),
    "bumper-right": (216.0, 94.0, 96.0, 44.0),
    "plate": (122.0, 119.0, 76.0, 18.0),
}


@dataclass(frozen=True)
class DrawnPlace:
    """One place of the drawing: its id and words, its outline ("round", "square", "slim", "body"),
    where it stands; *bowls*: of each mirror in it, whether a round lens stands before it;
    *worked*, *done*, *damaged*: what is to be seen of it.
    """

    id: str
    words: str
    outline: str
    x: float
    y: float
    width: float
    height: float
    bowls: tuple[bool, ...] = ()
    worked: bool = False
    done: bool = False
    damaged: bool = False

    @property
    def mirrors(self) -> list[tuple[float, bool]]:
        """Where each mirror's middle stands across, the outermost first, and whether it has a
        lens.
        """
        one = self.width / max(len(self.bowls), 1)
        middles = [self.x + one * (place + 0.5) for place in range(len(self.bowls))]
        left = self.x < WIDTH / 2
        return list(zip(middles if left else middles[::-1], self.bowls, strict=True))

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle."""
        return self.x + self.width / 2, self.y + self.height / 2


@dataclass(frozen=True)
class FrontDrawing:
    """The drawing: every place, the body's first."""

    places: tuple[DrawnPlace, ...]
    width: int = WIDTH
    height: int = HEIGHT

    @property
    def lamps(self) -> list[DrawnPlace]:
        """The lamps among its places."""
        return [place for place in self.places if place.outline != "body"]


def outline_of(unit: UnitPlan) -> str:
    """What a unit looks like, by what makes its pattern."""
    first = unit.sockets[0]
    if first.optic is Optic.SEALED:
        return "slim" if first.present is Present.LED else "round"
    if unit.kind is UnitKind.FOG_LAMP or first.optic is Optic.LENS_OPTIC:
        return "round"
    return "slim" if unit.kind in (UnitKind.INDICATOR, UnitKind.DAYTIME) else "square"


def _bowls(unit: UnitPlan) -> tuple[bool, ...]:
    """Of each socket of an angular lamp that throws a beam, whether a lens stands before it."""
    if outline_of(unit) != "square":
        return ()
    beams = (s for s in unit.sockets if any(f.is_road_beam for f in s.functions))
    return tuple(s.optic is not None and s.optic.is_projector for s in beams)


def drawn_front(
    front: Front,
    worked: Collection[UnitKey] = (),
    done: Collection[UnitKey] = (),
    damaged: Collection[str] = (),
) -> FrontDrawing:
    """The drawing of a front; *worked*, *done*: its units that are worked on, and fitted;
    *damaged*: the places with damage.
    """
    body = [
        DrawnPlace(id, damage.BODY[id], "body", *at, damaged=id in damaged)
        for id, at in BODY_AT.items()
    ]
    lamps = []
    for unit, at in _units(front):
        for side in Side:
            key = UnitKey(unit.id, side)
            lamps.append(
                DrawnPlace(
                    str(key),
                    front.named(key),
                    outline_of(unit),
                    *_on(side, at),
                    bowls=_bowls(unit),
                    worked=key in worked,
                    done=key in done,
                    damaged=str(key) in damaged,
                )
            )
    return FrontDrawing((*body, *lamps))


Place = tuple[float, float, float, float]


def _on(side: Side, at: Place) -> Place:
    """A place of the left side, on a side."""
    x, y, width, height = at
    return at if side is Side.LEFT else (WIDTH - x - width, y, width, height)


def _units(front: Front) -> Iterator[tuple[UnitPlan, Place]]:
    """Each unit with its place on the left side: headlamps in the wing, the rest under them or in
    the bumper.
    """
    yield from _beside(front, (UnitKind.HEADLAMP,), CLUSTER_Y, TALL)
    yield from _beside(front, (UnitKind.INDICATOR, UnitKind.DAYTIME), CLUSTER_Y + TALL + 1, 9.0)
    yield from _beside(front, (UnitKind.FOG_LAMP, UnitKind.EXTRA), 106.0, 24.0)


def _beside(
    front: Front, kinds: tuple[UnitKind, ...], top: float, tall: float
) -> Iterator[tuple[UnitPlan, Place]]:
    """The units of some kinds side by side, the first outermost."""
    row = [unit for unit in front.units if unit.kind in kinds]
    across = (CLUSTER - GAP * (len(row) - 1)) / max(len(row), 1)
    for place, unit in enumerate(row):
        outline = outline_of(unit)
        height = tall * 0.6 if outline == "slim" and tall > 20 else tall
        width = min(across, height) if outline == "round" else across
        middle = CLUSTER_X + place * (across + GAP) + across / 2
        yield unit, (middle - width / 2, top + (tall - height) / 2, width, height)


@cache
def ready_drawings() -> dict[str, FrontDrawing]:
    """The drawing of every ready-made front, by its id."""
    return {name: drawn_front(made(name)) for name in ready_made()}
