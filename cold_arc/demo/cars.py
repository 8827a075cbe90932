"""The ways in the invented garage knows, from ``cars.toml``."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from pathlib import Path

from cold_arc.core.work.access import WayIn, starter_parts, ways_in


def known_ways() -> Iterator[tuple[str, WayIn]]:
    """Each car as its booking calls it, with a way in to one of its lamps."""
    table = tomllib.loads((Path(__file__).parent / "cars.toml").read_text(encoding="utf-8"))
    for car in table["car"]:
        for way in ways_in(starter_parts() | car.get("part", {}), car["way"]):
            yield car["vehicle"], way
