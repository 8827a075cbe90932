"""What a measured photograph says of an aim: inside its rule or not, whether its doubt reaches over
a limit, what to mind.
"""

from __future__ import annotations

import math

from cold_arc.core.aim.judging import judge, judge_sideways
from cold_arc.core.aim.rules import Target
from cold_arc.core.aim.taping import LEAST_LEAN, Floor
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import UnitSystem, say_degrees, say_percent
from cold_arc.core.wallphoto.measure import MeasuredPhoto


def photo_findings(
    measured: MeasuredPhoto,
    target: Target | None,
    distance_m: float,
    system: UnitSystem,
    leaning: Floor | None = None,
) -> list[Finding]:
    """What a photograph says; *target* None where no rule answers; *leaning*: the floor its roll
    was not told against.
    """
    notes = [Finding(Level.NOTE, text, PRACTICE) for text in measured.warnings]
    if leaning and abs(leaning.lean) >= LEAST_LEAN:
        text = "The roll told is against a true level: the car's own lean is in it."
        lean = say_degrees(math.degrees(math.atan(leaning.lean)), 2, signed=True)
        notes.append(Finding(Level.NOTE, text, PRACTICE, lean))
    if target is None:
        return notes
    slope, right = measured.aim_slopes
    sideways = [] if right is None else [judge_sideways(target, right, distance_m, system)]
    near = near_limit(target, measured, slope)
    return [judge(target, slope, distance_m, system), *near, *notes, *sideways]


def near_limit(target: Target, measured: MeasuredPhoto, slope: float) -> list[Finding]:
    """A word where a figure's doubt reaches over a limit."""
    worth = measured.uncertainty
    doubt = math.tan(math.radians(worth.get("cutoff_v_deg") or worth.get("hot_spot_v_deg") or 0.0))
    inside = [target.keep.excess(slope + off) == 0 for off in (-doubt, doubt)]
    if inside[0] == inside[1]:
        return []
    text = "A limit lies within this figure's doubt: measure again, closer or with more marks."
    return [Finding(Level.CAUTION, text, PRACTICE, f"± {say_percent(doubt, 2)}")]
