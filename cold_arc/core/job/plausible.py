"""What a record may hold: asked before an entry is stored, and again of whatever is read back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar

from cold_arc.core import law
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
    Measured,
    NotOnCar,
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
from cold_arc.core.match import light_source
from cold_arc.core.match.light_source import LightSource
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
    """A value no record may hold: no finite number, one beyond all measure, text that is no text, a name not known."""


def check(value: object) -> None:
    """Raises ImplausibleError for what must never be stored, however deep in a payload it stands."""
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
    elif isinstance(value, float | int) and not isinstance(value, bool) and not abs(value) <= LARGEST_NUMBER:
        raise ImplausibleError("A figure that is not finite, or beyond all measure, is not recorded.")


def read(kind: str, version: int, plain: Any) -> Payload | Unreadable:
    """An entry as stored; Unreadable for one of an unknown kind, damaged, or holding what it may not."""
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
    """Any dataclass of the core from its plain form; None for one that is damaged or holds what it may not."""
    try:
        found = structure(plain, kind)
        check(found)
    except Exception:  # whatever is stored, everything beside it must open
        return None
    return found


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


def _booking(it: Booking) -> None:
    _must(it.market in law.markets() and it.volts in bases.TEST_VOLTS, "A market or supply that is not known")


def _identified(it: Identified) -> None:
    _must(bases.find(it.base) is not None, "A base that is not in the catalogue")


def _measured(it: Measured) -> None:
    lengths = [value for value in vars(it.bulb).values() if value is not None]
    _must(all(0 <= length <= LONGEST_BULB_MM for length in lengths) and not it.bulb.faults(), "Such a bulb")


def _condition(it: UnitCondition) -> None:
    for name, known in condition.CHOICES.items():
        _must(getattr(it, name) in known, f"A {name} that is not in its list")


def _light_source(it: LightSource) -> None:
    for name, known in light_source.CHOICES.items():
        value = getattr(it, name)
        _must(value in known or (name == "optic" and value is None), f"A {name} that is not in its list")


def _phase(it: Read | Rastered | WarmStarted | WarmRead | Warmed | Pictured) -> None:
    _must(it.phase in PHASES, "A phase that is none")


def _warmed(it: Warmed) -> None:
    _phase(it)
    _must(len(it.samples) <= warming.MOST_SAMPLES, "So long a run")
    times = [at for at, _ in it.samples]
    _must(times == sorted(set(times)) and all(lux > 0 for _, lux in it.samples), "Such a run")


def _warm_read(it: WarmRead) -> None:
    _phase(it)
    _must(0 < it.lux <= LARGEST_NUMBER, "Light beyond all measure")


def _rastered(it: Rastered) -> None:
    _phase(it)
    _must(0 < len(it.readings) <= raster.MOST_PLACES, "So many readings")


def _tried(it: Tried) -> None:
    _must(0 <= it.turn <= MOST_TURNS and bool(it.source.strip()), "Such a turn")


def _reading(taken: WallReading) -> None:
    _must(readings.is_point(taken.point), "A reading at no known point")
    _must(taken.lens in readings.LENSES and (not taken.meter or taken.meter in meters()), "Such a lens or meter")
    _must(1 <= taken.repeats <= MOST_REPEATS, "So many repeats")
    _must(NEAREST_M <= taken.distance_m <= FARTHEST_M and LEAST_V <= taken.volts <= MOST_V, "A reading from nowhere")
    _must(taken.lux >= 0 and taken.ambient_lx >= 0 and taken.candela <= LARGEST_NUMBER, "Light beyond all measure")


def _clocked(it: Clocked) -> None:
    _must(abs(it.stopped_deg) <= 360, "More than a full turn")
    _must(it.depth_mm is None or 0 < it.depth_mm <= LONGEST_BULB_MM, "Such a depth")


def _aimed(it: Aimed) -> None:
    _must(it.rule in built_in() and it.phase in AIM_PHASES, "An aim by no known rule")
    _must(NEAREST_M <= it.distance_m <= FARTHEST_M and abs(it.slope) <= 1, "An aim from nowhere")
    _must(it.spacing_m is None or 0 < it.spacing_m <= FARTHEST_M, "Such a spacing")
    target_of(it)


def _wall_laid(it: WallLaid) -> None:
    _must(it.rule in built_in() and NEAREST_M <= it.distance_m <= FARTHEST_M, "Such a wall")
    for side in Side:
        target_of(it.of(side))
        _must(0 < it.of(side).height_m <= FARTHEST_M, "Such a lamp before a wall")
    _must(it.mark is None or abs(it.mark) <= 1, "Such a mark")


def _readied(it: Readied) -> None:
    _must(set(it.done) <= set(CHECKS), "Checked what is not on the list")


def _wall_photographed(it: WallPhotographed) -> None:
    _must(
        it.phase in AIM_PHASES and 0 < len(it.pictures) <= MOST_EXPOSURES and min(it.pictures) > 0, "Such a photograph"
    )
    _must(NEAREST_M <= it.distance_m <= FARTHEST_M and 0 < it.axis_m <= FARTHEST_M, "A photograph from nowhere")
    _must(it.across > 0 and it.down > 0 and len(it.marks) <= MOST_MARKS, "A photograph of no size, or so many marks")


def _proved(it: Proved) -> None:
    known = it.function in proof.FUNCTIONS and it.result in proof.RESULTS and it.stage_pass in proof.PASSES
    _must(known and it.engine in proof.ENGINE, "A cell that is not on the board")


MOST_FASTENERS, MINUTES_A_DAY = 1000, 24 * 60


def _route_step(it: RouteStep) -> None:
    held = all(0 <= group.count <= MOST_FASTENERS for group in it.fasteners)
    _must(0 <= it.minutes <= MINUTES_A_DAY and held, "Such a step")
    _must(0 <= it.risk < len(access.RISKS) and 1 <= it.people <= access.MOST_PEOPLE, "Such a risk, or so many people")


def _fastener_back(it: FastenerBack) -> None:
    _must(it.back >= 0 and 0 <= it.broken <= it.noted, "Such a count")


def _extra_work(it: ExtraWork) -> None:
    _must(set(it.extras) <= extras().keys(), "Such extra work")


def _ordered(it: Ordered) -> None:
    _must(bool(it.what.strip()), "A part without a name")


def _planned_for(it: PlannedFor) -> None:
    _must(it.day is None or when.is_planned(it.day), "Such a day")
    _must(0 <= it.starts_min < MINUTES_A_DAY and 1 <= it.people <= access.MOST_PEOPLE, "Such a time")


def _checked(it: Checked) -> None:
    sizes = [size for size in (it.fitted_mm, it.needed_mm) if size is not None]
    _must(bool(it.check) and all(0 < size <= LONGEST_BULB_MM for size in sizes), "Such a check")


def _pictured(it: Pictured) -> None:
    _phase(it)
    _must(it.picture > 0, "Such a picture")


def _interlocked(it: Interlocked) -> None:
    _must(it.interlock in interlocks.interlocks() and it.stage_pass in proof.PASSES, "Such an interlock")


def _fault_sought(it: FaultSought) -> None:
    table = faults()
    _must(it.symptom in table.symptoms and set(it.tried) <= table.causes.keys(), "Such a fault")
    for test, answer in it.answers:
        _must(test in table.tests and 0 <= answer < len(table.tests[test].answers), "Such an answer")


def _fault_found(it: FaultFound) -> None:
    _must(it.symptom in faults().symptoms and it.cause in faults().causes, "Such a fault")


def _not_on_car(it: NotOnCar) -> None:
    _must(it.function in proof.FUNCTIONS, "A function that is not on the board")


def _stage(it: Passed | Reopened) -> None:
    _must(it.stage in list(Stage), "A stage that is none")


_RULES: dict[type, Callable[[Any], None]] = {
    Booking: _booking,
    Identified: _identified,
    Measured: _measured,
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
