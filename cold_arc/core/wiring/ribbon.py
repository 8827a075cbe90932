"""The wiring from battery to lamp as one line of parts, drawn from what was chosen; and how it is
connected, step by step.

Everything in sizes one can buy comes from :mod:`cold_arc.core.wiring.working`; the order is common
practice, no published source.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from cold_arc.core import electrical
from cold_arc.core.car.lamps import Holds, Present
from cold_arc.core.electrical import SupplyFacts
from cold_arc.core.light_source import LightSource
from cold_arc.core.units import lowered, raised, say_number, say_volts
from cold_arc.core.wiring.setting import Setting
from cold_arc.core.wiring.working import lamp_amps, resistors, smoothed

ON_ITS_WIRE = "its coil on the lamp's own wire, so the key rules it"
HOME = "home until it clicks, pull to try it"


@dataclass(frozen=True)
class RibbonPart:
    """One part of the line: *kind* picks its sign, *words* name it, *says* its volts, amps or size,
    *note* what to mind.

    *across*: it lies from plus to ground beside the line, not in it. *added*: it is put in, so it
    is bought and fitted; *once*: for both lamps together.
    """

    kind: str
    words: str
    says: str = ""
    note: str = ""
    across: bool = False
    added: bool = False
    once: bool = False


def ribbon(
    setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int = 2
) -> list[RibbonPart]:
    """The parts from battery to lamp; *source* None: the original stays. Nothing where its base is
    not known.
    """
    amps = lamp_amps(setting, facts, source)
    if amps is None:
        return []
    return [
        _battery(setting),
        *(_added(setting, facts, amps, lamps) if _feeds_lamp(facts) else _own(setting, facts)),
        *_ballast(setting, source),
        *_plug(setting, source),
        *(_lead(setting) if source else ()),
        *_cures(setting, facts, source),
        *_driver(setting, source),
        _lamp(setting, source, amps),
        _ground(setting, facts),
    ]


def _feeds_lamp(facts: SupplyFacts) -> bool:
    """Whether an added feed is the lamp's own."""
    return bool(facts.run_m) and not facts.feed_for


def feed_ribbon(setting: Setting, facts: SupplyFacts, lamps: int = 2) -> list[RibbonPart]:
    """The parts of a feed added for something else than the lamp in hand; none where there is none,
    or what it takes is not known.
    """
    if not facts.run_m or not facts.feed_for or not facts.feed_w:
        return []
    amps = electrical.most_draw(facts.feed_w, setting.volts).amps
    fed, takes = electrical.FEEDS[facts.feed_for], f"{say_number(facts.feed_w)} W, "
    return [
        _battery(setting),
        *_added(setting, facts, amps, lamps),
        RibbonPart("lamp", fed, f"{takes}{say_number(amps)} A at most", "not the lamp beside it"),
        RibbonPart("ground", "Ring to a body ground", "", "bare metal, greased after", added=True),
    ]


def _battery(setting: Setting) -> RibbonPart:
    low, _, high = electrical.supply_v(setting.volts)
    pole = "positive earth" if setting.earth_positive else "negative earth"
    return RibbonPart("battery", "Battery", f"{say_volts(low)} to {say_volts(high)}", pole)


def _added(setting: Setting, facts: SupplyFacts, amps: float, lamps: int) -> Iterator[RibbonPart]:
    """An added feed: fuse at the battery, wire, and a fuse a side where both lamps hang on it."""
    assert facts.run_m is not None
    wire = electrical.wire(amps * lamps, facts.run_m, setting.volts, facts.air_c)
    if wire is None:
        yield RibbonPart(
            "wire",
            "No single wire carries it",
            f"{say_number(amps * lamps)} A",
            "split the feed, a lamp each",
        )
        return
    where = f"Fuse tap, {slot_words(facts.slot_name)}" if facts.slot_name else "Fuse at the battery"
    old = (
        "the old fuse moved into the tap, one for the wire beside it"
        if facts.slot_name
        else "for the wire"
    )
    yield RibbonPart("fuse", where, f"{wire.fuse_a:g} A blade", old, added=True, once=True)
    yield from _switched(setting, facts, amps * lamps)
    run = f"{wire.mm2:g} mm², {say_number(facts.run_m)} m"
    lost = f"loses {say_volts(wire.drop_v)}; clear of heat and edges, tied"
    yield RibbonPart("wire", "Added wire", run, lost, added=True, once=True)
    if lamps > 1 and (side := electrical.fuse(amps)):
        takes = f"{say_number(amps)} A a lamp"
        yield RibbonPart("fuse", "Fuse, each side", f"{side:g} A blade", takes, added=True)


def _switched(setting: Setting, facts: SupplyFacts, amps: float) -> Iterator[RibbonPart]:
    """What switches an added feed: a switch of its own, and a relay where one is told or the slot
    is live.
    """
    switching = setting.switching
    if switching and switching.by == "own":
        light = "with a tell-tale" if switching.telltale else ""
        yield RibbonPart("switch", "Switch", "", light, added=True, once=True)
    if facts.slot == "live" or (switching and switching.relay):
        coil = switching.logic if switching else ON_ITS_WIRE
        yield RibbonPart(
            "relay",
            "Relay",
            f"{say_number(amps)} A",
            coil,
            added=True,
            once=True,
        )


def slot_words(name: str) -> str:
    """A slot by its name: "slot F17", also where it was called "slot 17" itself.

    >>> slot_words("slot 17"), slot_words("F17")
    ('slot 17', 'slot F17')
    """
    first, _, rest = name.strip().partition(" ")
    return f"slot {rest.strip()}" if first.lower() == "slot" and rest.strip() else f"slot {name}"


def _own(setting: Setting, facts: SupplyFacts) -> Iterator[RibbonPart]:
    """The car's own feed, as it comes; none where nothing hung there."""
    if setting.socket.holds is Holds.NOTHING:
        yield RibbonPart("wire", "No feed yet", "", "tell the added feed: how far, from which slot")
        return
    pulsed = f"pulsed, {say_number(facts.pwm_hz or 0)} Hz" if facts.is_pulsed else "plain d.c."
    watched = f"; watched from {say_number(facts.monitored_w)} W on" if facts.monitored_w else ""
    yield RibbonPart("wire", "The car's own feed", pulsed + watched, "its fuse stays as it is")


def _ballast(setting: Setting, source: LightSource | None) -> Iterator[RibbonPart]:
    """What becomes of a ballast: kept, replaced by the maker's driver, or passed by."""
    if setting.socket.present is not Present.HID:
        return
    arc = setting.base.arc_volts if setting.base else None
    out = f"{arc:g} V a.c., up to 23 kV at ignition" if arc else "its output can kill"
    if source is None or source.driver == "ballast":
        yield RibbonPart("ballast", "Ballast kept", out, "never touch it lit")
    elif source.driver == "in-place":
        yield RibbonPart(
            "ballast",
            "Ballast out, driver in its place",
            say_volts(setting.volts),
            "on the ballast's input plug",
        )
    else:
        note = "never from ballast to bulb"
        yield RibbonPart(
            "ballast",
            "Ballast passed by",
            say_volts(setting.volts),
            f"feed from the wire into it, {note}",
        )


def _plug(setting: Setting, source: LightSource | None) -> Iterator[RibbonPart]:
    """The plug of a lamp, and what comes between it and the car's where the two differ."""
    if not setting.socket.holds_bulb:
        yield _plug_of_whole(setting, source)
        return
    base = setting.base.name if setting.base else ""
    other = None if setting.lead.has("adapter") else _other_plug(setting, base, source)
    yield other or RibbonPart("plug", f"Plug of {base}", "", HOME)


def _other_plug(setting: Setting, base: str, source: LightSource | None) -> RibbonPart | None:
    """An adapter, or new contacts, for a source with another plug than its base has."""
    if source is None:
        return None
    if source.is_bulb and source.base != base and base in source.adapters:
        dual = setting.base is not None and setting.base.is_dual
        note = f"look at its contacts{': high and low may be exchanged' if dual else ''}"
        return RibbonPart("plug", f"Adapter {base} to {source.base}", "", note, added=True)
    if source.plug and source.plug != base:
        words, note = f"Plug {source.plug} on {base}'s", "an adapter, or new contacts"
        return RibbonPart("plug", words, "", note, added=True)
    return None


def _plug_of_whole(setting: Setting, source: LightSource | None) -> RibbonPart:
    """The plug of what holds no bulb: the car's on the new one's, or joints of its own."""
    theirs, own = setting.socket.plug, source.connectors if source else ""
    if setting.socket.holds is Holds.NOTHING:
        return RibbonPart("plug", "Its own plug", own, "its mate on the added feed", added=True)
    if own and theirs and own != theirs and not setting.lead.has("adapter"):
        words = f"Plug {own} on the car's {theirs}"
        return RibbonPart("plug", words, "", "an adapter, or sealed joints", added=True)
    return RibbonPart("plug", f"Plug {theirs or own}".strip(), "", HOME)


def _lead(setting: Setting) -> Iterator[RibbonPart]:
    """What was told to lie between the plug and the lamp, in its order; the driver comes with the
    lamp.
    """
    for part in setting.lead.parts:
        if part.kind != "driver":
            kind = "lead-capacitor" if part.kind == "capacitor" else part.kind
            yield RibbonPart(kind, part.words, part.says, part.note, added=True)


def _cures(
    setting: Setting, facts: SupplyFacts, source: LightSource | None
) -> Iterator[RibbonPart]:
    """Diode, limiter and capacitor of a pulsed feed; load resistors; each where it lies."""
    held = smoothed(setting, facts, source)
    if held:
        cap, _ = held
        blocks, note = electrical.say_blocking(cap), "ring towards the capacitor"
        yield RibbonPart("diode", "Blocking diode", blocks, note, added=True)
        cold = f"NTC {say_number(cap.limiter_ohm)} Ω cold"
        yield RibbonPart("limiter", "Inrush limiter", cold, added=True)
        size, note = electrical.say_smoothing(cap), "plus to plus: reversed it bursts"
        yield RibbonPart("capacitor", "Smoothing capacitor", size, note, across=True, added=True)
    for title, resistor in resistors(setting, facts, source).items():
        yield RibbonPart(
            "resistor",
            title,
            electrical.say_resistor(resistor),
            "hot: on bare metal, never on plastic",
            across=True,
            added=True,
        )


def _driver(setting: Setting, source: LightSource | None) -> Iterator[RibbonPart]:
    if source is not None and source.driver in ("in-line", "in-place"):
        tied = next((part.note for part in setting.lead.parts if part.kind == "driver"), "")
        yield RibbonPart(
            "driver",
            "Driver",
            f"{say_number(source.watts)} W",
            tied or "tied where it is cool and the cap still closes",
        )


def _lamp(setting: Setting, source: LightSource | None, amps: float) -> RibbonPart:
    if source is None:
        care = "as it was put in" if setting.is_converted else "do not touch its glass"
        return RibbonPart("lamp", raised(setting.kept), f"{say_number(amps)} A at most", care)
    either = source.polarity == "any" and setting.wires.reversed in ("", "either")
    polarity = "either way round" if either else _reversed(setting)
    return RibbonPart(
        "lamp", source.name, f"{say_number(source.watts)} W, {say_number(amps)} A at most", polarity
    )


def _reversed(setting: Setting) -> str:
    """What a source does that works one way round only."""
    if setting.wires.reversed == "kills":
        return "reversed it is destroyed: measure first"
    if setting.socket.holds_bulb:
        return "dark if reversed: turn the plug"
    return "find its wires by test light: reversed it stays dark, or dies"


def _ground(setting: Setting, facts: SupplyFacts) -> RibbonPart:
    if _feeds_lamp(facts):
        note = "bare metal, greased after"
        return RibbonPart("ground", "Ring to a body ground", "", note, added=True)
    return RibbonPart("ground", "The lamp's own ground", "", "clean it first")


STEPS = {
    "battery": "Take the battery off before anything is cut or joined.",
    "ballast": "Let the ballast stand a minute after switching off; then unplug it.",
    "resistor": "Screw the resistor to bare metal and join it across the lamp's two wires.",
    "diode": "Set the diode into the plus lead, ring towards the lamp.",
    "limiter": "Set the limiter behind the diode.",
    "capacitor": "Join the capacitor from plus to ground, plus to plus, and tie it down.",
    "adapter": "Put the adapter between the plugs; home until it clicks, pull to try it.",
    "extension": "Put the extension in and lay it clear of heat, edges and the fan.",
    "decoder": "Put the decoder in and tie it down.",
    "lead-capacitor": "Put the capacitor's lead in and tie it down, away from heat.",
    "switch": "Set the switch in reach of the driver, its lead through a grommet.",
    "driver": "Tie the driver where it is cool, its lead clear of the fan.",
    "plug": "Push the plug home, or the adapter between; pull to try it.",
    "ground": "Ring to bare metal; scrape, screw, grease.",
    "relay": "Fix the relay: its contacts in the added feed, its coil on what switches it.",
    "wire": (
        "Lay the wire along existing wiring, clear of heat and edges; tie it every hand's width."
    ),
    "fuse": "Fuse last, with the lamp switched off.",
}
ORDER = (
    "battery",
    "ballast",
    "ground",
    "wire",
    "switch",
    "relay",
    "adapter",
    "extension",
    "decoder",
    "lead-capacitor",
    "diode",
    "limiter",
    "capacitor",
    "resistor",
    "driver",
    "plug",
    "fuse",
)
# What is done for an added feed alone; parts that something is cut for.
ADDED, CUT = {"battery", "wire", "ground", "fuse"}, {"diode", "resistor", "ballast"}


def steps(parts: list[RibbonPart], facts: SupplyFacts) -> list[str]:
    """How it is connected, in order: only what this ribbon has; of the car's own feed nothing is
    cut.
    """
    kinds = {part.kind for part in parts}
    cut = bool(facts.run_m) or bool(kinds & CUT)
    lines = [
        kind
        for kind in ORDER
        if kind in kinds and (kind not in ADDED or facts.run_m or (kind == "battery" and cut))
    ]
    return [STEPS[kind] for kind in lines]


# What is to be minded as a part is put in, by its kind.
CAUTIONS = {"resistor": "hot", "wire": "battery", "diode": "battery", "fuse": "battery"}


@dataclass(frozen=True)
class WiredPart:
    """A part that is put in: its id among a lamp's, what it is in words, what is done with it."""

    id: str
    words: str
    text: str
    caution: str
    once: bool


def put_in(parts: Iterable[RibbonPart]) -> list[WiredPart]:
    """What is put in along a ribbon, in the order it is done."""
    added = sorted((part for part in parts if part.added), key=lambda part: ORDER.index(part.kind))
    numbers: Counter[str] = Counter()
    wired = []
    for part in added:
        numbers[part.kind] += 1
        number = f"-{numbers[part.kind]}" if numbers[part.kind] > 1 else ""
        words = f"{part.words}, {part.says}" if part.says else part.words
        text = f"{words}: {lowered(STEPS[part.kind])}"
        caution = CAUTIONS.get(part.kind, "")
        wired.append(WiredPart(f"wire-{part.kind}{number}", words, text, caution, part.once))
    return wired
