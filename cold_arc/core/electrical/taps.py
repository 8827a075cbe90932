"""Where an added feed is taken, and whether a feed into a ballast is the car's supply."""

from __future__ import annotations

from cold_arc.core.electrical.supply import RUNNING_VOLTS, SupplyFacts
from cold_arc.core.electrical.wires import FUSE_LOAD, ampacity_a, fuse
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import worded

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
