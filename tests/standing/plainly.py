"""Whatever the core answers, as plain values: numbers to six figures, findings by what they say."""

from __future__ import annotations

import dataclasses
import datetime as dt
import enum
import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Set
from functools import cache

import numpy as np

from cold_arc.core.findings import Finding
from cold_arc.core.job.record import Entry
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering.uncertainty import BudgetPart

FIGURES, ABOUT = 6, "about"
LEFT_OUT = {"sources"}


class Fitted(float):
    """What a fit ended at: another machine's ends a little elsewhere."""


def plainly(value: object) -> object:
    """A value as JSON can hold it."""
    return _way(type(value))(value)


@cache
def _way(kind: type) -> Callable[[object], object]:
    """How values of a kind are told."""
    for kinds, way in WAYS:
        if issubclass(kind, kinds):
            return way
    if dataclasses.is_dataclass(kind):
        return _fields
    return _parts if issubclass(kind, Iterable) else lambda _: kind.__name__


def _fields(value: object) -> object:
    return {field.name: plainly(getattr(value, field.name)) for field in shown(value)}


def _parts(value: Iterable[object]) -> object:
    return [plainly(part) for part in value]


def shown(value: object) -> Iterator[dataclasses.Field]:
    """What a value says of itself; its sources are held elsewhere."""
    return (field for field in dataclasses.fields(value) if field.name not in LEFT_OUT)


def _number(value: float) -> float | str:
    rounded = float(f"{float(value):.{FIGURES}g}")
    return rounded if np.isfinite(rounded) else str(rounded)


def _finding(value: Finding) -> list[object]:
    said = [value.id, value.level.name, value.about, value.text, value.number, value.limit]
    return [*map(str, said), str(value.advice), plainly(value.values)]


def _array(value: np.ndarray) -> list[object]:
    flat = np.asarray(value, dtype=float).ravel()
    return [list(value.shape), *map(_number, (flat.sum(), flat @ np.arange(1, flat.size + 1)))]


WAYS = (
    (enum.Enum, lambda value: value.name),
    (str, str),
    ((bool, type(None)), lambda value: value),
    (int, int),
    (Fitted, lambda value: {ABOUT: _number(value)}),
    ((float, np.floating), _number),
    ((dt.datetime, dt.date), lambda value: value.isoformat()),
    (Finding, _finding),
    (BudgetPart, lambda value: [value.id, _number(value.share), value.advice, value.shared]),
    (LightSource, lambda value: value.name),
    (Entry, lambda value: value.id),
    (np.ndarray, _array),
    (Mapping, lambda value: sorted([str(key), plainly(held)] for key, held in value.items())),
    (Set, lambda value: sorted(json.dumps(plainly(part)) for part in value)),
)
