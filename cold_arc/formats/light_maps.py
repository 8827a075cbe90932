"""A map of a beam's light out of a file: IES, EULUMDAT, or CSV (h_deg, v_deg, cd)."""

from __future__ import annotations

import csv
import io

import numpy as np

from cold_arc.core.inverse.light_map import LEAST_CELLS, LightMap, of_beam
from cold_arc.formats import READERS
from cold_arc.formats.onto_grid import to_beam
from cold_arc.formats.photometric import MalformedFileError, Photometry, decoded, number
from cold_arc.formats.table import parted_by

COLUMNS = ("h_deg", "v_deg", "cd")
MOST_ROWS = 500_000
ENDINGS = (".csv", *READERS)


def read_map(data: bytes, ending: str, traffic: str = "right", high: bool = False) -> LightMap:
    """The map of a file by its *ending*; MalformedFileError, with the line, for what is none,
    ValueError for one that shows too little.
    """
    photometry = read_csv(data) if ending == ".csv" else READERS[ending](data)
    light = of_beam(to_beam(photometry, traffic, high))
    known = light.known
    if photometry.kind == "B":
        across, up = photometry.horizontal, photometry.vertical
        first = -across[-1] if across[0] == 0 else across[0]
        inside_h = (light.h >= first) & (light.h <= across[-1])
        inside_v = (light.v >= up[0]) & (light.v <= up[-1])
        known = known & inside_v[:, None] & inside_h[None, :]
    if int(known.sum()) < LEAST_CELLS or not (light.candela[known] > 0).any():
        raise ValueError("The file shows too little of a beam to tell a housing.")
    return LightMap(light.h, light.v, light.candela, known)


def read_csv(data: bytes) -> Photometry:
    """A table of directions as intensities on their grid; MalformedFileError for a table that is
    none, or not whole.
    """
    lines = decoded(data)
    rows = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=parted_by(lines[0])))
    if not rows or [cell.strip() for cell in rows[0]] != list(COLUMNS):
        raise MalformedFileError(1, f"the columns must be {', '.join(COLUMNS)}")
    if len(rows) - 1 > MOST_ROWS:
        raise MalformedFileError(1, f"more than {MOST_ROWS} rows")
    at = [
        tuple(number(cell, line, name) for cell, name in zip(row, COLUMNS, strict=True))
        for line, row in enumerate(rows[1:], start=2)
        if len(row) == len(COLUMNS) or _short(row, line)
    ]
    return _on_grid(at, len(lines))


def _short(row: list[str], line: int) -> bool:
    """False for an empty row; MalformedFileError for one of another length."""
    if any(cell.strip() for cell in row):
        raise MalformedFileError(line, f"{len(row)} cells, not {len(COLUMNS)}")
    return False


def _on_grid(at: list[tuple[float, ...]], last: int) -> Photometry:
    table = np.array(at, dtype=np.float64).reshape(-1, len(COLUMNS))
    across, up = np.unique(table[:, 0]), np.unique(table[:, 1])
    if table.shape[0] != across.size * up.size or min(across.size, up.size) < 2:
        raise MalformedFileError(last, "every h must stand with every v once, two of each at least")
    candela = np.full((across.size, up.size), np.nan)
    candela[np.searchsorted(across, table[:, 0]), np.searchsorted(up, table[:, 1])] = table[:, 2]
    if np.isnan(candela).any():
        raise MalformedFileError(last, "a direction stands twice and another is missing")
    # A table that begins at 0 across is no half of one, as in other files: a hair before it.
    across[0] -= 1e-9 if across[0] == 0 else 0.0
    return Photometry("B", across, up, candela, -1.0)
