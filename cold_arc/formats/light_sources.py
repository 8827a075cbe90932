"""The shelf of light sources as CSV and JSON, in and out, under one published schema; faults are
told row by row.

JSON: ``{"format": "cold-arc-light-sources", "version": 1, "light_sources": [{...}, ...]}``. CSV:
the same fields as columns, a header first; a blank cell is left out, yes and no for flags, adapters
separated by semicolons.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import MISSING, Field, asdict, dataclass, fields, replace
from functools import cache
from typing import Any

from jsonschema import Draft202012Validator, ValidationError

from cold_arc.core.car.bases import find
from cold_arc.core.job.codec import structure
from cold_arc.core.job.plausible import is_text
from cold_arc.core.light_source import (
    CHOICES,
    LIMITS,
    LISTS,
    LONGEST_TEXT,
    LightSource,
    faults,
)
from cold_arc.core.units import NotUnderstoodError, UnitSystem, write_figure
from cold_arc.formats.table import parted_by

# A cell that begins so is a formula to a spreadsheet; written, it gets an apostrophe before it.
FORMULA = re.compile(r"'*[=+\-@\t\r]")
FORMAT, VERSION = "cold-arc-light-sources", 1
SCHEMA_ID = "urn:cold-arc:light-sources:1"
MOST_ROWS = 2000
YES, NO = {"yes", "true", "1", "y"}, {"no", "false", "0", "n"}
_FIELDS = {field.name: field for field in fields(LightSource)}
_JSON_TYPES = {"str": "string", "float": "number", "int": "integer", "bool": "boolean"}


@dataclass(frozen=True)
class RowFault:
    """What is wrong, in which row (CSV: the line of the file; JSON: counted from 1; 0: the file)
    and field.
    """

    row: int
    field: str
    message: str


@dataclass(frozen=True)
class ShelfFile:
    """What a file gave: the good sources, and every fault of the others."""

    sources: tuple[LightSource, ...]
    faults: tuple[RowFault, ...]


def _required(field: Field[Any]) -> bool:
    """Whether no row may leave it out; the base only a bulb needs."""
    return field.default is MISSING and field.name != "base"


def _is_list(field: Field[Any]) -> bool:
    return str(field.type).startswith("tuple")


def _property(field: Field[Any]) -> dict[str, Any]:
    """One field's part of the schema."""
    kind = str(field.type)
    if _is_list(field):
        words = {"enum": [*LISTS[field.name]]} if field.name in LISTS else {}
        item = {"type": "string", "maxLength": LONGEST_TEXT["base"]} | words
        return {"type": "array", "items": item, "maxItems": 20}
    name = _JSON_TYPES[kind.removesuffix(" | None")]
    schema: dict[str, Any] = {"type": [name, "null"] if kind.endswith("None") else name}
    if field.name in CHOICES:
        optional = [None] if kind.endswith("None") else []
        schema["enum"] = [*CHOICES[field.name], *optional]
    if field.name in LIMITS:
        schema["minimum"], schema["maximum"] = LIMITS[field.name].low, LIMITS[field.name].high
    if field.name in LONGEST_TEXT:
        schema["maxLength"] = LONGEST_TEXT[field.name]
    if field.name == "name":
        schema["minLength"], schema["pattern"] = 1, "\\S"
    return schema


@cache
def schema() -> dict[str, Any]:
    """The published JSON schema (2020-12) of the file; made from the core's own fields, choices and
    limits.
    """
    row = {
        "type": "object",
        "properties": {field.name: _property(field) for field in _FIELDS.values()},
        "required": [field.name for field in _FIELDS.values() if _required(field)],
        "additionalProperties": False,
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": SCHEMA_ID,
        "title": "Light sources of a headlight retrofit shop",
        "type": "object",
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "light_sources": {
                "type": "array",
                "items": {"$ref": "#/$defs/light_source"},
                "maxItems": MOST_ROWS,
            },
        },
        "required": ["format", "version", "light_sources"],
        "$defs": {"light_source": row},
    }


@cache
def _row_validator() -> Draft202012Validator:
    return Draft202012Validator(schema()["$defs"]["light_source"])


def _words(error: ValidationError) -> tuple[str, str]:
    """A schema's complaint as field and plain words."""
    name = str(error.absolute_path[0]) if error.absolute_path else ""
    if error.validator == "type" and name in LIMITS and isinstance(error.instance, str):
        return name, f"Must be a number. {_unread(name, error.instance) or ''}".strip()
    asked = error.validator_value
    if error.validator in ("minimum", "maximum"):
        return name, f"Must be {LIMITS[name].words}."
    if error.validator == "enum":
        return name, f"Must be one of {', '.join(map(str, filter(None, asked)))}."
    plain = {
        "type": f"Must be {_types(asked)}.",
        "minLength": "Must not be empty.",
        "pattern": "Must not be empty.",
        "maxLength": f"Must be no longer than {asked} characters.",
        "maxItems": f"Must be no more than {asked}.",
    }
    return name, plain.get(str(error.validator), error.message)


def _types(asked: Any) -> str:
    """The types a schema asks for: "a string or empty"."""
    types = asked if isinstance(asked, list) else [asked]
    return " or ".join("empty" if kind == "null" else f"a {kind}" for kind in types)


def _row_faults(row: Any) -> Iterator[tuple[str, str]]:
    """Everything wrong with one row, as field and words."""
    if not isinstance(row, dict):
        yield "", "Must be an object of fields."
        return
    yield from _field_faults(row)
    for error in _row_validator().iter_errors(row):
        if error.validator not in _TOLD_ABOVE and error.instance is not None:
            yield _words(error)
    yield from _base_faults(row)
    for name, value in row.items():
        if not all(map(is_text, _texts(value))):
            yield name, "Holds characters that are none."


def _field_faults(row: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """The fields of a row that are none, and those it lacks."""
    for name in row.keys() - _FIELDS.keys():
        yield str(name)[:40], "Is not a field here." if name else "More cells than columns."
    for name, field in _FIELDS.items():
        if _required(field) and row.get(name) is None:
            yield name, "Is missing."


# What a schema complains of and a row's own words say already.
_TOLD_ABOVE = ("required", "additionalProperties")


def _texts(value: Any) -> list[str]:
    """The texts of a cell."""
    return [
        text for text in (value if isinstance(value, list) else [value]) if isinstance(text, str)
    ]


def _base_faults(row: dict[str, Any]) -> Iterator[tuple[str, str]]:
    """Names that should be bases and are none."""
    adapters = row.get("adapters")
    named = [("base", row.get("base")), ("plug", row.get("plug"))]
    named += [("adapters", name) for name in adapters] if isinstance(adapters, list) else []
    for field, name in named:
        if isinstance(name, str) and name and find(name) is None:
            yield field, f"“{name[:20]}” is not a base in the catalogue."


def _source(row: dict[str, Any]) -> LightSource:
    """A row without faults as a light source, bases by their catalogue names."""
    values = {"base": ""} | {name: value for name, value in row.items() if value is not None}
    source = structure(values, LightSource)
    return replace(
        source,
        name=source.name.strip(),
        base=_catalogue_name(source.base),
        plug=_catalogue_name(source.plug),
        adapters=tuple(map(_catalogue_name, source.adapters)),
    )


def _catalogue_name(name: str) -> str:
    base = find(name) if name else None
    return base.name if base else name


def _read_rows(rows: Iterator[tuple[int, Any]]) -> ShelfFile:
    sources, row_faults = [], []
    for number, row in rows:
        wrong = list(_row_faults(row))
        if not wrong:
            source = _source(row)
            wrong = list(faults(source).items())
            if not wrong:
                sources.append(source)
        row_faults += [RowFault(number, name, message) for name, message in wrong]
    return ShelfFile(tuple(sources), tuple(row_faults))


def _refused(message: str) -> ShelfFile:
    return ShelfFile((), (RowFault(0, "", message),))


def _text(data: bytes) -> str | None:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return None


def read_json(data: bytes) -> ShelfFile:
    """The sources in a JSON file, and the faults of the rows that are none; nothing is raised."""
    text = _text(data)
    if text is None:
        return _refused("The file is not UTF-8 text.")
    try:
        table = json.loads(
            text, parse_constant=str
        )  # NaN and Infinity are no figures: refused in their row
    except (ValueError, RecursionError) as error:
        return _refused(f"This is not JSON: {error}.")
    if (
        not isinstance(table, dict)
        or table.get("format") != FORMAT
        or table.get("version") != VERSION
    ):
        return _refused(f"Needs “format”: “{FORMAT}” and “version”: {VERSION} at the top.")
    rows = table.get("light_sources")
    if not isinstance(rows, list) or len(rows) > MOST_ROWS:
        return _refused(f"Needs “light_sources”: a list of up to {MOST_ROWS} rows.")
    return _read_rows(iter(enumerate(rows, 1)))


def read_csv(data: bytes) -> ShelfFile:
    """The sources in a CSV file, and the faults of the rows that are none; nothing is raised."""
    text = _text(data)
    if text is None:
        return _refused("The file is not UTF-8 text. Save it as CSV UTF-8.")
    delimiter = parted_by(text.partition("\n")[0])
    reader = csv.DictReader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    try:
        rows = [(reader.line_num, row) for row in reader]
    except csv.Error as error:
        return _refused(f"Line {reader.line_num}: {error}.")
    if faults := _header_faults(reader.fieldnames or ()):
        return ShelfFile((), faults)
    if len(rows) > MOST_ROWS:
        return _refused(f"Needs no more than {MOST_ROWS} rows.")
    return _read_rows((line, _cells(row)) for line, row in rows)


def _header_faults(header: Sequence[str | None]) -> tuple[RowFault, ...]:
    """What is wrong with the names of the columns."""
    unknown = [name or "" for name in header if name not in _FIELDS]
    missing = [name for name, field in _FIELDS.items() if _required(field) and name not in header]
    words = [f"Unknown column “{name[:40]}”." for name in unknown]
    words += [f"Column “{name}” is missing." for name in missing]
    return tuple(RowFault(1, "", text) for text in words)


def _cells(row: dict[Any, Any]) -> dict[str, Any]:
    """A CSV row with its cells as the schema's types; one that does not read as such stays text, to
    be refused.
    """
    cells = {
        name: _unguarded(text.strip())
        for name, text in row.items()
        if isinstance(text, str) and text.strip()
    }
    typed = {name: _cell(_FIELDS[name], text) for name, text in cells.items() if name in _FIELDS}
    return typed | ({"": "more cells than columns"} if None in row else {})


def _unguarded(text: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from taking it for a formula."""
    return text[1:] if text.startswith("'") and FORMULA.match(text) else text


def _cell(field: Field[Any], text: str) -> Any:
    kind = str(field.type).removesuffix(" | None")
    if _is_list(field):
        return [part.strip() for part in text.split(";") if part.strip()]
    if kind == "bool":
        return True if text.lower() in YES else False if text.lower() in NO else text
    if kind in ("float", "int"):
        return _number(field.name, text)
    return text


def _number(name: str, text: str) -> Any:
    """A number, whole ones as such; the text itself where it is none, or more than one."""
    try:
        value = LIMITS[name].read(text, UnitSystem.METRIC, {})
    except NotUnderstoodError:
        return text
    return int(value) if value.is_integer() else value


def _unread(name: str, text: Any) -> str | None:
    """Why a figure's cell was left as text."""
    try:
        LIMITS[name].read(str(text), UnitSystem.METRIC, {})
    except NotUnderstoodError as error:
        return str(error)
    return None


def _plain(source: LightSource) -> dict[str, Any]:
    """What a file says of a source: everything but what is not known."""
    return {
        name: list(value) if isinstance(value, tuple) else value
        for name, value in asdict(source).items()
        if value is not None
    }


def write_json(sources: Iterator[LightSource] | list[LightSource]) -> bytes:
    """The sources as JSON."""
    table = {
        "format": FORMAT,
        "version": VERSION,
        "light_sources": [_plain(source) for source in sources],
    }
    return (json.dumps(table, indent=2, ensure_ascii=False) + "\n").encode()


def write_csv(sources: Iterator[LightSource] | list[LightSource]) -> bytes:
    """The sources as CSV, every field a column."""
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, list(_FIELDS), restval="")
    writer.writeheader()
    for source in sources:
        writer.writerow({name: _said(value) for name, value in _plain(source).items()})
    return out.getvalue().encode()


def _said(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return "; ".join(value)
    if isinstance(value, str) and FORMULA.match(value):
        return f"'{value}"
    return write_figure(value) if isinstance(value, float) else str(value)


READERS = {".json": read_json, ".csv": read_csv}
WRITERS = {".json": write_json, ".csv": write_csv}
