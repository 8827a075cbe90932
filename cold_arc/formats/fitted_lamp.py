"""A housing fitted to a lamp's own light, as a JSON file (docs/read.md): what it was fitted with,
its figures, their covariance.
"""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from typing import Any

import numpy as np

from cold_arc.core.beam.setup import LIMITS, SetUp, SetUpError
from cold_arc.core.errors import ColdArcError
from cold_arc.core.inverse.housing import FittedLamp, figure_names
from cold_arc.core.inverse.light_map import Texture, is_a_texture

FORMAT, VERSION = "cold-arc-fitted-housing", 1
MOST_BYTES, MOST_FIGURE = 200_000, 1e4
SETUP_FIELDS = ("housing", "base", "traffic", "high", "rated_volts", "haze", "volts")


class FittedLampError(ColdArcError, ValueError):
    """A file that holds no fitted housing; the message says why."""


def to_json(lamp: FittedLamp) -> str:
    """The file's text."""
    setup = asdict(lamp.setup)
    return json.dumps(
        {
            "format": FORMAT,
            "version": VERSION,
            "setup": {name: setup[name] for name in SETUP_FIELDS},
            "figures": lamp.by_name,
            "covariance": lamp.covariance,
            "left_pct": lamp.left_pct,
            "absolute": lamp.absolute,
            "notes": lamp.notes,
            "texture": asdict(lamp.texture) if lamp.texture else None,
        },
        indent=1,
        allow_nan=False,
    )


def from_json(data: bytes) -> FittedLamp:
    """The housing of a file; FittedLampError for anything else."""
    if len(data) > MOST_BYTES:
        raise FittedLampError("The file is too large for a fitted housing.")
    try:
        plain = json.loads(data.decode("utf-8"))
    except (ValueError, RecursionError) as error:
        raise FittedLampError("The file is no JSON.") from error
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise FittedLampError("The file holds no fitted housing: save one by “cold-arc read”.")
    if plain.get("version") != VERSION:
        raise FittedLampError("The file is of another version of Cold Arc.")
    try:
        return _read(plain)
    except (KeyError, TypeError, SetUpError, ValueError) as error:
        raise FittedLampError(f"The file is damaged: {error}.") from error


def _read(plain: dict[str, Any]) -> FittedLamp:
    setup = SetUp(**{name: plain["setup"][name] for name in SETUP_FIELDS})
    figures = _figures(plain["figures"], figure_names(setup))
    return FittedLamp(
        setup,
        tuple(figures),
        tuple(figures.values()),
        _covariance(plain["covariance"], len(figures)),
        float(plain["left_pct"]),
        bool(plain["absolute"]),
        tuple(str(note) for note in plain["notes"]),
        _texture(plain.get("texture")),
    )


def _texture(plain: dict[str, Any] | None) -> Texture | None:
    """A file of before lamps kept one has none."""
    if plain is None:
        return None
    times = tuple(tuple(float(each) for each in row) for row in plain["times"])
    aim = {name: float(plain[name]) for name in ("aim_v", "aim_h")}
    if not is_a_texture(times) or not all(LIMITS[name].within.holds(aim[name]) for name in aim):
        raise ValueError("a texture of another size")
    return Texture(times, **aim)


def _figures(plain: dict[str, Any], known: tuple[str, ...]) -> dict[str, float]:
    figures = {str(name): float(value) for name, value in plain.items()}
    if set(figures) != set(known):
        raise ValueError("figures that are not those of its kind")
    if not all(math.isfinite(value) and abs(value) <= MOST_FIGURE for value in figures.values()):
        raise ValueError("a figure beyond all measure")
    return figures


def _covariance(plain: Any, count: int) -> tuple[tuple[float, ...], ...]:
    covariance = np.array(plain, dtype=np.float64)
    if covariance.shape != (count, count) or not np.isfinite(covariance).all():
        raise ValueError("a covariance of another size")
    return tuple(tuple(float(x) for x in row) for row in covariance)
