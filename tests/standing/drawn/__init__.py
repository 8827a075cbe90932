"""Inputs drawn once and for all by a seed, and what each part of the core makes of them. Invented,
as are all parts and cars in them.
"""

from __future__ import annotations

from collections.abc import Iterator
from random import Random
from typing import TypeVar

Answers = Iterator[tuple[str, object]]
T = TypeVar("T")


def some(random: Random, *choices: T) -> T:
    """One of several, the first more often than not."""
    return choices[0] if random.random() < 0.5 else random.choice(choices)


def between(random: Random, low: float, high: float, digits: int = 2) -> float:
    """A figure as people write it."""
    return round(random.uniform(low, high), digits)
