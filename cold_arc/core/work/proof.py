"""Prove: every function, each side, engine off and on, before closing and again after refit.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass

from cold_arc.core.car.bases import Base
from cold_arc.core.car.lamps import Function, Holds, Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded

FUNCTIONS = {
    **{function.value: function.label for function in Function},
    "hazard": "Hazard",
}
ENGINE = {"off": "Engine off", "on": "Engine running"}
PASSES = {"arrival": "As it came", "open": "Before closing", "closed": "After refit"}
RESULTS = {
    "works": "Works",
    "dark": "Dark",
    "flickers": "Flickers",
    "warning": "Warning shows",
    "dim": "Dim",
    "fast": "Flashes fast",
    "logic": "Wrong logic",
    "fan": "Fan silent",
    "turned": "Works, plug turned",
}
GOOD_RESULTS = {"works", "turned"}
# What a bad result shows, as the diagnosis calls it.
SYMPTOMS = {
    "dark": "dark",
    "flickers": "flicker",
    "warning": "warning",
    "dim": "dim",
    "fast": "fast",
    "logic": "low-out",
    "fan": "fading",
}
TAP_ORDER = ("works", "dark", "flickers", "warning")


@dataclass(frozen=True, order=True)
class Cell:
    """One thing to prove."""

    function: str
    side: str
    engine: str

    @property
    def words(self) -> str:
        """The cell in words."""
        return f"{FUNCTIONS[self.function]} {self.side}, {ENGINE[self.engine].lower()}"


def as_function(name: str) -> Function | None:
    """The function a row of the board stands for; None for the hazard lights, which are the turn
    signals together.
    """
    return Function(name) if name in list(Function) else None


def cells(functions: Iterable[str]) -> list[Cell]:
    """Every cell for these functions, in board order."""
    return [
        Cell(function, side.value, engine)
        for function in functions
        for side in Side
        for engine in ENGINE
    ]


def next_result(current: str | None) -> str:
    """What a tap turns a cell into: works, dark, flickers, warning, and round again."""
    if current not in TAP_ORDER:
        return TAP_ORDER[0]
    return TAP_ORDER[(TAP_ORDER.index(current) + 1) % len(TAP_ORDER)]


def untested(wanted: Iterable[Cell], results: Mapping[Cell, str]) -> list[Cell]:
    """The cells nobody has marked."""
    return [cell for cell in wanted if cell not in results]


# What to try where what holds no bulb stays dark.
TURNING_WHOLE = "Its plug fits one way: look for a bent pin, an adapter wired wrong, the coding."
TURNING_WIRES = "Find its wires by test light; swap them where its maker allows, and try again."
TURNING_KILLS = "Do not swap its wires, which destroys it: find each by meter; then fuse and earth."


def turning(base: Base | None, holds: Holds = Holds.BULB, kills: bool = False) -> str:
    """What to turn where a lamp stays dark, by what hangs there and how its base holds the bulb;
    *kills*: reversed wires destroy it. Common practice, no published source.

    >>> from cold_arc.core.car.bases import find
    >>> turning(find("W5W"))
    'Turn the bulb by half in its holder, and try again.'
    """
    if kills:
        return TURNING_KILLS
    if holds is not Holds.BULB:
        return TURNING_WHOLE if holds is Holds.LAMP else TURNING_WIRES
    return _turning_bulb(base)


def _turning_bulb(base: Base | None) -> str:
    looks = base.looks if base else ""
    if looks == "wedge":
        return "Turn the bulb by half in its holder, and try again."
    if looks == "bayonet" and base and len(base.watts) > 1:
        both = "low and high" if base.is_dual else "bright and dim"
        return (
            f"Two contacts: turned by half the bulb exchanges {both}. Look which lights, turn it "
            "by half, try again."
        )
    if looks == "bayonet":
        return "One contact, which can't be turned: clean it and the holder, bend it out a little."
    if looks == "sealed":
        return "Plug home, contacts clean; then swap polarity at the plug if the maker lets it."
    return "Turn the plug 180° or swap polarity, and try again."


def _turn_plug(_: Cell) -> str:
    return turning(None)


def findings(
    results: Mapping[Cell, str], turn: Callable[[Cell], str] = _turn_plug
) -> Iterator[Finding]:
    """What the marked cells say, with the step to take for each fault; *turn*: what to turn first
    where one stays dark.
    """
    advice = {
        "dark": "Then fuse, feed and earth.",
        "flickers": (
            "Pulse-width-modulated supply: decoder or smoothing capacitor. Watch for a full minute."
        ),
        "warning": "Bulb-out monitoring: decoder, or a load resistor mounted on metal (hot).",
        "dim": "Ground, supply at the lamp, film left on: find the fault.",
        "fast": "The flasher misses its load: resistor on metal (hot), or a flasher for LEDs.",
        "logic": (
            "Low with high, fog with low, daytime with turn: as the car was made, or wired wrong?"
        ),
        "fan": "It will run hot: a lead in the fan, the cap too near, or a dead fan.",
    }
    for cell, result in results.items():
        if result in advice:
            dark = result == "dark"
            yield Finding(
                f"proof-{result}",
                Level.STOP if dark else Level.CAUTION,
                worded("{cell}: {result}.", cell=cell.words, result=RESULTS[result].lower()),
                PRACTICE,
                advice=worded("{turn} {then}", turn=turn(cell), then=advice[result])
                if dark
                else advice[result],
            )
