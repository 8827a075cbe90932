"""A measured photograph as it is shown: on the Wall with the rule's bands, as figures with their doubt, as findings."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from flask import url_for

from cold_arc.core.aim.judging import judge, judge_sideways, simulated_words
from cold_arc.core.aim.rules import Target
from cold_arc.core.aim.taping import LEAST_LEAN
from cold_arc.core.beam.derived import wall_place
from cold_arc.core.car.front import BeamKey
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries import WallPhotographed
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_candela, say_degrees, say_lux, say_number, say_offset, say_percent
from cold_arc.core.wallphoto.directions import plan_frame
from cold_arc.core.wallphoto.isolux import Isolux
from cold_arc.core.wallphoto.measure import Measured
from cold_arc.formats.picture import Frame
from cold_arc.web.forms.fields import unit_system
from cold_arc.web.job.aim import wall_photos
from cold_arc.web.job.aim.in_use import in_use
from cold_arc.web.job.aim.wall import floor_of
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.wall import Mark, View, Wall, WallPoint, add_bands, lamp_wall, path_of

FLAT_TO_DEG = 7.0


@dataclass(frozen=True)
class Figure:
    """One figure of a photograph: what it is, in degrees with its doubt, and on the wall."""

    what: str
    value: str
    doubt: str = ""
    wall: str = ""


def figures(it: WallPhotographed) -> list[Figure]:
    """What a photograph says, line by line; nothing before it is measured."""
    return list(_figures(it.found, it.distance_m)) if it.found else []


def _figures(found: Measured, distance_m: float) -> Iterator[Figure]:
    worth, off = found.uncertainty, distance_m
    if found.cutoff_v_deg is not None:
        level = found.cutoff_v_deg
        yield Figure("Cut-off", _deg(level), _doubt(worth, "cutoff_v_deg", off), _up(level, off))
        yield Figure("Roll", _deg(found.roll_deg or 0.0), _doubt(worth, "roll_deg"), "anticlockwise +")
    for name, spot in (("elbow", found.elbow), ("hot_spot", found.hot_spot)):
        if spot:
            words = name.replace("_", " ").capitalize()
            h, v = (_doubt(worth, f"{name}_{axis}_deg", off) for axis in "hv")
            yield Figure(f"{words}, sideways", _deg(spot.h_deg), h, _side(spot.h_deg, off))
            yield Figure(f"{words}, height", _deg(spot.v_deg), v, _up(spot.v_deg, off))
    if found.sharpness_g is not None:
        yield Figure("Sharpness G", say_number(found.sharpness_g, 2), wall="0.13 to 0.40 is a usable edge")
    if found.stray_pct is not None:
        yield Figure("Stray light above", f"{say_number(found.stray_pct, 2)} %", wall="of the hot spot's, flat side")
    if found.peak_cd is not None:
        yield Figure("Brightest", say_candela(found.peak_cd), wall=say_lux(found.peak_cd / distance_m**2))


def _deg(value: float) -> str:
    return say_degrees(value, 2, signed=True)


def _doubt(worth: dict[str, float], name: str, distance_m: float | None = None) -> str:
    """What a figure is worth, in degrees; of a place on a wall so far off as a length and in per cent too."""
    if name not in worth:
        return ""
    slope = math.tan(math.radians(worth[name]))
    there = f" · {say_offset(slope * distance_m, unit_system())} · {say_percent(slope, 2)}" if distance_m else ""
    return f"± {say_degrees(worth[name], 2)}{there}"


def _up(value: float, distance_m: float) -> str:
    slope = math.tan(math.radians(value))
    way = "up" if slope > 0 else "down"
    return f"{say_offset(abs(slope) * distance_m, unit_system())} {way} · {say_percent(slope, 2, signed=True)}"


def _side(value: float, distance_m: float) -> str:
    way = "right" if value > 0 else "left"
    return f"{say_offset(abs(math.tan(math.radians(value))) * distance_m, unit_system())} {way}"


def photo_findings(page: StagePage, key: BeamKey, it: WallPhotographed) -> list[Finding]:
    """Whether the rule is kept by what a photograph says, whether its doubt reaches over a limit, and what to mind."""
    if it.found is None:
        return []
    target = in_use(page, key).target
    told = [*simulated_words(it.simulated), *(Finding(Level.NOTE, text, PRACTICE) for text in it.found.warnings)]
    floor = floor_of(page, [key])
    if floor and abs(floor.lean) >= LEAST_LEAN and not it.by_target:
        text = "The roll told is against a true level: the car's own lean is in it."
        told.append(Finding(Level.NOTE, text, PRACTICE, _deg(math.degrees(math.atan(floor.lean)))))
    if target is None:
        return told
    slope, right = it.found.aim_slopes
    told = [judge(target, slope, it.distance_m, unit_system()), *_near_limit(target, it.found, slope), *told]
    if right is not None:
        told.append(judge_sideways(target, right, it.distance_m, unit_system()))
    return told


def _near_limit(target: Target, found: Measured, slope: float) -> list[Finding]:
    """A word where a figure's doubt reaches over a limit."""
    doubt = math.tan(
        math.radians(found.uncertainty.get("cutoff_v_deg") or found.uncertainty.get("hot_spot_v_deg") or 0.0)
    )
    inside = [target.keep.excess(slope + it) == 0 for it in (-doubt, doubt)]
    if inside[0] == inside[1]:
        return []
    text = "A limit lies within this figure's doubt: measure again, closer or with more marks."
    return [Finding(Level.CAUTION, text, PRACTICE, f"± {say_percent(doubt, 2)}")]


def photo_wall(page: StagePage, key: BeamKey, it: WallPhotographed, other: WallPhotographed | None) -> Wall:
    """A photograph on the Wall, with the rule's bands, its cut-off, elbow and hot spot; another laid over it."""
    assert it.found is not None
    left, right, up, down = plan_frame(it.distance_m)
    points = tuple(_points(it))
    wall = lamp_wall(Frame(left, -up, right, -down), it.distance_m, View(unit_system()), points)
    wall.after = _picture(page, it)
    if other and other.wall:
        wall.before = _picture(page, other)
    target = in_use(page, key).target
    if target:
        add_bands(wall, target, 0.0, 0.0)
    line = _line(it.found, it.distance_m, page.market.traffic)
    if it.phase == "found":
        wall.found_line = line
    else:
        wall.left_line = line
    wall.isolux = [mark for level in wall_photos.isolux_of(page, it) for mark in _isolux(level)]
    return wall.finished()


def _isolux(level: Isolux) -> Iterator[Mark]:
    """A line of equal light, its lux told once, where its longest run goes farthest down."""
    longest = max(level.runs, key=len)
    for run in level.runs:
        x, y = max(run, key=lambda place: place[1])
        yield Mark(path_of(run), say_lux(level.lux) if run is longest else "", 100 * x, 100 * y)


def _picture(page: StagePage, it: WallPhotographed) -> str:
    return url_for("aim_photo.wall_picture", job_id=page.job.id, number=it.wall, phase=it.phase)


def _points(it: WallPhotographed) -> Iterator[WallPoint]:
    assert it.found is not None
    for label, spot in (("elbow", it.found.elbow), ("hot spot", it.found.hot_spot)):
        if spot:
            across, down = wall_place(spot.h_deg, spot.v_deg, it.distance_m)
            yield WallPoint(None, label, across, down)


def _line(found: Measured, distance_m: float, traffic: str) -> str:
    """The straight part as measured: to the elbow, or all along."""
    if found.cutoff_v_deg is None:
        return ""
    slope = math.tan(math.radians(found.roll_deg or 0.0))
    ends = [-FLAT_TO_DEG, FLAT_TO_DEG]
    if found.elbow:
        ends = [ends[0] if traffic == "right" else ends[1], found.elbow.h_deg]
    return path_of(wall_place(h, found.cutoff_v_deg + slope * h, distance_m) for h in ends)
