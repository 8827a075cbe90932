"""Readings of one beam as CSV and JSON:
``point,x_cm,y_cm,lux,range,distance_m,volts,ambient_lx,unit``.

*lux* is what the display shows, in *unit* (lx or fc) on a range of factor *range*; *ambient_lx* is
true lux and is taken off. *x_cm* runs right, *y_cm* up from the lamp's axis. Only *point* and *lux*
are needed: x and y are else the named place's on that wall, range 1, distance 10 m, 13.2 V, no
ambient light, lx. Several rows of one point are repeated readings. A semicolon parts the columns
where figures have a decimal comma.
"""

from __future__ import annotations

import csv
import io
import json
import math
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cold_arc.core.car.lamps import Function, Traffic
from cold_arc.core.metering.readings import PLACES, POINTS, WallReading, joined, place
from cold_arc.core.units import FOOT_CANDLE_LX
from cold_arc.formats.photometric import MalformedFileError, decoded
from cold_arc.formats.table import no_formula, parted_by

COLUMNS = ("point", "x_cm", "y_cm", "lux", "range", "distance_m", "volts", "ambient_lx", "unit")
NEEDED = ("point", "lux")
UNITS = {"lx": 1.0, "lux": 1.0, "fc": FOOT_CANDLE_LX}
# What stands where a column or a cell is missing: said to whoever reads the file.
DEFAULTS = {"range": 1.0, "distance_m": 10.0, "volts": 13.2, "ambient_lx": 0.0}
BOUNDS = {
    "x_cm": (-3000.0, 3000.0),
    "y_cm": (-3000.0, 3000.0),
    "lux": (0.0, 1e6),
    "range": (1e-3, 1e4),
    "distance_m": (0.3, 100.0),
    "volts": (3.0, 32.0),
    "ambient_lx": (0.0, 1e6),
}
MOST_ROWS = 20_000
LONGEST_NAME = 40
_FIGURE = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?")


@dataclass(frozen=True)
class ReadFile:
    """A file's readings in their order, and what was taken for granted in reading it."""

    readings: tuple[WallReading, ...]
    warnings: tuple[str, ...]

    def by_point(self) -> dict[str, WallReading]:
        """The readings by place, repeated ones joined."""
        taken: dict[str, list[WallReading]] = {}
        for reading in self.readings:
            taken.setdefault(reading.point, []).append(reading)
        return {name: joined(held) for name, held in taken.items()}


def read_csv(
    data: bytes, function: Function = Function.LOW, traffic: Traffic = Traffic.RIGHT
) -> ReadFile:
    """The readings of a file; MalformedFileError, beginning with the line, for what can't be
    understood.
    """
    lines = decoded(data)
    first = _first_line(lines)
    parted = parted_by(lines[first])
    try:
        heading, *cells = csv.reader(lines[first:], delimiter=parted, strict=True)
    except csv.Error as error:
        raise MalformedFileError(first + 1, f"not a table ({error})") from error
    header, warnings = _header(heading, first + 1)
    numbered = [(first + 2 + index, row) for index, row in enumerate(cells) if any(row)]
    if not numbered:
        raise MalformedFileError(len(lines), "no reading follows the heading")
    if len(numbered) > MOST_ROWS:
        raise MalformedFileError(len(lines), f"more than {MOST_ROWS} readings")
    table = [_Row(header, row, line, parted == ";") for line, row in numbered]
    readings = tuple(row.reading(function, traffic) for row in table)
    return ReadFile(readings, (*warnings, *_assumed(table)))


def _first_line(lines: Sequence[str]) -> int:
    """The place of the first line that holds anything."""
    for number, text in enumerate(lines):
        if text.strip():
            return number
    raise MalformedFileError(1, "the file is empty")


def _header(cells: list[str], line: int) -> tuple[list[str], list[str]]:
    """The names of the columns, and a warning for each that is not read."""
    names = [cell.strip().casefold() for cell in cells]
    named = list(filter(None, names))
    for name in NEEDED:
        if name not in named:
            columns = ",".join(COLUMNS)
            raise MalformedFileError(line, f"the heading must name the column {name}: {columns}")
    if len(set(named)) < len(named):
        twice = max(named, key=named.count)
        raise MalformedFileError(line, f"the column {twice[:LONGEST_NAME]} stands twice")
    unread = [name for name in named if name not in COLUMNS]
    return names, [f"column {name[:LONGEST_NAME]} is not read" for name in unread]


class _Row:
    """One line of a file."""

    def __init__(self, header: list[str], cells: list[str], line: int, comma: bool) -> None:
        if len(cells) > len(header):
            raise MalformedFileError(
                line, f"{len(cells)} cells under {len(header)} columns; is a decimal comma parted?"
            )
        self.line, self.comma = line, comma
        self.cells = {name: cell.strip() for name, cell in zip(header, cells, strict=False)}

    def figure(self, name: str) -> float | None:
        """A cell's figure within its bounds; None for a blank."""
        text = self.cells.get(name, "").removeprefix("'")
        if not text:
            return None
        plain = (
            text.replace(",", ".")
            if self.comma and text.count(",") == 1 and "." not in text
            else text
        )
        if not _FIGURE.fullmatch(plain):
            raise MalformedFileError(
                self.line, f"{name} must be a plain figure such as 410 or 41.5, not “{text[:30]}”"
            )
        value, (low, high) = float(plain), BOUNDS[name]
        if not (math.isfinite(value) and low <= value <= high):
            raise MalformedFileError(
                self.line, f"{name} must be between {low:g} and {high:g}, not {text[:30]}"
            )
        return value

    def value(self, name: str) -> float:
        """A cell's figure, or what stands for it."""
        figure = self.figure(name)
        return DEFAULTS[name] if figure is None else figure

    def reading(self, function: Function, traffic: Traffic) -> WallReading:
        """The reading."""
        point = self._point()
        shown = self.figure("lux")
        if shown is None:
            raise MalformedFileError(self.line, "lux is missing")
        unit = self.cells.get("unit", "").casefold() or "lx"
        if unit not in UNITS:
            raise MalformedFileError(self.line, f"unit must be lx or fc, not “{unit[:30]}”")
        distance, (x, y) = self.value("distance_m"), (self.figure("x_cm"), self.figure("y_cm"))
        across, down = place(point, distance, traffic, function)
        return WallReading(
            point=point,
            lux=shown * self.value("range") * UNITS[unit],
            distance_m=distance,
            volts=self.value("volts"),
            ambient_lx=self.value("ambient_lx"),
            range_factor=self.value("range"),
            across_m=across if x is None else x / 100,
            drop_m=down if y is None else -y / 100,
        )

    def _point(self) -> str:
        name = self.cells.get("point", "")
        if not name:
            raise MalformedFileError(self.line, "point is missing")
        if len(name) > LONGEST_NAME or not name.isprintable():
            raise MalformedFileError(
                self.line, f"a point's name has {LONGEST_NAME} plain characters at most"
            )
        return name.casefold() if name.casefold() in POINTS else name


def _assumed(rows: list[_Row]) -> Iterator[str]:
    """What stands where cells are blank, each once; where x and y are blank for a place that has no
    name.
    """
    for name, value in DEFAULTS.items():
        blank = sum(row.figure(name) is None for row in rows)
        if blank:
            yield f"{name} is not given for {_many(blank, rows)}: {value:g} taken"
    unplaced = [
        row
        for row in rows
        if row.figure("x_cm") is None and row.cells["point"].casefold() not in PLACES["low"]
    ]
    if unplaced:
        yield f"x_cm is not given for {_many(len(unplaced), rows)}: on the lamp's axis taken"


def _many(count: int, rows: list[_Row]) -> str:
    return "any reading" if count == len(rows) else f"{count} of {len(rows)} readings"


def write_csv(readings: Iterable[WallReading]) -> bytes:
    """Readings as CSV, every column told, in lx as they are."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for reading in readings:
        row = as_row(reading)
        name = str(row["point"])
        writer.writerow(
            [
                no_formula(name),
                *(_plain(row[key]) for key in COLUMNS[1:]),
            ]
        )
    return out.getvalue().encode()


def _plain(value: Any) -> str:
    return value if isinstance(value, str) else repr(float(value)).removesuffix(".0")


def as_row(reading: WallReading) -> dict[str, Any]:
    """One reading by the columns' names."""
    return {
        "point": reading.point,
        "x_cm": round(100 * reading.across_m, 4),
        "y_cm": round(-100 * reading.drop_m, 4) + 0.0,
        "lux": float(f"{reading.lux / reading.range_factor:.9g}"),
        "range": reading.range_factor,
        "distance_m": reading.distance_m,
        "volts": reading.volts,
        "ambient_lx": reading.ambient_lx,
        "unit": "lx",
    }


def write_json(beams: Mapping[str, Mapping[str, Iterable[WallReading]]]) -> bytes:
    """Readings of several beams, before and after, as JSON: beam, phase, list of rows named as the
    columns are.
    """
    document = {
        beam: {
            phase: [as_row(reading) | {"candela": round(reading.candela, 1)} for reading in taken]
            for phase, taken in phases.items()
        }
        for beam, phases in beams.items()
    }
    return json.dumps({"readings": document}, indent=1, allow_nan=False).encode()
