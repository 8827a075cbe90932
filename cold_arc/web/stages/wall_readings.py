"""The readings form shared by Baseline and Verify: one set-up, a reading for each point and lamp."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from flask import redirect, request
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response

from cold_arc.core import photometry, readings, units
from cold_arc.core.lamps import LampKey
from cold_arc.core.readings import WallReading
from cold_arc.core.record import Payload, Read, Record
from cold_arc.store import jobs
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.parts.wall import Wall, WallLamp, WallPoint, build_wall
from cold_arc.web.stage_page import Desk

DRAWN_HEIGHT_M = 0.7


class SetUpForm(FlaskForm):
    """How the readings are taken."""

    distance = fields.distance("Distance to the wall", 0.5, 60, "between 0.5 and 60 m")
    range_factor = fields.one_of("Meter range", {str(factor): f"×{factor}" for factor in readings.RANGE_FACTORS}, "1")
    ambient = fields.lux("Ambient")
    volts = fields.volts("Supply at the lamp")
    settled = fields.one_of("Source", {"1": "Settled", "0": "Cold"}, "1")


class ReadingInput:
    """One cell of the readings table: what was typed, what it means, what is wrong with it."""

    def __init__(self, key: LampKey, point: str, typed: str, recorded: WallReading | None) -> None:
        self.key, self.point, self.typed, self.recorded = key, point, typed.strip(), recorded
        self.error = ""
        self.lux: float | None = None

    @property
    def name(self) -> str:
        """Its field name."""
        return f"{self.point}-{self.key}"

    def understand(self, range_factor: float) -> None:
        """Turns the typed text into lux, or into an error beside the field."""
        if not self.typed:
            return
        try:
            self.lux = units.parse_illuminance(self.typed, range_factor)
        except units.NotUnderstood as error:
            self.error = str(error)


class ReadingsForm:
    """The whole form: set-up, the places of the peaks, and the cells."""

    def __init__(self, desk: Desk, phase: str) -> None:
        self.desk, self.phase = desk, phase
        self.set_up = SetUpForm(data=_last_set_up(desk.record, desk.keys, desk.job.booking.volts))
        taken = {key: desk.record.readings(key, phase) for key in desk.keys}
        self.cells = {
            point: [
                ReadingInput(key, point, request.form.get(f"{point}-{key}", ""), taken[key].get(point))
                for key in desk.keys
            ]
            for point in readings.POINTS
        }
        self.across = {key: _offset_field(key, "across") for key in desk.keys}
        self.drop = {key: _offset_field(key, "drop") for key in desk.keys}
        self.error = ""

    def validate(self) -> bool:
        """Whether everything typed is understood and at least one reading was typed."""
        good = self.set_up.validate_on_submit()
        cells = [cell for row in self.cells.values() for cell in row]
        for cell in cells:
            cell.understand(float(self.set_up.range_factor.data or 1))
        places = [*self.across.values(), *self.drop.values()]
        placed = [place.validate() for place in places]
        good = all(placed) and good
        if good and not any(cell.typed for cell in cells):
            self.error = "Type at least one reading."
        return good and not self.error and not any(cell.error for cell in cells)

    def entries(self) -> list[tuple[LampKey, Payload]]:
        """An entry for each reading typed."""
        return [
            (cell.key, Read(self.phase, cell.typed, self._reading(cell, cell.lux)))
            for row in self.cells.values()
            for cell in row
            if cell.lux is not None
        ]

    def _reading(self, cell: ReadingInput, lux: float) -> WallReading:
        set_up = self.set_up
        across, drop = readings.place(cell.point, set_up.distance.data, self.desk.market.traffic)
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


class OffsetInput:
    """Where the brightest point was, one way: optional."""

    def __init__(self, name: str, typed: str) -> None:
        self.name, self.typed = name, typed.strip()
        self.error, self.value = "", None

    value: float | None

    def validate(self) -> bool:
        """Whether it is blank or a length."""
        if self.typed:
            try:
                self.value = units.parse_length(self.typed, fields.bare_offset())
            except units.NotUnderstood as error:
                self.error = str(error)
        return not self.error


def _offset_field(key: LampKey, way: str) -> OffsetInput:
    name = f"{way}-{key}"
    return OffsetInput(name, request.form.get(name, ""))


def _last_set_up(record: Record, keys: Sequence[LampKey], nominal_volts: float) -> dict[str, Any]:
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


def build_readings_wall(desk: Desk, distance_m: float) -> Wall:
    """The wall with the places to hold the meter and what was read there, before and after."""
    keys = [key for key in desk.keys if key.function is desk.first.function]
    lamps = [WallLamp(key.side, DRAWN_HEIGHT_M) for key in keys]
    points = []
    for key in keys:
        before, after = desk.record.readings(key, "before"), desk.record.readings(key, "after")
        for point in readings.POINTS:
            held = after.get(point) or before.get(point)
            across, drop = readings.place(point, distance_m, desk.market.traffic)
            if point == "peak":
                if held is None:
                    continue
                scale = distance_m / held.distance_m
                across, drop = held.across_m * scale, held.drop_m * scale
            points.append(
                WallPoint(key.side, point, across, drop, _candela(before.get(point)), _candela(after.get(point)))
            )
    return build_wall(lamps, distance_m, fields.unit_system(), traffic=desk.market.traffic, points=points)


def _candela(reading: WallReading | None) -> str:
    return units.say_candela(reading.candela) if reading else ""


def save_readings(desk: Desk, form: ReadingsForm) -> Response | None:
    """Saves what was typed, if the form was sent and is good."""
    if request.method != "POST" or not form.validate():
        return None
    for key, payload in form.entries():
        jobs.append(session(), desk.job.id, payload, [key])
    session().commit()
    return redirect(desk.url, 303)
