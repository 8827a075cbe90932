"""Numbers the program writes into addresses and buttons itself, read back with bounds: junk is None
or the default.
"""

from __future__ import annotations

import math

MOST_DIGITS = 9


def whole(text: str | None) -> int | None:
    """A whole number of up to nine digits, or None."""
    return (
        int(text)
        if text and text.isascii() and text.isdecimal() and len(text) <= MOST_DIGITS
        else None
    )


def bounded(text: str | None, low: float, high: float, default: float) -> float:
    """A number held between *low* and *high*; *default* for what is none."""
    try:
        value = float(text or "")
    except ValueError:
        return default
    return min(high, max(low, value)) if math.isfinite(value) else default


def own_path(text: str | None, default: str) -> str:
    """A path of this shop to go back to: "/…" and nothing a browser could read as another host, or
    *default*.
    """
    plain = text or ""
    is_path = plain.startswith("/") and not plain.startswith(("//", "/\\"))
    return plain if is_path and plain.isprintable() and " " not in plain else default
