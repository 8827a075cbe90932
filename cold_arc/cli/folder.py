"""Where the data is: COLD_ARC_DATA, or a folder beside the program's caller."""

from __future__ import annotations

import os
from pathlib import Path


def shop_folder(default: str = "var/shop") -> Path:
    """The folder of a shop's data."""
    return Path(os.environ.get("COLD_ARC_DATA") or default).resolve()
