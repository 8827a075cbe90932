"""How deep a bulb's emitters sit, against its base's light centre."""

from __future__ import annotations

from cold_arc.core.car.bases import Base
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded

# How far from the light centre, mm: as the filament; looked at first (common practice).
LCL_GOOD_MM, LCL_TOLERABLE_MM = 0.5, 1.0


def seated(depth_mm: float, base: Base | None, in_projector: bool) -> Finding | None:
    """The emitters of a fitted bulb, by caliper above the reference plane, against the base's light
    centre.
    """
    if base is None or base.lcl_mm is None:
        return None
    again = "Seat it again, flush and locked; look for a collar not home or an O-ring too thick."
    return emitters_at(depth_mm, base, in_projector, again, again)


def emitters_at(
    lcl_mm: float, base: Base, in_projector: bool, when_off: str, when_far: str
) -> Finding:
    """Emitters that sit *lcl_mm* above the reference plane of *base*, whose light centre is
    known.
    """
    assert base.lcl_mm is not None
    off = lcl_mm - base.lcl_mm
    number, limit = (
        worded("{off:mm signed} along the axis", off=off),
        worded("±{lcl_good_mm:mm} of {lcl_mm:mm}", lcl_good_mm=LCL_GOOD_MM, lcl_mm=base.lcl_mm),
    )
    where = (*base.light_centre_sources, *PRACTICE)
    if abs(off) <= LCL_GOOD_MM:
        return Finding(
            "seat-good", Level.OK, "Emitters sit at the filament's height.", where, number, limit
        )
    if abs(off) <= LCL_TOLERABLE_MM or in_projector:
        return Finding(
            "seat-off",
            Level.CAUTION,
            "Emitters sit off the filament's height.",
            where,
            number,
            limit,
            when_off,
        )
    advice = worded(
        "In a reflector wrong depth throws light above the cut-off. {when_far}", when_far=when_far
    )
    return Finding(
        "seat-far-off",
        Level.STOP,
        "Emitters sit far off the filament's height.",
        where,
        number,
        limit,
        advice,
    )
