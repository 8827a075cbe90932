"""Reads the core's own data files. Every table names its source and whether it was recalled from
memory.
"""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any


@cache
def load(name: str) -> dict[str, Any]:
    """The parsed TOML file *name* of ``core/data``; FileNotFoundError when there is none."""
    return tomllib.loads(
        (files("cold_arc.core") / "data" / f"{name}.toml").read_text(encoding="utf-8")
    )
