"""How functions must work together: low out with high, fog with low, daytime with turn, as each
market's rule has it.

From memory, with its sources (``data/interlocks.toml``); never a substitute for local advice.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache

from cold_arc.core import data
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import Sources, read
from cold_arc.core.units import worded

# The mode of a lamp the car lacked, whose switching was planned.
ADDED = "added"


@dataclass(frozen=True)
class Interlock:
    """One of them: asked for in *markets* where the car has every function it *needs*, and what was
    put in has the *modes*.
    """

    id: str
    text: str
    markets: tuple[str, ...]
    needs: tuple[str, ...]
    sources: Sources
    modes: tuple[str, ...] = ()


@cache
def interlocks() -> dict[str, Interlock]:
    """All by id."""
    return {
        row["id"]: Interlock(
            row["id"],
            row["text"],
            tuple(row["markets"]),
            tuple(row["needs"]),
            read(row["source"]),
            tuple(row.get("modes", ())),
        )
        for row in data.load("interlocks")["interlock"]
    }


def wanted(market: str, functions: Iterable[str], modes: Iterable[str] = ()) -> list[Interlock]:
    """Those to ask for of a car with these functions, and of lamps put in that have these modes."""
    has, can = set(functions), set(modes)
    return [
        interlock
        for interlock in interlocks().values()
        if market in interlock.markets
        and has.issuperset(interlock.needs)
        and can.issuperset(interlock.modes)
    ]


def findings(results: Mapping[str, bool]) -> list[Finding]:
    """A finding for each that is not as it should be."""
    return [
        Finding(
            "interlock-not-so",
            Level.CAUTION,
            worded("{text}.", text=interlock.text),
            interlock.sources,
            advice=(
                "As the car was made, or wired wrong? The car's own rule decides; check locally, "
                "tell the customer."
            ),
            about="not so",
        )
        for name, interlock in interlocks().items()
        if results.get(name) is False
    ]
