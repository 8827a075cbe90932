"""A measured photograph as it is shown: on the Wall with the rule's bands, as figures with their
doubt, as findings.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from flask import url_for

from cold_arc.core.aim.judging import simulated_words
from cold_arc.core.beam.derived import wall_place
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries.aim import WallPhotographed
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.units import (
    say_candela,
    say_degrees,
    say_lux,
    say_number,
    say_offset,
    say_percent,
)
from cold_arc.core.wallphoto.directions import plan_frame
from cold_arc.core.wallphoto.isolux import Isolux
from cold_arc.core.wallphoto.judging import photo_findings
from cold_arc.core.wallphoto.measure import MeasuredPhoto
from cold_arc.formats.picture import Frame
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.aim import wall_photos
from cold_arc.web.job.aim.in_use import in_use
from cold_arc.web.job.aim.wall import floor_of
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.wall import View, Wall, WallLine, WallPoint, add_bands, lamp_wall, path_of

FLAT_TO_DEG = 7.0


@dataclass(frozen=True)
class Figure:
    """One figure of a photograph: what it is, in degrees with its doubt, and on the wall."""

    what: str
    value: str
    doubt: str = ""
    wall: str = ""


def figures(photograph: WallPhotographed) -> list[Figure]:
    """What a photograph says, line by line; nothing before it is measured."""
    return list(_figures(photograph.found, photograph.distance_m)) if photograph.found else []


def _figures(measured: MeasuredPhoto, distance_m: float) -> Iterator[Figure]:
    worth, off = measured.uncertainty, distance_m
    if measured.cutoff_v_deg is not None:
        level = measured.cutoff_v_deg
        yield Figure("Cut-off", _deg(level), _doubt(worth, "cutoff_v_deg", off), _up(level, off))
        yield Figure(
            "Roll", _deg(measured.roll_deg or 0.0), _doubt(worth, "roll_deg"), "anticlockwise +"
        )
    for name, spot in (("elbow", measured.elbow), ("hot_spot", measured.hot_spot)):
        if spot:
            words = name.replace("_", " ").capitalize()
            h, v = (_doubt(worth, f"{name}_{axis}_deg", off) for axis in "hv")
            yield Figure(f"{words}, sideways", _deg(spot.h_deg), h, _side(spot.h_deg, off))
            yield Figure(f"{words}, height", _deg(spot.v_deg), v, _up(spot.v_deg, off))
    if measured.sharpness_g is not None:
        yield Figure(
            "Sharpness G", say_number(measured.sharpness_g, 2), wall="0.13 to 0.40 is a usable edge"
        )
    if measured.stray_pct is not None:
        yield Figure(
            "Stray light above",
            f"{say_number(measured.stray_pct, 2)} %",
            wall="of the hot spot's, flat side",
        )
    if measured.peak_cd is not None:
        yield Figure(
            "Brightest",
            say_candela(measured.peak_cd),
            wall=say_lux(measured.peak_cd / distance_m**2),
        )


def _deg(value: float) -> str:
    return say_degrees(value, 2, signed=True)


def _doubt(worth: dict[str, float], name: str, distance_m: float | None = None) -> str:
    """What a figure is worth, in degrees; of a place on a wall so far off as a length and in per
    cent too.
    """
    if name not in worth:
        return ""
    slope = math.tan(math.radians(worth[name]))
    there = (
        f" · {say_offset(slope * distance_m, unit_system())} · {say_percent(slope, 2)}"
        if distance_m
        else ""
    )
    return f"± {say_degrees(worth[name], 2)}{there}"


def _up(value: float, distance_m: float) -> str:
    slope = math.tan(math.radians(value))
    way = "up" if slope > 0 else "down"
    return (
        f"{say_offset(abs(slope) * distance_m, unit_system())} {way} · "
        f"{say_percent(slope, 2, signed=True)}"
    )


def _side(value: float, distance_m: float) -> str:
    way = "right" if value > 0 else "left"
    return f"{say_offset(abs(math.tan(math.radians(value))) * distance_m, unit_system())} {way}"


def findings_of(page: StagePage, key: BeamKey, photograph: WallPhotographed) -> list[Finding]:
    """Whether the rule is kept by what a photograph says, and what to mind of it."""
    if photograph.found is None:
        return []
    now, floor = in_use(page, key), floor_of(page, [key])
    leaning = None if photograph.by_target else floor
    distance_m = photograph.distance_m
    judged = photo_findings(
        photograph.found, now.target, distance_m, unit_system(), leaning, now.here.rule.line
    )
    return [*simulated_words(photograph.simulated), *judged]


def photo_wall(
    page: StagePage, key: BeamKey, photograph: WallPhotographed, other: WallPhotographed | None
) -> Wall:
    """A photograph on the Wall, with the rule's bands, its cut-off, elbow and hot spot; another
    laid over it.
    """
    assert photograph.found is not None
    left, right, up, down = plan_frame(photograph.distance_m)
    points = tuple(_points(photograph))
    wall = lamp_wall(
        Frame(left, -up, right, -down), photograph.distance_m, View(unit_system()), points
    )
    wall.after = _picture(page, photograph)
    if other and other.wall:
        wall.before = _picture(page, other)
    target = in_use(page, key).target
    if target:
        add_bands(wall, target, 0.0, 0.0)
    line = _line(photograph.found, photograph.distance_m, page.market.traffic)
    if photograph.phase == AimPhase.FOUND:
        wall.found_line = line
    else:
        wall.left_line = line
    wall.isolux = [
        mark for level in wall_photos.isolux_of(page, photograph) for mark in _isolux(level)
    ]
    return wall.finished()


def _isolux(level: Isolux) -> Iterator[WallLine]:
    """A line of equal light, its lux told once, where its longest run goes farthest down."""
    longest = max(level.runs, key=len)
    for run in level.runs:
        x, y = max(run, key=lambda place: place[1])
        yield WallLine(path_of(run), say_lux(level.lux) if run is longest else "", 100 * x, 100 * y)


def _picture(page: StagePage, photograph: WallPhotographed) -> str:
    return url_for(
        "aim_photo.wall_picture", job_id=page.job.id, number=photograph.wall, phase=photograph.phase
    )


def _points(photograph: WallPhotographed) -> Iterator[WallPoint]:
    assert photograph.found is not None
    for label, spot in (("elbow", photograph.found.elbow), ("hot spot", photograph.found.hot_spot)):
        if spot:
            across, down = wall_place(spot.h_deg, spot.v_deg, photograph.distance_m)
            yield WallPoint(None, label, across, down)


def _line(measured: MeasuredPhoto, distance_m: float, traffic: Traffic) -> str:
    """The straight part that was read: to the elbow, or all along."""
    if measured.cutoff_v_deg is None:
        return ""
    slope = math.tan(math.radians(measured.roll_deg or 0.0))
    ends = [-FLAT_TO_DEG, FLAT_TO_DEG]
    if measured.elbow:
        is_left = (traffic == Traffic.RIGHT) != (measured.line == LineRead.KERB)
        ends = [ends[0] if is_left else ends[1], measured.elbow.h_deg]
    return path_of(wall_place(h, measured.cutoff_v_deg + slope * h, distance_m) for h in ends)
