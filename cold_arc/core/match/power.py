"""Does it run on this car, and stay cool: supply, polarity, monitor, pulsed feed, heat."""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core import electrical
from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.heat import BEHIND_LAMP_C, FOLD_BACK_C, warmth
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import say_number, say_percent, say_volts
from cold_arc.core.wiring.setting import Setting
from cold_arc.core.wiring.working import no_feed

# Share of the old watts under which a monitor is suspected; shares of its flux an LED loses warm
# (common practice).
MONITOR_SHARE = 0.8
FADE_NOTED, FADE_MUCH = 0.18, 0.28


def supply(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Its supply range against what the car gives, and earth."""
    if source.driver == "ballast":
        return
    low, high = electrical.RUNNING_VOLTS[setting.volts]
    number = f"{say_volts(source.supply_min_v)} to {say_volts(source.supply_max_v)}"
    limit = f"{say_volts(low)} to {say_volts(high)} on a {say_volts(setting.volts)} car"
    if source.supply_min_v > low or source.supply_max_v < high:
        advice = f"Choose one made for {say_volts(setting.volts)}."
        yield Finding(
            Level.STOP, "Supply range does not cover this car.", PRACTICE, number, limit, advice
        )
    else:
        yield Finding(Level.OK, "Supply range covers this car.", PRACTICE, number, limit)
    if setting.earth_positive and not source.earth_insulated:
        yield Finding(
            Level.STOP,
            "Body is live on a positive-earth car.",
            PRACTICE,
            advice="Choose one whose body is insulated.",
        )


def feed(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Whether anything feeds what is put in where nothing was."""
    yield from no_feed(setting, setting.supply, source)


def polarity(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """One way only: dark at first is no fault."""
    if source.polarity == "fixed" and source.is_bulb:
        advice = "Dark at first: turn the plug 180° and try again."
        if setting.earth_positive:
            advice = "Positive earth: its plus goes to the car's earth side. " + advice
        yield Finding(Level.NOTE, "Works one way round only.", PRACTICE, advice=advice)


def monitor(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Bulb-out monitoring: told by the car's least watts, or suspected where those are not
    known.
    """
    if not source.is_bulb or source.monitor_proof or source.driver == "ballast":
        return
    least = setting.supply.monitored_w
    if least is None:
        yield from _suspected(source, setting)
        return
    resistor = electrical.monitor_resistor(source.watts, least, setting.volts)
    number, limit = f"{say_number(source.watts)} W", f"{say_number(least)} W at least"
    if resistor is None:
        yield Finding(Level.OK, "Draws enough for the bulb-out monitor.", PRACTICE, number, limit)
    else:
        advice = f"A decoder, or a load resistor on metal: {electrical.say_resistor(resistor)}."
        yield Finding(
            Level.CAUTION,
            "The bulb-out monitor will see it as failed.",
            PRACTICE,
            number,
            limit,
            advice,
        )


def _suspected(source: LightSource, setting: Setting) -> Iterator[Finding]:
    rated = setting.rating
    if rated and source.watts < MONITOR_SHARE * rated.watts:
        yield Finding(
            Level.NOTE,
            "Bulb-out monitoring may see it as failed.",
            PRACTICE,
            f"{say_number(source.watts)} W in place of {say_number(rated.watts)} W",
            advice=(
                "If a warning shows: a decoder, or a load resistor on metal. Wiring works it out."
            ),
        )


def pulsed(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """A pulse-width modulated feed makes a bare driver flicker; the capacitor that bridges the
    gaps.
    """
    facts, hold_up = setting.supply, electrical.hold_up(source.watts, setting.supply, setting.volts)
    if not source.is_bulb or not hold_up or source.driver == "ballast":
        return
    number = f"{say_number(facts.pwm_hz or 0)} Hz, {say_percent(facts.pwm_duty or 0)} on"
    if source.pwm_proof:
        yield Finding(Level.OK, "Made for a pulsed supply.", PRACTICE, number)
        return
    capacitor, _ = hold_up
    advice = (
        f"A decoder, or a smoothing capacitor: {electrical.say_smoothing(capacitor)}, behind "
        "its own "
        f"{electrical.say_blocking(capacitor)}, plus to plus. Wiring works it out."
    )
    yield Finding(
        Level.CAUTION,
        "Will flicker on this pulsed supply.",
        PRACTICE,
        number,
        "a plain supply",
        advice,
    )


def heat(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Expected fade once warm, from watts, size and cooling."""
    if not source.is_bulb or not setting.socket.road_beams:
        return
    warm = warmth(source)
    number = (
        f"{say_percent(warm.fade)} of its light gone warm, {say_number(warm.watts_per_cm2, 2)} "
        "W/cm² of heat"
    )
    limit = f"{say_percent(FADE_NOTED)}, in air of {BEHIND_LAMP_C:g} °C"
    where = cite("heat-model", "heat-textbook film coefficients")
    if warm.fade > FADE_MUCH:
        text = "Much heat for its size: expect it to fade as it warms."
        if warm.folds_back:
            text = (
                f"Too much heat for its size: its driver must turn it down at {FOLD_BACK_C:g} °C."
            )
        yield Finding(
            Level.CAUTION, text, where, number, limit, "Fewer watts, a bigger body or a fan."
        )
    elif warm.fade > FADE_NOTED:
        yield Finding(
            Level.NOTE,
            "Fades as it warms.",
            where,
            number,
            limit,
            "Read it cold, then until it settles.",
        )
    else:
        yield Finding(Level.OK, "Fades little as it warms.", where, number, limit)


def flasher(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """LED turn signals blink fast on a flasher that feels the load."""
    rated = setting.rating
    if not setting.socket.gives(Function.TURN) or rated is None or source.monitor_proof:
        return
    missing = rated.watts - source.watts
    if missing <= 0:
        return
    resistor = electrical.load_resistor(missing, setting.volts)
    number = f"{say_number(source.watts)} W in place of {say_number(rated.watts)} W"
    advice = f"An electronic flasher, or a resistor a lamp: {electrical.say_resistor(resistor)}."
    yield Finding(Level.CAUTION, "Turn signals will blink fast.", PRACTICE, number, advice=advice)
