"""What a choice changes electrically, worked out in sizes one can buy: one line a question, with its formula."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cold_arc.core import electrical
from cold_arc.core.electrical import Before, SupplyFacts
from cold_arc.core.findings import Finding
from cold_arc.core.lamps import Function, Present
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.setting import Setting
from cold_arc.core.units import say_number, say_percent, say_volts

BALLAST_LOSS = 1.15
HOT = "It burns: on bare metal, away from plastic and wiring, with paste and two screws."


@dataclass(frozen=True)
class Worked:
    """One result: what it is, the value to use, what else to know, and how it was worked out."""

    title: str
    value: str
    detail: str
    how: str


def before_of(setting: Setting) -> Before | None:
    """What is in the lamp now, at its rating; the filament of the beam in hand on a dual base. None where not known."""
    base = setting.base
    if base is None:
        return None
    watts = base.watts[0] if setting.lamp.key.function is Function.HIGH else base.watts[-1]
    if setting.lamp.present is Present.HID:
        return Before(watts * BALLAST_LOSS, filament=False)
    return Before(watts, filament=setting.lamp.present is not Present.LED)


def work_out(setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int = 2) -> list[Worked]:
    """Every result that applies; *source* None: staying with the original. *lamps*: on one feed or fuse."""
    before = before_of(setting)
    if before is None:
        return []
    return [
        *_draw(setting, before, source, lamps),
        *_cures(setting, facts, source),
        *_feed(setting, facts, source, lamps),
    ]


def after_watts(setting: Setting, source: LightSource | None) -> float | None:
    """What the lamp draws from the car after the change, W; None where nothing is known."""
    before = before_of(setting)
    if source is None:
        return before.watts if before else None
    return source.watts * BALLAST_LOSS if source.driver == "ballast" else source.watts


def _draw(setting: Setting, before: Before, source: LightSource | None, lamps: int) -> Iterator[Worked]:
    rated = electrical.supply_v(setting.volts)[1]
    old = before.draw(setting.volts, rated)
    yield Worked(
        "Before", f"{say_number(old.watts)} W · {say_number(old.amps)} A", f"one lamp at {say_volts(rated)}",
        "P ∝ V^1.6 from its rating, I = P/V" if before.filament else "35 W and 15 % lost in the ballast, I = P/V",
    )  # fmt: skip
    watts = after_watts(setting, source)
    if source is None or watts is None:
        return
    new = electrical.driver_draw(watts, rated)
    saved = (old.watts - new.watts) * lamps
    words = f"{say_number(saved)} W less" if saved >= 0 else f"{say_number(-saved)} W more"
    yield Worked(
        "After", f"{say_number(new.watts)} W · {say_number(new.amps)} A", f"{words} for {lamps} lamp{'s'[: lamps - 1]}",
        "a driver takes the same power at any voltage; I = P/V",
    )  # fmt: skip
    low = electrical.supply_v(setting.volts)[0]
    most = electrical.driver_draw(watts, low).amps * lamps
    yield Worked("Most current", f"{say_number(most)} A", f"{lamps} lamps at {say_volts(low)}, engine off", "I = P/V")


def _cures(setting: Setting, facts: SupplyFacts, source: LightSource | None) -> Iterator[Worked]:
    """Load resistor, flash-rate load and smoothing capacitor, where they are needed."""
    if source is None or source.driver == "ballast":
        return
    resistor = (
        None if source.monitor_proof else electrical.monitor_resistor(source.watts, facts.monitored_w, setting.volts)
    )
    if resistor:
        yield _resistor("Load resistor", resistor)
    base = setting.base
    if setting.lamp.key.function is Function.TURN and base and max(base.watts) > source.watts:
        yield _resistor("Flash-rate load", electrical.load_resistor(max(base.watts) - source.watts, setting.volts))
    if facts.is_pulsed and facts.pwm_hz and facts.pwm_duty and not source.pwm_proof:
        amps = electrical.driver_draw(source.watts, electrical.supply_v(setting.volts)[0]).amps
        cap = electrical.smoothing(amps, facts.pwm_hz, facts.pwm_duty, setting.volts)
        yield Worked(
            "Smoothing capacitor", electrical.say_smoothing(cap),
            f"bridges {say_number(cap.gap_s * 1000)} ms at {say_number(amps)} A, exact {say_number(cap.exact_uf, 4)} µF"
            "; mind plus and minus",
            f"C = I·t/ΔV, sag {say_percent(electrical.RIPPLE_SHARE)} of {say_volts(setting.volts)}, next E6 up",
        )  # fmt: skip


def _resistor(title: str, found: electrical.LoadResistor) -> Worked:
    better = f", better {found.better_rating_w:g} W" if found.better_rating_w else ""
    return Worked(
        title,
        electrical.say_resistor(found),
        f"exact {say_number(found.exact_ohm)} Ω{better}, draws {say_number(found.amps)} A. {HOT}",
        "R = V²/ΔP at rated voltage, next E24 down; burns V²/R at the highest voltage, rated twice that",
    )


def _feed(setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int) -> Iterator[Worked]:
    """Wire and fuse of an added feed."""
    watts = after_watts(setting, source)
    if facts.run_m is None or watts is None:
        return
    amps = electrical.driver_draw(watts, electrical.supply_v(setting.volts)[0]).amps * lamps
    wire = electrical.wire(amps, facts.run_m, setting.volts, facts.air_c)
    if wire is None:
        yield Worked(
            "Wire",
            "no single wire",
            f"{say_number(amps)} A over {say_number(facts.run_m)} m",
            "split the feed, a lamp each",
        )
        return
    awg = f" · AWG {wire.awg}" if wire.awg else ""
    yield Worked(
        "Wire", f"{wire.mm2:g} mm²{awg}",
        f"loses {say_volts(wire.drop_v)} of {say_volts(wire.allowed_v)} allowed, {say_number(facts.run_m)}\u00a0m there"
        f" and back at {facts.air_c:g}\u00a0°C",
        "A = ρ(T)·2·L·I/ΔV, next size up that carries its fuse; AWG by ASTM B258",
    )  # fmt: skip
    yield Worked(
        "Fuse",
        f"{wire.fuse_a:g} A blade",
        f"{say_number(amps)} A through it; at the battery end",
        "I / 80 %, next size up",
    )


def findings(setting: Setting, facts: SupplyFacts, source: LightSource | None, lamps: int = 2) -> list[Finding]:
    """What is wrong or right with the wire as laid and the feed as taken."""
    watts = after_watts(setting, source)
    found: list[Finding] = []
    if watts is not None:
        amps = electrical.driver_draw(watts, electrical.supply_v(setting.volts)[0]).amps * lamps
        found += electrical.laid_wire(facts, amps, setting.volts)
    if facts.feed_at:
        found += electrical.feed_point(facts.feed_at, facts.feed_volts, setting.volts)
    return found
