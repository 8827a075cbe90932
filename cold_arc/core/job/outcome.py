"""What a job's readings and aim say: before against after, left against right, inside the rule or not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from cold_arc.core import aim
from cold_arc.core.adjusters import Move, advice
from cold_arc.core.car.front import BeamKey, across
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.findings import Finding
from cold_arc.core.job.entries import Aimed, Chosen
from cold_arc.core.job.record import Record
from cold_arc.core.metering import comparing
from cold_arc.core.metering.comparing import Change, Comparison
from cold_arc.core.metering.readings import LENSES
from cold_arc.core.units import UnitSystem

AIM_PHASES = {"found": "As found", "left": "As left"}
BALANCED_POINTS = ("peak", "edge")


def change_of(record: Record, beam: BeamKey) -> Change:
    """What changes at a beam: what burned in its sockets, what was chosen for them."""
    present = [record.socket(socket).present for socket in record.givers(beam)]
    chosen = [record.latest(Chosen, socket) for socket in record.givers(beam)]
    follows = any(it is not None and it.follows_supply for it in present)
    stays = bool(chosen) and all(it is not None and it.source is None for it in chosen)
    return Change(follows, follows and stays, beam.function.value, colour_changed=not stays)


def compare(record: Record, beam: BeamKey) -> Comparison:
    """One beam before and after through the same lens, what follows the supply brought to one voltage.

    Where the lens was worked on and the old source read through it since, that is what counts as before.
    """
    after = record.readings(beam, "after")
    lens = next((it.lens for it in reversed(after.values())), None)
    same = record.readings(beam, "before", lens)
    return comparing.compare(same or record.readings(beam, "before"), after, change_of(record, beam))


def lens_gain(record: Record, beam: BeamKey) -> Comparison | None:
    """What work on the lens gained by itself, the old source shining through it before and since; None where that was
    not read."""
    found = record.readings(beam, "before", "found")
    states = [lens for lens in LENSES if lens != "found"]
    since = next((it for lens in reversed(states) if (it := record.readings(beam, "before", lens))), None)
    if not found or not since:
        return None
    old = change_of(record, beam)
    as_if_found = {name: replace(it, lens="found") for name, it in since.items()}
    return comparing.compare(found, as_if_found, replace(old, after_follows=old.before_follows, colour_changed=False))


def gain_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """What before and after of each beam say, each once, then left against right."""
    each = (finding for beam in beams for finding in compare(record, beam).findings)
    return [*dict.fromkeys(each), *balance_findings(record, beams)]


def balance_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """Left against right, after, at the brightest point and the edge, for each pair among *beams*."""
    found = []
    for beam in beams:
        if beam.side is Side.LEFT and across(beam) in beams:
            left, right = record.readings(beam, "after"), record.readings(across(beam), "after")
            both = (point for point in BALANCED_POINTS if point in left and point in right)
            found += [comparing.balance(left[point], right[point], beam.function.value) for point in both]
    return found


def aim_findings(record: Record, beam: BeamKey, system: UnitSystem) -> list[Finding]:
    """What the rule says of the newest reading of a beam's aim, and how far there is to turn; lengths in *system*."""
    aimed = record.aimed(beam, "left") or record.aimed(beam, "found")
    if aimed is None:
        return []
    target = aim.rules()[aimed.rule].target(aimed.height_m)
    found = [aim.judge(target, aimed.slope, aimed.distance_m, system)]
    if aimed.sideways is not None:
        found.append(aim.judge_sideways(target, aimed.sideways, aimed.distance_m, system))
    side = beam.side.value.capitalize()
    named = [finding.named(f"{side}, {AIM_PHASES[aimed.phase].lower()}") for finding in found]
    taken = record.all(Aimed, beam)
    return named + [it.named(side) for it in advice(_moves(taken), target, aimed.slope, aimed.sideways)]


def _moves(taken: Sequence[Aimed]) -> list[Move]:
    """The moves made since the lamp was last read as found: how far the screws were turned, what came of it."""
    start = max((number for number, it in enumerate(taken) if it.phase == "found"), default=0)
    moves = []
    for before, after in pairwise(taken[start:]):
        turned = after.turns or 0.0, after.turns_side or 0.0
        if any(turned):
            both = after.sideways is not None and before.sideways is not None
            right = (after.sideways or 0.0) - (before.sideways or 0.0) if both else None
            moves.append(Move(turned, after.slope - before.slope, right))
    return moves


def shared_aim(record: Record, beam: BeamKey) -> list[Finding]:
    """A word where a high beam comes from a socket that gives the low beam too: its aim is the low beam's."""
    functions = {it for socket in record.givers(beam) for it in record.socket(socket).functions}
    told = aim.shared_with_low(functions) if beam.function is Function.HIGH else None
    return [told] if told else []
