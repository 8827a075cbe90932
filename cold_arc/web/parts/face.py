"""Face: the front of the car as seen from the driver's seat: its units, the sockets in them, how
far each is.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from cold_arc.core.car.front import Front, UnitPlan
from cold_arc.core.car.keys import BeamKey, SocketKey, UnitKey, UnitKind
from cold_arc.core.car.lamps import Drive, Side, side_words
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.stages import About, Stage, Status
from cold_arc.web.scope import Scope, pairs, stage_url

WIDTH, CLUSTER, GAP = 264, 124, 4
SOCKET_HEIGHT, PAD, A_ROW = 40, 3, 2
# From the top of the car down; units of one row stand side by side, the first outermost.
ROWS = (
    (UnitKind.HEADLAMP,),
    (UnitKind.INDICATOR, UnitKind.DAYTIME),
    (UnitKind.FOG_LAMP, UnitKind.EXTRA),
)


@dataclass(frozen=True)
class FacePlace:
    """A rectangle in drawing units."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class FaceSocket:
    """One socket as drawn: what it gives, whether it is worked on, how far it is, and where a tap
    leads.
    """

    key: SocketKey
    place: FacePlace
    short: str
    title: str
    chosen: bool = False
    selected: bool = False
    after: bool = False
    stage: Stage | None = None
    href: str = ""


@dataclass(frozen=True)
class FaceUnit:
    """One unit as drawn, with its sockets."""

    place: FacePlace
    title: str
    sockets: tuple[FaceSocket, ...]


@dataclass(frozen=True)
class ScopeLink:
    """One thing to work on at a stage: words, address, whether it is in hand, how far its parts
    are.
    """

    words: str
    short: str
    href: str
    here: bool
    standings: tuple[tuple[str, Status], ...] = ()


@dataclass(frozen=True)
class Face:
    """The drawing: its units, the drive side, how tall it is, and what one may work on."""

    units: tuple[FaceUnit, ...]
    drive: Drive
    height: float
    scopes: tuple[ScopeLink, ...] = ()
    width: int = WIDTH


def _places(front: Front) -> tuple[dict[str, FacePlace], float]:
    """Where each unit of the left cluster stands, and how tall the cluster is."""
    places: dict[str, FacePlace] = {}
    top = 0.0
    for kinds in ROWS:
        row = [unit for unit in front.units if unit.kind in kinds]
        if not row:
            continue
        across = (CLUSTER - GAP * (len(row) - 1)) / len(row)
        height = max(_unit_height(unit, across) for unit in row)
        for index, unit in enumerate(row):
            places[unit.id] = FacePlace(index * (across + GAP), top, across, height)
        top += height + GAP
    return places, max(top, SOCKET_HEIGHT)


def _a_row(unit: UnitPlan, across: float) -> int:
    """How many of a unit's sockets stand side by side."""
    return 1 if across < CLUSTER / 2 else min(A_ROW, len(unit.sockets))


def _unit_height(unit: UnitPlan, across: float) -> float:
    rows = -(-len(unit.sockets) // _a_row(unit, across))
    return rows * SOCKET_HEIGHT + (rows + 1) * PAD


def _mirrored(place: FacePlace, side: Side) -> FacePlace:
    return (
        place
        if side is Side.LEFT
        else FacePlace(WIDTH - place.x - place.width, place.y, place.width, place.height)
    )


def _socket_places(unit: UnitPlan, place: FacePlace) -> Iterator[FacePlace]:
    """Where a unit's sockets stand inside it, on the left side."""
    side_by_side = _a_row(unit, place.width)
    width = (place.width - PAD * (side_by_side + 1)) / side_by_side
    for index in range(len(unit.sockets)):
        row, column = divmod(index, side_by_side)
        x = place.x + PAD + column * (width + PAD)
        yield FacePlace(x, place.y + PAD + row * (SOCKET_HEIGHT + PAD), width, SOCKET_HEIGHT)


def _units(
    front: Front, drive: Drive, facts: dict[SocketKey, dict[str, object]]
) -> tuple[tuple[FaceUnit, ...], float]:
    places, height = _places(front)
    drawn = []
    for unit in front.units:
        for side in Side:
            where = side_words(side, drive)
            sockets = []
            for socket, place in zip(
                unit.sockets, _socket_places(unit, places[unit.id]), strict=True
            ):
                key = SocketKey(unit.id, socket.number, side)
                title = f"{socket.words}, {where}"
                state: Any = facts.get(key, {})
                sockets.append(
                    FaceSocket(key, _mirrored(place, side), socket.short, title, **state)
                )
            drawn.append(
                FaceUnit(_mirrored(places[unit.id], side), f"{unit.words}, {where}", tuple(sockets))
            )
    return tuple(drawn), height


def choosing_face(front: Front, drive: Drive = Drive.LEFT) -> Face:
    """A face to choose what to work on; script ties each socket to its checkbox."""
    units, height = _units(front, drive, {})
    return Face(units, drive, height)


def build_face(progress: Progress, job_id: int, stage: Stage, scope: Scope) -> Face:
    """The face of a job at a stage, leading to each socket, or what of it the stage is about."""
    record = progress.record
    drive = record.booking.drive if record.booking else Drive.LEFT
    in_scope = set(scope.sockets(progress))
    facts = {
        key: _standing(progress, key, job_id, stage) | {"selected": key in in_scope}
        for key in record.sockets
    }
    units, height = _units(record.front, drive, facts)
    return Face(units, drive, height, tuple(_scopes(progress, job_id, stage, scope)))


def _standing(progress: Progress, key: SocketKey, job_id: int, stage: Stage) -> dict[str, object]:
    fitted = progress.passed(Stage.FIT, key) is not None
    return {
        "chosen": True,
        "stage": progress.current(key),
        "after": fitted,
        "href": stage_url(job_id, _tapped(progress, key, stage), stage),
    }


def _tapped(progress: Progress, key: SocketKey, stage: Stage) -> Scope:
    """What a tap on a socket takes at a stage: its unit, itself, or the first of its beams, on its
    side.
    """
    shares = progress.shares(key, stage)
    return Scope.of(shares[0] if shares else key)


def _scopes(progress: Progress, job_id: int, stage: Stage, scope: Scope) -> Iterator[ScopeLink]:
    """Links to a stage's things by pairs, to one side of the pair in hand, and to all together."""
    if stage.about is About.CAR:
        return
    things = progress.things(stage)
    drive = progress.record.booking.drive if progress.record.booking else Drive.LEFT
    for pair in pairs(things):
        keys = [key for key in things if key.name == pair.name]
        yield _link(progress, job_id, stage, scope, pair, keys, drive)
        if pair.name == scope.name and len(keys) > 1:
            for key in keys:
                yield _link(progress, job_id, stage, scope, Scope.of(key), [key], drive)
    if len(pairs(things)) > 1:
        yield ScopeLink("All together", "All", stage_url(job_id, Scope(), stage), not scope.name)


def _link(
    progress: Progress,
    job_id: int,
    stage: Stage,
    scope: Scope,
    to: Scope,
    keys: Sequence[SocketKey | UnitKey | BeamKey],
    drive: Drive,
) -> ScopeLink:
    standings = tuple((key.side.value, progress.status(stage, key)) for key in keys)
    words = to.words(progress.record.front, drive)
    if to.side is None and len(keys) == 1:
        words = words.replace("both sides", side_words(keys[0].side, drive))
    short = to.side.value.capitalize() if to.side else words.partition(",")[0]
    return ScopeLink(words, short, stage_url(job_id, to, stage), to == scope, standings)
