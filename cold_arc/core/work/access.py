"""Plan: the parts of a car's front as a graph, and the way through them to a lamp: its steps, and
what they cost.

Common practice, no published source: the starter graph (``data/access.toml``) and the quicker
second side.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from cold_arc.core import data
from cold_arc.core.errors import ColdArcError
from cold_arc.core.units import lowered, raised

SECOND_SIDE = 0.75
RISKS = ("none", "low", "some", "high")
MOST_PEOPLE = 4
MOST_FASTENERS = 1000
PLUG = "plug"
# What becomes of a step: it is closed again once what lies behind was proved; plugged in again
# before it is proved; or never undone (an old bulb drawn out).
OPENED, PLUGGED, ONE_WAY = "opened", "plugged", "one way"
STEP_KINDS = {
    OPENED: "Closed again after proving",
    PLUGGED: "Plugged in again before proving",
    ONE_WAY: "Never undone",
}
# What of a lamp a step takes off, as the fitting steps call it.
COVERS = {
    "": "Nothing",
    "cap": "A cap",
    "boot": "A rubber boot",
    "housing": "The whole housing",
    "optic": "Its lens and mirror",
}
# Those that carry the beam with them: their opening or closing moves its aim.
CARRIES_BEAM = {"housing", "optic"}
# The part whose opening leaves the car without power.
BATTERY, BONNET = "battery", "bonnet"
STAYS_OFF = "The battery stays off: wait as the maker says for the airbags too"


@dataclass(frozen=True)
class Fasteners:
    """So many of one kind at one place; *most*: at most so many, where only a range is known until
    they are in hand.
    """

    kind: str
    count: int
    place: str
    most: int | None = None

    @property
    def number(self) -> str:
        """How many, as people write it: "8 to 10"."""
        return str(self.count) if self.most is None else f"{self.count} to {self.most}"

    @property
    def words(self) -> str:
        """As people write it: "2 push pin, liner door"."""
        return f"{self.number} {self.kind}, {self.place}"


@dataclass(frozen=True)
class RouteStep:
    """One step: minutes count taking apart and putting back on one side; *shared* is done once for
    both.

    *opens*: the part of the car it opens or moves, where more than one lamp may lie behind it;
    *behind*: the parts that stand before it (none named: the step before it). *unplug*: what must
    be unplugged before it moves; *keep*: what must not be unplugged first. *risk* of breaking or
    hurting, as in RISKS. *kind*: what becomes of it, as in STEP_KINDS; *closing*: its words then;
    *cover*: what of the lamp it takes off, as in COVERS; *inside* the lamp: not done where the
    whole lamp leaves the car.
    """

    id: int
    text: str
    minutes: float
    tools: tuple[str, ...] = ()
    fasteners: tuple[Fasteners, ...] = ()
    caution: str = ""
    shared: bool = False
    opens: str = ""
    behind: tuple[str, ...] = ()
    unplug: tuple[str, ...] = ()
    keep: tuple[str, ...] = ()
    people: int = 1
    risk: int = 0
    kind: str = OPENED
    closing: str = ""
    cover: str = ""
    inside: bool = False

    @property
    def comes_back(self) -> bool:
        """Whether it is undone again."""
        return self.kind != ONE_WAY

    @property
    def closing_words(self) -> str:
        """What is done when it is undone."""
        return self.closing or f"Back: {self.text}"

    @property
    def held(self) -> tuple[Fasteners, ...]:
        """All that comes loose and must be back: its fasteners, and each plug."""
        return (*self.fasteners, *(Fasteners(PLUG, 1, name) for name in self.unplug))


def minutes_one_side(steps: Iterable[RouteStep]) -> float:
    """Minutes for one side alone."""
    return sum(step.minutes for step in steps)


def minutes_both(steps: Iterable[RouteStep]) -> float:
    """Minutes for both sides: shared steps once, the rest again a little quicker."""
    return sum(step.minutes * (1 if step.shared else 1 + SECOND_SIDE) for step in steps)


def tools(steps: Iterable[RouteStep]) -> list[str]:
    """Every tool once, in the order it is first needed."""
    return list(dict.fromkeys(tool for step in steps for tool in step.tools))


def moved(steps: tuple[RouteStep, ...], step_id: int, by: int) -> tuple[RouteStep, ...]:
    """The steps with one moved *by* places, staying inside the list."""
    order = list(steps)
    here = next(index for index, step in enumerate(order) if step.id == step_id)
    there = min(max(here + by, 0), len(order) - 1)
    order.insert(there, order.pop(here))
    return tuple(order)


def in_order(steps: tuple[RouteStep, ...]) -> tuple[RouteStep, ...]:
    """The steps as written, but each after those that open what it stands behind."""
    opened: dict[str, int] = {}
    for index, step in enumerate(steps):
        opened.setdefault(step.opens, index)
    order: dict[int, None] = {}

    def take(index: int, waiting: frozenset[int]) -> None:
        for name in steps[index].behind:
            first = opened.get(name)
            if first is not None and first not in waiting and first not in order:
                take(first, waiting | {first})
        order.setdefault(index)

    for index in range(len(steps)):
        take(index, frozenset({index}))
    return tuple(steps[index] for index in order)


def stands_behind(steps: Sequence[RouteStep], number: int) -> list[int]:
    """Which of the steps before it one stands behind: those that open what it names, the last where
    it names none of them; by their numbers from 0.
    """
    earlier = {step.opens: place for place, step in enumerate(steps[:number]) if step.opens}
    named = [earlier[name] for name in steps[number].behind if name in earlier]
    return named or list(range(number))[-1:]


def renumbered(steps: Iterable[RouteStep], first_id: int) -> tuple[RouteStep, ...]:
    """The steps with fresh ids from *first_id* on, so that old ticks don't count for them."""
    return tuple(replace(step, id=first_id + index) for index, step in enumerate(steps))


@dataclass(frozen=True)
class WayIn:
    """A way in as a graph of parts gives it; *unit* and *side* say for which lamp, where that is
    told.
    """

    name: str
    note: str
    steps: tuple[RouteStep, ...]
    unit: str = ""
    side: str = ""


class AccessError(ColdArcError, ValueError):
    """A graph that can't be: a part that is not there, or parts that stand before each other."""


Rows = Mapping[str, Any]
# What a part says of how it is undone.
UNDOING = ("kind", "closing", "cover", "inside")


def ways_in(parts: Mapping[str, Rows], ways: Iterable[Rows]) -> tuple[WayIn, ...]:
    """Every way through *parts* as steps in order, each part after all that stand before it;
    AccessError.

    >>> door, cap = {"text": "Door", "minutes": 3}, {"text": "Cap", "minutes": 1}
    >>> parts = {"door": door, "cap": {**cap, "behind": ["door"]}}
    >>> [step.text for step in ways_in(parts, [{"name": "Liner", "through": ["cap"]}])[0].steps]
    ['Door', 'Cap']
    """
    built = []
    for row in ways:
        names = list(
            dict.fromkeys(name for last in row["through"] for name in _before(parts, last, ()))
        )
        steps = tuple(_step(number, name, parts[name]) for number, name in enumerate(names, 1))
        built.append(
            WayIn(row["name"], row.get("note", ""), steps, row.get("unit", ""), row.get("side", ""))
        )
    return tuple(built)


def _before(parts: Mapping[str, Rows], name: str, after: tuple[str, ...]) -> Iterator[str]:
    """Everything that stands before a part, then the part."""
    if name not in parts:
        raise AccessError(f"There is no part “{name}”.")
    if name in after:
        raise AccessError(f"“{name}” stands before itself.")
    for needed in parts[name].get("behind", ()):
        yield from _before(parts, needed, (*after, name))
    yield name


def _step(number: int, name: str, row: Rows) -> RouteStep:
    own = row.get("lamp", False)
    return RouteStep(
        id=number,
        text=row["text"],
        minutes=float(row["minutes"]),
        tools=tuple(row.get("tools", ())),
        fasteners=tuple(Fasteners(**item) for item in row.get("fasteners", ())),
        caution=row.get("caution", ""),
        shared=row.get("shared", False),
        opens="" if own else name,
        behind=() if own else tuple(row.get("behind", ())),
        unplug=tuple(row.get("unplug", ())),
        keep=tuple(row.get("keep", ())),
        people=row.get("people", 1),
        risk=row.get("risk", 0),
        **{name: row[name] for name in UNDOING if name in row},
    )


def starter_parts() -> dict[str, Rows]:
    """The parts of the graph that ships with the core."""
    return dict(data.load("access")["part"])


@cache
def starter_ways() -> tuple[WayIn, ...]:
    """The ways in that ship with the core."""
    return ways_in(starter_parts(), data.load("access")["way"])


@cache
def _undoing_by_text() -> dict[str, Rows]:
    """How the parts that ship, and those that once did, are undone, by their words."""
    table = data.load("access")
    rows = [*table["part"].values(), *table["former"]]
    return {row["text"]: {name: row[name] for name in UNDOING if name in row} for row in rows}


def with_undoing(step: Rows) -> dict[str, Any]:
    """A step told before steps said how they are undone, as plain values: what ships is known by
    its words, a cap or an old bulb by its name.
    """
    if "kind" in step:
        return dict(step)
    return {**step, **_undoing_by_text().get(step["text"], _undoing_by_name(step["text"]))}


def _undoing_by_name(text: str) -> Rows:
    """How a step of a shop's own words is undone, as far as they say."""
    words = set(text.lower().replace(",", " ").split())
    if "cap" in words:
        return {"cover": "cap", "inside": True}
    return {"kind": ONE_WAY, "inside": True} if words >= {"old", "bulb"} else {}


@cache
def _held() -> dict[str, Rows]:
    """How a step that ships is said, by its words, for each way a base is held."""
    return {text: row for row in data.load("access")["held"] for text in row["texts"]}


def said_for(step: RouteStep, seats: Mapping[str, str]) -> RouteStep:
    """A step in the words for how the lamp's bulbs are held; a step of a shop's own words, or bases
    of which nothing is said, keep them. *seats*: how each bulb behind the lamp is held, by what the
    bulb is called; where they are held in several ways, each way says of which.

    >>> step = RouteStep(1, "Old bulb out", 2)
    >>> said_for(step, {"low beam": "wedge"}).text
    'Turn the holder out and pull the old bulb straight out of it'
    """
    rows = _held().get(step.text, {})
    bulbs: dict[str, list[str]] = {}
    for bulb, seat in seats.items():
        bulbs.setdefault(rows.get(seat, step.text), []).append(bulb)
    if len(bulbs) > 1:
        each = (f"{' and '.join(names)}: {lowered(words)}" for words, names in bulbs.items())
        return replace(step, text=raised("; ".join(each)))
    return replace(step, text=next(iter(bulbs), step.text))


def still_off(step: RouteStep) -> RouteStep:
    """A step behind the high voltage: a battery that is off for that already stays so."""
    return replace(step, text=STAYS_OFF) if step.opens == BATTERY else step


@cache
def caution_names() -> dict[str, str]:
    """What each caution is called in a list, by id."""
    return dict(data.load("cautions")["names"])


@cache
def cautions() -> dict[str, str]:
    """All cautions by id."""
    return dict(data.load("cautions")["cautions"])
