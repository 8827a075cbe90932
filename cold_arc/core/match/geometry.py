"""Does it sit where the filament sat, and look like it? Common practice, no published source: a
good LED copies it.
"""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core.car.bases import Base
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import HIGH_BY, LightSource
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_mm, worded
from cold_arc.core.wiring.setting import Setting
from cold_arc.core.work.seating import emitters_at

# Limits, good and tolerable: common practice, no published source. Depth off the filament's, mm;
# the gap between faces, mm; off the axis, mm; lit length over the filament's.
GAP_GOOD_MM, GAP_TOLERABLE_MM = 1.8, 2.6
OFF_AXIS_GOOD_MM, OFF_AXIS_TOLERABLE_MM = 0.2, 0.5
LENGTH_RATIO = (0.8, 1.25)
CHOOSE_LIKE = "Choose one that copies the filament."
LOOK_FIRST = "Look at the predicted beam; choose a truer one if there is one."


def light_centre(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Emitter height above the reference plane against the base's light centre length."""
    base = setting.base
    if base is None or not source.is_bulb or base.lcl_mm is None or source.lcl_mm is None:
        return
    yield emitters_at(source.lcl_mm, base, setting.in_projector, LOOK_FIRST, "Choose another.")


def gap(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """How far the faces stand off the axis: the core's thickness."""
    if source.gap_mm is None or not source.is_bulb:
        return
    number, limit = (
        worded("{gap_mm:mm} between faces", gap_mm=source.gap_mm),
        worded("{gap_good_mm:mm} or less", gap_good_mm=GAP_GOOD_MM),
    )
    if source.gap_mm <= GAP_GOOD_MM:
        yield Finding(
            "core-thin", Level.OK, "Thin core, like the filament.", PRACTICE, number, limit
        )
    elif source.gap_mm <= GAP_TOLERABLE_MM:
        yield Finding(
            "core-thick-side",
            Level.CAUTION,
            "Core on the thick side: the filament was thin.",
            PRACTICE,
            number,
            limit,
            CHOOSE_LIKE,
        )
    elif setting.in_projector:
        advice = (
            "Expect a dark slit between two hot spots. Look at the halogen pattern before blaming "
            "the bulb."
        )
        yield Finding(
            "gap-wide",
            Level.CAUTION,
            "Wide gap between the chips.",
            PRACTICE,
            number,
            limit,
            advice,
        )
    else:
        yield Finding(
            "core-thick",
            Level.STOP,
            "Thick core: the filament was thin.",
            PRACTICE,
            number,
            limit,
            "Choose a thinner one.",
        )


def say_off_axis(off_mm: float) -> str:
    """A height above (below, if negative) the axis in words."""
    return (
        f"{say_mm(abs(off_mm))} {'above' if off_mm > 0 else 'below'} the axis"
        if off_mm
        else "on the axis"
    )


def axis(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """How far the chips' middle line stands above or below the bulb's axis: it lifts or drops the
    whole beam.
    """
    off = source.off_axis_mm
    if off is None or not source.is_bulb:
        return
    place, limit = (
        say_off_axis(off),
        worded("±{off_axis_good_mm:mm}", off_axis_good_mm=OFF_AXIS_GOOD_MM),
    )
    if abs(off) <= OFF_AXIS_GOOD_MM:
        yield Finding(
            "chips-centred", Level.OK, "Chips are centred on the axis.", PRACTICE, place, limit
        )
    elif abs(off) <= OFF_AXIS_TOLERABLE_MM or setting.in_projector:
        yield Finding(
            "chips-off",
            Level.CAUTION,
            "Chips sit off the axis.",
            PRACTICE,
            place,
            limit,
            LOOK_FIRST,
        )
    else:
        advice = (
            "In a reflector the beam is lifted or dropped with them. Choose one that is centred."
        )
        yield Finding(
            "chips-far-off",
            Level.STOP,
            "Chips sit far off the axis.",
            PRACTICE,
            place,
            limit,
            advice,
        )


def faces(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Two faces look like the filament from the side; more light up what the mirror can't use."""
    if source.faces is None or not source.is_bulb:
        return
    number, limit = worded("{faces} faces", faces=source.faces), "2 thin faces"
    if source.faces == 2:
        yield Finding(
            "faces-two",
            Level.OK,
            "Two faces, like the filament seen from the side.",
            PRACTICE,
            number,
            limit,
        )
        return
    text = (
        "More than two faces: a third to a half of the light goes where it should, and the rest "
        "dazzles."
    )
    if source.faces == 1:
        text = "One face lights half the mirror."
    level = Level.CAUTION if setting.in_projector else Level.STOP
    yield Finding("faces-wrong", level, text, PRACTICE, number, limit, "Choose a two-faced bulb.")


def length(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Lit length against the filament's."""
    base = setting.base
    if base is None or base.filament_mm is None or source.emitter_mm is None:
        return
    ratio, where = source.emitter_mm / base.filament_mm, (*base.light_centre_sources, *PRACTICE)
    number = worded(
        "{emitter_mm:mm} lit, {ratio:number} times the filament",
        emitter_mm=source.emitter_mm,
        ratio=ratio,
    )
    limit = worded(
        "{least} to {most} times",
        least=LENGTH_RATIO[0],
        most=LENGTH_RATIO[1],
    )
    if LENGTH_RATIO[0] <= ratio <= LENGTH_RATIO[1]:
        yield Finding("length-like", Level.OK, "As long as the filament.", where, number, limit)
    else:
        text = "Not as long as the filament: the spread changes."
        yield Finding("length-unlike", Level.CAUTION, text, where, number, limit, CHOOSE_LIKE)


def rows(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """On a dual base: how it does low and high, and the shield; one row elsewhere."""
    base = setting.base
    if base is None or not source.is_bulb:
        return
    if base.is_dual:
        yield from _two_beams(source, base)
    elif source.rows > 1:
        yield Finding(
            "rows-more",
            Level.CAUTION,
            "Two rows on a one-beam base: more light, more heat, not a high beam.",
            PRACTICE,
            worded("{rows} rows", rows=source.rows),
            "1 row",
            "Check the cooler's room and the fade.",
        )


def _two_beams(source: LightSource, base: Base) -> Iterator[Finding]:
    """One socket, two beams: a bulb that does one alone, or whose high beam is only more light, is
    told apart.
    """
    way = source.high_beam_by
    number, limit = HIGH_BY[way], "low and high beam from one bulb"
    if way == "none":
        text, advice = (
            "It does one beam alone.",
            "Choose one with a row for each beam, or a shield that moves.",
        )
        yield Finding("beams-one", Level.STOP, text, PRACTICE, number, limit, advice)
        return
    if way == "both":
        text, advice = (
            "Its low row stays lit with high beam.",
            "More light near the car than far: the eye opens less. Look how far it reaches.",
        )
        yield Finding("beams-both-lit", Level.NOTE, text, PRACTICE, number, limit, advice)
    elif way == "same":
        text, advice = (
            "Its high beam is only more light in the same place.",
            "High beam keeps the low beam's reach.",
        )
        yield Finding("beams-same", Level.CAUTION, text, PRACTICE, number, limit, advice)
    else:
        yield Finding(
            "beams-both", Level.OK, "It does both low and high beam.", PRACTICE, number, limit
        )
    if base.dip_shield and not source.dip_shield and way != "shield":
        yield Finding(
            "shield-none",
            Level.STOP,
            "No shield under the low row: low beam throws light up.",
            PRACTICE,
            limit="a shield cup like the original's",
            advice="Choose one with a cup.",
        )
