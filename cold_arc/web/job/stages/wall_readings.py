"""The readings form shared by Baseline and Verify: one set-up, a reading for each place and lamp,
slips asked about.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from flask import redirect, request
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import StringField
from wtforms.validators import Length

from cold_arc.core import units
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job import stand
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Read
from cold_arc.core.job.record import Record
from cold_arc.core.light import photometry
from cold_arc.core.match import measuring
from cold_arc.core.metering import readings, slips
from cold_arc.core.metering.meters import UNKNOWN, meters
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.slips import Slip
from cold_arc.core.units.quantities import Quantity
from cold_arc.store import jobs
from cold_arc.web.forms import fields
from cold_arc.web.job.stage_page import StagePage
from cold_arc.web.shell.db import writable

PLACED_POINTS = ("peak",)


class SetUpForm(FlaskForm):
    """How the readings are taken."""

    distance = fields.TypedField("Distance to the wall", fields.WALL_DISTANCE)
    range_factor = fields.one_of("Meter range", fields.RANGE_FACTORS, "1")
    ambient = fields.TypedField("Ambient", fields.AMBIENT, required=False)
    volts = fields.volts("Supply at the lamp")
    height = fields.distance("Lamp height", 0.2, 2.5, required=False)
    wall = StringField("Wall", [Length(max=40)])
    meter = fields.listed(
        "Meter", {key: meter_class.label for key, meter_class in meters().items()}
    )
    lens = fields.one_of("Lens", readings.LENSES, "found")
    other_lamp = fields.one_of("Other lamp", {"0": "Covered", "1": "On"}, "0")
    settled = fields.one_of("Source", {"1": "Settled", "0": "Cold"}, "1")

    @property
    def said(self) -> str:
        """It in one line, but for the distance and the supply: ambient light, meter, lens,
        lamps.
        """
        meter_class = meters().get(self.meter.data or "")
        parts = [
            f"ambient {units.say_lux(self.ambient.data or 0)}",
            meter_class.label.lower() if meter_class else "no meter",
            f"lens {readings.LENSES.get(self.lens.data, '').lower()}",
            "other lamp on" if self.other_lamp.data == "1" else "",
            "cold" if self.settled.data == "0" else "settled",
        ]
        return " · ".join(filter(None, parts))

    def reading(self, point: str, lux: float, across_m: float, drop_m: float) -> WallReading:
        """A reading taken as the form says, once it is good."""
        return WallReading(
            point=point,
            lux=lux,
            distance_m=self.distance.data,
            volts=self.volts.data,
            ambient_lx=self.ambient.data or 0.0,
            range_factor=float(self.range_factor.data),
            across_m=across_m,
            drop_m=drop_m,
            settled=self.settled.data == "1",
            meter=self.meter.data,
            wall=(self.wall.data or "").strip(),
            height_m=self.height.data,
            lens=self.lens.data,
            other_lamp=self.other_lamp.data == "1",
        )


def set_up_of(last: WallReading | None, nominal_volts: float) -> dict[str, object]:
    """What a set-up form begins with: how the reading before was taken."""
    if last is None:
        return {"volts": photometry.reference_volts(nominal_volts), "meter": UNKNOWN}
    return {
        "distance": last.distance_m,
        "range_factor": f"{last.range_factor:g}",
        "ambient": last.ambient_lx,
        "volts": last.volts,
        "height": last.height_m,
        "wall": last.wall,
        "meter": UNKNOWN
        if last.is_simulated
        else last.meter or UNKNOWN,  # what comes next may be measured
        "other_lamp": "1" if last.other_lamp else "0",
    }


class TypedInput:
    """One text of the readings table: what was typed, what it means, what is wrong with it."""

    def __init__(self, name: str, quantity: Quantity) -> None:
        self.name, self.quantity, self.typed = name, quantity, request.form.get(name, "").strip()
        self.error, self.meanings = "", ()
        self.value: float | None = None

    meanings: tuple[units.Meaning, ...]

    def understand(self, range_factor: str = "1") -> bool:
        """Turns the typed text into a number, or into an error beside the field; False for an
        error.
        """
        if self.typed:
            try:
                self.value = self.quantity.read(
                    self.typed, fields.unit_system(), {"range_factor": range_factor}
                )
            except units.NotUnderstoodError as error:
                self.error, self.meanings = str(error), error.meanings
        return not self.error


def cell_name(point: str, key: BeamKey) -> str:
    """What the field of a place of a beam is called, and the address that picks it."""
    return f"{point}-{key}"


class ReadingInput(TypedInput):
    """One cell: a reading at a point of a lamp, and the one recorded; where its place is told,
    *across* and *drop*.
    """

    def __init__(self, key: BeamKey, point: str, recorded: WallReading | None) -> None:
        super().__init__(cell_name(point, key), fields.READING)
        self.key, self.point, self.recorded = key, point, recorded
        self.is_placed = point in PLACED_POINTS or point not in readings.POINTS
        prefix = str(key) if point in PLACED_POINTS else self.name
        self.across = TypedInput(f"across-{prefix}", fields.ACROSS)
        self.drop = TypedInput(f"drop-{prefix}", fields.DOWN)

    @property
    def words(self) -> str:
        """The place in words."""
        return readings.words(self.point, self.key.function)

    def refuses_half_a_place(self) -> bool:
        """Whether only one of how far right and how far down was typed with a reading, which is
        then said.
        """
        half = self.is_placed and bool(self.across.typed) is not bool(self.drop.typed)
        if not half or self.value is None:
            return False
        blank = self.drop if self.across.typed else self.across
        blank.error = "Say both how far right and how far down, or neither."
        return True

    @property
    def places(self) -> list[tuple[str, TypedInput]]:
        """The fields that say where it is, with their words."""
        return [("right", self.across), ("down", self.drop)] if self.is_placed else []


@dataclass(frozen=True)
class Doubt:
    """A slip that may have been made with what was typed: in which cells, and what is meant by it
    there.
    """

    slip: Slip
    key: BeamKey
    cells: tuple[ReadingInput, ...]


class ReadingsForm:
    """The whole form: set-up, the places of the peaks, and the cells."""

    def __init__(self, page: StagePage, phase: Phase) -> None:
        self.page, self.phase = page, phase
        self.set_up = SetUpForm(
            data=set_up_of(last_reading(page.record, page.beams), page.job.booking.volts)
            | _wall_told(page)
            | {"lens": stand.lens(page.record, page.beams)}
        )
        self.taken = {key: page.record.readings(key, phase) for key in page.beams}
        self.order = [
            ReadingInput(key, name, self.taken[key].get(name))
            for key in page.beams
            for name in self._names(key)
        ]
        self.at = self._in_hand()
        self.doubts: list[Doubt] = []
        self.error = ""

    def _names(self, key: BeamKey) -> list[str]:
        """The places of a beam: the named ones, the free ones read, and one that is asked for."""
        free = [name for name in self.taken[key] if name not in readings.POINTS]
        asked = [request.args.get("at", ""), *request.form]
        new = {name.removesuffix(f"-{key}") for name in asked if name.endswith(f"-{key}")}
        return [
            *readings.POINTS,
            *free,
            *sorted(name for name in new if readings.FREE.fullmatch(name) and name not in free),
        ]

    def next_free(self, key: BeamKey) -> str:
        """The name of a beam's next free place."""
        used = [
            int(name.removeprefix("free-"))
            for name in self.taken[key]
            if readings.FREE.fullmatch(name)
        ]
        return f"free-{max(used, default=0) + 1}"

    @property
    def current(self) -> ReadingInput:
        """The cell in hand."""
        return next(cell for cell in self.order if cell.name == self.at)

    @property
    def asked(self) -> list[ReadingInput]:
        """The cells that stand in the form: the one in hand, and any others something was typed
        for.
        """
        return [self.current, *(cell for cell in self.order if cell.typed and cell.name != self.at)]

    @property
    def typed(self) -> str:
        """What was typed, by cell, in one text: what is confirmed when it is sent again as it
        is.
        """
        return "; ".join(f"{cell.name}={cell.typed}" for cell in self.order if cell.typed)

    def _in_hand(self) -> str:
        """The cell asked for in the address; else the first typed for; else the first to read."""
        asked = request.args.get("at")
        typed = next((cell.name for cell in self.order if cell.typed), None)
        known = {cell.name for cell in self.order}
        return asked if asked in known and not typed else typed or self.next_after(set())

    def next_after(self, saved: set[str]) -> str:
        """The place to read next: of those still to read the first after what was *saved*, those
        that are read on this car before the others; else simply the next.
        """
        around = self._named_after(saved)
        unread = [
            cell for cell in around if cell.recorded is None and cell.name not in saved
        ] or around
        usual = self._usual_places(saved)
        return next((cell.name for cell in unread if usual(cell)), unread[0].name)

    def _named_after(self, saved: set[str]) -> list[ReadingInput]:
        """The named places from the last *saved* one on, round to it."""
        named = [cell for cell in self.order if cell.point in readings.POINTS]
        names = [cell.name for cell in named]
        last = max((names.index(name) for name in saved if name in names), default=-1)
        return [*named[last + 1 :], *named[: last + 1]]

    def _usual_places(self, saved: set[str]) -> Callable[[ReadingInput], bool]:
        """Which places are read on this car: after the work those that were before it; else all but
        what was passed over for a place behind it, on whichever lamp.
        """
        record = self.page.record
        before = {
            key: record.readings(key, Phase.BEFORE) if self.phase is Phase.AFTER else {}
            for key in self.page.beams
        }
        order, passed_over = list(readings.POINTS), set[str]()
        for key in record.road_beams:
            there = {*record.readings(key, self.phase)}
            there |= {name.removesuffix(f"-{key}") for name in saved if name.endswith(f"-{key}")}
            places = [order.index(point) for point in there if point in order]
            passed_over |= {*order[: max(places, default=0)]} - there
        return lambda cell: (
            cell.point in before[cell.key] if before[cell.key] else cell.point not in passed_over
        )

    def validate(self) -> bool:
        """Whether everything typed is understood, at least one reading was typed, and no slip is
        left to ask about.
        """
        if not self._is_understood():
            return False
        if not any(cell.typed for cell in self.order):
            self.error = "Type at least one reading."
        if self.error:
            return False
        self.doubts = [] if request.form.get("sure") == self.typed else self._doubts()
        return not self.doubts

    def _is_understood(self) -> bool:
        """Whether the set-up and all that was typed is; each fault is said beside its field."""
        good = self.set_up.validate_on_submit()
        chosen = self.set_up.range_factor.data
        range_factor = chosen if chosen in fields.RANGE_FACTORS else "1"
        understood = [cell.understand(range_factor) for cell in self.order]
        understood += [place.understand() for cell in self.order for _, place in cell.places]
        whole_places = [not cell.refuses_half_a_place() for cell in self.order]
        return all([*understood, *whole_places]) and good

    def entries(self) -> list[tuple[BeamKey, Read]]:
        """An entry for each reading typed."""
        repeat = request.form.get("repeat") == "1"
        return [
            (
                cell.key,
                Read(
                    self.phase,
                    cell.typed,
                    self._reading(cell, cell.value),
                    repeat and cell.recorded is not None,
                ),
            )
            for cell in self.order
            if cell.value is not None
        ]

    def _reading(self, cell: ReadingInput, lux: float) -> WallReading:
        return self.set_up.reading(cell.point, lux, *self._place(cell))

    def _place(self, cell: ReadingInput) -> tuple[float, float]:
        """Where a reading was held: as told, else where the same place was before; a brightest
        point nobody placed stays without a place.
        """
        function, traffic = cell.key.function, self.page.market.traffic
        distance_m = self.set_up.distance.data
        if not cell.is_placed:
            return readings.place(cell.point, distance_m, traffic, function)
        if cell.across.value is not None and cell.drop.value is not None:
            return cell.across.value, cell.drop.value
        before = self.page.record.readings(cell.key, Phase.BEFORE).get(cell.point)
        stood = cell.recorded or before
        scale = distance_m / stood.distance_m if stood else 0.0
        return (stood.across_m * scale, stood.drop_m * scale) if stood else (0.0, 0.0)

    def _doubts(self) -> list[Doubt]:
        """Slips that may have been made: what stands already and what was typed, weighed
        together.
        """
        typed: dict[BeamKey, dict[str, ReadingInput]] = {}
        for cell in self.order:
            if cell.value is not None:
                typed.setdefault(cell.key, {})[cell.point] = cell
        return [doubt for key, cells in typed.items() for doubt in self._doubts_of(key, cells)]

    def _doubts_of(self, key: BeamKey, typed: dict[str, ReadingInput]) -> Iterator[Doubt]:
        new = {point: self._reading(cell, cell.value or 0.0) for point, cell in typed.items()}
        stands = {point: reading for point, reading in self.taken[key].items() if point not in new}
        for slip in slips.slips(stands | new, self._known(key, stands)):
            if cells := tuple(typed[place] for place in slip.places if place in typed):
                yield Doubt(slip, key, cells)

    def _known(self, key: BeamKey, stands: dict[str, WallReading]) -> slips.KnownBeam:
        """What readings are held against: where the model is still being readied, it is waited for,
        as no slip may pass for that.
        """
        page = self.page
        known = measuring.known(
            page.record, page.job.booking, key, self.phase, page.market.traffic, stands
        )
        return (
            known if known.volts else replace(known, volts=slips.usual_volts(self._elsewhere(key)))
        )

    def _elsewhere(self, key: BeamKey) -> list[WallReading]:
        """The readings of the phase at the other beams in hand."""
        return [
            reading
            for other, taken in self.taken.items()
            if other != key
            for reading in taken.values()
        ]


def _wall_told(page: StagePage) -> dict[str, object]:
    """The wall's distance where the car was aimed at one before anything was read; nothing else."""
    if not page.beams or last_reading(page.record, page.beams):
        return {}
    away = stand.distance(page.record, page.beams)
    return {} if away.assumed else {"distance": away.value}


def last_reading(record: Record, keys: Sequence[BeamKey]) -> WallReading | None:
    """The reading taken last on any of these lamps, or on another of the car's: same place, same
    distance, same range; the height is these lamps' own.
    """
    last = next(stand.readings_taken(record, keys), None)
    own = stand.height_told(record, keys[0]) if keys else None
    return replace(last, height_m=own.value if own else None) if last else None


def save_readings(page: StagePage, form: ReadingsForm) -> Response | None:
    """Saves what was typed, if the form was sent and is good, and goes on to the place to read
    next.
    """
    if request.method != "POST" or not form.validate():
        return None
    entries = form.entries()
    page.refuse_stale([(payload, frozenset([key])) for key, payload in entries])
    for key, payload in entries:
        jobs.append(writable(), page.job.id, payload, [key])
    writable().commit()
    saved = {cell_name(payload.reading.point, key) for key, payload in entries}
    return redirect(f"{page.url}?at={form.next_after(saved)}", 303)
