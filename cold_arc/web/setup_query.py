"""A set-up as the query of an address, and back."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, fields
from typing import Any
from urllib.parse import urlencode

from cold_arc.core import units
from cold_arc.core.beam.setup import LIMITS, SetUp, SetUpError
from cold_arc.core.car.bases import find


def parse_setup(args: Mapping[str, str]) -> SetUp:
    """The set-up of a query; SetUpError, naming the field, for what is not one."""
    values: dict[str, Any] = {}
    for field in fields(SetUp):
        text = args.get(field.name, "").strip()
        if field.type == "bool":
            values[field.name] = text in {"1", "y", "on"}
        elif text:
            values[field.name] = _value(field.name, str(field.type), text)
    return SetUp(**values)


def _value(name: str, kind: str, text: str) -> Any:
    if name not in LIMITS:
        base = find(text) if name == "base" else None
        return base.name if base else text
    try:
        number = LIMITS[name].read(text, units.UnitSystem.METRIC, {})
    except units.NotUnderstoodError as error:
        raise SetUpError(name, str(error), error.meanings) from error
    return int(number) if kind == "int" else number


def query(setup: SetUp, **more: object) -> str:
    """The query that reproduces a set-up; what is usual is left out."""
    usual = asdict(SetUp())
    values = {
        name: int(value) if value is True else value
        for name, value in asdict(setup).items()
        if value != usual[name]
    }
    return urlencode(
        {
            **values,
            **{name: value for name, value in more.items() if value not in (None, "", False)},
        }
    )
