"""What the eye sees on the wall in a shoot-out: dark, bright or coloured patches, each source's;
and whether they are the housing's or the source's, by the same rule as readings: what is there
with every source is the housing's.

Common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_degrees, worded

LOOKS = {"dark": "Dark", "bright": "Bright", "coloured": "Coloured"}
# Two patches this near are one, degrees (own: what a finger hits and an eye remembers).
SAME_DEG = 2.0
FARTHEST_H_DEG, FARTHEST_V_DEG = 45.0, 20.0


@dataclass(frozen=True)
class Patch:
    """What the eye sees at a place: *look* of LOOKS, degrees right and up of the lamp's axis."""

    look: str
    h_deg: float
    v_deg: float

    def is_same(self, other: Patch) -> bool:
        """Whether another is the same patch."""
        apart = math.hypot(self.h_deg - other.h_deg, self.v_deg - other.v_deg)
        return self.look == other.look and apart <= SAME_DEG

    @property
    def words(self) -> str:
        """What and where."""
        across = f"{say_degrees(abs(self.h_deg), 1)} {'right' if self.h_deg >= 0 else 'left'}"
        up = f"{say_degrees(abs(self.v_deg), 1)} {'up' if self.v_deg >= 0 else 'down'}"
        return f"{LOOKS[self.look].lower()} {across}, {up}"


Patches = Mapping[str, Sequence[Patch]]


def patch_findings(patches: Patches) -> list[Finding]:
    """Whose each patch is; *patches* of each source looked at, by its name. With one source alone
    nothing is told apart.
    """
    if len(patches) < 2:
        return []
    collected: list[Finding] = []
    seen: list[Patch] = []
    for patch in (patch for each in patches.values() for patch in each):
        if any(patch.is_same(other) for other in seen):
            continue
        seen.append(patch)
        having = [name for name, each in patches.items() if any(map(patch.is_same, each))]
        collected.append(_judged(patch, having, len(patches)))
    return collected


def _judged(patch: Patch, having: Sequence[str], of: int) -> Finding:
    where = patch.words.capitalize()
    if len(having) == of:
        text = worded(
            "{where}: with every source, so it is the housing's; no bulb cures it.", where=where
        )
        return Finding("patch-of-housing", Level.NOTE, text, PRACTICE, "by eye")
    text = worded(
        "{where}: with {having} alone, so it is the source's or its seat's.",
        where=where,
        having=" and ".join(having),
    )
    level = Level.NOTE if patch.look == "bright" else Level.CAUTION
    advice = "Read how it stands, look at its faces; else another source."
    return Finding(
        "patch-of-source",
        level,
        text,
        PRACTICE,
        worded("by eye, {having} of {of}", having=len(having), of=of),
        advice=advice,
    )
