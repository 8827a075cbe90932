"""What a record may hold: asked before an entry is stored, and again of whatever is read back."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from functools import lru_cache
from typing import Any, TypeVar, cast

from cold_arc.core import electrical, light_source
from cold_arc.core.aim.shop_rules import ShopRule
from cold_arc.core.car import condition
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.job.codec import UnknownEntryError, from_plain, structure
from cold_arc.core.job.entries.kind import (
    FARTHEST_M,
    LARGEST_NUMBER,
    LONGEST_TEXT,
    MINUTES_A_DAY,
    NEAREST_M,
    ImplausibleError,
    Payload,
    must,
)
from cold_arc.core.job.record import Unreadable
from cold_arc.core.light_source import LightSource
from cold_arc.core.metering import readings
from cold_arc.core.metering.meters import meters
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.work import access
from cold_arc.core.work.access import RouteStep

LEAST_V, MOST_V = 1.0, 100.0
MOST_REPEATS = 1000
# How much is told of an entry that can't be read: its kind, and why, characters.
MOST_KIND, MOST_WHY = 40, 300
# What holds parts, each of which is looked at.
MANY = (list, tuple, set, frozenset)


def check(value: object) -> None:
    """Raises ImplausibleError for what must never be stored, however deep in a payload it
    stands.
    """
    if is_dataclass(value) and not isinstance(value, type):
        for part in fields(value):
            check(getattr(value, part.name))
        _check_facts(value)
    elif isinstance(value, dict):
        check([*value, *value.values()])
    elif isinstance(value, MANY):
        for part in value:
            check(part)
    elif isinstance(value, str):
        _check_text(value)
    elif isinstance(value, float | int):
        _check_figure(value)


def _check_facts(value: object) -> None:
    """What an entry, or a fact of the core, is held to as a whole."""
    if isinstance(value, Payload):
        value.must_hold()
    elif rule := _RULES.get(type(value)):
        rule(value)


def _check_figure(value: float) -> None:
    if not isinstance(value, bool) and not abs(value) <= LARGEST_NUMBER:
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
        return Unreadable(str(kind)[:MOST_KIND], "unknown here")
    except Exception as error:  # whatever is stored, the rest of its job must open
        return Unreadable(str(kind)[:MOST_KIND], f"{type(error).__name__}: {error}"[:MOST_WHY])
    return payload


T = TypeVar("T")


def read_or_none(plain: Any, kind: type[T]) -> T | None:
    """Any frozen dataclass of the core from its plain form; None for one that is damaged or holds
    what it may not. What is the same as before is not read again.
    """
    try:
        return cast("T | None", _read_text(json.dumps(plain), cast(Hashable, kind)))
    except (TypeError, ValueError, RecursionError):  # nothing that was ever stored
        return None


@lru_cache(maxsize=8192)
def _read_text(text: str, kind: Any) -> Any:
    try:
        value: Any = structure(json.loads(text), kind)
        check(value)
    except Exception:  # whatever is stored, everything beside it must open
        return None
    return value


NO_SIGN = re.compile("[\ud800-\udfff\0]")


def is_text(text: str) -> bool:
    """Whether every character is one: no half of a pair, no NUL."""
    return NO_SIGN.search(text) is None


def _check_text(text: str) -> None:
    if len(text) > LONGEST_TEXT:
        raise ImplausibleError(f"Text of more than {LONGEST_TEXT} characters is not recorded.")
    if not is_text(text):
        raise ImplausibleError("The text holds characters that are none.")


def _condition(condition_seen: UnitCondition) -> None:
    for name, known in condition.CHOICES.items():
        must(getattr(condition_seen, name) in known, f"A {name} that is not in its list")


def _light_source(source: LightSource) -> None:
    for name, known in light_source.CHOICES.items():
        value = getattr(source, name)
        must(
            value in known or (name == "optic" and value is None),
            f"A {name} that is not in its list",
        )

    lit = source.watts > 0 and source.claimed_lm > 0
    must(lit and source.price >= 0, "A source of no light, or such a price,")


def _reading(taken: WallReading) -> None:
    must(readings.is_point(taken.point), "A reading at no known point")
    must(
        taken.lens in readings.LENSES and (not taken.meter or taken.meter in meters()),
        "Such a lens or meter",
    )
    must(1 <= taken.repeats <= MOST_REPEATS, "So many repeats")
    must(
        NEAREST_M <= taken.distance_m <= FARTHEST_M and LEAST_V <= taken.volts <= MOST_V,
        "A reading from nowhere",
    )
    must(
        taken.lux >= 0 and taken.ambient_lx >= 0 and taken.candela <= LARGEST_NUMBER,
        "Light beyond all measure",
    )


def _route_step(route_step: RouteStep) -> None:
    held = all(
        0 <= group.count <= (group.most or group.count) <= access.MOST_FASTENERS
        for group in route_step.fasteners
    )
    must(route_step.kind in access.STEP_KINDS and route_step.cover in access.COVERS, "Such a step")
    must(0 <= route_step.minutes <= MINUTES_A_DAY and held, "Such a step")
    must(
        0 <= route_step.risk < len(access.RISKS) and 1 <= route_step.people <= access.MOST_PEOPLE,
        "Such a risk, or so many people",
    )


def _supply(facts: SupplyFacts) -> None:
    for name, (low, high) in electrical.LIMITS.items():
        figure = getattr(facts, name)
        must(figure is None or low <= figure <= high, f"A feed of such {name}")


# What the core's own facts are held to, wherever in an entry they stand.
_RULES: dict[type, Callable[[Any], None]] = {
    UnitCondition: _condition,
    LightSource: _light_source,
    WallReading: _reading,
    RouteStep: _route_step,
    ShopRule: ShopRule.check,
    SupplyFacts: _supply,
}
