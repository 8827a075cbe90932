"""A table of the shop as CSV (RFC 4180), row by row: UTF-8 with its mark, so that any spreadsheet
reads it.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
from collections.abc import Iterable, Iterator, Mapping

from cold_arc.formats.table import no_formula

SIGNIFICANT = 6


def lines(columns: tuple[str, ...], rows: Iterable[Mapping[str, object]]) -> Iterator[bytes]:
    """The heading, then each row, as they are to stand in the file; KeyError for a row that lacks a
    column.
    """
    yield b"\xef\xbb\xbf" + _line(columns)
    for row in rows:
        yield _line(_cell(row[name]) for name in columns)


def _line(cells: Iterable[str]) -> bytes:
    out = io.StringIO()
    csv.writer(out).writerow(cells)
    return out.getvalue().encode()


def _cell(value: object) -> str:
    """A value as a spreadsheet takes it: days as ISO 8601, yes and no, six figures."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dt.date):
        return value.isoformat()
    if isinstance(value, float):
        return f"{value:.{SIGNIFICANT}g}" if abs(value) < 10**SIGNIFICANT else f"{value:.0f}"
    return no_formula(str(value))
