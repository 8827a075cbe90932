"""What a job's record puts on the Wall: the light of both lamps as modelled, their lines, what was
read of them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from cold_arc.core.aim.rules import Target
from cold_arc.core.beam import model
from cold_arc.core.beam.report import stands_deg
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Function, Optic
from cold_arc.core.job import stand
from cold_arc.core.job.entries.aim import Aimed
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.record import Record
from cold_arc.core.match import measuring
from cold_arc.core.metering import readings
from cold_arc.formats.picture import Frame, LampAxis
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.beam_wall import picture_url
from cold_arc.web.parts.wall import View, Wall, WallLamp, WallPoint, pair_wall


def modelled(page: StagePage, beam: BeamKey) -> tuple[SetUp | None, SetUp | None]:
    """A beam's set-ups: with its present source, and with the one chosen; None where one can't be
    modelled.
    """
    return measuring.setups(page.record, page.job.booking, beam, page.market.traffic)


def modelled_now(page: StagePage, beam: BeamKey) -> SetUp | None:
    """A beam's set-up with the source chosen, else with its present one; None where neither can be
    modelled.
    """
    present, chosen = modelled(page, beam)
    return chosen or present


def turned_deg(setup: SetUp, slope: float, sideways: float | None) -> tuple[float, float]:
    """How far a modelled beam is turned, degrees right and up, for its cut-off to stand at *slope*
    and *sideways*.
    """
    return math.degrees(math.atan(sideways or 0.0)), math.degrees(math.atan(slope)) - stands_deg(
        setup
    )


# How the light is shown under lines and figures, stops: dim enough to read them by night.
EXPOSURE = -2.8


def drawn_height_m(record: Record, beam: BeamKey) -> float:
    """A lamp's height, m, as told at whatever stage, else the usual."""
    return stand.height(record, beam).value


def add_light(wall: Wall, page: StagePage, beams: Sequence[BeamKey], after: bool) -> None:
    """Lays the modelled light of both lamps on the Wall, each turned as it was aimed as found and,
    *after*, as left.

    Nothing where it can't be computed yet, or not at all.
    """
    if not model.is_warm():
        return
    present, chosen = modelled(page, beams[0])
    if present:
        wall.before = _picture(wall, page, beams, present, AimPhase.FOUND)
    if after and chosen:
        wall.after = _picture(wall, page, beams, chosen, AimPhase.LEFT)


def _picture(
    wall: Wall, page: StagePage, beams: Sequence[BeamKey], setup: SetUp, phase: AimPhase
) -> str:
    """The address of one phase's picture: a lamp not aimed yet stands as its housing was
    designed.
    """
    lamps = []
    for beam, (x, y, _) in zip(beams, wall.lamps, strict=True):
        aimed = page.record.aimed(beam, phase) or page.record.aimed(beam, AimPhase.FOUND)
        right, up = turned_deg(setup, aimed.slope, aimed.sideways) if aimed else (0.0, 0.0)
        lamps.append(LampAxis(x / 100, y / 100, right, up))
    return picture_url(setup, lamps, wall.metres, wall.distance_m, exposure=EXPOSURE)


# A lamp's hot spot and edge by themselves: degrees left, right, up and down of its axis.
NEAR_DEG = (-9.0, 9.0, 2.0, -5.0)


def near_frame(distance_m: float) -> Frame:
    """The part of a wall where a lamp is read, about its axis."""
    left, right, up, down = (distance_m * math.tan(math.radians(deg)) for deg in NEAR_DEG)
    return Frame(left, -up, right, -down)


def reading_points(page: StagePage, key: BeamKey, distance_m: float) -> Iterator[WallPoint]:
    """The places read of one beam, before or after, where they are on a wall at *distance_m*,
    without figures.
    """
    before, after = page.record.readings(key, Phase.BEFORE), page.record.readings(key, Phase.AFTER)
    for point in readings.POINTS:
        held = after.get(point) or before.get(point)
        if held is not None:
            yield WallPoint(key.side, point, *readings.held_at(held, distance_m, key.function))


def aimed_lamp(
    page: StagePage,
    key: BeamKey,
    height_m: float,
    target: Target | None = None,
    practised: bool = True,
) -> WallLamp:
    """A lamp with its lines as found and as left; *practised*: a simulated camera's count too."""
    as_found, left = (page.record.aimed(key, phase, practised) for phase in AimPhase)
    newest = left or as_found
    return WallLamp(
        key.side,
        newest.height_m if newest else height_m,
        as_found.slope if as_found else None,
        left.slope if left else None,
        (as_found.sideways or 0.0) if as_found else 0.0,
        (left.sideways or 0.0) if left else 0.0,
        target,
    )


def has_elbow(page: StagePage, beam: BeamKey) -> bool:
    """Whether a beam's cut-off rises on the kerb side: not a high or fog beam's, a lens-optic's,
    nor a US lamp's.
    """
    optics = {page.record.socket(socket).optic for socket in page.record.givers(beam)}
    return (
        beam.function is Function.LOW
        and Optic.LENS_OPTIC not in optics
        and page.job.booking.market != "us"
    )


def spacing_m(page: StagePage, beams: Sequence[BeamKey]) -> float | None:
    """How far apart the lamps are, where it was told."""
    apart = stand.spacing(page.record, beams)
    return apart.value if apart else None


def record_wall(page: StagePage, beams: Sequence[BeamKey]) -> Wall | None:
    """The Wall of one function as it is recorded: lines and readings, before and after; None where
    nothing is.
    """
    distance_m = _recorded_at_m(page, beams)
    if distance_m is None:
        return None
    lamps = [
        aimed_lamp(page, key, drawn_height_m(page.record, key), practised=False) for key in beams
    ]
    points = [point for key in beams for point in reading_points(page, key, distance_m)]
    apart, elbow = spacing_m(page, beams), has_elbow(page, beams[0])
    view = View(unit_system())
    wall = pair_wall(lamps, distance_m, view, apart, page.market.traffic, elbow, points)
    return wall.finished()


def _recorded_at_m(page: StagePage, beams: Sequence[BeamKey]) -> float | None:
    """The distance the beams were aimed at last, or read at where they were not aimed, m."""
    aims = [aim.distance_m for key in beams for aim in page.record.all(Aimed, key)]
    read = [entry.reading.distance_m for key in beams for entry in page.record.all(Read, key)]
    return next(iter((aims or read)[-1:]), None)
