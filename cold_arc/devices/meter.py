"""A lux meter as the program sees it, whatever it is: what its display shows."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, Protocol

from cold_arc.core.errors import ColdArcError
from cold_arc.core.metering.readings import RANGE_FACTORS
from cold_arc.core.units import FOOT_CANDLE_LX

KEYS = ("value", "unit", "range", "hold", "overload", "battery")
UNITS = {"lx": 1.0, "fc": FOOT_CANDLE_LX}
MOST_SHOWN = 1e6


class DisplayError(ColdArcError, ValueError):
    """What a meter sent is no display, in words; *field* names what is wrong."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(f"{field}: {message}")
        self.field = field


@dataclass(frozen=True)
class Display:
    """What a meter shows: *value* in *unit* on a range of factor *range*; None where it is
    overloaded.

    *hold*: the display stands still; *battery* 0 to 1, None where the meter doesn't say; *steady*:
    it has settled.
    """

    value: float | None
    unit: str = "lx"
    range: float = 1.0
    hold: bool = False
    overload: bool = False
    battery: float | None = None
    steady: bool = True

    @property
    def lux(self) -> float | None:
        """What it means, lx."""
        return None if self.value is None else self.value * self.range * UNITS[self.unit]

    @property
    def typed(self) -> str:
        """How one would type it."""
        return "" if self.value is None else f"{self.value:g} {self.unit} x{self.range:g}"

    def plain(self) -> dict[str, Any]:
        """As JSON takes it."""
        return asdict(self) | {"lux": self.lux, "typed": self.typed}


class Meter(Protocol):
    """Anything that shows a display."""

    def display(self) -> Display | None:
        """What it shows now; None where nothing has come from it lately."""
        ...


def parse(payload: object) -> Display:
    """A display from what a meter sent as JSON: value, and what it knows of unit, range, hold,
    overload, battery.

    Raises DisplayError for what can't be one; unknown keys are refused.
    """
    if not isinstance(payload, Mapping):
        raise DisplayError("body", 'must be an object such as {"value": 410, "unit": "lx"}')
    if unknown := [str(key) for key in payload if key not in KEYS]:
        raise DisplayError(unknown[0][:30], "is not known")
    unit, factor = payload.get("unit", "lx"), _range(payload)
    if unit not in UNITS:
        raise DisplayError("unit", "must be lx or fc")
    overload, hold = (_flag(payload, name) for name in ("overload", "hold"))
    value = None if overload else _figure(payload, "value", None)
    if value is None and not overload:
        raise DisplayError("value", "is missing")
    return Display(value, unit, factor, hold, overload, _battery(payload))


def _range(payload: Mapping[Any, Any]) -> float:
    """The factor of the range the meter stands at."""
    factor = _figure(payload, "range", 1.0)
    if factor is None or factor not in RANGE_FACTORS:
        raise DisplayError("range", f"must be one of {', '.join(map(str, RANGE_FACTORS))}")
    return factor


def _battery(payload: Mapping[Any, Any]) -> float | None:
    """How full the meter's battery is, 0 to 1; None where it does not say."""
    if "battery" not in payload:
        return None
    battery = _figure(payload, "battery", None)
    if battery is None or not 0 <= battery <= 1:
        raise DisplayError("battery", "must be from 0 to 1")
    return battery


def _flag(values: Mapping[Any, Any], name: str) -> bool:
    flag = values.get(name, False)
    if not isinstance(flag, bool):
        raise DisplayError(name, "must be true or false")
    return flag


def _figure(values: Mapping[Any, Any], name: str, default: float | None) -> float | None:
    value = values.get(name, default)
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise DisplayError(name, "must be a finite figure")
    if not (value == default or 0 <= value <= MOST_SHOWN):
        raise DisplayError(name, f"must be from 0 to {MOST_SHOWN:g}")
    return float(value)
