"""The readings form shared by Baseline and Verify: one set-up, a reading for each point and lamp."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flask import redirect, request
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core import units
from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries import Payload, Read
from cold_arc.core.job.record import Record
from cold_arc.core.light import photometry, readings
from cold_arc.core.light.readings import WallReading
from cold_arc.core.units.quantities import Quantity
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.parts.wall import Wall, WallLamp, WallPoint, build_wall
from cold_arc.web.shell.db import session

DRAWN_HEIGHT_M = 0.7


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


class ReadingInput(TypedInput):
    """One cell: a reading at a point of a lamp, and the one recorded."""

    def __init__(self, key: BeamKey, point: str, recorded: WallReading | None) -> None:
        super().__init__(f"{point}-{key}", fields.READING)
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
        self.across = {key: TypedInput(f"across-{key}", fields.ACROSS) for key in page.beams}
        self.drop = {key: TypedInput(f"drop-{key}", fields.DOWN) for key in page.beams}
        self.error = ""

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

    def entries(self) -> list[tuple[BeamKey, Payload]]:
        """An entry for each reading typed."""
        return [
            (cell.key, Read(self.phase, cell.typed, self._reading(cell, cell.value)))
            for row in self.cells.values()
            for cell in row
            if cell.value is not None
        ]

    def _reading(self, cell: ReadingInput, lux: float) -> WallReading:
        set_up = self.set_up
        across, drop = readings.place(cell.point, set_up.distance.data, self.page.market.traffic)
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


def build_readings_wall(page: StagePage, distance_m: float) -> Wall:
    """The wall with the places to hold the meter and what was read there, before and after."""
    keys = [key for key in page.beams if key.function is page.beams[0].function]
    lamps = [WallLamp(key.side, DRAWN_HEIGHT_M) for key in keys]
    points = []
    for key in keys:
        before, after = page.record.readings(key, "before"), page.record.readings(key, "after")
        for point in readings.POINTS:
            held = after.get(point) or before.get(point)
            across, drop = readings.place(point, distance_m, page.market.traffic)
            if point == "peak":
                if held is None:
                    continue
                scale = distance_m / held.distance_m
                across, drop = held.across_m * scale, held.drop_m * scale
            points.append(
                WallPoint(key.side, point, across, drop, _candela(before.get(point)), _candela(after.get(point)))
            )
    return build_wall(lamps, distance_m, fields.unit_system(), traffic=page.market.traffic, points=points)


def _candela(reading: WallReading | None) -> str:
    return units.say_candela(reading.candela) if reading else ""


def several_functions(page: StagePage) -> bool:
    """Whether beams of more than one function are read together."""
    return len({key.function for key in page.beams}) > 1


def save_readings(page: StagePage, form: ReadingsForm) -> Response | None:
    """Saves what was typed, if the form was sent and is good."""
    if request.method != "POST" or not form.validate():
        return None
    page.refuse_stale([(payload, frozenset([key])) for key, payload in form.entries()])
    for key, payload in form.entries():
        jobs.append(session(), page.job.id, payload, [key])
    session().commit()
    return redirect(page.url, 303)
