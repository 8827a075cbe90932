"""What a record may hold: asked before an entry is stored, and again of whatever is read back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

from cold_arc.core import law, light_source
from cold_arc.core.aim.rules import built_in
from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car import bases, condition
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.lamps import Side
from cold_arc.core.job.codec import UnknownEntryError, from_plain, structure
from cold_arc.core.job.entries import (
    Aimed,
    Booking,
    Checked,
    Clocked,
    ExtraWork,
    FastenerBack,
    FaultFound,
    FaultSought,
    Identified,
    Interlocked,
    NotOnCar,
    OldBulbMeasured,
    Ordered,
    Passed,
    Payload,
    Pictured,
    PlannedFor,
    Proved,
    Rastered,
    Read,
    Readied,
    Reopened,
    Tried,
    WallLaid,
    WallPhotographed,
    Warmed,
    WarmRead,
    WarmStarted,
    target_of,
)
from cold_arc.core.job.record import Unreadable
from cold_arc.core.job.stages import Stage
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering import raster, readings, warming
from cold_arc.core.metering.meters import meters
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.wallphoto.camera import MOST_MARKS
from cold_arc.core.wallphoto.merging import MOST_EXPOSURES
from cold_arc.core.work import access, interlocks, proof, when
from cold_arc.core.work.access import RouteStep
from cold_arc.core.work.diagnosis import faults
from cold_arc.core.work.extras import extras

LONGEST_TEXT, LARGEST_NUMBER = 4000, 1e9
NEAREST_M, FARTHEST_M = 0.3, 100.0
LEAST_V, MOST_V = 1.0, 100.0
LONGEST_BULB_MM = 200.0
MOST_REPEATS, MOST_TURNS = 1000, 50
PHASES = ("before", "after")
AIM_PHASES = ("found", "left")


class ImplausibleError(ValueError):
    """A value no record may hold: no finite number, one beyond all measure, text that is no text, a
    name not known.
    """


def check(value: object) -> None:
    """Raises ImplausibleError for what must never be stored, however deep in a payload it
    stands.
    """
    if is_dataclass(value) and not isinstance(value, type):
        for part in fields(value):
            check(getattr(value, part.name))
        if rule := _RULES.get(type(value)):
            rule(value)
    elif isinstance(value, list | tuple | set | frozenset | dict):
        for part in [*value, *value.values()] if isinstance(value, dict) else value:
            check(part)
    elif isinstance(value, str):
        _check_text(value)
    elif (
        isinstance(value, float | int)
        and not isinstance(value, bool)
        and not abs(value) <= LARGEST_NUMBER
    ):
        raise ImplausibleError(
            "A figure that is not finite, or beyond all measure, is not recorded."
        )


def read(kind: str, version: int, plain: Any) -> Payload | Unreadable:
    """An entry as stored; Unreadable for one of an unknown kind, damaged, or holding what it may
    not.
    """
    try:
        payload = from_plain(kind, version, plain)
        check(payload)
    except UnknownEntryError:
        return Unreadable(str(kind)[:40], "unknown here")
    except Exception as error:  # whatever is stored, the rest of its job must open
        return Unreadable(str(kind)[:40], type(error).__name__)
    return payload


T = TypeVar("T")


def read_or_none(plain: Any, kind: type[T]) -> T | None:
    """Any dataclass of the core from its plain form; None for one that is damaged or holds what it
    may not.
    """
    try:
        value = structure(plain, kind)
        check(value)
    except Exception:  # whatever is stored, everything beside it must open
        return None
    return value


def is_text(text: str) -> bool:
    """Whether every character is one: no half of a pair, no NUL."""
    return not any("\ud800" <= sign <= "\udfff" or sign == "\0" for sign in text)


def _check_text(text: str) -> None:
    if len(text) > LONGEST_TEXT:
        raise ImplausibleError(f"Text of more than {LONGEST_TEXT} characters is not recorded.")
    if not is_text(text):
        raise ImplausibleError("The text holds characters that are none.")


def _must(holds: bool, what: str) -> None:
    if not holds:
        raise ImplausibleError(f"{what} is not recorded.")


def _booking(booking: Booking) -> None:
    _must(
        booking.market in law.markets() and booking.volts in bases.TEST_VOLTS,
        "A market or supply that is not known",
    )


def _identified(identified: Identified) -> None:
    _must(bases.find(identified.base) is not None, "A base that is not in the catalogue")


def _measured(measured: OldBulbMeasured) -> None:
    lengths = [value for value in vars(measured.bulb).values() if value is not None]
    _must(
        all(0 <= length <= LONGEST_BULB_MM for length in lengths) and not measured.bulb.faults(),
        "Such a bulb",
    )


def _condition(condition_seen: UnitCondition) -> None:
    for name, known in condition.CHOICES.items():
        _must(getattr(condition_seen, name) in known, f"A {name} that is not in its list")


def _light_source(source: LightSource) -> None:
    for name, known in light_source.CHOICES.items():
        value = getattr(source, name)
        _must(
            value in known or (name == "optic" and value is None),
            f"A {name} that is not in its list",
        )


def _phase(entry: Read | Rastered | WarmStarted | WarmRead | Warmed | Pictured) -> None:
    _must(entry.phase in PHASES, "A phase that is none")


def _warmed(warmed: Warmed) -> None:
    _phase(warmed)
    _must(len(warmed.samples) <= warming.MOST_SAMPLES, "So long a run")
    times = [at for at, _ in warmed.samples]
    _must(times == sorted(set(times)) and all(lux > 0 for _, lux in warmed.samples), "Such a run")


def _warm_read(warm_read: WarmRead) -> None:
    _phase(warm_read)
    _must(0 < warm_read.lux <= LARGEST_NUMBER, "Light beyond all measure")


def _rastered(rastered: Rastered) -> None:
    _phase(rastered)
    _must(0 < len(rastered.readings) <= raster.MOST_PLACES, "So many readings")


def _tried(tried: Tried) -> None:
    _must(0 <= tried.turn <= MOST_TURNS and bool(tried.source.strip()), "Such a turn")


def _reading(taken: WallReading) -> None:
    _must(readings.is_point(taken.point), "A reading at no known point")
    _must(
        taken.lens in readings.LENSES and (not taken.meter or taken.meter in meters()),
        "Such a lens or meter",
    )
    _must(1 <= taken.repeats <= MOST_REPEATS, "So many repeats")
    _must(
        NEAREST_M <= taken.distance_m <= FARTHEST_M and LEAST_V <= taken.volts <= MOST_V,
        "A reading from nowhere",
    )
    _must(
        taken.lux >= 0 and taken.ambient_lx >= 0 and taken.candela <= LARGEST_NUMBER,
        "Light beyond all measure",
    )


def _clocked(clocked: Clocked) -> None:
    _must(abs(clocked.stopped_deg) <= 360, "More than a full turn")
    _must(clocked.depth_mm is None or 0 < clocked.depth_mm <= LONGEST_BULB_MM, "Such a depth")


def _aimed(aimed: Aimed) -> None:
    _must(aimed.rule in built_in() and aimed.phase in AIM_PHASES, "An aim by no known rule")
    _must(
        NEAREST_M <= aimed.distance_m <= FARTHEST_M and abs(aimed.slope) <= 1, "An aim from nowhere"
    )
    _must(aimed.spacing_m is None or 0 < aimed.spacing_m <= FARTHEST_M, "Such a spacing")
    target_of(aimed)


def _wall_laid(wall_laid: WallLaid) -> None:
    _must(
        wall_laid.rule in built_in() and NEAREST_M <= wall_laid.distance_m <= FARTHEST_M,
        "Such a wall",
    )
    for side in Side:
        target_of(wall_laid.of(side))
        _must(0 < wall_laid.of(side).height_m <= FARTHEST_M, "Such a lamp before a wall")
    _must(wall_laid.mark is None or abs(wall_laid.mark) <= 1, "Such a mark")


def _readied(readied: Readied) -> None:
    _must(set(readied.done) <= set(CHECKS), "Checked what is not on the list")


def _wall_photographed(wall_photographed: WallPhotographed) -> None:
    _must(
        wall_photographed.phase in AIM_PHASES
        and 0 < len(wall_photographed.pictures) <= MOST_EXPOSURES
        and min(wall_photographed.pictures) > 0,
        "Such a photograph",
    )
    _must(
        NEAREST_M <= wall_photographed.distance_m <= FARTHEST_M
        and 0 < wall_photographed.axis_m <= FARTHEST_M,
        "A photograph from nowhere",
    )
    _must(
        wall_photographed.across > 0
        and wall_photographed.down > 0
        and len(wall_photographed.marks) <= MOST_MARKS,
        "A photograph of no size, or so many marks",
    )


def _proved(proved: Proved) -> None:
    known = (
        proved.function in proof.FUNCTIONS
        and proved.result in proof.RESULTS
        and proved.stage_pass in proof.PASSES
    )
    _must(known and proved.engine in proof.ENGINE, "A cell that is not on the board")


MOST_FASTENERS, MINUTES_A_DAY = 1000, 24 * 60


def _route_step(route_step: RouteStep) -> None:
    held = all(0 <= group.count <= MOST_FASTENERS for group in route_step.fasteners)
    _must(0 <= route_step.minutes <= MINUTES_A_DAY and held, "Such a step")
    _must(
        0 <= route_step.risk < len(access.RISKS) and 1 <= route_step.people <= access.MOST_PEOPLE,
        "Such a risk, or so many people",
    )


def _fastener_back(fastener_back: FastenerBack) -> None:
    _must(
        fastener_back.back >= 0 and 0 <= fastener_back.broken <= fastener_back.noted, "Such a count"
    )


def _extra_work(extra_work: ExtraWork) -> None:
    _must(set(extra_work.extras) <= extras().keys(), "Such extra work")


def _ordered(ordered: Ordered) -> None:
    _must(bool(ordered.what.strip()), "A part without a name")


def _planned_for(planned_for: PlannedFor) -> None:
    _must(planned_for.day is None or when.is_planned(planned_for.day), "Such a day")
    _must(
        0 <= planned_for.starts_min < MINUTES_A_DAY
        and 1 <= planned_for.people <= access.MOST_PEOPLE,
        "Such a time",
    )


def _checked(checked: Checked) -> None:
    sizes = [size for size in (checked.fitted_mm, checked.needed_mm) if size is not None]
    _must(
        bool(checked.check) and all(0 < size <= LONGEST_BULB_MM for size in sizes), "Such a check"
    )


def _pictured(pictured: Pictured) -> None:
    _phase(pictured)
    _must(pictured.picture > 0, "Such a picture")


def _interlocked(interlocked: Interlocked) -> None:
    _must(
        interlocked.interlock in interlocks.interlocks() and interlocked.stage_pass in proof.PASSES,
        "Such an interlock",
    )


def _fault_sought(fault_sought: FaultSought) -> None:
    table = faults()
    _must(
        fault_sought.symptom in table.symptoms and set(fault_sought.tried) <= table.causes.keys(),
        "Such a fault",
    )
    for test, answer in fault_sought.answers:
        _must(
            test in table.tests and 0 <= answer < len(table.tests[test].answers), "Such an answer"
        )


def _fault_found(fault_found: FaultFound) -> None:
    _must(
        fault_found.symptom in faults().symptoms and fault_found.cause in faults().causes,
        "Such a fault",
    )


def _not_on_car(not_on_car: NotOnCar) -> None:
    _must(not_on_car.function in proof.FUNCTIONS, "A function that is not on the board")


def _stage(entry: Passed | Reopened) -> None:
    _must(entry.stage in list(Stage), "A stage that is none")


_RULES: dict[type, Callable[[Any], None]] = {
    Booking: _booking,
    Identified: _identified,
    OldBulbMeasured: _measured,
    UnitCondition: _condition,
    LightSource: _light_source,
    Read: _phase,
    Rastered: _rastered,
    WarmStarted: _phase,
    WarmRead: _warm_read,
    Warmed: _warmed,
    Tried: _tried,
    WallReading: _reading,
    Clocked: _clocked,
    Aimed: _aimed,
    WallLaid: _wall_laid,
    Readied: _readied,
    WallPhotographed: _wall_photographed,
    ShopRule: ShopRule.check,
    Proved: _proved,
    RouteStep: _route_step,
    FastenerBack: _fastener_back,
    ExtraWork: _extra_work,
    Ordered: _ordered,
    PlannedFor: _planned_for,
    Checked: _checked,
    Pictured: _pictured,
    Interlocked: _interlocked,
    FaultSought: _fault_sought,
    FaultFound: _fault_found,
    NotOnCar: _not_on_car,
    Passed: _stage,
    Reopened: _stage,
}
