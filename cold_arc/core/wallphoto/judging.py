"""What a measured photograph says of an aim: inside its rule or not, whether its doubt reaches over
a limit, what to mind.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from cold_arc.core.aim.judging import judge, judge_sideways
from cold_arc.core.aim.rules import Target
from cold_arc.core.aim.taping import LEAST_LEAN, Floor
from cold_arc.core.findings import Finding, Level
from cold_arc.core.light.cut_off import LineRead
from cold_arc.core.references import PRACTICE, cite
from cold_arc.core.units import UnitSystem, say_degrees, worded
from cold_arc.core.wallphoto.measure import MeasuredPhoto


def photo_findings(
    measured: MeasuredPhoto,
    target: Target | None,
    distance_m: float,
    system: UnitSystem,
    leaning: Floor | None = None,
    line: LineRead | None = None,
) -> list[Finding]:
    """What a photograph says; *target* None where no rule answers; *leaning*: the floor its roll
    was not told against; *line*: what of the beam the rule in use goes by.
    """
    if line and (line is LineRead.KERB) != (measured.line == LineRead.KERB):
        read, asked = SIDES if line is LineRead.KERB else reversed(SIDES)
        text = worded(
            "Read {read}; the rule in use goes by the line {asked}. Measure it again.",
            read=read,
            asked=asked,
        )
        return [Finding("photo-other-half", Level.CAUTION, text, PRACTICE)]
    shape = [Finding("photo-shape", Level.CAUTION, text, PRACTICE) for text in measured.shape]
    notes = [Finding("photo-warning", Level.NOTE, text, PRACTICE) for text in measured.warnings]
    if leaning and abs(leaning.lean) >= LEAST_LEAN:
        level = "The roll told is against a true level: the car's own lean is in it."
        lean = worded("{lean:degrees 2 signed}", lean=math.degrees(math.atan(leaning.lean)))
        notes.append(Finding("roll-unlevelled", Level.NOTE, level, PRACTICE, lean))
    notes = [*shape, *notes, *_schools(measured)]
    if target is None:
        return notes
    slope, right = measured.aim_slopes
    sideways = [] if right is None else [judge_sideways(target, right, distance_m, system)]
    near = near_limit(target, measured, slope)
    return [judge(target, slope, distance_m, system), *near, *notes, *sideways]


# Schools that part by less say nothing worth a word, degrees (own).
SCHOOLS_PART_DEG = 0.08
SIDES = ("away from the kerb", "on the kerb's side")


def _schools(measured: MeasuredPhoto) -> Iterator[Finding]:
    """Which line is meant, where schools part by as much as counts."""
    apart = measured.schools
    if apart is None or apart.spread_deg < SCHOOLS_PART_DEG:
        return
    half, steepest = (
        say_degrees(off, 2, signed=True) for off in (apart.half_deg, apart.steepest_deg)
    )
    text = worded(
        "The edge is soft, and schools read it apart: this is the steepest fall of the "
        "light's logarithm over 8 % of its brightest; at half its height it stands "
        "{half} from here, at the steepest logarithm down to the dark {steepest}. The "
        "± holds them.",
        half=half,
        steepest=steepest,
    )
    yield Finding("edge-schools", Level.NOTE, text, cite("un-r112"))


def near_limit(target: Target, measured: MeasuredPhoto, slope: float) -> list[Finding]:
    """A word where a figure's doubt reaches over a limit."""
    worth = measured.uncertainty
    doubt = math.tan(math.radians(worth.get("cutoff_v_deg") or worth.get("hot_spot_v_deg") or 0.0))
    inside = [target.keep.excess(slope + off) == 0 for off in (-doubt, doubt)]
    if inside[0] == inside[1]:
        return []
    text = "A limit lies within this figure's doubt: measure again, closer or with more marks."
    return [
        Finding(
            "limit-in-doubt",
            Level.CAUTION,
            text,
            PRACTICE,
            worded("± {doubt:percent 2}", doubt=doubt),
        )
    ]
