"""IES LM-63-2002 and 2019, types B and C (and reading A): written from memory of the standard.

Type B here carries a beam's own grid: horizontal angles h right, vertical angles v up, degrees.
Candela are absolute (lumens −1) when a beam is written.
"""

from __future__ import annotations

import datetime as dt

import numpy as np

from cold_arc.core.beam.model import Beam
from cold_arc.formats.photometric import (
    MOST_VALUES,
    Array,
    MalformedFileError,
    Photometry,
    count,
    decoded,
    number,
    rising,
    take,
    tokens,
)

# Keywords LM-63-2002 asks for (from memory), where nobody told them.
REQUIRED = {
    "TEST": "computed",
    "TESTLAB": "none, computed by Cold Arc",
    "ISSUEDATE": "not told",
    "MANUFAC": "none",
}
KINDS = {1: "C", 2: "B", 3: "A"}
NUMBERS = {kind: number for number, kind in KINDS.items()}
FEET_M = 0.3048
EXPORT_EVERY = (1, 2)
LONGEST_LINE = 120
CANDELA_DECIMALS = 2


def from_beam(beam: Beam, title: str, issued: dt.date | None = None) -> bytes:
    """A beam as type B, every row of its grid (the edge lies between them), every second column,
    absolute candela; *issued* today where it is not told.
    """
    every_v, every_h = EXPORT_EVERY
    candela = np.round(beam.intensity[::every_v, ::every_h].T, CANDELA_DECIMALS)
    photometry = Photometry(
        "B",
        beam.grid.h[::every_h],
        beam.grid.v[::every_v],
        candela,
        -1.0,
        keywords={"ISSUEDATE": f"{issued or dt.date.today():%d-%b-%Y}".upper(), "LUMINAIRE": title},
    )
    return write(photometry)


def write(photometry: Photometry) -> bytes:
    """The file's bytes."""
    width, length, height = (size / 1000 for size in photometry.size_mm)
    head = [
        "IESNA:LM-63-2002",
        *(f"[{name}] {value}" for name, value in (REQUIRED | photometry.keywords).items()),
        "TILT=NONE",
        f"1 {photometry.lumens:g} 1 {photometry.vertical.size} {photometry.horizontal.size} "
        f"{NUMBERS[photometry.kind]} 2 {width:g} {length:g} {height:g}",
        f"1 1 {photometry.watts:g}",
    ]
    body = [_wrapped(photometry.vertical, "%.10g"), _wrapped(photometry.horizontal, "%.10g")]
    body += [_wrapped(row, "%.9g") for row in photometry.candela]
    return ("\r\n".join([*head, *body]) + "\r\n").encode("ascii", errors="replace")


def _wrapped(values: Array, style: str) -> str:
    """Numbers on as many lines as they need."""
    words = [style % value for value in (np.round(values, 9) + 0.0).tolist()]  # no -0
    many = LONGEST_LINE // (max(map(len, words)) + 1)
    lines = (words[first : first + many] for first in range(0, len(words), many))
    return "\r\n".join(map(" ".join, lines))


def read(data: bytes) -> Photometry:
    """The photometry of a file; MalformedFileError, naming the line, for one that breaks the
    format.
    """
    lines = decoded(data)
    if not lines[0].strip().upper().startswith("IESNA"):
        raise MalformedFileError(1, "an IES file begins with IESNA:LM-63 and its year")
    keywords, tilt = _head(lines)
    start = tilt + 1 + _tilt_lines(lines, tilt)
    words, last = tokens(lines, start), len(lines)
    first = take(words, 13, "header numbers", last)
    line = start + 1
    _lamps, lumens, factor, rows, columns, kind, unit = first[:7]
    vertical_count, horizontal_count = (
        count(f"{rows:g}", line, "vertical angles"),
        count(f"{columns:g}", line, "horizontal angles"),
    )
    if vertical_count * horizontal_count > MOST_VALUES:
        raise MalformedFileError(line, f"more than {MOST_VALUES} candela values")
    if kind not in KINDS:
        raise MalformedFileError(line, "the photometric type must be 1 (C), 2 (B) or 3 (A)")
    if unit not in (1, 2):
        raise MalformedFileError(line, "the units must be 1 (feet) or 2 (metres)")
    vertical, horizontal = (
        take(words, vertical_count, "vertical angles", last),
        take(words, horizontal_count, "horizontal angles", last),
    )
    rising(vertical, line, "vertical angles")
    rising(horizontal, line, "horizontal angles")
    candela = take(words, vertical_count * horizontal_count, "candela values", last)
    if extra := next(words, None):
        raise MalformedFileError(extra[1], "more values than the header says")
    metres = FEET_M if unit == 1 else 1.0
    size = tuple(float(value) * metres * 1000 for value in first[7:10])
    return Photometry(
        KINDS[int(kind)],
        horizontal,
        vertical,
        candela.reshape(horizontal_count, vertical_count) * factor * first[10],
        float(lumens),
        float(first[12]),
        (size[0], size[1], size[2]),
        keywords,
    )


def _head(lines: list[str]) -> tuple[dict[str, str], int]:
    """Keywords, and the index of the TILT line."""
    keywords: dict[str, str] = {}
    for index, text in enumerate(lines[1:], 1):
        line = text.strip()
        if line.upper().startswith("TILT="):
            return keywords, index
        if line.startswith("[") and "]" in line:
            name, _, value = line[1:].partition("]")
            keywords[name.strip().upper()] = value.strip()
        elif line.startswith("["):
            raise MalformedFileError(index + 1, "a keyword is not closed with ]")
    raise MalformedFileError(len(lines), "there is no TILT= line")


def _tilt_lines(lines: list[str], tilt: int) -> int:
    """How many lines of tilt data follow the TILT line."""
    value = lines[tilt].strip()[5:].strip().upper()
    if value == "NONE":
        return 0
    if value != "INCLUDE":
        raise MalformedFileError(tilt + 1, "TILT must be NONE or INCLUDE here")
    if tilt + 2 >= len(lines):
        raise MalformedFileError(len(lines), "the file ends inside its tilt data")
    pairs = count(lines[tilt + 2], tilt + 3, "tilt pairs", 1000)
    needed, words_read, index = 2 * pairs, 0, tilt + 3
    while words_read < needed:
        if index >= len(lines):
            raise MalformedFileError(len(lines), "the file ends inside its tilt data")
        words = lines[index].split()
        for word in words:
            number(word, index + 1, "tilt data")
        words_read, index = words_read + len(words), index + 1
    return index - tilt - 1
