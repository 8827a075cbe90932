"""Fit: which steps a socket needs, in order. Common practice, no published source
(``data/fit.toml``).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache

from cold_arc.core import data
from cold_arc.core.car.bases import Base, find
from cold_arc.core.car.condition import UnitCondition
from cold_arc.core.car.front import Socket
from cold_arc.core.car.lamps import Present
from cold_arc.core.light_source import LightSource
from cold_arc.core.work.extras import extras
from cold_arc.core.work.tick import Tick, TickKind

# The step that joins wire to wire, and the tag of a lamp whose wires were told.
JOINS, MAPPED = "wire-map", "mapped"
# The tag of a lamp that is opened and sealed anew.
OPENED = "opened"
# How far an O-ring may be from what is needed, mm.
O_RING_WITHIN_MM = 0.2


def o_ring_fault(fitted_mm: float | None, needed_mm: float | None) -> str:
    """What is wrong with an O-ring's thickness against the one needed; "" for nothing, or where one
    was not measured.

    >>> o_ring_fault(3.1, 2.5)
    'Too thick by 0.6 mm.'
    """
    if (
        fitted_mm is None
        or needed_mm is None
        or abs(fitted_mm - needed_mm) <= O_RING_WITHIN_MM + 1e-9
    ):
        return ""
    word = "thick" if fitted_mm > needed_mm else "thin"
    return f"Too {word} by {abs(fitted_mm - needed_mm):.1f} mm."


@dataclass(frozen=True)
class FitStep:
    """One fitting step and the tags it asks for; *why*, and the *check* it is, if it is one.

    *at_closing*: done as the cover is closed, after proving. *aside*: nothing at the lamp is
    touched by it. *moves*: what is moved over from the old part to the new. *puts_in*: whether it
    puts the "new" source into the lamp, or its "own" back. *lamp*: done once for all its bulbs.
    *tells*: what was told of the socket that it says besides. *first*: done before anything opens;
    *last*: after all its lamp's bulbs.
    """

    id: str
    text: str
    when: tuple[str, ...]
    unless: tuple[str, ...] = ()
    caution: str = ""
    why: str = ""
    check: str = ""
    at_closing: bool = False
    aside: bool = False
    moves: tuple[str, ...] = ()
    puts_in: str = ""
    lamp: bool = False
    tells: tuple[str, ...] = ()
    first: bool = False
    last: bool = False

    def of(self, socket: Socket) -> FitStep:
        """The step, saying what was told of a socket besides."""
        told_of = [text for name in self.tells if (text := getattr(socket, name))]
        return replace(self, text=f"{self.text} ({'; '.join(told_of)})") if told_of else self

    def applies(self, tags: set[str]) -> bool:
        """Whether a socket with these tags needs it."""
        return tags.issuperset(self.when) and tags.isdisjoint(self.unless)


@dataclass(frozen=True)
class CoverCheck:
    """What is looked at as a cover goes on, and what comes of it otherwise."""

    check: str
    why: str


@cache
def cover_checks() -> dict[str, CoverCheck]:
    """What is looked at, by what covers a lamp."""
    return {name: CoverCheck(**row) for name, row in data.load("fit")["cover"].items()}


@cache
def all_steps() -> tuple[FitStep, ...]:
    """Every fitting step, in order."""
    return tuple(
        FitStep(
            row["id"],
            row["text"],
            tuple(row["when"]),
            tuple(row.get("unless", ())),
            row.get("caution", ""),
            row.get("why", ""),
            row.get("check", ""),
            row.get("at_closing", False),
            row.get("aside", False),
            tuple(row.get("moves", ())),
            row.get("puts_in", ""),
            row.get("lamp", False),
            tuple(row.get("tells", ())),
            row.get("first", False),
            row.get("last", False),
        )
        for row in data.load("fit")["step"]
    )


def disturbance(tick: Tick) -> str:
    """What a ticked step did to its lamp: opened, closed, refitted or rewired it; "" for nothing.

    >>> disturbance(Tick("fit:seat")), disturbance(Tick("fit:keep-old"))
    ('refitted', '')
    """
    if tick.kind is TickKind.EXTRA:
        return "rewired" if tick.name in extras() and extras()[tick.name].wires else ""
    if tick.kind is TickKind.FIT:
        return "" if tick.name in _aside() else "refitted"
    if tick.kind is TickKind.ROUTE:
        return "opened"
    return "closed" if tick.kind is TickKind.CLOSE else ""


def puts_in(tick: Tick) -> str:
    """Whether a ticked step puts the "new" source into its lamp, or its "own" back; "" for neither.

    >>> [puts_in(Tick(step)) for step in ("fit:seat", "fit:refit-old", "fit:clock")]
    ['new', 'own', '']
    """
    return _puts_in().get(tick.name, "") if tick.kind is TickKind.FIT else ""


@cache
def _puts_in() -> dict[str, str]:
    return {step.id: step.puts_in for step in all_steps() if step.puts_in}


@cache
def _aside() -> frozenset[str]:
    """The steps that touch nothing at the lamp, or only its cover."""
    every = {step.id for step in all_steps() if step.aside or step.at_closing}
    return frozenset(every | FORMER_ASIDE)


# Steps of before that did so.
FORMER_ASIDE = {"cap-lip"}
# Said of a lamp that leaves the car whole.
LEAVES = "leaves"
# How a bulb is held, by what its base looks like; all but wedges and pins have a collar.
SEATS = {
    "round-metal": "clip",
    "hid": "ring",
    "twist": "quarter-turn",
    "wedge": "wedge",
    "bayonet": "bayonet",
}
COLLARED = {"clip", "ring", "quarter-turn"}
# Gas discharge types whose bulb may bring a chuck that fouls the spring.
CHUCKED = ("D2", "D4")


def seat_of(base: Base | None) -> str:
    """How a base holds a bulb, as in SEATS; "" where that is not known."""
    return SEATS.get(base.looks, "") if base else ""


def tags(
    socket: Socket,
    condition: UnitCondition | None,
    source: LightSource | None,
    covers: Iterable[str] = (),
) -> set[str]:
    """What the steps are chosen by; no *source* means the original stays. *covers*: what of the
    lamp the way in takes off.
    """
    words = {word.value for word in (socket.present, socket.optic) if word} | set(covers)
    words.add(f"holds-{socket.holds.value}")
    if condition and condition.haze:
        words.add("haze")
        words |= {"glass"} if condition.is_glass else set()
    if socket.road_beams:
        words.add("beam")
    return (
        words
        | _tags_of_base(find(socket.base or ""), source)
        | ({"stay"} if source is None else _tags_of(source, socket.present))
    )


def _tags_of_base(base: Base | None, source: LightSource | None) -> set[str]:
    """What a base brings to the choice of steps: how it holds a bulb, where one is put in."""
    if base is None:
        return {"collar"} if source is None or source.is_bulb else set()
    seat = seat_of(base) if source is None or source.is_bulb else ""
    conditions = {
        seat: bool(seat),
        "collar": seat in COLLARED,
        "mercury": base.contains_mercury,
        "chuck": base.name.startswith(CHUCKED),
    }
    return {tag for tag, holds in conditions.items() if holds}


def _tags_of(source: LightSource, present: Present | None) -> set[str]:
    """What a source brings to the choice of steps."""
    words = {"projector-kit" if source.kind == "projector" else source.kind, source.cooling}
    if source.coding:
        words.add("coding")
    if source.levelling in ("motor", "automatic"):
        words.add("levelling")
    if source.driver in ("in-line", "in-place"):
        words.add("inline")
    if present is Present.HID:
        words.add({"ballast": "ballast", "in-place": "own-driver"}.get(source.driver, "bypass"))
    return words


def steps(
    socket: Socket,
    condition: UnitCondition | None,
    source: LightSource | None,
    covers: Iterable[str] = (),
) -> list[FitStep]:
    """The fitting steps one socket needs, in order, those at closing last."""
    held = tags(socket, condition, source, covers)
    applying = [step.of(socket) for step in all_steps() if step.applies(held)]
    return sorted(applying, key=lambda step: step.at_closing)
