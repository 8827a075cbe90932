"""Every question that a record can be asked, asked: whatever public function or method of the
core's takes nothing but a record and what is in it.
"""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache, cached_property
from itertools import product

import cold_arc.core.job as job_rules
import cold_arc.core.match as match_rules
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Drive, Traffic
from cold_arc.core.job import carwork, proofs, timing
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.needed import LEAVE, finish, needs
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import UnitSystem

Asked = Callable[..., object]
# What works beams out, which takes seconds; or is asked of what no record holds.
LEFT_OUT = {"own_fit", "predicted_ratios", "once", "told_by"}


class Job:
    """A record and what may be asked about."""

    def __init__(self, record: Record) -> None:
        self.record, self.progress = record, record.once(Progress)

    def choices(self, name: str, kind: str) -> Sequence[object] | None:
        """What may stand for a parameter; None where nothing of a record does."""
        known = self._by_name.get(name)
        return known if known is not None else self._by_kind.get(kind)

    @cached_property
    def _by_kind(self) -> Mapping[str, Sequence[object]]:
        record = self.record
        both: dict[str, list[BeamKey]] = {}
        for beam in record.beams:
            both.setdefault(beam.name, []).append(beam)
        booking = record.booking
        assert booking is not None
        return {
            "Record": [record],
            "Progress": [self.progress],
            "Booking": [booking],
            "Traffic": [Traffic.RIGHT if booking.drive is Drive.LEFT else Traffic.LEFT],
            "SocketKey": record.sockets,
            "UnitKey": record.units,
            "BeamKey": record.beams,
            "Key": [*record.sockets, *record.units, *record.beams],
            "UnitKey | SocketKey": [*record.sockets, *record.units],
            "Sequence[BeamKey]": list(both.values()),
            "Iterable[BeamKey]": list(both.values()),
            "Iterable[SocketKey]": [record.sockets],
            "Sequence[SocketKey]": [record.sockets],
            "Iterable[UnitKey]": [record.units],
            "Stage": list(Stage),
            "Phase": list(Phase),
            "AimPhase": list(AimPhase),
            "UnitSystem": list(UnitSystem),
            "CarPlan": [record.plan],
            "list[Task]": [carwork.tasks(record, record.plan)],
            "Sequence[Task]": [carwork.tasks(record, record.plan)],
            "Mapping[str, Learnt]": [{}],
            "Opening": record.plan.openings[:3],
            "Step": record.once(Handwork).steps,
        }

    @cached_property
    def _by_name(self) -> Mapping[str, Sequence[object]]:
        return {
            "stage_pass": [proofs.OPEN, proofs.CLOSED],
            "act": [LEAVE, "close", *map(finish, Stage)],
            "need_id": list(needs()),
            "currency": ["EUR"],
            "people": [1, 2],
            "spent": [timing.actual_min(self.record)],
            "when": ["before", "open", "after"],
        }

    def answers(self) -> Iterator[tuple[str, object]]:
        """Each question in words, and its answer."""
        for where, asked in _functions():
            yield from self._ask(where, asked)
        for about in (self.record, self.progress, self.record.once(Handwork)):
            for name in _members(type(about)):
                asked = getattr(about, name)
                where = f"{type(about).__name__}.{name}"
                if callable(asked):
                    yield from self._ask(where, asked)
                else:
                    yield where, asked

    def _ask(self, where: str, asked: Asked) -> Iterator[tuple[str, object]]:
        offered = self._offered(asked)
        for given in product(*offered) if offered is not None else ():
            named = ", ".join(_named(part) for part in given if _named(part))
            yield f"{where}({named})", _answer(asked, given)

    def _offered(self, asked: Asked) -> list[Sequence[object]] | None:
        """What each parameter may be; None where one can be nothing of a record's."""
        offered = []
        for name, kind, needed in _parameters(asked):
            choices = self.choices(name, kind)
            if choices is None and needed:
                return None
            if choices is not None and needed:
                offered.append(choices)
        return offered


def _answer(asked: Asked, given: Sequence[object]) -> object:
    """What is answered, to its end; what it is refused by, where it may not be asked so."""
    try:
        answer = asked(*given)
        return list(answer) if isinstance(answer, Iterator) else answer
    except AssertionError as error:
        return type(error).__name__


@cache
def _is_one(kind: type) -> bool:
    return issubclass(kind, Record | Progress | Mapping)


def _named(given: object) -> str:
    """A thing's name in a question; "" for what there is one of."""
    if _is_one(type(given)) or hasattr(given, "vehicle"):
        return ""
    if isinstance(given, list | tuple):
        return "+".join(_named(part) for part in given)[:60]
    return str(getattr(given, "id", None) or getattr(given, "text", None) or given)[:60]


@cache
def _functions() -> list[tuple[str, Asked]]:
    """The public functions of the job's rules and of matching's."""
    return [
        (f"{module.removeprefix('cold_arc.core.')}.{name}", function)
        for package in (job_rules, match_rules)
        for _, module, _ in pkgutil.walk_packages(package.__path__, f"{package.__name__}.")
        for name, function in vars(importlib.import_module(module)).items()
        if inspect.isfunction(function) and function.__module__ == module
        if name[0] != "_" and name not in LEFT_OUT
        if {"Record", "Progress"} & {kind for _, kind, _ in _parameters(function)}
    ]


def _members(kind: type) -> list[str]:
    return [name for name in vars(kind) if name[0] != "_" and name not in LEFT_OUT]


def _parameters(asked: Asked) -> list[tuple[str, str, bool]]:
    """Each parameter: its name, its kind as annotated, whether it must be given."""
    return [
        (name, str(parameter.annotation), parameter.default is inspect.Parameter.empty)
        for name, parameter in inspect.signature(asked).parameters.items()
    ]
