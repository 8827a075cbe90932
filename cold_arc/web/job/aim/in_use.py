"""How a lamp is aimed now: the rule gone by, what it asks, the set-up used last; and a reading made
with it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Required, TypedDict

from cold_arc.core.aim.rules import OutsideRuleError, Target, target_for
from cold_arc.core.car.keys import BeamKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.job import stand
from cold_arc.core.job.entries.aim import Aimed, WallLaid
from cold_arc.core.job.entries.kind import AimPhase
from cold_arc.core.job.needs import unaimed
from cold_arc.core.job.stand import USUAL_HEIGHT_M
from cold_arc.web.job.aim.rules_here import Here, chosen_before, rules_here
from cold_arc.web.job.stage_page import StagePage


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
        phase: AimPhase,
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


class Usual(TypedDict, total=False):
    """What an aiming form begins with, by its fields' names; lengths in metres."""

    distance: Required[float]
    height: Required[float]
    right_height: float
    lamp: Required[str]
    phase: Required[str]
    spacing: float
    rule: str
    mark: float | None


def usual(page: StagePage, beams: Sequence[BeamKey]) -> Usual:
    """How these lamps stand, as told at whatever stage; the rule and mark used last; and the
    reading that comes next.
    """
    record = page.record
    apart, away = stand.spacing(record, beams), stand.distance(record, beams)
    left, right = _heights({key.side: stand.height(record, key).value for key in beams})
    lamp, phase = _next_reading(page, beams)
    known = Usual(distance=away.value, height=left, lamp=lamp, phase=phase)
    if right is not None:
        known["right_height"] = right
    if apart:
        known["spacing"] = apart.value
    if last := _rule_used(page, beams):
        known["rule"] = chosen_before(rules_here(page, beams[0]), last)
        known["mark"] = last.mark
    return known


def _next_reading(page: StagePage, beams: Sequence[BeamKey]) -> tuple[str, str]:
    """The lamp and the phase of the reading to make next: the one under hand until it stands in its
    band as left, then the next; as left, too, where the one before was not read as found.
    """
    start = _aimed_last(page, beams)
    order = [*beams[start:], *beams[:start]]
    wanting = [key for key in order if unaimed(page.progress, key)] or order
    as_found = page.record.aimed(wanting[0], AimPhase.FOUND) is None and not _found_is_left_out(
        page
    )
    return str(wanting[0]), "found" if as_found else "left"


def _found_is_left_out(page: StagePage) -> bool:
    """Whether the lamp aimed last on this car was read as left alone."""
    aimed = [entry for entry in page.record.entries if isinstance(entry.payload, Aimed)]
    return bool(aimed) and all(
        page.record.aimed(key, AimPhase.FOUND) is None
        for key in aimed[-1].about
        if isinstance(key, BeamKey)
    )


def _aimed_last(page: StagePage, beams: Sequence[BeamKey]) -> int:
    """Which of these lamps was read last; the first where none was."""
    for entry in reversed(page.record.entries):
        if isinstance(entry.payload, Aimed) and (read := entry.about.intersection(beams)):
            return next(number for number, key in enumerate(beams) if key in read)
    return 0


def _heights(high: Mapping[Side, float]) -> tuple[float, float | None]:
    """Both lamps' height as one; the right one's besides where it is another."""
    left, right = high.get(Side.LEFT), high.get(Side.RIGHT)
    own = right if left and right and left != right else None
    return left or right or USUAL_HEIGHT_M, own


def _rule_used(page: StagePage, beams: Sequence[BeamKey]) -> Aimed | WallLaid | None:
    """What tells the rule used last on these lamps."""
    known = frozenset(beams)
    payloads = (entry.payload for entry in reversed(page.record.entries) if entry.about & known)
    return next((payload for payload in payloads if isinstance(payload, Aimed | WallLaid)), None)
