"""Does it go in: base and adapter, room and cap, optic, plug, sealing. Common practice unless a
source is named.
"""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core import ballast
from cold_arc.core.car.bases import Base, find
from cold_arc.core.car.condition import HAZE_GRADES
from cold_arc.core.car.lamps import Function, Optic, Present
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light_source import LightSource
from cold_arc.core.references import MEASURED, PRACTICE, cite
from cold_arc.core.units import say_mm, worded
from cold_arc.core.wiring.setting import Setting

# Room that must stay, mm (common practice); second digits of IP codes (IEC 60529, from memory):
# splashes, jets.
ROOM_MARGIN_MM = 5.0
SPLASH_IP, LEAD_IP = 4, 5


def base(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """The base itself, or an adapter for it."""
    wanted, offered = setting.base, find(source.base)
    if source.takes_place and all(map(source.gives, setting.socket.functions)):
        yield _takes_over(source, setting)
    elif wanted is None:
        yield Finding(
            "base-unknown",
            Level.STOP,
            "The lamp's base is not identified yet.",
            PRACTICE,
            advice="Identify it at Book in.",
        )
    elif offered is not None and offered.name == wanted.name:
        yield Finding(
            "base-agrees", Level.OK, "Base agrees.", wanted.sources, source.base, wanted.name
        )
    elif wanted.name in source.adapters:
        advice = (
            "An adapter adds play and moves the light centre: measure it, and check the plug's "
            "order."
        )
        yield Finding(
            "base-adapter",
            Level.CAUTION,
            "Fits through an adapter.",
            PRACTICE,
            source.base,
            wanted.name,
            advice,
        )
    else:
        yield Finding(
            "base-wrong",
            Level.STOP,
            "Wrong base.",
            wanted.sources,
            source.base,
            wanted.name,
            "Choose one for this base.",
        )


def _takes_over(source: LightSource, setting: Setting) -> Finding:
    """What a whole lamp or a module takes over, and what else it gives than the socket did."""
    more = [
        Function(name).label.lower()
        for name in source.functions
        if Function(name) not in setting.socket.functions
    ]
    number = worded("gives {more} besides", more=", ".join(more)) if more else ""
    advice = "What gave these before goes dark, or leaves with the lamp." if more else ""
    return Finding(
        "takes-over-all", Level.OK, "It takes over all this gives.", PRACTICE, number, advice=advice
    )


def whole(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """What a whole lamp or a module asks of the car: its plugs, its coding, its levelling."""
    if not source.takes_place:
        return
    if source.connectors:
        cars = worded("the car's: {plug}", plug=setting.socket.plug) if setting.socket.plug else ""
        advice = "Hold both in hand before anything opens; an adapter is a part to order."
        yield Finding(
            "plugs-its", Level.NOTE, "Its plugs.", PRACTICE, source.connectors, cars, advice
        )
    if source.coding:
        advice = "Have its maker's procedure and the tool for it at hand."
        yield Finding(
            "coding-needed", Level.NOTE, "The car must be coded to it.", PRACTICE, advice=advice
        )
    if source.levelling == "none" and Function.LOW in setting.socket.functions:
        advice = "A car with levelling must keep it: choose one that has."
        yield Finding(
            "levelling-none",
            Level.CAUTION,
            "It has no levelling.",
            cite("un-r48 6.2.6.2"),
            advice=advice,
        )


def room(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Tail against the room behind, both depth and width; against the old bulb's where the room was
    not measured.
    """
    seen = setting.condition
    if not source.is_bulb:
        return
    if source.tail_mm is not None:
        if seen is not None and seen.room_mm is not None:
            missing = source.tail_mm + ROOM_MARGIN_MM - seen.room_mm
            cap = "vented and extended" if source.cooling == "fan" else "extended"
            advice = f"Use a cap {cap} by {say_mm(missing)}, or a shorter tail."
            yield _clearance("behind the bulb", source.tail_mm, seen.room_mm, advice)
        else:
            yield from _against_old_tail(source.tail_mm, setting.base)
    if seen is not None and seen.opening_mm is not None and source.tail_width_mm is not None:
        advice = "Fit it in two parts, or choose a slimmer tail."
        yield _clearance("in the opening", source.tail_width_mm, seen.opening_mm, advice)


def _against_old_tail(tail_mm: float, base: Base | None) -> Iterator[Finding]:
    """A tail against the old bulb's, where that was measured."""
    old_mm = base.measured.tail_mm if base and base.measured else None
    if old_mm is None:
        return
    number, limit = (
        worded("{longer_mm:mm signed} behind", longer_mm=tail_mm - old_mm),
        worded("old bulb {old_mm:mm}", old_mm=old_mm),
    )
    if tail_mm > old_mm:
        advice = "Measure the room to the cap at Inspect."
        yield Finding(
            "tail-longer",
            Level.CAUTION,
            "Its tail is longer than the old bulb's.",
            MEASURED,
            number,
            limit,
            advice,
        )
    else:
        yield Finding(
            "tail-no-longer",
            Level.OK,
            "Its tail is no longer than the old bulb's.",
            MEASURED,
            number,
            limit,
        )


def _clearance(where: str, needs: float, has: float, advice: str) -> Finding:
    spare = has - needs
    room = f"{say_mm(spare)} to spare" if spare >= 0 else f"{say_mm(-spare)} too little"
    number = worded("needs {needs:mm}, has {has:mm}: {room}", needs=needs, has=has, room=room)
    limit = worded("{room_margin_mm:mm} wanted", room_margin_mm=ROOM_MARGIN_MM)
    if spare >= ROOM_MARGIN_MM:
        return Finding(
            "room-enough",
            Level.OK,
            worded("Room enough {where}.", where=where),
            PRACTICE,
            number,
            limit,
        )
    if spare >= 0:
        return Finding(
            "room-tight",
            Level.CAUTION,
            worded("Tight {where}.", where=where),
            PRACTICE,
            number,
            limit,
            advice,
        )
    return Finding(
        "room-none",
        Level.STOP,
        worded("No room {where}.", where=where),
        PRACTICE,
        number,
        limit,
        advice,
    )


def optic(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """What the housing makes of any source; a bulb never improves a pattern, and haze is no
    source's to undo.
    """
    seen = setting.condition
    yield from _in_this_optic(source, setting.socket.optic)
    if source.kind != "assembly" and seen and seen.haze >= 2:
        text = worded(
            "Lens haze ({haze}) scatters more light with a brighter source.",
            haze=HAZE_GRADES[seen.haze].lower(),
        )
        limit, advice = "grade 1 or clear", "Restore the lens first."
        yield Finding(
            "haze-scatters",
            Level.CAUTION,
            text,
            PRACTICE,
            worded("grade {haze}", haze=seen.haze),
            limit,
            advice,
        )


def _in_this_optic(source: LightSource, made_by: Optic | None) -> Iterator[Finding]:
    """What the sort of optic asks of the sort of source."""
    if source.kind != "assembly" and made_by is Optic.SEALED:
        text, advice = "A sealed lamp takes no bulb.", "Choose a complete assembly."
        yield Finding("sealed-no-bulb", Level.STOP, text, PRACTICE, advice=advice)
    elif source.kind == "projector":
        text = "The lamp must be opened and sealed again."
        advice = "Heat, open, fit, align on the wall, re-seal in a cleaned channel, leak check."
        yield Finding("lamp-to-open", Level.CAUTION, text, PRACTICE, advice=advice)
    elif source.is_bulb and made_by in _OF_THE_OPTIC:
        yield Finding(f"optic-{made_by}", Level.NOTE, _OF_THE_OPTIC[made_by], PRACTICE)


_OF_THE_OPTIC: dict[Optic | None, str] = {
    Optic.LENS_OPTIC: "Plain mirror and fluted glass: focus it after fitting, at 3 to 6 m.",
    Optic.REFLECTOR: "A reflector is unforgiving: depth and clocking decide the pattern.",
}


def chuck(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """D2 and D4 bulbs may foul the spring with their chuck."""
    if source.is_bulb and setting.base and setting.base.name[:2] in ("D2", "D4"):
        text = "Its chuck may have to come off to clear the spring."
        yield Finding(
            "chuck-fouls",
            Level.NOTE,
            text,
            PRACTICE,
            advice="Try the spring before wiring; keep the chuck.",
        )


def plug(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Whether its plug goes into the car's socket."""
    wanted = setting.base
    if wanted is None or not source.is_bulb or not source.plug:
        return
    if find(source.plug) is wanted:
        yield Finding("plug-agrees", Level.OK, "Plug agrees.", PRACTICE, source.plug, wanted.name)
    else:
        advice = "A lead between the two plugs, not a cut wire; check which contact is which."
        yield Finding(
            "plug-adapter",
            Level.CAUTION,
            "Needs a plug adapter.",
            PRACTICE,
            source.plug,
            wanted.name,
            advice,
        )


def sealing(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """Water: what hangs outside the housing, or in a fog lamp, must stand it (IEC 60529 codes, from
    memory).
    """
    outside = source.driver in ("in-line", "in-place") or setting.socket.gives(Function.FOG)
    least = LEAD_IP if outside else SPLASH_IP
    if source.ip is None or not source.is_bulb:
        return
    number, limit = (
        worded("IP{ip}", ip=source.ip),
        worded(
            "IPx{least} or better {outside}",
            least=least,
            outside="outside the housing" if outside else "behind the cap",
        ),
    )
    where = cite("iec-60529", "practice")
    if source.ip % 10 >= least:
        yield Finding(
            "sealing-good", Level.OK, "Sealed well enough for its place.", where, number, limit
        )
    else:
        advice = "Keep it behind the cap, or choose a potted one."
        yield Finding(
            "sealing-short",
            Level.CAUTION,
            "Not sealed for its place.",
            where,
            number,
            limit,
            advice,
        )


def hid_schools(source: LightSource, setting: Setting) -> Iterator[Finding]:
    """The three schools for HID: on the ballast, its own driver in the ballast's place, or 12 V
    past it.
    """
    if not source.is_bulb:
        return
    if setting.socket.present is not Present.HID:
        if source.driver in ("ballast", "in-place"):
            text = "Made for an HID ballast: stays dark on a car's supply."
            yield Finding(
                "ballast-needed",
                Level.STOP,
                text,
                PRACTICE,
                advice="Choose one fed by the car's supply.",
            )
        return
    lethal = "Ballast output is lethal: tens of kilovolts at ignition."
    if source.driver == "in-place":
        yield Finding(
            "driver-in-ballast-place",
            Level.NOTE,
            "Its own driver goes in the ballast's place.",
            PRACTICE,
            advice=worded("Take the ballast out. {lethal}", lethal=lethal),
        )
    elif source.driver != "ballast":
        yield Finding(
            "ballast-bypassed",
            Level.CAUTION,
            "A 12 V bulb in place of HID: the ballast must be bypassed.",
            PRACTICE,
            advice=(
                "Feed it from the wire into the ballast, never from the wire between ballast and "
                "bulb."
            ),
        )
    else:
        yield _fed_by_ballast(setting.ballast_cause, lethal)


def _fed_by_ballast(cause: str, lethal: str) -> Finding:
    """What is to be said of a plug-in, by what its ballast's test said."""
    if ballast.GOOD.get(cause):
        new = "Fed by a new ballast."
        text = new if cause == "new" else "Fed by the ballast, which passed its test."
        return Finding("ballast-passed", Level.OK, text, PRACTICE, advice=lethal)
    if ballast.GOOD.get(cause) is False:
        text, advice = "Fed by a ballast that failed its test.", "Another school, or a new ballast."
        return Finding("ballast-failed", Level.STOP, text, PRACTICE, advice=advice)
    advice = worded("Test it by swapping bulbs side to side. {lethal}", lethal=lethal)
    text = "Fed by the ballast, which is not tested yet."
    untested = Finding("ballast-untested", Level.CAUTION, text, PRACTICE, advice=advice)
    return ballast.staying(cause) or untested
