"""EULUMDAT (.ldt), all symmetries read, none written: from memory of the format's 1990 description.

C-planes turn about the optical axis, C0 to the right; γ counts from the axis. Intensities are cd
per 1000 lm.
"""

from __future__ import annotations

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
)

HEAD_LINES = 26
# Close together where the beam and its edge are, further apart outside.
C_STEP_DEG = 1.0
GAMMAS = np.concatenate([np.arange(0, 8, 0.1), np.arange(8, 20, 0.5), np.arange(20, 45.1, 1.0)])
OTHER_SYMMETRY = 3
MOST_PLANES, MOST_ANGLES, MOST_SETS = 721, 2000, 20
RATIOS = 10


def from_beam(beam: Beam, title: str) -> bytes:
    """A beam in C-planes every 1°, γ every 0.1° to 8° and coarser to 45°; candela per 1000 lm of
    its source.
    """
    planes, gammas = np.arange(0, 360, C_STEP_DEG), GAMMAS
    c, g = np.radians(planes)[:, None], np.radians(gammas)[None, :]
    x, y, z = np.sin(g) * np.cos(c), np.sin(g) * np.sin(c), np.cos(g) + 0 * c
    candela = beam.at(np.degrees(np.arcsin(x)), np.degrees(np.arctan2(y, z)))
    ratio = beam.flux_lm / beam.emitted_lm
    return write(
        Photometry(
            "C",
            planes,
            gammas,
            candela,
            beam.emitted_lm,
            keywords={"LUMINAIRE": title},
            output_ratio=ratio,
        )
    )


def write(photometry: Photometry) -> bytes:
    """The file's bytes, without symmetry (so of type 3: a point source of no symmetry about its
    axis).

    ValueError for anything but type C with lumens.
    """
    if photometry.kind != "C" or photometry.lumens <= 0:
        raise ValueError("EULUMDAT holds type C photometry with the lamp's lumens.")
    planes, gammas = photometry.horizontal, photometry.vertical
    width, length, height = photometry.size_mm
    head = [
        "Cold Arc",
        OTHER_SYMMETRY,
        "0",
        planes.size,
        _step(planes),
        gammas.size,
        _step(gammas),
        "computed",
        photometry.keywords.get("LUMINAIRE", "")[:78],
        "",
        "",
        "",
        length,
        width,
        height,
        length,
        width,
        0,
        0,
        0,
        0,
        100,
        100 * photometry.output_ratio,
        1,
        0,
        1,
        1,
        "computed",
        photometry.lumens,
        "",
        "",
        photometry.watts,
        *[0] * RATIOS,
    ]
    numbers = [*planes, *gammas, *(photometry.candela * 1000 / photometry.lumens).ravel()]
    text = [value if isinstance(value, str) else f"{value:g}" for value in head]
    text += [f"{round(float(value), 9) + 0.0:.10g}" for value in numbers]
    return ("\r\n".join(text) + "\r\n").encode("cp1252", errors="replace")


def _step(values: Array) -> float:
    """The even distance between values; 0 when they are not even (the format's word for it)."""
    steps = np.diff(values)
    return float(steps[0]) if steps.size and np.allclose(steps, steps[0]) else 0.0


def read(data: bytes) -> Photometry:
    """The photometry of a file, symmetry unfolded; MalformedFileError, naming the line, for a
    broken one.
    """
    lines = decoded(data)
    while lines and not lines[-1].strip():
        lines.pop()
    if len(lines) < HEAD_LINES:
        raise MalformedFileError(
            max(len(lines), 1), f"the file ends inside its first {HEAD_LINES} lines"
        )
    symmetry = int(number(lines[2], 3, "symmetry"))
    if symmetry not in range(5):
        raise MalformedFileError(3, "symmetry must be 0 to 4")
    plane_count, gamma_count = (
        count(lines[3], 4, "C-planes", MOST_PLANES),
        count(lines[5], 6, "γ angles", MOST_ANGLES),
    )
    sets = count(lines[25], 26, "lamp sets", MOST_SETS)
    lumens = _first_set_lumens(lines, sets)
    start = HEAD_LINES + 6 * sets + RATIOS
    planes = _numbers(lines, start, plane_count, "C-planes")
    gammas = _numbers(lines, start + plane_count, gamma_count, "γ angles")
    rising(planes, start + 1, "C-planes")
    rising(gammas, start + plane_count + 1, "γ angles")
    held = _held_planes(symmetry, plane_count)
    if held.size * gamma_count > MOST_VALUES:
        raise MalformedFileError(4, f"more than {MOST_VALUES} intensities")
    body = _numbers(
        lines, start + plane_count + gamma_count, held.size * gamma_count, "intensities"
    )
    candela = (
        _unfolded(symmetry, plane_count, held, body.reshape(held.size, gamma_count)) * lumens / 1000
    )
    size = [number(lines[index], index + 1, "a size") for index in (13, 12, 14)]
    return Photometry(
        "C",
        planes,
        gammas,
        candela,
        lumens,
        keywords={"LUMINAIRE": lines[8].strip()},
        size_mm=(size[0], size[1], size[2]),
    )


def _first_set_lumens(lines: list[str], sets: int) -> float:
    """Flux of the first lamp set, lm (its third line)."""
    index = HEAD_LINES + 2
    if len(lines) <= index + 6 * (sets - 1):
        raise MalformedFileError(len(lines), "the file ends inside its lamp sets")
    lumens = number(lines[index], index + 1, "lamp flux")
    if lumens <= 0:
        raise MalformedFileError(index + 1, "lamp flux must be more than zero")
    return lumens


def _numbers(lines: list[str], start: int, many: int, what: str) -> Array:
    if start + many > len(lines):
        raise MalformedFileError(
            len(lines), f"the file ends after {max(len(lines) - start, 0)} of {many} {what}"
        )
    return np.array([number(lines[index], index + 1, what) for index in range(start, start + many)])


def _held_planes(symmetry: int, planes: int) -> Array:
    """Which planes the file holds for a symmetry: all, one, C0 to C180, C270 over C0 to C90, C0 to
    C90.
    """
    quarter = planes // 4
    held = {
        0: range(planes),
        1: range(1),
        2: range(planes // 2 + 1),
        3: [index % planes for index in range(3 * quarter, 3 * quarter + planes // 2 + 1)],
        4: range(quarter + 1),
    }
    return np.array(held[symmetry])


def _unfolded(symmetry: int, planes: int, held: Array, body: Array) -> Array:
    """Every plane's intensities, mirrored as the symmetry says."""
    rows = {int(plane): row for row, plane in enumerate(held)}
    return np.array(
        [body[rows[_mirrored(symmetry, planes, rows, index)]] for index in range(planes)]
    )


def _mirrored(symmetry: int, planes: int, rows: dict[int, int], index: int) -> int:
    """The held plane that stands for plane *index*."""
    if symmetry == 1:
        return 0
    if symmetry == 4:
        return min(index % (planes // 2), planes // 2 - index % (planes // 2))
    if index in rows:
        return index
    return planes - index if symmetry == 2 else (planes // 2 - index) % planes
