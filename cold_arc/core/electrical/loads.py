"""What a source draws, and what to fit where that is too little: load resistors against monitors
and flashers, capacitors against pulsed supplies.
"""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.electrical.sizes import e6_at_least, e24_at_most, next_up
from cold_arc.core.electrical.supply import RUNNING_VOLTS, SupplyFacts, supply_v
from cold_arc.core.light.photometry import POWER_EXPONENT
from cold_arc.core.units import say_number

RESISTOR_WATTS = (1, 2, 3, 5, 10, 25, 50, 75, 100, 150, 200, 250, 300, 500)
CAPACITOR_VOLTS = (10, 16, 25, 35, 50, 63, 100)
LEAST_RATING, BETTER_RATING = 2.0, 4.0
RIPPLE_SHARE = 0.1
CAPACITOR_MARGIN = 1.5
DIODES_A = (1, 3, 5, 10, 15, 20, 30, 60)
DIODES_V = (20, 40, 45, 60, 100)
DIODE_MARGIN, INRUSH_TIMES, FEED_OHM = 2.0, 10.0, 0.1


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
        next_up(RESISTOR_WATTS, factor * worst) for factor in (LEAST_RATING, BETTER_RATING)
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
    rated = next_up(CAPACITOR_VOLTS, CAPACITOR_MARGIN * highest)
    assert rated is not None
    return Smoothing(
        gap,
        exact,
        e6_at_least(exact),
        rated,
        next_up(DIODES_A, DIODE_MARGIN * amps),
        next_up(DIODES_V, DIODE_MARGIN * highest),
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
