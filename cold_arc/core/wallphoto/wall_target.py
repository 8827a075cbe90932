"""The printed target: what hangs on the wall about a lamp's axis, full size, and its coded marks
found in a picture.

Places are cm from the lamp's axis, right and up. The marks are ArUco markers (4×4 bits, as OpenCV
draws them), four a lamp, aside of the hot spot; each lamp has its own numbers. Sizes: own, so that
the whole comes out on twelve sheets.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from cold_arc.core.aim.rules import SlopeBand, Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.units import say_percent
from cold_arc.core.wallphoto.camera import PhotoMark
from cold_arc.core.wallphoto.picture import PhotoUnusableError, Pixels

HALF_WIDTH_CM, TOP_CM, BOTTOM_CM = 49.0, 20.0, -33.0
MARKER_CM, MARKER_X_CM, MARKER_ROWS_CM = 8.0, 44.5, (15.0, -28.5)
BAR_CM, ARM_CM, TEXT_CM, FINE_CM, BAND_CM = 10.0, 6.0, 0.9, 0.03, 38.0
MARKERS_A_LAMP, RIM_CM = 4, 1.5
# How well a marker's corner is found, pixels (own, on rendered photographs).
CORNER_PX = 0.5
_DICTIONARY = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50)
_CELLS = _DICTIONARY.markerSize + 2


@dataclass(frozen=True)
class Marker:
    """One coded mark: its number, its middle."""

    number: int
    x: float
    y: float

    @property
    def corners(self) -> list[tuple[float, float]]:
        """Its corners from the upper left on, clockwise."""
        half = MARKER_CM / 2
        return [
            (self.x + half * dx, self.y + half * dy)
            for dx, dy in ((-1, 1), (1, 1), (1, -1), (-1, -1))
        ]

    @property
    def cells(self) -> NDArray[np.bool_]:
        """Its cells, rows from above: where it is black."""
        return np.asarray(cv2.aruco.generateImageMarker(_DICTIONARY, self.number, _CELLS) == 0)

    def squares(self) -> Iterator[PaperBox]:
        """What of it is printed black."""
        size = MARKER_CM / _CELLS
        for row, column in zip(*np.nonzero(self.cells), strict=True):
            yield PaperBox(
                self.x - MARKER_CM / 2 + column * size,
                self.y + MARKER_CM / 2 - (row + 1) * size,
                size,
                size,
            )


@dataclass(frozen=True)
class PaperLine:
    """A line from one place to another, *width* cm; dashed or not."""

    x1: float
    y1: float
    x2: float
    y2: float
    width: float = FINE_CM
    dashed: bool = False


@dataclass(frozen=True)
class PaperBox:
    """A black rectangle from its lower left corner."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Words:
    """Words from a place on, *size* cm high."""

    x: float
    y: float
    text: str
    size: float = TEXT_CM


Shape = PaperLine | PaperBox | Words


@dataclass(frozen=True)
class WallTarget:
    """What is printed for one lamp: *band* and *distance_m* give the lines, *title* says of what
    car and lamp.
    """

    side: Side
    target: Target
    distance_m: float
    title: str
    height_words: str

    def shapes(self) -> Iterator[Shape]:
        """Everything printed."""
        yield PaperLine(-HALF_WIDTH_CM, 0, HALF_WIDTH_CM, 0)
        yield PaperLine(0, BOTTOM_CM, 0, TOP_CM)
        yield PaperLine(-ARM_CM, 0, ARM_CM, 0, 4 * FINE_CM)
        yield PaperLine(0, -ARM_CM, 0, ARM_CM, 4 * FINE_CM)
        yield Words(1.0, 0.5, f"Lamp's axis: {self.height_words}")
        yield Words(-38.0, TOP_CM - 2.5, self.title)
        for words, band, dashed in (
            ("keep", self.target.keep, True),
            ("set", self.target.set, False),
        ):
            yield from self._band(words, band, dashed)
        for marker in markers(self.side):
            yield from marker.squares()
        yield from bar(-38.0, BOTTOM_CM + 1.5)

    def _band(self, words: str, band: SlopeBand, dashed: bool) -> Iterator[Shape]:
        for slope in sorted({band.low, band.high}):
            y = 100 * self.distance_m * slope
            if math.isfinite(y) and BOTTOM_CM + 1 < y < TOP_CM - 1:
                yield PaperLine(-BAND_CM, y, BAND_CM, y, dashed=dashed)
                yield Words(
                    -BAND_CM if dashed else -BAND_CM + 12,
                    y + 0.2,
                    f"{words} {say_percent(slope, 2)}",
                    0.7,
                )


def bar(x: float, y: float) -> Iterator[Shape]:
    """A bar of 10 cm, to see whether the printer kept the size."""
    yield PaperLine(x, y, x + BAR_CM, y, 2 * FINE_CM)
    yield from (PaperLine(x + at, y - 0.3, x + at, y + 0.3) for at in (0.0, BAR_CM))
    yield Words(x + BAR_CM + 0.4, y - 0.25, "10 cm", 0.7)


def markers(side: Side) -> list[Marker]:
    """The coded marks of a lamp's target."""
    first = 0 if side is Side.LEFT else MARKERS_A_LAMP
    places = [(x, y) for y in MARKER_ROWS_CM for x in (-MARKER_X_CM, MARKER_X_CM)]
    return [Marker(first + number, x, y) for number, (x, y) in enumerate(places)]


def covered(side: Side, axis_up_cm: float) -> tuple[tuple[float, float, float, float], ...]:
    """What a lamp's coded marks cover of the wall, with a rim for the picture's blur, as
    `Subject.covered` takes it.
    """
    half = MARKER_CM / 2 + RIM_CM
    return tuple(
        (
            marker.x - half,
            marker.x + half,
            axis_up_cm + marker.y - half,
            axis_up_cm + marker.y + half,
        )
        for marker in markers(side)
    )


@dataclass(frozen=True)
class Paper:
    """A sheet laid across, cm; *edge* no printer prints on, *overlap* of neighbours."""

    name: str
    width: float
    height: float
    edge: float = 1.2
    overlap: float = 1.0

    @property
    def step(self) -> tuple[float, float]:
        """From one sheet's place to the next's."""
        return self.width - 2 * self.edge - self.overlap, self.height - 2 * self.edge - self.overlap


PAPERS = {paper.name: paper for paper in (Paper("A4", 29.7, 21.0), Paper("Letter", 27.94, 21.59))}


@dataclass(frozen=True)
class Sheet:
    """One sheet: its name, and the part of the target it holds from its lower left corner on."""

    name: str
    x: float
    y: float
    width: float
    height: float


def sheets(paper: Paper) -> list[Sheet]:
    """The sheets of a target, row by row from above: "A1" is the upper left."""
    across, down = paper.step
    columns = math.ceil((2 * HALF_WIDTH_CM - paper.overlap) / across)
    rows = math.ceil((TOP_CM - BOTTOM_CM - paper.overlap) / down)
    left, wide, tall = -HALF_WIDTH_CM, across + paper.overlap, down + paper.overlap
    return [
        Sheet(
            f"{chr(ord('A') + row)}{column + 1}",
            left + column * across,
            TOP_CM - tall - row * down,
            wide,
            tall,
        )
        for row in range(rows)
        for column in range(columns)
    ]


def joins(sheet: Sheet, paper: Paper) -> Iterator[PaperLine]:
    """Where a sheet meets its neighbours: lines through the middle of what they share; one lies
    over the other.
    """
    half = paper.overlap / 2
    right, top = sheet.x + sheet.width, sheet.y + sheet.height
    yield from (PaperLine(x, sheet.y, x, top, dashed=True) for x in (sheet.x + half, right - half))
    yield from (PaperLine(sheet.x, y, right, y, dashed=True) for y in (sheet.y + half, top - half))
    for x in (sheet.x + half, right - half):  # a cross at every corner, to lay one upon the other
        for y in (sheet.y + half, top - half):
            yield from (
                PaperLine(x - half, y, x + half, y, 0.08),
                PaperLine(x, y - half, x, y + half, 0.08),
            )


def find_marks(pixels: Pixels, side: Side, axis_up_cm: float) -> list[PhotoMark]:
    """The corners of a lamp's coded marks in a picture (rows, columns, 3; RGB); *axis_up_cm*: the
    lamp's axis above the floor at the wall. PhotoUnusableError where fewer than two markers are
    seen."""
    known = {marker.number: marker for marker in markers(side)}
    seen: dict[int, NDArray[np.float32]] = {}
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    for picture in (grey, _lifted(grey)):
        seen |= {
            number: corners
            for number, corners in _detected(picture)
            if number in known and number not in seen
        }
        if len(seen) == len(known):
            break
    if len(seen) < 2:
        raise PhotoUnusableError(
            "The printed target's coded marks are not seen: show them all, and expose longer."
        )
    return [
        PhotoMark((float(u), float(v)), (x, axis_up_cm + y), CORNER_PX)
        for number, corners in sorted(seen.items())
        for (u, v), (x, y) in zip(corners, known[number].corners, strict=True)
    ]


def unseen_words(marks: Sequence[PhotoMark], side: Side, axis_up_cm: float) -> str:
    """Which of a lamp's coded marks are not among those seen, in words; "" where all are."""
    seen = {(round(x, 3), round(y - axis_up_cm, 3)) for x, y in (mark.wall_cm for mark in marks)}
    missing = [marker for marker in markers(side) if not seen.intersection(marker.corners)]
    if not missing:
        return ""
    upper, lower = MARKER_ROWS_CM
    rows = {"upper": upper, "lower": lower}
    heights = [marker.y for marker in missing]
    whole = [words for words, y in rows.items() if heights == [y, y]]
    return f"the {whole[0]} two" if whole else f"{len(missing)} of {MARKERS_A_LAMP}"


def _lifted(grey: NDArray[Any]) -> NDArray[np.uint8]:
    """What is dark made light, part by part: above the cut-off there is little to see a mark by."""
    even = cv2.GaussianBlur(grey, (0, 0), 1.0)
    return np.asarray(
        cv2.createCLAHE(clipLimit=8.0, tileGridSize=(16, 12)).apply(even), dtype=np.uint8
    )


def _detected(grey: NDArray[Any]) -> Iterator[tuple[int, NDArray[np.float32]]]:
    settings = cv2.aruco.DetectorParameters()
    settings.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    corners, numbers, _ = cv2.aruco.ArucoDetector(_DICTIONARY, settings).detectMarkers(grey)
    for number, four in zip([] if numbers is None else numbers.ravel(), corners, strict=True):
        yield int(number), np.asarray(four, dtype=np.float32).reshape(4, 2)
