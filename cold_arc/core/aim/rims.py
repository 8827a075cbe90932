"""Old lamps set by hand before the wall: parallel by a straight edge across both, tilted by a level
on the glass. Common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from cold_arc.core.car.lamps import Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded

# How far the bubble stands from the middle when the glass leans forward, as a share of itself.
BUBBLES = {
    "back": "Leans back",
    "level": "In the middle",
    "quarter": "A quarter forward",
    "half": "Half forward",
    "more": "More than half forward",
}
# How far a rim may stand from the straight edge, degrees: half a degree is seen at the wall.
PARALLEL_DEG = 0.5
RIM_MM = (80.0, 300.0)
WIDEST_GAP_MM = 60.0


@dataclass(frozen=True)
class Rim:
    """One lamp's rim against a straight edge laid across both: the gaps at its inner and its outer
    edge and its diameter, mm; and where the *bubble* stands, of BUBBLES.
    """

    inner_mm: float
    outer_mm: float
    rim_mm: float
    bubble: str

    @property
    def toe_out_deg(self) -> float:
        """How far it looks outwards, degrees; negative: inwards.

        >>> round(Rim(0.0, 3.0, 172.0, "quarter").toe_out_deg, 2)
        1.0
        """
        return math.degrees(math.atan2(self.outer_mm - self.inner_mm, self.rim_mm))


def rim_findings(rims: Mapping[Side, Rim]) -> list[Finding]:
    """What is to be said of each lamp's rim before the wall is asked."""
    return [
        finding.named(side.value.capitalize())
        for side, rim in rims.items()
        for finding in (_parallel(rim), _tilted(rim))
    ]


def _parallel(rim: Rim) -> Finding:
    toe = rim.toe_out_deg
    number, limit = (
        worded("{toe:degrees 1}", toe=abs(toe)),
        worded("within {parallel_deg:degrees 1}", parallel_deg=PARALLEL_DEG),
    )
    if abs(toe) <= PARALLEL_DEG:
        return Finding(
            "rim-parallel",
            Level.OK,
            "It stands parallel to the straight edge.",
            PRACTICE,
            number,
            limit,
        )
    way = "outwards" if toe > 0 else "inwards"
    advice = "Turn it on its mount until both gaps are alike; then the wall."
    return Finding(
        "rim-turned",
        Level.CAUTION,
        worded("It looks {way}.", way=way),
        PRACTICE,
        number,
        limit,
        advice,
    )


def _tilted(rim: Rim) -> Finding:
    number = BUBBLES[rim.bubble].lower()
    if rim.bubble == "quarter":
        text = "It leans forward as it should: a beginning for the wall."
        return Finding("rim-tilted", Level.OK, text, PRACTICE, number)
    low = rim.bubble in ("half", "more")
    text = "It leans far forward: light falls short." if low else "It does not lean forward."
    advice = "A quarter of the bubble forward; then aim on the wall."
    return Finding(
        "rim-tilted-wrongly", Level.CAUTION, text, PRACTICE, number, "a quarter forward", advice
    )
