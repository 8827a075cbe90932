"""Does it run on this car, and stay cool: supply, polarity, monitor, pulsed feed, heat."""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core import electrical
from cold_arc.core.car.lamps import Function
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.match.heat import BEHIND_LAMP_C, FOLD_BACK_C, warmth
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded
from cold_arc.core.wiring.setting import Setting
from cold_arc.core.wiring.working import no_feed

# Share of the old watts under which a monitor is suspected; shares of its flux an LED loses warm
# (common practice).
MONITOR_SHARE = 0.8
FADE_NOTED, FADE_MUCH = 0.18, 0.28


def feed(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Whether anything feeds what is put in where nothing was."""
    yield from no_feed(setting, setting.supply, source)


def polarity(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """One way only: dark at first is no fault."""
    if source.polarity == "fixed" and source.is_bulb:
        advice = "Dark at first: turn the plug 180° and try again."
        if setting.earth_positive:
            advice = (
                "Positive earth: its plus goes to the car's earth side. Dark at first: turn the "
                "plug 180° and try again."
            )
        yield Finding(
            "one-way-round", Level.NOTE, "Works one way round only.", PRACTICE, advice=advice
        )


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
    number, limit = (
        worded("{watts:number} W", watts=source.watts),
        worded("{least:number} W at least", least=least),
    )
    if resistor is None:
        yield Finding(
            "monitor-content",
            Level.OK,
            "Draws enough for the bulb-out monitor.",
            PRACTICE,
            number,
            limit,
        )
    else:
        advice = worded(
            "A decoder, or a load resistor on metal: {resistor}.",
            resistor=electrical.say_resistor(resistor),
        )
        yield Finding(
            "monitor-sees-none",
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
            "monitor-may-see",
            Level.NOTE,
            "Bulb-out monitoring may see it as failed.",
            PRACTICE,
            worded(
                "{watts:number} W in place of {rated:number} W",
                watts=source.watts,
                rated=rated.watts,
            ),
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
    number = worded(
        "{pwm_hz:number} Hz, {pwm_duty:percent} on",
        pwm_hz=facts.pwm_hz or 0,
        pwm_duty=facts.pwm_duty or 0,
    )
    if source.pwm_proof:
        yield Finding("pulsed-suits", Level.OK, "Made for a pulsed supply.", PRACTICE, number)
        return
    capacitor, _ = hold_up
    advice = worded(
        "A decoder, or a smoothing capacitor: {smoothing}, behind its own "
        "{blocking}, plus to plus. Wiring works it out.",
        smoothing=electrical.say_smoothing(capacitor),
        blocking=electrical.say_blocking(capacitor),
    )
    yield Finding(
        "pulsed-flickers",
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
    number = worded(
        "{fade:percent} of its light gone warm, {watts_per_cm2:number 2} W/cm² of heat",
        fade=warm.fade,
        watts_per_cm2=warm.watts_per_cm2,
    )
    limit = worded(
        "{fade_noted:percent}, in air of {behind_lamp_c:g} °C",
        fade_noted=FADE_NOTED,
        behind_lamp_c=BEHIND_LAMP_C,
    )
    where = cite("heat-model", "heat-textbook film coefficients")
    if warm.fade > FADE_MUCH:
        text = "Much heat for its size: expect it to fade as it warms."
        if warm.folds_back:
            text = worded(
                "Too much heat for its size: its driver must turn it down at {fold_back_c:g} °C.",
                fold_back_c=FOLD_BACK_C,
            )
        yield Finding(
            "heat-much",
            Level.CAUTION,
            text,
            where,
            number,
            limit,
            "Fewer watts, a bigger body or a fan.",
        )
    elif warm.fade > FADE_NOTED:
        yield Finding(
            "heat-some",
            Level.NOTE,
            "Fades as it warms.",
            where,
            number,
            limit,
            "Read it cold, then until it settles.",
        )
    else:
        yield Finding("heat-little", Level.OK, "Fades little as it warms.", where, number, limit)


def flasher(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """LED turn signals blink fast on a flasher that feels the load."""
    rated = setting.rating
    if not setting.socket.gives(Function.TURN) or rated is None or source.monitor_proof:
        return
    missing = rated.watts - source.watts
    if missing <= 0:
        return
    resistor = electrical.load_resistor(missing, setting.volts)
    number = worded(
        "{watts:number} W in place of {rated:number} W", watts=source.watts, rated=rated.watts
    )
    advice = worded(
        "An electronic flasher, or a resistor a lamp: {resistor}.",
        resistor=electrical.say_resistor(resistor),
    )
    yield Finding(
        "blinks-fast",
        Level.CAUTION,
        "Turn signals will blink fast.",
        PRACTICE,
        number,
        advice=advice,
    )
