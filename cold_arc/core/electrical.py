"""Electrical: what changes when a filament becomes an LED, and what to fit for it, in sizes one can
buy.

Formulas are Ohm's law and textbook copper; limits are common practice, no published source, unless
named.
"""

from __future__ import annotations

import bisect
import math
from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level
from cold_arc.core.light.photometry import POWER_EXPONENT, reference_volts
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import say_number, worded

HIGHEST_SHARE = 1.2
# What a 6, 12 or 24 V car's wires carry from a tired battery to a hard-charging alternator, V; one
# range for all pages.
RUNNING_VOLTS = {6.0: (5.25, 7.5), 12.0: (10.5, 15.0), 24.0: (21.0, 30.0)}
E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)
E6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
RESISTOR_WATTS = (1, 2, 3, 5, 10, 25, 50, 75, 100, 150, 200, 250, 300, 500)
CAPACITOR_VOLTS = (10, 16, 25, 35, 50, 63, 100)
BLADE_FUSES_A = (1, 2, 3, 4, 5, 7.5, 10, 15, 20, 25, 30)
FUSE_LOAD = 0.8
LEAST_RATING, BETTER_RATING = 2.0, 4.0
DROP_SHARE, RIPPLE_SHARE, CAPACITOR_MARGIN = 0.03, 0.1, 1.5
COPPER_OHM_MM2_M, COPPER_PER_K, COPPER_AT_C = 0.0172, 0.0039, 20.0
# Cross-sections sold for cars and the continuous current thin-wall wire of class B carries in free
# air of 30 °C, A.
RATED_AIR_C, RATED_CLASS = 30.0, "B"
WIRES_A = {0.5: 8.0, 0.75: 10.0, 1.0: 13.0, 1.5: 17.0, 2.5: 24.0, 4.0: 32.0, 6.0: 42.0, 10.0: 58.0}
# The hottest a wire of each insulation class may get, °C (ISO 6722, from memory).
INSULATION_C = {"A": 85.0, "B": 100.0, "C": 125.0, "D": 150.0}
CLASS_MARGIN_K = 15.0
INSULATION = {name: f"Class {name}, to {hottest:g} °C" for name, hottest in INSULATION_C.items()}
DIODES_A = (1, 3, 5, 10, 15, 20, 30, 60)
DIODES_V = (20, 40, 45, 60, 100)
DIODE_MARGIN, INRUSH_TIMES, FEED_OHM = 2.0, 10.0, 0.1
AWG_SIZES = (20, 18, 16, 14, 12, 10, 8, 6)


# What an added feed may be for.
LAMP_ITSELF = ""
FEEDS = {
    LAMP_ITSELF: "This lamp itself",
    "drl": "Daytime light",
    "position": "Position light, ring or strip",
    "fog": "Front fog",
    "other": "Something else",
}


@dataclass(frozen=True)
class SupplyFacts:
    """What is known of the feed to a lamp.

    *monitored_w*: the least watts the car's bulb-out monitor accepts, None when it does not look.
    *pwm_hz* and *pwm_duty* (0 to 1): a pulsed feed, None when it is plain. *run_m* the length of an
    added feed one way, *wire_mm2* its copper, *air_c* the warmest it gets there, *insulation* its
    class. *feed_at*: where an HID's feed is taken ("in" to the ballast or "out" of it),
    *feed_volts* what was read there. An added feed's tap: *slot* "switched" or "live" with the key
    out, its *slot_name*, what the slot is rated (*slot_a*), how many loads hang on it, the fuse in
    it. *feed_for*: what an added feed is for, as in FEEDS ("": the lamp itself), and *feed_w* what
    one such lamp takes. *resistor_on*: "metal" or "plastic".
    """

    monitored_w: float | None = None
    pwm_hz: float | None = None
    pwm_duty: float | None = None
    run_m: float | None = None
    wire_mm2: float | None = None
    air_c: float = 60.0
    insulation: str = RATED_CLASS
    feed_at: str = ""
    feed_volts: float | None = None
    slot: str = ""
    slot_name: str = ""
    tap_loads: int | None = None
    fuse_a: float | None = None
    resistor_on: str = ""
    feed_for: str = ""
    feed_w: float | None = None
    slot_a: float | None = None

    @property
    def is_pulsed(self) -> bool:
        """Whether the feed is pulse-width modulated with gaps in it."""
        return bool(self.pwm_hz and self.pwm_duty and self.pwm_duty < 1)


def supply_v(nominal_v: float) -> tuple[float, float, float]:
    """Engine off, rated, and highest charging voltage (14.4 on 12, common practice) of a 6, 12 or
    24 V car.
    """
    return nominal_v, reference_volts(nominal_v), HIGHEST_SHARE * nominal_v


def _next_up(sizes: tuple[float, ...], wanted: float) -> float | None:
    """The smallest size that is enough, if any."""
    place = bisect.bisect_left(sizes, wanted - 1e-9)
    return sizes[place] if place < len(sizes) else None


def e24_at_most(ohm: float) -> float:
    """The largest E24 value (IEC 60063) not above *ohm*; ValueError unless above zero.

    >>> e24_at_most(5.81)
    5.6
    """
    if ohm <= 0:
        raise ValueError("A resistance must be above zero.")
    decade = math.floor(math.log10(ohm))
    below = [
        value * 10.0**power
        for power in (decade - 1, decade)
        for value in E24
        if value * 10.0**power <= ohm * (1 + 1e-9)
    ]
    return round(below[-1], 6)


def e6_at_least(value: float) -> float:
    """The smallest E6 value (IEC 60063) not below *value*, in its own unit; ValueError unless above
    zero.
    """
    if value <= 0:
        raise ValueError("A capacitance must be above zero.")
    decade = math.floor(math.log10(value))
    return next(
        round(step * 10.0**power, 9)
        for power in (decade, decade + 1)
        for step in E6
        if step * 10.0**power >= value * (1 - 1e-9)
    )


def awg_mm2(gauge: int) -> float:
    """Copper cross-section of an American wire gauge, mm² (ASTM B258: diameter 0.127 mm · 92^((36 −
    n)/39)).

    >>> round(awg_mm2(14), 2)
    2.08
    """
    diameter: float = 0.127 * 92 ** ((36 - gauge) / 39)
    return math.pi / 4 * diameter**2


@dataclass(frozen=True)
class Draw:
    """What a lamp takes: W and A at a voltage."""

    watts: float
    amps: float
    volts: float


def filament_draw(watts: float, at_volts: float, volts: float) -> Draw:
    """A filament's draw at *volts*, when it takes *watts* at *at_volts*: P ∝ V^1.6 (lighting
    handbook, from memory).
    """
    taken = watts * (volts / at_volts) ** POWER_EXPONENT
    return Draw(taken, taken / volts, volts)


def driver_draw(watts: float, volts: float) -> Draw:
    """A driver's or ballast's draw: it takes the same power at any voltage."""
    return Draw(watts, watts / volts, volts)


def most_draw(watts: float, nominal_v: float) -> Draw:
    """A driver's draw where it takes the most current: at the lowest voltage a car runs on."""
    return driver_draw(watts, RUNNING_VOLTS[nominal_v][0])


@dataclass(frozen=True)
class LoadResistor:
    """A resistor across the lamp: E24 ohms, what it burns at worst, the ratings to buy (W), what it
    draws (A).
    """

    exact_ohm: float
    ohm: float
    worst_w: float
    least_rating_w: float | None
    better_rating_w: float | None
    amps: float


def load_resistor(missing_w: float, nominal_v: float) -> LoadResistor:
    """The resistor that adds *missing_w* at the rated voltage: R ≤ V²/ΔP, dissipation at the
    highest voltage.

    Rated at least twice, better four times, what it burns. None for a rating where no single
    resistor is made so large. ValueError unless something is missing.
    """
    if missing_w <= 0:
        raise ValueError("Nothing is missing.")
    _, rated, highest = supply_v(nominal_v)
    exact = rated**2 / missing_w
    ohm = e24_at_most(exact)
    worst = highest**2 / ohm
    least, better = (
        _next_up(RESISTOR_WATTS, factor * worst) for factor in (LEAST_RATING, BETTER_RATING)
    )
    return LoadResistor(exact, ohm, worst, least, better, highest / ohm)


@dataclass(frozen=True)
class Smoothing:
    """A hold-up capacitor: the gap it bridges (s), the exact and the bought size (µF), and its
    voltage.

    *diode_a*, *diode_v*: the blocking diode before it. *inrush_a* flows for an instant into the
    empty capacitor through *FEED_OHM* of wiring; *limiter_ohm* holds it to ten times the running
    current.
    """

    gap_s: float
    exact_uf: float
    microfarad: float
    rated_v: float
    diode_a: float | None
    diode_v: float | None
    inrush_a: float
    limiter_ohm: float


def smoothing(
    amps: float, hz: float, duty: float, nominal_v: float, ripple_v: float | None = None
) -> Smoothing:
    """C = I·t_off/ΔV for a feed pulsed at *hz* with *duty* (0 to 1), E6, rated 1.5 times the
    highest voltage.

    *ripple_v*: the sag allowed, by default a tenth of the supply. ValueError for a feed that is not
    pulsed.
    """
    if not 0 < duty < 1 or hz <= 0:
        raise ValueError("A pulsed feed has a frequency and a duty between 0 and 100 %.")
    gap = (1 - duty) / hz
    exact = amps * gap / (ripple_v or RIPPLE_SHARE * nominal_v) * 1e6
    highest = supply_v(nominal_v)[2]
    rated = _next_up(CAPACITOR_VOLTS, CAPACITOR_MARGIN * highest)
    assert rated is not None
    return Smoothing(
        gap,
        exact,
        e6_at_least(exact),
        rated,
        _next_up(DIODES_A, DIODE_MARGIN * amps),
        _next_up(DIODES_V, DIODE_MARGIN * highest),
        highest / FEED_OHM,
        e6_at_least(highest / (INRUSH_TIMES * amps)),
    )


def hold_up(watts: float, facts: SupplyFacts, nominal_v: float) -> tuple[Smoothing, float] | None:
    """The capacitor a driver of *watts* needs on a pulsed supply, and its most current, A; None on
    a plain one.
    """
    if not (facts.is_pulsed and facts.pwm_hz and facts.pwm_duty):
        return None
    amps = most_draw(watts, nominal_v).amps
    return smoothing(amps, facts.pwm_hz, facts.pwm_duty, nominal_v), amps


def resistance_ohm(run_m: float, mm2: float, celsius: float = COPPER_AT_C) -> float:
    """Copper there and back: ρ(T)·2·L/A, Ω, with 0.0172 Ω·mm²/m at 20 °C and +0.39 %/K."""
    return COPPER_OHM_MM2_M * (1 + COPPER_PER_K * (celsius - COPPER_AT_C)) * 2 * run_m / mm2


def drop_v(amps: float, run_m: float, mm2: float, celsius: float = COPPER_AT_C) -> float:
    """Voltage lost in a wire there and back, V."""
    return amps * resistance_ohm(run_m, mm2, celsius)


def ampacity_a(mm2: float, celsius: float, insulation: str = RATED_CLASS) -> float:
    """What the thickest wire sold up to *mm2* may carry in air of *celsius*, A; 0 where its
    insulation bears no more.

    Heat lost ∝ the difference to the air, heat made ∝ I²: I = I₃₀·√((T_class − T_air)/(100 °C − 30
    °C)).

    >>> round(ampacity_a(0.5, 140, "D"), 1), ampacity_a(0.5, 140)
    (3.0, 0.0)
    """
    rated = max((amps for size, amps in WIRES_A.items() if size <= mm2 + 1e-9), default=0.0)
    room = max(INSULATION_C[insulation] - celsius, 0.0) / (INSULATION_C[RATED_CLASS] - RATED_AIR_C)
    return rated * math.sqrt(room)


@dataclass(frozen=True)
class Wire:
    """The wire to lay: mm² and its next gauge, its insulation class, what it loses (V), the fuse
    for it (A).
    """

    needed_mm2: float
    mm2: float
    awg: int | None
    insulation: str
    carries_a: float
    drop_v: float
    allowed_v: float
    fuse_a: float


def wire(amps: float, run_m: float, nominal_v: float, celsius: float = 60.0) -> Wire | None:
    """The thinnest wire sold that loses at most 3 % of the supply and carries its fuse in air of
    *celsius*.

    In the lowest insulation class, from B on, that bears 15 K more than the air and in which one
    does; None when none does.
    """
    allowed = DROP_SHARE * nominal_v
    needed, fuse_a = amps * resistance_ohm(run_m, 1.0, celsius) / allowed, fuse(amps)
    if fuse_a is None:
        return None
    for insulation in (name for name in "BCD" if INSULATION_C[name] >= celsius + CLASS_MARGIN_K):
        for mm2 in WIRES_A:
            carries = ampacity_a(mm2, celsius, insulation)
            if mm2 >= needed - 1e-9 and carries >= fuse_a:
                awg = next((gauge for gauge in AWG_SIZES if awg_mm2(gauge) >= mm2 * 0.98), None)
                lost = drop_v(amps, run_m, mm2, celsius)
                return Wire(needed, mm2, awg, insulation, carries, lost, allowed, fuse_a)
    return None


def fuse(amps: float) -> float | None:
    """The smallest blade fuse that carries *amps* at 80 % of its rating; None above the largest.

    >>> fuse(4.2)
    7.5
    """
    return _next_up(BLADE_FUSES_A, amps / FUSE_LOAD)


def laid_wire(facts: SupplyFacts, amps: float, nominal_v: float) -> list[Finding]:
    """What the wire as laid does: its drop against 3 %, its current against its fuse."""
    if facts.run_m is None or facts.wire_mm2 is None:
        return []
    lost, allowed = drop_v(amps, facts.run_m, facts.wire_mm2, facts.air_c), DROP_SHARE * nominal_v
    number, limit = (
        worded("{lost:volts} lost", lost=lost),
        worded("{allowed:volts}, 3 % of {nominal_v:volts}", allowed=allowed, nominal_v=nominal_v),
    )
    sources = cite("electrical-textbook copper 0.0172 Ω·mm²/m, +0.39 %/K", "practice")
    if lost <= allowed:
        drop = Finding("drop-small", Level.OK, "The wire loses little.", sources, number, limit)
    else:
        drop = Finding(
            "drop-large",
            Level.CAUTION,
            "The wire loses too much.",
            sources,
            number,
            limit,
            "Lay a thicker wire, or a shorter one.",
        )
    carries, needed = ampacity_a(facts.wire_mm2, facts.air_c, facts.insulation), fuse(amps)
    bears = worded(
        "{carries:.1f} A in this wire, class {insulation}, in air of {air_c:g} °C",
        carries=carries,
        insulation=facts.insulation,
        air_c=facts.air_c,
    )
    if needed is None or needed > carries:
        words = (
            worded("{needed:g} A fuse needed", needed=needed)
            if needed
            else "more than any blade fuse carries"
        )
        return [
            drop,
            Finding(
                "fuse-none-fits",
                Level.STOP,
                "No fuse protects this wire.",
                cite("electrical-textbook heat balance", "iso-6722 insulation classes", "practice"),
                words,
                bears,
                "Never above the wire: lay a thicker one, or one of a hotter class.",
            ),
        ]
    return [
        drop,
        Finding(
            "fuse-size",
            Level.OK,
            worded("Fuse it at {needed:g} A, at the battery end.", needed=needed),
            PRACTICE,
            worded("{amps:.1f} A", amps=amps),
            bears,
        ),
    ]


SLOTS = {"switched": "Switched with the key or the lamp", "live": "Live at all times"}
MOUNTS = {"metal": "Bare metal", "plastic": "Plastic, or near it"}


def tap(facts: SupplyFacts, amps: float) -> list[Finding]:
    """What is wrong with the tap of an added feed and with what hangs on it. Common practice, no
    published source.
    """
    collected = []
    if facts.slot == "live":
        text = (
            "The tap is in a slot that is live with the key out: the lamp can drain the battery "
            "overnight."
        )
        collected.append(
            Finding(
                "tap-live",
                Level.CAUTION,
                text,
                PRACTICE,
                advice="Take a switched slot, or a relay the lamp's own wire works.",
            )
        )
    if facts.tap_loads is not None and facts.tap_loads > 1:
        text = (
            "Several loads hang on one tap: one fault puts all of them out, and none has a fuse "
            "of its size."
        )
        collected.append(
            Finding(
                "tap-shared",
                Level.CAUTION,
                text,
                PRACTICE,
                worded("{tap_loads} loads", tap_loads=facts.tap_loads),
                "one",
                "Give each a tap and a fuse.",
            )
        )
    if facts.fuse_a is not None:
        collected += _tap_fuse(facts, facts.fuse_a, amps)
    if facts.slot_a is not None and (needed := fuse(amps)) and needed > facts.slot_a:
        collected.append(
            Finding(
                "tap-slot-small",
                Level.CAUTION,
                "The slot is rated for less than the feed takes.",
                PRACTICE,
                worded("{needed:g} A needed", needed=needed),
                worded("{slot_a:g} A slot", slot_a=facts.slot_a),
                "Another slot, or from the battery through a relay the slot only works.",
            )
        )
    if facts.resistor_on == "plastic":
        text = "A load resistor on plastic: it melts it, and can set it alight."
        collected.append(
            Finding(
                "resistor-on-plastic",
                Level.STOP,
                text,
                PRACTICE,
                advice="Two screws on bare metal, with paste, away from plastic and wiring.",
            )
        )
    return collected


def _tap_fuse(facts: SupplyFacts, fuse_a: float, amps: float) -> list[Finding]:
    """The fuse in the tap: never above what the wire carries, never under what flows."""
    carries = ampacity_a(facts.wire_mm2, facts.air_c, facts.insulation) if facts.wire_mm2 else None
    if carries is not None and fuse_a > carries:
        text, advice = (
            "The fuse is above what the wire carries.",
            "A smaller fuse, or a thicker wire: never above the wire.",
        )
        return [
            Finding(
                "tap-fuse-above-wire",
                Level.STOP,
                text,
                PRACTICE,
                worded("{fuse_a:g} A", fuse_a=fuse_a),
                worded("{carries:.1f} A in this wire", carries=carries),
                advice,
            )
        ]
    if fuse_a * FUSE_LOAD < amps:
        text, advice = (
            "The fuse is too small for what flows.",
            "Work out the wire first, then the fuse for it.",
        )
        return [
            Finding(
                "tap-fuse-small",
                Level.CAUTION,
                text,
                PRACTICE,
                worded("{fuse_a:g} A", fuse_a=fuse_a),
                worded("{amps:.1f} A at 80 %", amps=amps),
                advice,
            )
        ]
    return [
        Finding(
            "tap-fuse-suits",
            Level.OK,
            "The fuse in the tap suits wire and load.",
            PRACTICE,
            worded("{fuse_a:g} A", fuse_a=fuse_a),
            worded("{amps:.1f} A flow", amps=amps),
        )
    ]


FEED_POINTS = {"in": "Into the ballast", "out": "Between ballast and bulb"}


def feed_point(point: str, volts: float | None, nominal_v: float) -> list[Finding]:
    """Whether a 12 V LED may be fed from here: into the ballast, with the supply there; never
    behind it.
    """
    if point == "out":
        text = "Never from the wire between ballast and bulb: it is destroyed, and so may you be."
        number, limit = (
            "up to about 23 kV at ignition, 85 or 42 V a.c.",
            worded("{nominal_v:volts}", nominal_v=nominal_v),
        )
        return [
            Finding(
                "feed-behind-ballast",
                Level.STOP,
                text,
                cite("un-r99"),
                number,
                limit,
                "Move the feed to the wire into the ballast.",
            )
        ]
    if volts is None:
        return [
            Finding(
                "feed-unread",
                Level.NOTE,
                "Read the voltage at the plug into the ballast, lamp on.",
                PRACTICE,
                limit=worded("about {nominal_v:volts} d.c.", nominal_v=nominal_v),
            )
        ]
    least, most = RUNNING_VOLTS[nominal_v]
    number, limit = (
        worded("{volts:volts} d.c.", volts=volts),
        worded("{least:volts} to {most:volts}", least=least, most=most),
    )
    if least <= volts <= most:
        return [
            Finding(
                "feed-good", Level.OK, "The feed into the ballast is good.", PRACTICE, number, limit
            )
        ]
    return [
        Finding(
            "feed-not-supply",
            Level.STOP,
            "The feed into the ballast is not the car's supply.",
            PRACTICE,
            number,
            limit,
            "Find the fuse, relay or wire first.",
        )
    ]


@dataclass(frozen=True)
class Before:
    """The source in the lamp now: the most it takes, W, at *at_volts*; a filament's power follows
    the voltage.
    """

    watts: float
    filament: bool
    at_volts: float = 13.2

    def draw(self, volts: float) -> Draw:
        """What it takes at a voltage."""
        return (
            filament_draw(self.watts, self.at_volts, volts)
            if self.filament
            else driver_draw(self.watts, volts)
        )


def monitor_resistor(
    led_w: float, monitored_w: float | None, nominal_v: float
) -> LoadResistor | None:
    """The resistor that satisfies a bulb-out monitor; None when nothing is missing."""
    if monitored_w is None or led_w >= monitored_w:
        return None
    return load_resistor(monitored_w - led_w, nominal_v)


def say_resistor(resistor: LoadResistor) -> str:
    """A resistor as one orders it."""
    rating = (
        f"{resistor.least_rating_w:g} W or more"
        if resistor.least_rating_w
        else "several in parallel"
    )
    return f"{resistor.ohm:g} Ω, {rating}; burns {say_number(resistor.worst_w)} W"


def say_smoothing(capacitor: Smoothing) -> str:
    """A capacitor as one orders it."""
    return f"{say_number(capacitor.microfarad, 5)} µF, {capacitor.rated_v:g} V"


def say_blocking(capacitor: Smoothing) -> str:
    """The diode a capacitor must not be without, as one orders it."""
    size = (
        f"{capacitor.diode_a:g} A, {capacitor.diode_v:g} V"
        if capacitor.diode_a and capacitor.diode_v
        else "none made"
    )
    return f"Schottky diode {size}"
