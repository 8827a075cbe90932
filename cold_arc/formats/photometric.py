"""What a photometric file holds, and what its readers share: careful reading of numbers with the
line they stand on.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.errors import ColdArcError

Array = NDArray[np.float64]
LARGEST_FILE = 20_000_000
MOST_VALUES = 1_000_000


class MalformedFileError(ColdArcError, ValueError):
    """A file that breaks its format; the message begins with the line."""

    def __init__(self, line: int, message: str) -> None:
        super().__init__(f"line {line}: {message}")
        self.line = line


@dataclass(frozen=True)
class Photometry:
    """Luminous intensity over angles: *candela* (horizontals, verticals), cd.

    *kind* "B": h, v about the lateral axis, degrees, as in a beam's grid; "C": C-planes and γ from
    the axis. *lumens* of the lamp, negative for absolute photometry; *size_mm* width, length,
    height of the luminous opening. *output_ratio*: flux in the beam over flux of the lamp.
    """

    kind: str
    horizontal: Array
    vertical: Array
    candela: Array
    lumens: float
    watts: float = 0.0
    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    keywords: dict[str, str] = field(default_factory=dict)
    output_ratio: float = 1.0


def decoded(data: bytes) -> list[str]:
    """The file's lines; MalformedFileError for one too large or holding binary. Western encodings
    are understood.
    """
    if len(data) > LARGEST_FILE:
        raise MalformedFileError(1, f"the file is larger than {LARGEST_FILE // 1_000_000} MB")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        text = _decode(data, "utf-16")
    else:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("cp1252", errors="replace")
    if "\x00" in text:
        raise MalformedFileError(
            text.count("\n", 0, text.index("\x00")) + 1, "binary data, not text"
        )
    return text.replace("\r\n", "\n").replace("\r", "\n").split("\n")


def _decode(data: bytes, encoding: str) -> str:
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        raise MalformedFileError(1, f"not {encoding} text") from error


def number(text: str, line: int, what: str) -> float:
    """A finite number, or MalformedFileError naming what was expected. A decimal comma is
    understood.
    """
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        raise MalformedFileError(
            line, f"{what} must be a number, not “{text.strip()[:30]}”"
        ) from None
    if not math.isfinite(value):
        raise MalformedFileError(line, f"{what} must be finite")
    return value


def count(text: str, line: int, what: str, most: int = MOST_VALUES) -> int:
    """A whole number from 1 to *most*, or MalformedFileError."""
    value = number(text, line, what)
    if value != int(value) or not 1 <= value <= most:
        raise MalformedFileError(line, f"{what} must be a whole number from 1 to {most}")
    return int(value)


def tokens(lines: list[str], start: int) -> Iterator[tuple[str, int]]:
    """The words of the lines from index *start* on, each with its line number; commas part them
    too.
    """
    for index in range(start, len(lines)):
        for word in lines[index].replace(",", " ").split():
            yield word, index + 1


def take(words: Iterator[tuple[str, int]], many: int, what: str, last_line: int) -> Array:
    """The next *many* numbers; MalformedFileError where the file ends early or holds something
    else.
    """
    values = np.empty(many)
    for index in range(many):
        word, line = next(words, ("", last_line))
        if not word:
            raise MalformedFileError(last_line, f"the file ends after {index} of {many} {what}")
        values[index] = number(word, line, what)
    return values


def rising(values: Array, line: int, what: str) -> None:
    """MalformedFileError unless *values* rise strictly."""
    if np.any(np.diff(values) <= 0):
        raise MalformedFileError(line, f"{what} must rise")
