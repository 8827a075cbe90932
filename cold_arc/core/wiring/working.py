"""What a choice changes electrically, worked out in sizes one can buy: one line a question, with
its formula.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cold_arc.core import electrical
from cold_arc.core.car.lamps import Function, Holds, Present
from cold_arc.core.electrical import Before, LoadResistor, SupplyFacts
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.references import PRACTICE, cite, say
from cold_arc.core.units import say_number, say_percent, say_volts, worded
from cold_arc.core.wiring import leads
from cold_arc.core.wiring.setting import Setting

# What a ballast takes over what its arc gets (common practice).
BALLAST_LOSS = 1.15
HOT = "It burns: on bare metal, away from plastic and wiring, with paste and two screws."
# How the current of a driver was worked out.
DRIVER_HOW = "a driver takes the same power at any voltage; I = P/V"


@dataclass(frozen=True)
class WiringResult:
    """One result: what it is, the value to use, what else to know, and how it was worked out."""

    title: str
    value: str
    detail: str
    how: str


def before_of(setting: Setting) -> Before | None:
    """What is in the lamp now, at the most it takes; the filament of the function in hand. None
    where not known, as of an LED bulb or an HID kit that was put in by others: its base tells
    nothing of its watts.
    """
    if setting.held is not None:
        return Before(_taken(setting.held), filament=False)
    rated, present = setting.rating, setting.socket.present
    made_for_arc = setting.base is not None and setting.base.kind == "hid"
    if rated is None or present is Present.LED or (present is Present.HID and not made_for_arc):
        return None
    if present is Present.HID:
        return Before(rated.watts * BALLAST_LOSS, filament=False)
    return Before(rated.most_watts, True, rated.test_volts)


def work_out(
    setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int = 2
) -> list[WiringResult]:
    """Every result that applies; *source* None: staying with the original. *lamps*: on one feed or
    fuse.
    """
    before = before_of(setting)
    if before is None and (source is None or (setting.socket.holds_bulb and not setting.rating)):
        return []
    return [
        *_draw(setting, facts, before, source, lamps),
        *_cures(setting, facts, source),
        *_feed(setting, facts, source, lamps),
    ]


def after_watts(setting: Setting, source: LightSource | None) -> float | None:
    """What the lamp draws from the car after the change, W; None where nothing is known."""
    before = before_of(setting)
    if source is None:
        return before.watts if before else None
    return _taken(source)


def _taken(source: LightSource) -> float:
    """What a source draws from the car, its ballast's loss with it, W."""
    return source.watts * BALLAST_LOSS if source.driver == "ballast" else source.watts


def resistors(
    setting: Setting, facts: SupplyFacts, source: LightSource | None
) -> dict[str, LoadResistor]:
    """The load resistors across one lamp, by what each is for."""
    rated, by_title = setting.rating, {}
    if source is None or rated is None or source.driver == "ballast":
        return {}
    monitor = electrical.monitor_resistor(source.watts, facts.monitored_w, setting.volts)
    if monitor and not source.monitor_proof and not setting.lead.has("decoder"):
        by_title["Load resistor"] = monitor
    if setting.socket.gives(Function.TURN) and rated.watts > source.watts:
        by_title["Flash-rate load"] = electrical.load_resistor(
            rated.watts - source.watts, setting.volts
        )
    return by_title


def smoothed(
    setting: Setting, facts: SupplyFacts, source: LightSource | None
) -> tuple[electrical.Smoothing, float] | None:
    """The capacitor to be made up for a pulsed feed, and the most current there, A; None where none
    is needed, or the lead has a decoder or a capacitor of its own.
    """
    if source is None or source.driver == "ballast" or source.pwm_proof:
        return None
    if setting.lead.has("decoder", "capacitor"):
        return None
    return electrical.hold_up(source.watts, facts, setting.volts)


def lamp_amps(setting: Setting, facts: SupplyFacts, source: LightSource | None) -> float | None:
    """The most current one lamp takes, A: its driver's or ballast's at the lowest voltage a car
    runs on, its filament's and resistors' at the highest.
    """
    watts = after_watts(setting, source)
    if watts is None:
        return None
    highest = electrical.supply_v(setting.volts)[2]
    before = before_of(setting)
    own = (
        before.draw(highest)
        if source is None and before and before.filament
        else electrical.most_draw(watts, setting.volts)
    )
    return own.amps + sum(resistor.amps for resistor in resistors(setting, facts, source).values())


def fed_amps(setting: Setting, facts: SupplyFacts, source: LightSource | None) -> float | None:
    """The most current one lamp takes through an added feed, A: what the feed is for, not the lamp
    beside it; None where that is not known.
    """
    if not facts.feed_for:
        return lamp_amps(setting, facts, source)
    return electrical.most_draw(facts.feed_w, setting.volts).amps if facts.feed_w else None


def _draw(
    setting: Setting,
    facts: SupplyFacts,
    before: Before | None,
    source: LightSource | None,
    lamps: int,
) -> Iterator[WiringResult]:
    volts = electrical.supply_v(setting.volts)[1]
    if before:
        yield _draw_before(setting, before, volts)
    watts, most = after_watts(setting, source), lamp_amps(setting, facts, source)
    if source is None or watts is None or most is None:
        return
    new = electrical.driver_draw(watts, volts)
    yield WiringResult(
        "After",
        f"{say_number(new.watts)} W · {say_number(new.amps)} A",
        _saved(before, new, volts, lamps),
        DRIVER_HOW,
    )
    low, high = electrical.RUNNING_VOLTS[setting.volts][0], electrical.supply_v(setting.volts)[2]
    across = (
        f", load resistors included at {say_volts(high)}"
        if resistors(setting, facts, source)
        else ""
    )
    yield WiringResult(
        "Most current",
        f"{say_number(most * lamps)} A",
        f"{lamps} lamps at {say_volts(low)}, the least a car runs on{across}",
        "I = P/V, V/R",
    )


def _saved(before: Before | None, new: electrical.Draw, volts: float, lamps: int) -> str:
    """How much less or more is drawn than before; where nothing was told of before, at what."""
    if before is None:
        return f"one lamp at {say_volts(volts)}"
    saved = (before.draw(volts).watts - new.watts) * lamps
    words = f"{say_number(saved)} W less" if saved >= 0 else f"{say_number(-saved)} W more"
    return f"{words} for {lamps} lamp{'s'[: lamps - 1]}"


def _draw_before(setting: Setting, before: Before, volts: float) -> WiringResult:
    """What the lamp took before."""
    rated, old = setting.rating, before.draw(volts)
    note = f"one lamp at {say_volts(volts)}"
    if before.filament and rated:
        note += f", rated {say_number(rated.watts)} W; the most it takes"
        note += (
            f" (the {setting.volts:g} V type's figure is not known: read it off the bulb)"
            if rated.assumed
            else ""
        )
    return WiringResult(
        "Before",
        f"{say_number(old.watts)} W · {say_number(old.amps)} A",
        note,
        _how_before(setting, before, old.watts),
    )


def _how_before(setting: Setting, before: Before, watts: float) -> str:
    """How what is drawn now was worked out."""
    if before.filament:
        return f"most W at test voltage ({say(cite('un-r37'))}), P ∝ V^1.6, I = P/V"
    if setting.held is not None and setting.held.driver != "ballast":
        return DRIVER_HOW
    return f"{say_number(watts / BALLAST_LOSS)} W and 15 % lost in the ballast, I = P/V"


def _cures(
    setting: Setting, facts: SupplyFacts, source: LightSource | None
) -> Iterator[WiringResult]:
    """Load resistor, flash-rate load and smoothing capacitor, where they are needed."""
    for title, resistor in resistors(setting, facts, source).items():
        yield _resistor(title, resistor)
    if held := smoothed(setting, facts, source):
        yield from _smoothing(*held, setting)


def _smoothing(cap: electrical.Smoothing, amps: float, setting: Setting) -> Iterator[WiringResult]:
    """The capacitor, and what it must not be without."""
    yield WiringResult(
        "Smoothing capacitor",
        electrical.say_smoothing(cap),
        f"bridges {say_number(cap.gap_s * 1000)} ms at {say_number(amps)} A, exact "
        f"{say_number(cap.exact_uf, 4)} µF. "
        "Plus to plus: reversed it bursts. Heat ages it: a 105 °C type, tied down, away from "
        "the lamp.",
        (
            f"C = I·t/ΔV, sag {say_percent(electrical.RIPPLE_SHARE)} of "
            f"{say_volts(setting.volts)}, next E6 up"
        ),
    )
    yield WiringResult(
        "Blocking diode",
        electrical.say_blocking(cap),
        "in the plus lead before the capacitor, ring towards it: without it the capacitor "
        "feeds back into the car's"
        " controller and the other lamp. It takes about 0.5 V; on metal if it runs warm.",
        "twice the current, twice the highest voltage, next size up",
    )
    yield WiringResult(
        "Inrush limiter",
        f"NTC, about {say_number(cap.limiter_ohm)} Ω cold",
        f"the empty capacitor draws up to {say_number(cap.inrush_a)} A for an instant through "
        f"{electrical.FEED_OHM} Ω of wiring: it can trip the controller or weld a relay",
        "V/R at the highest voltage; held to ten times the running current, next E6 up",
    )


def _resistor(title: str, resistor: electrical.LoadResistor) -> WiringResult:
    better = f", better {resistor.better_rating_w:g} W" if resistor.better_rating_w else ""
    return WiringResult(
        title,
        electrical.say_resistor(resistor),
        (
            f"exact {say_number(resistor.exact_ohm)} Ω{better}, draws {say_number(resistor.amps)} "
            f"A. {HOT}"
        ),
        (
            "R = V²/ΔP at rated voltage, next E24 down; burns V²/R at the highest voltage, rated "
            "twice that"
        ),
    )


def _feed(
    setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int
) -> Iterator[WiringResult]:
    """Wire and fuses of an added feed, for everything that flows through it."""
    one = fed_amps(setting, facts, source)
    if facts.run_m is None:
        return
    if one is None:
        words = f"say what the {electrical.FEEDS[facts.feed_for].lower()} takes, a lamp"
        yield WiringResult("Added feed", "its watts first", words, "I = P/V")
        return
    amps = one * lamps
    wire = electrical.wire(amps, facts.run_m, setting.volts, facts.air_c)
    if wire is None:
        yield WiringResult(
            "Wire",
            "no single wire",
            f"{say_number(amps)} A over {say_number(facts.run_m)} m in air of {facts.air_c:g} °C",
            "split the feed, a lamp each; lead it where it is cooler",
        )
        return
    awg = f" · AWG {wire.awg}" if wire.awg else ""
    yield WiringResult(
        "Wire",
        f"{wire.mm2:g} mm²{awg}",
        f"insulation class {wire.insulation} (to "
        f"{electrical.INSULATION_C[wire.insulation]:g}\u00a0°C) or hotter; loses"
        f" {say_volts(wire.drop_v)} of {say_volts(wire.allowed_v)} allowed, "
        f"{say_number(facts.run_m)}\u00a0m there and"
        f" back; carries {say_number(wire.carries_a)}\u00a0A in air of {facts.air_c:g}\u00a0°C",
        (
            "A = ρ(T)·2·L·I/ΔV, next size up that carries its fuse, I ∝ √(T_class − T_air); AWG "
            "by ASTM B258"
        ),
    )
    yield WiringResult(
        "Fuse",
        f"{wire.fuse_a:g} A blade",
        f"{say_number(amps)} A through it; at the battery end, for the wire",
        "I / 80 %, next size up",
    )
    side = electrical.fuse(one)
    if lamps > 1 and side:
        yield WiringResult(
            "Fuse, each side",
            f"{side:g} A blade each",
            (
                f"{say_number(one)} A a lamp, where the feed parts: on one fuse for both, one "
                "fault puts both out at once"
            ),
            "I / 80 %, next size up",
        )


def no_feed(setting: Setting, facts: SupplyFacts, source: LightSource | None) -> Iterator[Finding]:
    """A caution where what is put in has nothing to feed it: a lamp the car never had, no feed
    told.
    """
    if source is not None and setting.socket.holds is Holds.NOTHING and not facts.run_m:
        yield Finding(
            "feed-none",
            Level.CAUTION,
            "Nothing feeds it yet.",
            PRACTICE,
            advice="Tell the added feed at Wiring: from which slot, how far, the slot's rating.",
        )


def _of_lead(
    setting: Setting, source: LightSource | None, amps: float | None, lamps: int
) -> Iterator[Finding]:
    """What is wrong with the lead, the wire map and the switching as told."""
    if source is None:
        return
    takes = source.plug or source.base
    yield from leads.lead_findings(setting.lead, takes)
    yield from leads.map_findings(setting.wires, roles_of(setting, source))
    if setting.switching:
        through = amps * lamps if amps is not None else None
        yield from leads.switching_findings(
            setting.switching, setting.function, setting.market, through
        )


def roles_of(setting: Setting, source: LightSource | None) -> list[str]:
    """The wires that what is put into a socket has, as ``leads.ROLES``."""
    own = [function.value for function in setting.socket.functions]
    given = source.functions if source and source.functions else own
    return leads.roles(given, source.modes if source else ())


def supply(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Its supply range against what the car gives, and earth."""
    if source.driver == "ballast":
        return
    low, high = electrical.RUNNING_VOLTS[setting.volts]
    number = worded(
        "{supply_min_v:volts} to {supply_max_v:volts}",
        supply_min_v=source.supply_min_v,
        supply_max_v=source.supply_max_v,
    )
    limit = worded(
        "{low:volts} to {high:volts} on a {volts:volts} car",
        low=low,
        high=high,
        volts=setting.volts,
    )
    if source.supply_min_v > low or source.supply_max_v < high:
        advice = worded("Choose one made for {volts:volts}.", volts=setting.volts)
        yield Finding(
            "supply-short",
            Level.STOP,
            "Supply range does not cover this car.",
            PRACTICE,
            number,
            limit,
            advice,
        )
    else:
        yield Finding(
            "supply-covered", Level.OK, "Supply range covers this car.", PRACTICE, number, limit
        )
    if setting.earth_positive and not source.earth_insulated:
        yield Finding(
            "body-live",
            Level.STOP,
            "Body is live on a positive-earth car.",
            PRACTICE,
            advice="Choose one whose body is insulated.",
        )


def findings(
    setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int = 2
) -> list[Finding]:
    """What is wrong or right with the wire as laid and the feed as taken; what speaks against the
    source on this car's supply.
    """
    one = fed_amps(setting, facts, source)
    collected = list(no_feed(setting, facts, source))
    if source is not None:
        collected += [each for each in supply(source, setting) if each.level is Level.STOP]
    if one is not None:
        collected += electrical.laid_wire(facts, one * lamps, setting.volts)
        collected += electrical.tap(facts, one * lamps)
    collected += _of_lead(setting, source, one, lamps)
    if facts.feed_at:
        collected += electrical.feed_point(facts.feed_at, facts.feed_volts, setting.volts)
    return collected
