"""Combined lamps: one bulb and mirror, or one housing, give low and high beam; one adjuster moves
both by one angle.

Low beam goes first: it is what dazzles. Where both can stand within their rules the move that does
it is told; where they can't, no screw will mend it (common practice, no published source).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from cold_arc.core.aim.rules import SlopeBand, Target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import UnitSystem, say_offset, say_percent, worded

_EPSILON = 1e-9
SHARED = Finding(
    "one-adjuster",
    Level.NOTE,
    "One adjuster moves low and high beam of this lamp.",
    PRACTICE,
    advice="Set the aim on low beam; read high beam with it, and go back to low beam if it is out.",
)


def second_to_low(finding: Finding) -> Finding:
    """What is found of a high beam whose adjuster is low beam's: nothing it moves by itself,
    nothing it stops.
    """
    return replace(finding, level=min(finding.level, Level.CAUTION), advice="")


@dataclass(frozen=True)
class Stands:
    """Where one of the beams stands, a slope up positive, and what its rule asks."""

    slope: float
    target: Target

    @property
    def room(self) -> SlopeBand:
        """How far it may be moved and stay within what is kept, slope up positive."""
        keep = self.target.keep
        return SlopeBand(keep.low - self.slope, keep.high - self.slope)


def moves(low: Stands, high: Stands) -> SlopeBand | None:
    """The moves of their adjuster that leave both within their rules; None where none does."""
    bottom, top = max(low.room.low, high.room.low), min(low.room.high, high.room.high)
    return SlopeBand(bottom, top) if bottom <= top + _EPSILON else None


def best_move(low: Stands, both: SlopeBand) -> float:
    """Of the moves that leave both in, the one that leaves low beam nearest to where it is to be
    set.
    """
    return min(max(low.target.nominal - low.slope, both.low), both.high)


def judge_together(low: Stands, high: Stands, distance_m: float, system: UnitSystem) -> Finding:
    """What is to be done with the one adjuster of both beams; lengths on a wall at *distance_m*."""
    apart = high.slope - low.slope
    off = f"{say_offset(abs(apart) * distance_m, system)}, {say_percent(abs(apart), 2)}"
    number = worded(
        "{off} from low beam's cut-off {way} to high beam's hot spot",
        off=off,
        way="up" if apart > 0 else "down",
    )
    both = moves(low, high)
    if both is None:
        return Finding(
            "both-cannot-be-in",
            Level.CAUTION,
            "Low and high beam can't both be in: one adjuster moves both, and low beam goes first.",
            PRACTICE,
            number,
            advice="Leave low beam in. Then look at how each bulb sits: the light of low and high "
            "beam stand otherwise "
            "to one another than this lamp was made for.",
        )
    if not both.excess(0.0):
        return Finding("both-in", Level.OK, "Low and high beam are both in.", PRACTICE, number)
    move = best_move(low, both)
    way = "up" if move > 0 else "down"
    return Finding(
        "both-can-be-in",
        Level.CAUTION,
        "Low and high beam are not both in, and one adjuster moves both.",
        PRACTICE,
        number,
        advice=worded(
            "Move both {move} {way}: low beam then stands at {low:percent 2}, high beam "
            "at {high:percent 2}, both in.",
            move=say_offset(abs(move) * distance_m, system),
            way=way,
            low=low.slope + move,
            high=high.slope + move,
        ),
    )
