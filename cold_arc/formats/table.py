"""Tables as CSV: how one is parted, and a beam as one, a row a direction."""

from __future__ import annotations

import csv
import io

from cold_arc.core.beam.model import Beam

EVERY = 5
# What a spreadsheet would take for the start of a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def no_formula(cell: str) -> str:
    """A cell's text with an apostrophe before what a spreadsheet would take for a formula.

    >>> no_formula("=1+1"), no_formula("H7")
    ("'=1+1", 'H7')
    """
    return f"'{cell}" if cell.startswith(FORMULA) else cell


def parted_by(line: str) -> str:
    """What parts the cells of a table, by its first line: a comma, or a semicolon.

    >>> parted_by("name;watts;price")
    ';'
    """
    return ";" if line.count(";") > line.count(",") else ","


def from_beam(beam: Beam, title: str) -> bytes:
    """Columns h_deg, v_deg, cd: every 1° across, every 0.5° up."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["h_deg", "v_deg", "cd"])
    for row in range(0, beam.grid.v.size, EVERY):
        for column in range(0, beam.grid.h.size, EVERY):
            writer.writerow(
                [
                    f"{beam.grid.h[column]:.1f}",
                    f"{beam.grid.v[row]:.1f}",
                    f"{beam.intensity[row, column]:.2f}",
                ]
            )
    return out.getvalue().encode("ascii")
