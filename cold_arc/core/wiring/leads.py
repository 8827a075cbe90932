"""The lead from the car's plug to the lamp, which of its wires is which, and how a lamp the car
lacked is switched.

Common practice, no published source, unless named.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.law import CHECK_LOCALLY, markets
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import lowered, say_number, worded

# What may lie between the car's plug and the lamp, in that order.
PARTS = {
    "adapter": "Adapter",
    "extension": "Extension",
    "decoder": "Decoder",
    "capacitor": "Capacitor",
    "driver": "Driver",
}
# Of them what has parts inside that shaking breaks: it is tied down by itself.
HEAVY = ("decoder", "capacitor", "driver")
LOCKS = {
    "click": "Clicks home",
    "slide": "Locking slide",
    "lever": "Lever",
    "notch": "Notch and clip",
    "none": "Nothing holds it",
}
TIES = {
    "body": "Body or bracket",
    "loom": "The car's own loom",
    "lamp": "The lamp itself",
    "moving": "What turns or moves",
    "hot": "What gets hot",
}
# What no lead is tied to, and why.
BAD_TIES = {
    "moving": "It is pulled at every turn and chafes through.",
    "hot": "Its insulation softens, and a capacitor there dries out.",
}
LONGEST_LEAD_M = 10.0
LONGEST_PLACE = 60


@dataclass(frozen=True)
class LeadPart:
    """One part of a lead: which of PARTS, the plug it ends in towards the lamp, how that locks, its
    length, what it is tied to, where it lies in words; "" or None where not told.
    """

    kind: str
    plug: str = ""
    lock: str = ""
    length_m: float | None = None
    tie: str = ""
    place: str = ""

    @property
    def words(self) -> str:
        """What it is, with the plug it ends in."""
        return f"{PARTS[self.kind]}, ends in {self.plug}" if self.plug else PARTS[self.kind]

    @property
    def says(self) -> str:
        """Its length."""
        return _metres(self.length_m) if self.length_m else ""

    @property
    def note(self) -> str:
        """How it locks, what it is tied to, where it lies."""
        lock = lowered(LOCKS[self.lock]) if self.lock else ""
        tied = f"tied to {lowered(TIES[self.tie])}" if self.tie else ""
        return "; ".join(filter(None, (lock, tied, self.place)))


def _metres(length_m: float) -> str:
    return f"{say_number(length_m)} m"


@dataclass(frozen=True)
class Lead:
    """What lies between a socket's plug and its lamp, in order; *reach_m*: how far it has to go."""

    parts: tuple[LeadPart, ...] = ()
    reach_m: float | None = None

    def has(self, *kinds: str) -> bool:
        """Whether a part of one of these kinds is in it."""
        return any(part.kind in kinds for part in self.parts)

    @property
    def length_m(self) -> float | None:
        """How long it is in all; None where a part's length is not told."""
        lengths = [part.length_m for part in self.parts]
        known = [length for length in lengths if length is not None]
        return sum(known) if known and len(known) == len(lengths) else None


def lead_findings(lead: Lead, takes: str = "") -> list[Finding]:
    """What is wrong with a lead; *takes*: the plug the lamp itself has, "" where not told."""
    return [*_joined(lead, takes), *_held(lead), *_reaching(lead)]


def _joined(lead: Lead, takes: str) -> Iterator[Finding]:
    last = next((part.plug for part in reversed(lead.parts) if part.plug), "")
    if last and takes and last.casefold() != takes.casefold():
        yield Finding(
            "lead-other-plug",
            Level.CAUTION,
            "The lead ends in another plug than the lamp has.",
            PRACTICE,
            last,
            takes,
            "Look again at both plugs, or put the adapter in between.",
        )


def _held(lead: Lead) -> Iterator[Finding]:
    for part in lead.parts:
        name = PARTS[part.kind]
        if part.tie in BAD_TIES:
            yield Finding(
                "lead-tied-badly",
                Level.CAUTION,
                worded("{name} tied to {place}.", name=name, place=lowered(TIES[part.tie])),
                PRACTICE,
                advice=worded(
                    "{why} Tie it to what neither moves nor gets hot.", why=BAD_TIES[part.tie]
                ),
            )
        elif part.kind in HEAVY and not part.tie:
            yield Finding(
                "lead-untied",
                Level.NOTE,
                worded("{name}: not told what it is tied to.", name=name),
                PRACTICE,
                advice="Loose it hangs on its wires and breaks them; a fan may take them in.",
            )
        if part.lock == "none":
            yield Finding(
                "lead-plug-free",
                Level.CAUTION,
                worded("{name}: nothing holds its plug.", name=name),
                PRACTICE,
                advice="Tie both halves together, so that no weight hangs on the contacts.",
            )


def _reaching(lead: Lead) -> Iterator[Finding]:
    length = lead.length_m
    if length is None or lead.reach_m is None or length >= lead.reach_m:
        return
    yield Finding(
        "lead-short",
        Level.CAUTION,
        "The lead is too short.",
        PRACTICE,
        _metres(length),
        _metres(lead.reach_m),
        "An extension: a lead that is taut pulls its plug off.",
    )


# What a wire does besides a lamp's functions.
GROUND, WHITE = "ground", "white"
ROLES = {
    **{function.value: function.label for function in Function},
    WHITE: "White of the switchback",
    GROUND: "Ground",
}
FOUND_BY = {
    "light": "Test light",
    "meter": "Meter",
    "sheet": "Maker's sheet",
    "colour": "Colour alone",
}
MEASURED = ("light", "meter")
REVERSED = {
    "either": "Works either way round",
    "dark": "Stays dark",
    "kills": "Is destroyed",
}
JOINTS = {
    "plug": "Plug to plug, nothing cut",
    "crimp": "Crimped and sealed",
    "solder": "Soldered and sleeved",
    "tap": "Tapped onto the wire",
    "twist": "Twisted and taped",
}


@dataclass(frozen=True)
class MappedWire:
    """One wire: what it does (of ROLES), its colour on the car and on the new part, how it was
    found (of FOUND_BY).
    """

    role: str
    car: str
    new: str
    found_by: str

    @property
    def words(self) -> str:
        """As the map is read at the car."""
        return f"{ROLES[self.role]}: {self.car} to {self.new}"


@dataclass(frozen=True)
class WireMap:
    """Which wire is which, what *reversed* ones do (of REVERSED), how they are joined (*joint*, of
    JOINTS).
    """

    wires: tuple[MappedWire, ...] = ()
    reversed: str = ""
    joint: str = ""

    @property
    def words(self) -> str:
        """The whole map in a line."""
        joined = f" {JOINTS[self.joint]}." if self.joint else ""
        return f"{'; '.join(wire.words for wire in self.wires)}.{joined}"

    @property
    def is_measured(self) -> bool:
        """Whether every wire was found by a test light or a meter."""
        return bool(self.wires) and all(wire.found_by in MEASURED for wire in self.wires)


def roles(functions: Iterable[str], modes: Iterable[str] = ()) -> list[str]:
    """The wires a part with these functions and modes has: one for each, and ground.

    >>> roles(["drl", "turn"], ["switchback"])
    ['drl', 'turn', 'white', 'ground']
    """
    white = [WHITE] if "switchback" in modes else []
    return [*dict.fromkeys(functions), *white, GROUND]


def map_findings(wires: WireMap, wanted: Iterable[str] = ()) -> list[Finding]:
    """What is wrong with a wire map; *wanted*: the wires the new part has."""
    return [*_missing(wires, wanted), *_doubled(wires), *_found(wires), *_joints(wires)]


def _missing(wires: WireMap, wanted: Iterable[str]) -> Iterator[Finding]:
    mapped = {wire.role for wire in wires.wires}
    missing = [lowered(ROLES[role]) for role in wanted if role not in mapped]
    if wires.wires and missing:
        yield Finding(
            "wires-untold",
            Level.CAUTION,
            worded("No wire told for {missing}.", missing=", ".join(missing)),
            PRACTICE,
            advice="What is not joined stays dark. Cap and tie a wire that is left over.",
        )


def _doubled(wires: WireMap) -> Iterator[Finding]:
    for whose, colours in (
        ("the car's", [wire.car for wire in wires.wires]),
        ("the new part's", [wire.new for wire in wires.wires]),
    ):
        counted = Counter(colour.casefold() for colour in colours)
        for colour, count in counted.items():
            if count > 1:
                yield Finding(
                    "wires-same-colour",
                    Level.CAUTION,
                    worded(
                        "{count} wires of {whose} are told as {colour}.",
                        count=count,
                        whose=whose,
                        colour=colour,
                    ),
                    PRACTICE,
                    advice="Name the stripe too: two joined by mistake light together, or short.",
                )


def _found(wires: WireMap) -> Iterator[Finding]:
    guessed = [wire for wire in wires.wires if wire.found_by not in MEASURED]
    if not guessed:
        return
    kills = wires.reversed == "kills"
    names = ", ".join(lowered(ROLES[wire.role]) for wire in guessed)
    yield Finding(
        "wires-unmeasured",
        _how_bad(guessed, kills),
        worded("Not measured: {names}.", names=names),
        PRACTICE,
        "reversed it is destroyed" if kills else "",
        advice="Find each by test light or meter before it is joined: colours differ from car to "
        "car.",
    )


def _how_bad(guessed: Iterable[MappedWire], kills: bool) -> Level:
    """How bad wires are that were not measured: by a maker's sheet or by colour alone, and whether
    reversed it kills.
    """
    if any(wire.found_by == "colour" for wire in guessed):
        return Level.STOP if kills else Level.CAUTION
    return Level.CAUTION if kills else Level.NOTE


def _joints(wires: WireMap) -> Iterator[Finding]:
    advice = {
        "tap": "It cuts strands and lets damp in: for a few watts only, then sealed and tied.",
        "twist": "It works loose and burns: crimp and seal it, or solder and sleeve it.",
    }
    if wires.joint in advice:
        yield Finding(
            "wires-joined",
            Level.CAUTION,
            worded("{joint}.", joint=JOINTS[wires.joint]),
            PRACTICE,
            advice=advice[wires.joint],
        )


SWITCHED_BY = {
    "own": "A switch of its own",
    "position": "With position lamps",
    "low": "With low beam",
    "key": "With the key",
}
OFF_WITH = {"high": "High beam", "low": "Low beam", "turn": "Its turn signal"}
# The most current a small dashboard switch is asked to carry by itself, A.
SWITCH_MOST_A = 5.0


@dataclass(frozen=True)
class Switching:
    """How a lamp the car lacked is switched: *by* (of SWITCHED_BY), what it goes *off_with* (of
    OFF_WITH), through a *relay*, with a *telltale*.
    """

    by: str
    off_with: tuple[str, ...] = ()
    relay: bool = False
    telltale: bool = False

    @property
    def logic(self) -> str:
        """What switches it on, and what off."""
        off = " and ".join(lowered(OFF_WITH[name]) for name in self.off_with)
        on = lowered(SWITCHED_BY[self.by])
        return f"{on}, off with {off}" if off else on

    @property
    def words(self) -> str:
        """The logic and its parts in a line, for the sheet."""
        relay = "through a relay" if self.relay else ""
        light = "with a tell-tale" if self.telltale else ""
        return ", ".join(filter(None, (self.logic, relay, light)))


def switching_findings(
    switching: Switching, function: Function, market: str, amps: float | None = None
) -> list[Finding]:
    """What is wrong with how a lamp is switched: by its market's rule, and by what the switch
    carries (*amps*).
    """
    rule = markets()[market].switched.get(function.value) if market in markets() else None
    collected = []
    if rule and (wrong := list(_against(switching, rule.by, rule.off_with, rule.telltale))):
        collected.append(
            Finding(
                "switched-otherwise",
                Level.CAUTION,
                worded(
                    "{function} is not switched as the rule has it: {wrong}.",
                    function=function.label,
                    wrong=", ".join(wrong),
                ),
                rule.sources,
                switching.words,
                rule.text,
                worded(
                    "Wire it so, or tell the customer and take it off the road. {check_locally}",
                    check_locally=CHECK_LOCALLY,
                ),
            )
        )
    elif rule:
        collected.append(
            Finding(
                "switched-right",
                Level.OK,
                worded("{function} is switched as the rule has it.", function=function.label),
                rule.sources,
            )
        )
    if amps is not None and amps > SWITCH_MOST_A and not switching.relay:
        collected.append(
            Finding(
                "switch-bare",
                Level.CAUTION,
                "A switch carries the lamps by itself.",
                PRACTICE,
                worded("{amps:.1f} A", amps=amps),
                worded("{switch_most_a:g} A", switch_most_a=SWITCH_MOST_A),
                "A relay: the switch works its coil only.",
            )
        )
    return collected


def _against(
    switching: Switching, by: tuple[str, ...], off_with: tuple[str, ...], telltale: bool
) -> Iterator[str]:
    if switching.by not in by:
        yield lowered(SWITCHED_BY[switching.by])
    missing = [name for name in off_with if name not in switching.off_with]
    yield from (f"stays on with {lowered(OFF_WITH[name])}" for name in missing)
    if telltale and not switching.telltale:
        yield "no tell-tale"
