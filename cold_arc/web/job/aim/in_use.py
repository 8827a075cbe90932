"""How a lamp is aimed now: the rule gone by, what it asks, the set-up used last; and a reading made
with it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from cold_arc.core.aim.rules import TWENTY_FIVE_FEET_M, OutsideRuleError, Target, target_for
from cold_arc.core.car.front import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import outcome
from cold_arc.core.job.entries.aim import Aimed, WallLaid
from cold_arc.core.job.outcome import others_of
from cold_arc.web.job.aim.rules_here import Here, chosen_before, rules_here
from cold_arc.web.job.stage_page import StagePage

USUAL_HEIGHT_M = 0.65


@dataclass(frozen=True)
class InUse:
    """The rule and the set-up used last, m; *target* None where the rule has no figure for the
    height.
    """

    here: Here
    target: Target | None
    height_m: float
    distance_m: float
    spacing_m: float | None
    mark: float | None

    def aimed(
        self,
        phase: str,
        distance_m: float,
        up: float,
        right: float | None,
        typed: str,
        simulated: bool,
    ) -> Aimed:
        """A reading of aim with it: slopes up and right."""
        return Aimed(
            phase=phase,
            rule=self.here.base,
            own=self.here.own,
            height_m=self.height_m,
            distance_m=distance_m,
            slope=up,
            sideways=right,
            typed=typed,
            spacing_m=self.spacing_m,
            mark=self.mark,
            simulated=simulated,
        )


def in_use(page: StagePage, key: BeamKey) -> InUse:
    """What a lamp is aimed by and with, as far as it was told; the usual where it was not."""
    known, rules = usual(page, [key]), rules_here(page, key)
    here, mark = rules.get(known.get("rule", "")) or next(iter(rules.values())), known.get("mark")
    try:
        target: Target | None = target_for(here.rule, known["height"], mark)
    except OutsideRuleError:
        target = None
    return InUse(here, target, known["height"], known["distance"], known.get("spacing"), mark)


def usual(page: StagePage, beams: Sequence[BeamKey]) -> dict[str, Any]:
    """The set-up used last on these lamps, or on the other beams of their bulbs; and the reading
    that comes next.
    """
    unread = [key for key in beams if page.record.aimed(key, "found") is None]
    wanting = unread or [key for key in beams if page.record.aimed(key, "left") is None] or beams
    next_one = {"lamp": str(wanting[0]), "phase": "found" if unread else "left"}
    if last := _wall_of(page, beams):
        own = {"rule": chosen_before(rules_here(page, beams[0]), last), "mark": last.mark}
        return next_one | own | _before_wall(page, beams, last)
    others = others_of(page.record, beams)
    if lent := _wall_of(page, others):
        return next_one | _before_wall(page, others, lent)
    return next_one | _from_readings(page, beams)


def _from_readings(page: StagePage, beams: Sequence[BeamKey]) -> dict[str, Any]:
    """Distance and heights as told with the readings of these lamps, each lamp's own; the usual
    where nothing was.
    """
    taken = {key.side: outcome.told_with_readings(page.record, key) for key in beams}
    known = next((reading for reading in taken.values() if reading), None)
    high = {side: reading.height_m for side, reading in taken.items() if reading}
    distance_m = known.distance_m if known else usual_distance_m(page)
    return {"distance": distance_m} | _heights(high, USUAL_HEIGHT_M)


def _heights(high: Mapping[Side, float | None], usual_m: float) -> dict[str, float]:
    """Both lamps' height as one, *usual_m* where none was told; the right one's besides where it is
    another.
    """
    left, right = high.get(Side.LEFT), high.get(Side.RIGHT)
    own = {"right_height": right} if left and right and left != right else {}
    return {"height": left or right or usual_m} | own


def usual_distance_m(page: StagePage) -> float:
    """How far a wall stands where nothing is told: 25 ft in the US, else 10 m."""
    return TWENTY_FIVE_FEET_M if page.job.booking.market == "us" else 10.0


def _wall_of(page: StagePage, beams: Sequence[BeamKey]) -> Aimed | WallLaid | None:
    """The set-up told last of these lamps."""
    known = frozenset(beams)
    payloads = (entry.payload for entry in reversed(page.record.entries) if entry.about & known)
    return next((payload for payload in payloads if isinstance(payload, Aimed | WallLaid)), None)


def _before_wall(
    page: StagePage, beams: Sequence[BeamKey], last: Aimed | WallLaid
) -> dict[str, Any]:
    """Distance and spacing as told last, each lamp's height as told last of it; the right one's
    where it is another.
    """
    walls = {key.side: wall for key in beams if (wall := _wall_of(page, [key]))}
    high = {
        side: (wall.of(side) if isinstance(wall, WallLaid) else wall).height_m
        for side, wall in walls.items()
    }
    stands = {"distance": last.distance_m, "spacing": last.spacing_m}
    return stands | _heights(high, last.height_m)
