"""Open formats in and out: core types in, core types out."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from cold_arc.core.beam.model import Beam
from cold_arc.formats import eulumdat, ies, picture, table
from cold_arc.formats.photometric import Photometry

WRITERS: dict[str, Callable[[Beam, str], bytes]] = {
    ".ies": ies.from_beam,
    ".ldt": eulumdat.from_beam,
    ".csv": table.from_beam,
    ".png": picture.from_beam,
}


READERS: dict[str, Callable[[bytes], Photometry]] = {".ies": ies.read, ".ldt": eulumdat.read}


def write_beam(beam: Beam, path: Path, title: str) -> None:
    """Writes a beam in the format its ending names; ValueError for another ending, OSError from the
    disk.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise ValueError(f"{path.name}: the ending must be one of {', '.join(WRITERS)}.")
    path.write_bytes(writer(beam, title))
