"""What Baseline and Verify show of the readings: the strip of places and the Wall with the meter's
head.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TypedDict

from flask import request, url_for

from cold_arc.core import units
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.record import Record
from cold_arc.core.metering import readings
from cold_arc.core.metering.comparing import Comparison, Gain
from cold_arc.core.metering.readings import WallReading
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.job.stages.wall_readings import ReadingsForm, cell_name
from cold_arc.web.job.wall_light import add_light, drawn_height_m, spacing_m
from cold_arc.web.parts.wall import Head, View, Wall, WallLamp, WallPoint, pair_wall

DRAWN_DISTANCE_M = 10.0


@dataclass(frozen=True)
class StripCell:
    """One place of one beam: what was read before and after, what that comes to, whether it is in
    hand or wanting.
    """

    name: str
    point: str
    words: str
    href: str
    here: bool
    wanting: bool
    before: WallReading | None
    after: WallReading | None
    gain: Gain | None = None


@dataclass(frozen=True)
class StripRow:
    """One beam's places in a row, the verdict on it, its free places, and the address of the next
    one.
    """

    key: BeamKey
    cells: tuple[StripCell, ...]
    free: tuple[StripCell, ...]
    more: str
    verdict: str = ""


def build_strip(
    page: StagePage, form: ReadingsForm, comparisons: Mapping[BeamKey, Comparison] | None = None
) -> list[StripRow]:
    """Every place of every beam in hand, done in any order; *comparisons*: at Verify, what before
    and after say.
    """
    return [
        _strip_row(page, form, key, comparisons[key] if comparisons else None) for key in page.beams
    ]


def _strip_row(
    page: StagePage, form: ReadingsForm, key: BeamKey, comparison: Comparison | None
) -> StripRow:
    before, after = page.record.readings(key, Phase.BEFORE), page.record.readings(key, Phase.AFTER)
    read = after if form.phase == Phase.AFTER else before

    def cell(point: str) -> StripCell:
        return StripCell(
            name=cell_name(point, key),
            point=point,
            words=readings.words(point, key.function),
            href=f"{page.url}?at={cell_name(point, key)}",
            here=form.at == cell_name(point, key),
            wanting=point in readings.needed(key.function) and point not in read,
            before=before.get(point),
            after=after.get(point),
            gain=comparison.gains.get(point) if comparison else None,
        )

    cells = tuple(cell(point) for point in readings.POINTS)
    free = tuple(
        cell(entered.point)
        for entered in form.order
        if entered.key == key and entered.point not in readings.POINTS
    )
    more = f"{page.url}?at={cell_name(form.next_free(key), key)}"
    return StripRow(
        key, cells, free, more, comparison.verdict if comparison and comparison.gains else ""
    )


def build_readings_wall(page: StagePage, form: ReadingsForm) -> Wall:
    """The Wall of the function in hand: light as modelled, places to hold the meter, what was read
    before and after.
    """
    distance_m = form.set_up.distance.data or DRAWN_DISTANCE_M
    keys = [key for key in page.beams if key.function is form.current.key.function]
    lamps = [_lamp(page.record, key) for key in keys]
    points = [point for key in keys for point in _points(page, form, key, distance_m)]
    view = View(fields.unit_system(), degrees=request.args.get("scale") == "deg")
    wall = pair_wall(
        lamps, distance_m, view, spacing_m(page, keys), page.market.traffic, points=points
    )
    add_light(wall, page, keys, after=form.phase == Phase.AFTER)
    here = next((point for point in wall.points if point.point.here), None)
    lamp = keys.index(form.current.key)
    if here:
        wall.head = Head(here.x, here.y, wall.lamps[lamp][0], wall.lamps[lamp][1])
    return wall.finished()


def _lamp(record: Record, key: BeamKey) -> WallLamp:
    """A lamp as it was last aimed, without its lines: here they would only cover the points."""
    aimed = record.aimed(key, AimPhase.LEFT) or record.aimed(key, AimPhase.FOUND)
    return WallLamp(key.side, aimed.height_m if aimed else drawn_height_m(record, key))


def _points(
    page: StagePage, form: ReadingsForm, key: BeamKey, distance_m: float
) -> Iterator[WallPoint]:
    before, after = page.record.readings(key, Phase.BEFORE), page.record.readings(key, Phase.AFTER)
    function = key.function
    for entered in form.order:
        if entered.key != key:
            continue
        held = after.get(entered.point) or before.get(entered.point)
        across, drop = readings.place(entered.point, distance_m, page.market.traffic, function)
        if entered.is_placed:
            if held is None and form.at != entered.name:
                continue
            across, drop = (
                readings.held_at(held, distance_m, key.function)
                if held
                else readings.unread_place(entered.point, distance_m, function)
            )
        yield WallPoint(
            key.side,
            entered.point,
            across,
            drop,
            _candela(before.get(entered.point)),
            _candela(after.get(entered.point)),
            f"{page.url}?at={entered.name}",
            form.at == entered.name,
            words=f"{entered.words}, {key.side.value}",
        )


def _candela(reading: WallReading | None) -> str:
    return units.say_candela(reading.candela) if reading else ""


class ReadingsShown(TypedDict):
    """What Baseline and Verify both show: the form, the strip of places, the Wall, where the meter
    is asked.
    """

    form: ReadingsForm
    strip: list[StripRow]
    wall: Wall
    points: Mapping[str, str]
    asked_at: bool
    several: bool
    meter_url: str
    search_url: str
    beam_in_hand: BeamKey


def shown(
    page: StagePage, form: ReadingsForm, comparisons: Mapping[BeamKey, Comparison] | None = None
) -> ReadingsShown:
    """What both stages show of a form, *comparisons* beside it where there are any."""
    key = form.current.key
    job_id, phase = page.job.id, form.phase
    return {
        "form": form,
        "strip": build_strip(page, form, comparisons),
        "wall": build_readings_wall(page, form),
        "points": readings.POINTS,
        "asked_at": "at" in request.args,
        "several": len({key.function for key in page.beams}) > 1,
        "meter_url": url_for("meter.live", job_id=job_id, scope=key, phase=phase),
        "search_url": url_for("meter.search", job_id=job_id, scope=key, phase=phase),
        "beam_in_hand": key,
    }
