"""A map of a beam's light in and out of a file: JSON and CSV (h_deg, v_deg, cd, and where told
standard, known) hold all of it; IES and EULUMDAT its light alone, within what was seen.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.car.lamps import Traffic
from cold_arc.core.inverse.light_map import LEAST_CELLS, LightMap, cells, of_beam
from cold_arc.formats import READERS, eulumdat, ies
from cold_arc.formats.onto_grid import to_beam
from cold_arc.formats.photometric import Array, MalformedFileError, Photometry, decoded, number
from cold_arc.formats.table import parted_by

COLUMNS = ("h_deg", "v_deg", "cd")
# What a table that is written here holds besides.
MORE = ("standard", "known")
ABSOLUTE, RELATIVE = [*COLUMNS, *MORE], ["h_deg", "v_deg", "relative", *MORE]
MOST_ROWS = 500_000
WHOLE = (".json", ".csv")
ENDINGS = (*WHOLE, *READERS)
FORMAT, SIGNIFICANT = "cold-arc-map", 6


def read_map(
    data: bytes, ending: str, traffic: Traffic = Traffic.RIGHT, high: bool = False
) -> LightMap:
    """The map of a file by its *ending*; MalformedFileError, with the line, for what is none,
    ValueError for one that shows too little.
    """
    if whole := _read_whole(data, ending):
        return _told(whole)
    photometry = read_csv(data) if ending == ".csv" else READERS[ending](data)
    light = of_beam(to_beam(photometry, traffic, high))
    known = light.known
    if photometry.kind == "B":
        across, up = photometry.horizontal, photometry.vertical
        first = -across[-1] if across[0] == 0 else across[0]
        inside_h = (light.h >= first) & (light.h <= across[-1])
        inside_v = (light.v >= up[0]) & (light.v <= up[-1])
        known = known & inside_v[:, None] & inside_h[None, :]
    return _told(LightMap(light.h, light.v, light.candela, known))


def _told(light: LightMap) -> LightMap:
    """The map, where it tells enough; ValueError where not."""
    known = light.known
    if int(known.sum()) < LEAST_CELLS or not (light.candela[known] > 0).any():
        raise ValueError("The file shows too little of a beam to tell a housing.")
    return light


def write_map(light: LightMap, ending: str, title: str) -> bytes:
    """The map as a file by its *ending* (of :data:`ENDINGS`); KeyError for another, ValueError for
    relative light in a format that holds candela alone.
    """
    if ending not in endings_for(light):
        raise ValueError("Without a meter's reading it has no candela: keep it as JSON or CSV.")
    writers = {".json": _json, ".csv": _csv, ".ies": _ies, ".ldt": _ldt}
    return writers[ending](light, title)


def endings_for(light: LightMap) -> tuple[str, ...]:
    """What a map can be kept as: relative light only where the file says that it is."""
    return ENDINGS if light.absolute else WHOLE


def _json(light: LightMap, title: str) -> bytes:
    plain = {
        "format": FORMAT,
        "title": title,
        "absolute": light.absolute,
        "h_deg": light.h.tolist(),
        "v_deg": light.v.tolist(),
        "cd": _figures(light.candela),
        "standard": _figures(light.doubt),
        "known": light.known.astype(int).tolist(),
    }
    return json.dumps(plain, allow_nan=False).encode()


def _figures(table: Array) -> list[list[float]]:
    return [[float(f"{x:.{SIGNIFICANT}g}") for x in row] for row in np.nan_to_num(table)]


def _csv(light: LightMap, title: str) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(ABSOLUTE if light.absolute else RELATIVE)
    for (row, column), candela in np.ndenumerate(np.nan_to_num(light.candela)):
        figures = (light.h[column], light.v[row], candela, np.nan_to_num(light.doubt)[row, column])
        known = "yes" if light.known[row, column] else "no"
        writer.writerow([*(f"{x:.{SIGNIFICANT}g}" for x in figures), known])
    return out.getvalue().encode("ascii")


def _seen(light: LightMap) -> Photometry:
    """The light within the rectangle that was seen; what in it was not known is dark."""
    rows, columns = (np.flatnonzero(light.known.any(axis=axis)) for axis in (1, 0))
    box = np.ix_(np.arange(rows[0], rows[-1] + 1), np.arange(columns[0], columns[-1] + 1))
    candela = np.where(light.known, np.nan_to_num(light.candela), 0.0)[box]
    return Photometry("B", light.h[box[1][0]], light.v[box[0][:, 0]], candela.T, -1.0)


def _ies(light: LightMap, title: str) -> bytes:
    issued = f"{dt.date.today():%d-%b-%Y}".upper()
    return ies.write(replace(_seen(light), keywords={"ISSUEDATE": issued, "LUMINAIRE": title}))


def _ldt(light: LightMap, title: str) -> bytes:
    return eulumdat.from_beam(to_beam(_seen(light)), title)


def _read_whole(data: bytes, ending: str) -> LightMap | None:
    """A map with all that was written of it; None for a file that holds its light alone."""
    if ending == ".json":
        return _from_json(data)
    head = data[:200].decode("latin-1").split("\n")[0].strip().split(",")
    is_whole = ending == ".csv" and head in (ABSOLUTE, RELATIVE)
    return _from_csv(data, head) if is_whole else None


def _from_json(data: bytes) -> LightMap:
    try:
        plain = json.loads(data)
        if plain["format"] != FORMAT:
            raise ValueError
        h, v, candela = (np.array(plain[key], dtype=float) for key in ("h_deg", "v_deg", "cd"))
        known, absolute = np.array(plain["known"], dtype=bool), bool(plain["absolute"])
    except (ValueError, TypeError, KeyError, RecursionError) as error:
        raise MalformedFileError(1, "no map is told") from error
    return _as_cells(h, v, candela, known, absolute)


def _from_csv(data: bytes, head: list[str]) -> LightMap:
    rows = list(csv.DictReader(io.StringIO(data.decode("ascii", "replace"))))
    figures = [
        tuple(number(row[name] or "", line, name) for name in head[:3])
        for line, row in enumerate(rows, start=2)
    ]
    table = np.array(figures, dtype=float).reshape(-1, len(COLUMNS))
    h, v = np.unique(table[:, 0]), np.unique(table[:, 1])
    if len(table) != h.size * v.size:
        raise MalformedFileError(len(rows) + 1, "every h must stand with every v once")
    known = np.array([row["known"] == "yes" for row in rows]).reshape(v.size, h.size)
    return _as_cells(h, v, table[:, 2].reshape(v.size, h.size), known, head == ABSOLUTE)


def _as_cells(
    h: Array, v: Array, candela: Array, known: NDArray[np.bool_], absolute: bool
) -> LightMap:
    """A map on the cells there are; MalformedFileError for one on others."""
    own_h, own_v = cells()
    if not _same(h, own_h) or not _same(v, own_v):
        raise MalformedFileError(1, "the map is on other cells than these")
    if candela.shape != known.shape or candela.shape != (v.size, h.size):
        raise MalformedFileError(1, "the map is not whole")
    if not np.isfinite(candela).all() or candela.min() < 0:
        raise MalformedFileError(1, "the map tells of light there can't be")
    return LightMap(own_h, own_v, candela, known, absolute)


def _same(given: Array, own: Array) -> bool:
    return given.shape == own.shape and bool(np.allclose(given, own, atol=1e-4))


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
