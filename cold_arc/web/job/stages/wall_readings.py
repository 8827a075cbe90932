"""The readings form shared by Baseline and Verify: one set-up, a reading for each point and lamp."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import redirect, request
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core import units
from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries import Read
from cold_arc.core.job.record import Record
from cold_arc.core.light import photometry
from cold_arc.core.metering import readings
from cold_arc.core.metering.comparing import Comparison, Gain
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.units.quantities import Quantity
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.job.wall_light import DRAWN_HEIGHT_M, add_light, held_at, spacing_m
from cold_arc.web.parts.wall import View, Wall, WallLamp, WallPoint, pair_wall
from cold_arc.web.shell.db import session

DRAWN_DISTANCE_M = 10.0
# Where an unread peak is marked, degrees under the lamp's axis: below the edge's place, until it is found.
UNREAD_PEAK_DOWN_DEG = 1.3


class SetUpForm(FlaskForm):
    """How the readings are taken."""

    distance = fields.TypedField("Distance to the wall", fields.WALL_DISTANCE)
    range_factor = fields.one_of("Meter range", fields.RANGE_FACTORS, "1")
    ambient = fields.TypedField("Ambient", fields.AMBIENT, required=False)
    volts = fields.volts("Supply at the lamp")
    settled = fields.one_of("Source", {"1": "Settled", "0": "Cold"}, "1")


class TypedInput:
    """One text of the readings table: what was typed, what it means, what is wrong with it."""

    def __init__(self, name: str, quantity: Quantity) -> None:
        self.name, self.quantity, self.typed = name, quantity, request.form.get(name, "").strip()
        self.error, self.meanings = "", ()
        self.value: float | None = None

    meanings: tuple[units.Meaning, ...]

    def understand(self, range_factor: str = "1") -> bool:
        """Turns the typed text into a number, or into an error beside the field; False for an error."""
        if self.typed:
            try:
                self.value = self.quantity.read(self.typed, fields.unit_system(), {"range_factor": range_factor})
            except units.NotUnderstoodError as error:
                self.error, self.meanings = str(error), error.meanings
        return not self.error


def cell_name(point: str, key: BeamKey) -> str:
    """What the field of a place of a beam is called, and the address that picks it."""
    return f"{point}-{key}"


class ReadingInput(TypedInput):
    """One cell: a reading at a point of a lamp, and the one recorded."""

    def __init__(self, key: BeamKey, point: str, recorded: WallReading | None) -> None:
        super().__init__(cell_name(point, key), fields.READING)
        self.key, self.point, self.recorded = key, point, recorded


class ReadingsForm:
    """The whole form: set-up, the places of the peaks, and the cells."""

    def __init__(self, page: StagePage, phase: str) -> None:
        self.page, self.phase = page, phase
        self.set_up = SetUpForm(data=_last_set_up(page.record, page.beams, page.job.booking.volts))
        taken = {key: page.record.readings(key, phase) for key in page.beams}
        self.cells = {
            point: [ReadingInput(key, point, taken[key].get(point)) for key in page.beams] for point in readings.POINTS
        }
        self.order = [cell for key in page.beams for row in self.cells.values() for cell in row if cell.key == key]
        self.at = self._in_hand()
        self.across = {key: TypedInput(f"across-{key}", fields.ACROSS) for key in page.beams}
        self.drop = {key: TypedInput(f"drop-{key}", fields.DOWN) for key in page.beams}
        self.error = ""

    @property
    def current(self) -> ReadingInput:
        """The cell in hand."""
        return next(cell for cell in self.order if cell.name == self.at)

    @property
    def asked(self) -> list[ReadingInput]:
        """The cells that stand in the form: the one in hand, and any others something was typed for."""
        return [self.current, *(cell for cell in self.order if cell.typed and cell.name != self.at)]

    def _in_hand(self) -> str:
        """The cell asked for in the address; else the first typed for; else the first to read."""
        asked = request.args.get("at")
        typed = next((cell.name for cell in self.order if cell.typed), None)
        known = {cell.name for cell in self.order}
        return asked if asked in known and not typed else typed or self.next_after(set())

    def next_after(self, saved: set[str]) -> str:
        """The place to read next: of those still to read the first after what was *saved*; else simply the next."""
        names = [cell.name for cell in self.order]
        last = max((names.index(name) for name in saved if name in names), default=-1)
        around = [*self.order[last + 1 :], *self.order[: last + 1]]
        unread = (cell.name for cell in around if cell.recorded is None and cell.name not in saved)
        return next(unread, around[0].name)

    def validate(self) -> bool:
        """Whether everything typed is understood and at least one reading was typed."""
        good = self.set_up.validate_on_submit()
        cells = [cell for row in self.cells.values() for cell in row]
        chosen = self.set_up.range_factor.data
        range_factor = chosen if chosen in fields.RANGE_FACTORS else "1"
        understood = [cell.understand(range_factor) for cell in cells]
        placed = [place.understand() for place in (*self.across.values(), *self.drop.values())]
        good = all(understood) and all(placed) and good
        if good and not any(cell.typed for cell in cells):
            self.error = "Type at least one reading."
        return good and not self.error

    def entries(self) -> list[tuple[BeamKey, Read]]:
        """An entry for each reading typed."""
        return [
            (cell.key, Read(self.phase, cell.typed, self._reading(cell, cell.value)))
            for row in self.cells.values()
            for cell in row
            if cell.value is not None
        ]

    def _reading(self, cell: ReadingInput, lux: float) -> WallReading:
        set_up = self.set_up
        across, drop = readings.place(
            cell.point, set_up.distance.data, self.page.market.traffic, cell.key.function.value
        )
        if cell.point == "peak":
            across, drop = self.across[cell.key].value or 0.0, self.drop[cell.key].value or 0.0
        return WallReading(
            point=cell.point,
            lux=lux,
            distance_m=set_up.distance.data,
            volts=set_up.volts.data,
            ambient_lx=set_up.ambient.data or 0.0,
            range_factor=float(set_up.range_factor.data),
            across_m=across,
            drop_m=drop,
            settled=set_up.settled.data == "1",
        )


def _last_set_up(record: Record, keys: Sequence[BeamKey], nominal_volts: float) -> dict[str, Any]:
    """The set-up used last on these lamps: same place, same distance, same range."""
    taken = [read.reading for key in keys for read in record.all(Read, key)]
    if not taken:
        return {"volts": photometry.reference_volts(nominal_volts)}
    last = taken[-1]
    return {
        "distance": last.distance_m,
        "range_factor": f"{last.range_factor:g}",
        "ambient": last.ambient_lx,
        "volts": last.volts,
    }


@dataclass(frozen=True)
class StripCell:
    """One place of one beam: what was read before and after, what that comes to, whether it is in hand or wanting."""

    name: str
    point: str
    href: str
    here: bool
    wanting: bool
    before: WallReading | None
    after: WallReading | None
    gain: Gain | None = None


@dataclass(frozen=True)
class StripRow:
    """One beam's places in a row, and the verdict on it."""

    key: BeamKey
    cells: tuple[StripCell, ...]
    verdict: str = ""


def build_strip(
    page: StagePage, form: ReadingsForm, comparisons: Mapping[BeamKey, Comparison] | None = None
) -> list[StripRow]:
    """Every place of every beam in hand, done in any order; *comparisons*: at Verify, what before and after say."""
    return [_strip_row(page, form, key, comparisons[key] if comparisons else None) for key in page.beams]


def _strip_row(page: StagePage, form: ReadingsForm, key: BeamKey, told: Comparison | None) -> StripRow:
    before, after = page.record.readings(key, "before"), page.record.readings(key, "after")
    read = after if form.phase == "after" else before
    cells = [
        StripCell(
            name=cell_name(point, key),
            point=point,
            href=f"{page.url}?at={cell_name(point, key)}",
            here=form.at == cell_name(point, key),
            wanting=point in readings.needed(key.function.value) and point not in read,
            before=before.get(point),
            after=after.get(point),
            gain=told.gains.get(point) if told else None,
        )
        for point in readings.POINTS
    ]
    return StripRow(key, tuple(cells), told.verdict if told and told.gains else "")


def build_readings_wall(page: StagePage, form: ReadingsForm) -> Wall:
    """The Wall of the function in hand: light as modelled, places to hold the meter, what was read before and after."""
    distance_m = form.set_up.distance.data or DRAWN_DISTANCE_M
    keys = [key for key in page.beams if key.function is form.current.key.function]
    lamps = [_lamp(page.record, key) for key in keys]
    points = [it for key in keys for it in _points(page, form, key, distance_m)]
    view = View(fields.unit_system(), degrees=request.args.get("scale") == "deg")
    wall = pair_wall(lamps, distance_m, view, spacing_m(page, keys), page.market.traffic, points=points)
    add_light(wall, page, keys, after=form.phase == "after")
    return wall.finished()


def _lamp(record: Record, key: BeamKey) -> WallLamp:
    """A lamp as it was last aimed, without its lines: here they would only cover the points."""
    aimed = record.aimed(key, "left") or record.aimed(key, "found")
    return WallLamp(key.side, aimed.height_m if aimed else DRAWN_HEIGHT_M)


def _points(page: StagePage, form: ReadingsForm, key: BeamKey, distance_m: float) -> Iterator[WallPoint]:
    before, after = page.record.readings(key, "before"), page.record.readings(key, "after")
    for point, words in readings.points(key.function.value).items():
        name, held = cell_name(point, key), after.get(point) or before.get(point)
        across, drop = readings.place(point, distance_m, page.market.traffic, key.function.value)
        if point == "peak":
            if held is None and form.at != name:
                continue
            unread = (0.0, distance_m * math.tan(math.radians(UNREAD_PEAK_DOWN_DEG)))
            across, drop = held_at(held, distance_m) if held else unread
        yield WallPoint(
            key.side, point, across, drop, _candela(before.get(point)), _candela(after.get(point)),
            f"{page.url}?at={name}", form.at == name, words=f"{words}, {key.side.value}",
        )  # fmt: skip


def _candela(reading: WallReading | None) -> str:
    return units.say_candela(reading.candela) if reading else ""


def save_readings(page: StagePage, form: ReadingsForm) -> Response | None:
    """Saves what was typed, if the form was sent and is good, and goes on to the place to read next."""
    if request.method != "POST" or not form.validate():
        return None
    entries = form.entries()
    page.refuse_stale([(payload, frozenset([key])) for key, payload in entries])
    for key, payload in entries:
        jobs.append(session(), page.job.id, payload, [key])
    session().commit()
    saved = {cell_name(payload.reading.point, key) for key, payload in entries}
    return redirect(f"{page.url}?at={form.next_after(saved)}", 303)


def shown(
    page: StagePage, form: ReadingsForm, comparisons: Mapping[BeamKey, Comparison] | None = None
) -> dict[str, Any]:
    """What Baseline and Verify both show: the form, the strip of places, the Wall."""
    return {
        "form": form,
        "strip": build_strip(page, form, comparisons),
        "wall": build_readings_wall(page, form),
        "points": readings.POINTS,
        "asked_at": "at" in request.args,
        "several": len({key.function for key in page.beams}) > 1,
    }
