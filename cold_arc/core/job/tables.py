"""Jobs as rows for a spreadsheet: the jobs themselves, readings, gains, what the work took.

A row holds plain values, SI; None where nothing is told.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from cold_arc.core.job.car_history import CarVisit
from cold_arc.core.job.entries.hand_over import HandedOver
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.in_socket import by_the_shop
from cold_arc.core.job.later import recheck_due
from cold_arc.core.job.outcome import compare
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.work_took import done_of
from cold_arc.core.metering.comparing import Gain
from cold_arc.core.metering.readings import WallReading

Value = str | float | int | bool | dt.date | None
Row = dict[str, Value]
PER_CENT = 100.0


@dataclass(frozen=True)
class ShopTable:
    """One table: its *title*, its *columns* in order, the rows one job gives."""

    title: str
    columns: tuple[str, ...]
    rows: Callable[[CarVisit], Iterator[Row]]


def _job(visit: CarVisit) -> Iterator[Row]:
    booking, record = visit.booking, visit.record
    end, waits_on = record.latest(HandedOver), record.once(Progress).waits_on
    yield {
        "reference": booking.reference,
        "opened": visit.opened_on,
        "due": booking.due,
        "left": visit.left_on,
        "waits_on": waits_on.label if waits_on else "",
        "vehicle": booking.vehicle,
        "plate": booking.plate,
        "vin": booking.vin,
        "market": booking.market,
        "road_use": booking.road_use,
        "supply_v": booking.volts,
        "visit": visit.back.visit if visit.back else "first",
        "sockets": "; ".join(map(record.front.named, record.sockets)),
        "fitted": "; ".join(visit.fitted),
        "technician": end.technician if end else "",
        "recheck": recheck_due(record),
        "warranty_end": end.warranty_end if end else None,
        "claims": len(visit.claims),
    }


def _readings(visit: CarVisit) -> Iterator[Row]:
    for beam in visit.record.road_beams:
        for phase in Phase:
            for reading in visit.record.readings(beam, phase).values():
                row: Row = {"reference": visit.booking.reference, "beam": str(beam)}
                yield {**row, "phase": phase, **_reading(reading)}


def _reading(reading: WallReading) -> Row:
    return {
        "point": reading.point,
        "lux": reading.lux,
        "candela": reading.candela,
        "right_m": reading.across_m,
        "down_m": reading.drop_m,
        "distance_m": reading.distance_m,
        "supply_v": reading.volts,
        "ambient_lx": reading.ambient_lx,
        "range": reading.range_factor,
        "meter": reading.meter,
        "lens": reading.lens,
        "settled": reading.settled,
        "repeats": reading.repeats,
        "simulated": reading.is_simulated,
    }


def _gains(visit: CarVisit) -> Iterator[Row]:
    record = visit.record
    for beam in record.road_beams:
        put_in = (by_the_shop(record, key) for key in record.givers(beam))
        source = "; ".join(dict.fromkeys(each.name for each in put_in if each))
        for gain in compare(record, beam).gains.values():
            row: Row = {"reference": visit.booking.reference, "vehicle": visit.booking.vehicle}
            yield {**row, "beam": str(beam), "source": source, **_gain(gain)}


def _gain(gain: Gain) -> Row:
    relative, doubt = gain.relative, gain.uncertainty
    return {
        "point": gain.point,
        "before_cd": gain.before_cd,
        "after_cd": gain.after_cd,
        "gain_pct": None if relative is None else relative * PER_CENT,
        "uncertainty_pct": None if doubt is None else doubt * PER_CENT,
        "verdict": gain.verdict,
    }


def _work(visit: CarVisit) -> Iterator[Row]:
    for done in done_of(visit.record):
        yield {
            "reference": visit.booking.reference,
            "vehicle": visit.booking.vehicle,
            "part": done.part,
            "planned_min": done.planned,
            "actual_min": done.actual,
            "fasteners_out": done.out,
            "fasteners_broken": done.broken,
        }


_OF_READING = (
    *("reference", "beam", "phase", "point", "lux", "candela", "right_m", "down_m", "distance_m"),
    *("supply_v", "ambient_lx", "range", "meter", "lens", "settled", "repeats", "simulated"),
)
_OF_JOB = (
    *("reference", "opened", "due", "left", "waits_on", "vehicle", "plate", "vin", "market"),
    *("road_use", "supply_v", "visit", "sockets", "fitted", "technician", "recheck"),
    *("warranty_end", "claims"),
)
_OF_GAIN = (
    *("reference", "vehicle", "beam", "source", "point", "before_cd", "after_cd", "gain_pct"),
    *("uncertainty_pct", "verdict"),
)
_OF_WORK = (
    *("reference", "vehicle", "part", "planned_min", "actual_min", "fasteners_out"),
    "fasteners_broken",
)
# Every table by the name of its file.
TABLES = {
    "jobs": ShopTable("Jobs", _OF_JOB, _job),
    "readings": ShopTable("Readings on the wall", _OF_READING, _readings),
    "gains": ShopTable("Gains, before to after", _OF_GAIN, _gains),
    "work": ShopTable("What the work took", _OF_WORK, _work),
}
