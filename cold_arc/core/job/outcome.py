"""What a job's readings and aim say: before against after, left against right, inside the rule or
not.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

from cold_arc.core import law
from cold_arc.core.aim.adjusters import Move, advice
from cold_arc.core.aim.combined import SHARED, Stands, judge_together, second_to_low
from cold_arc.core.aim.judging import (
    height_words,
    judge,
    judge_sideways,
    mark_used,
    parallel,
    simulated_words,
)
from cold_arc.core.aim.taping import CHECKS
from cold_arc.core.car.keys import BeamKey, Key, SocketKey, UnitKey, across
from cold_arc.core.car.lamps import Function, Side
from cold_arc.core.findings import Finding, Level
from cold_arc.core.job.entries.aim import AdjustersTold, Aimed, Readied, rule_of, target_of
from cold_arc.core.job.entries.hand_over import LEVELLING, TestDriven
from cold_arc.core.job.entries.kind import AimPhase, Phase
from cold_arc.core.job.entries.match import Chosen, Quoted
from cold_arc.core.job.facts import leaves_with_words
from cold_arc.core.job.record import Record, once_a_record
from cold_arc.core.metering import comparing
from cold_arc.core.metering.comparing import Comparison
from cold_arc.core.metering.differing import SourceChange
from cold_arc.core.metering.readings import LENSES, YARDSTICKS, least_stray_cd
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import UnitSystem, say_minutes, worded

BALANCED_POINTS = ("peak", "edge")


def change_of(record: Record, beam: BeamKey) -> SourceChange:
    """What changes at a beam: what burned in its sockets, what was chosen for them."""
    present = [record.socket(socket).present for socket in record.givers(beam)]
    chosen = [record.latest(Chosen, socket) for socket in record.givers(beam)]
    follows = any(source is not None and source.follows_supply for source in present)
    stays = bool(chosen) and all(choice is not None and choice.source is None for choice in chosen)
    return SourceChange(
        follows,
        follows and stays,
        beam.function,
        colour_changed=not stays,
        source_changed=not stays,
        worked_on=any(_worked_on(record, socket) for socket in record.givers(beam)),
    )


def _worked_on(record: Record, socket: SocketKey) -> bool:
    """Whether anything of a socket or its lamp but its source was put in new or opened."""
    unit = socket.of_unit
    return bool(record.renewed(socket)) or record.has_new_housing(unit) or record.is_opened(unit)


@once_a_record
def compare(record: Record, beam: BeamKey) -> Comparison:
    """One beam before and after through the same lens, what follows the supply brought to one
    voltage.

    Where the lens was worked on and the old source read through it since, that is what counts as
    before.
    """
    after = record.readings(beam, Phase.AFTER)
    lens = next((reading.lens for reading in reversed(after.values())), None)
    same = record.readings(beam, Phase.BEFORE, lens)
    return comparing.compare(
        same or record.readings(beam, Phase.BEFORE), after, change_of(record, beam)
    )


@once_a_record
def lens_gain(record: Record, beam: BeamKey) -> Comparison | None:
    """What work on the lens gained by itself, the old source shining through it before and since;
    None where that was not read."""
    as_found = record.readings(beam, Phase.BEFORE, "found")
    states = [lens for lens in LENSES if lens != "found"]
    since = next(
        (
            taken
            for lens in reversed(states)
            if (taken := record.readings(beam, Phase.BEFORE, lens))
        ),
        None,
    )
    if not as_found or not since:
        return None
    old = change_of(record, beam)
    as_if_found = {name: replace(reading, lens="found") for name, reading in since.items()}
    return comparing.compare(
        as_found,
        as_if_found,
        replace(old, after_follows=old.before_follows, colour_changed=False, worked_on=True),
    )


@once_a_record
def dazzle(record: Record, beam: BeamKey) -> Finding | None:
    """A caution where a beam's stray light after the work stands over the yardstick of such a lamp,
    whatever it was before; None where it does not, or was not read.
    """
    read = record.readings(beam, Phase.AFTER).get("stray")
    yardstick = YARDSTICKS.get(beam.function.value)
    if read is None or yardstick is None or read.is_simulated:
        return None
    if least_stray_cd(read) <= yardstick.candela:
        return None
    return Finding(
        "left-dazzling",
        Level.CAUTION,
        "It dazzles: stray light above the cut-off.",
        yardstick.sources,
        worded("{candela:candela}", candela=read.candela),
        worded("{candela:candela} {where}", candela=yardstick.candela, where=yardstick.where),
        "Check depth, clocking and aim; it must not leave so unless a reason is recorded.",
    )


def gain_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """What before and after of each beam say, each once, then left against right."""
    each = (finding for beam in beams for finding in compare(record, beam).findings)
    return [*dict.fromkeys(each), *balance_findings(record, beams)]


def balance_findings(record: Record, beams: Sequence[BeamKey]) -> list[Finding]:
    """Left against right, after, at the brightest point and the edge, for each pair among
    *beams*.
    """
    findings = []
    for beam in beams:
        if beam.side is Side.LEFT and across(beam) in beams:
            left, right = (
                record.readings(beam, Phase.AFTER),
                record.readings(across(beam), Phase.AFTER),
            )
            both = (point for point in BALANCED_POINTS if point in left and point in right)
            findings += [
                comparing.balance(left[point], right[point], beam.function).named(
                    beam.function.label
                )
                for point in both
            ]
    return findings


def aim_findings(record: Record, beam: BeamKey, system: UnitSystem) -> list[Finding]:
    """What the rule says of the newest reading of a beam's aim, and how far there is to turn;
    lengths in *system*.
    """
    aimed = record.aimed(beam, AimPhase.LEFT) or record.aimed(beam, AimPhase.FOUND)
    if aimed is None:
        return []
    target = target_of(aimed)
    findings = [aim_verdict(record, beam, aimed, system)]
    if aimed.sideways is not None:
        findings.append(judge_sideways(target, aimed.sideways, aimed.distance_m, system))
    side = (
        f"{beam.side.value.capitalize()}{', high beam' if beam.function is Function.HIGH else ''}"
    )
    named = [finding.named(f"{side}, {aimed.phase.words.lower()}") for finding in findings]
    taken = record.all(Aimed, beam)
    named += [
        *simulated_words(taken[-1].simulated),
        *mark_used(aimed.mark, target.sources),
        *height_words(rule_of(aimed), aimed.height_m, aimed.mark),
        *(each.named(side) for each in _mounted(record, beam, aimed.height_m, system)),
    ]
    if _is_second(record, beam):
        return named
    return named + [
        finding.named(side)
        for finding in advice(_moves(taken), target, aimed.slope, aimed.sideways)
    ]


def _mounted(record: Record, beam: BeamKey, height_m: float, system: UnitSystem) -> list[Finding]:
    """A word where a lamp's height is none its market allows."""
    market = record.booking.market if record.booking else ""
    return law.mounting_words(market, beam.function, height_m, system)


def aim_verdict(record: Record, beam: BeamKey, aimed: Aimed, system: UnitSystem) -> Finding:
    """Whether a reading is in, by its rule; of a high beam that low beam's adjuster moves nothing
    it stops.
    """
    verdict = judge(target_of(aimed), aimed.slope, aimed.distance_m, system)
    return second_to_low(verdict) if _is_second(record, beam) else verdict


def _is_second(record: Record, beam: BeamKey) -> bool:
    """Whether a beam is a high beam whose adjuster is low beam's."""
    return beam.function is Function.HIGH and combined_with(record, beam) is not None


def quoted_findings(record: Record) -> list[Finding]:
    """Where what was fitted is not what the customer signed for."""
    differing = []
    for key in record.sockets:
        quoted, chosen = record.latest(Quoted, key), record.latest(Chosen, key)
        if quoted is None or chosen is None:
            continue
        fitted, asked = chosen.source.name if chosen.source else "", quoted.way.source
        if fitted == asked:
            continue
        signed = ", ".join(filter(None, (quoted.way.name, asked)))
        words, now = record.front.words(key), leaves_with_words(record, key)
        text = worded(
            "{lamp}: signed for was “{signed}”; fitted is {now}.",
            lamp=words,
            signed=signed,
            now=now,
        )
        advice = "Tell the customer, and have another quote signed at Match."
        differing.append(Finding("signed-other", Level.CAUTION, text, PRACTICE, advice=advice))
    return list({finding.text: finding for finding in differing}.values())


def drive_findings(record: Record) -> list[Finding]:
    """What the test drive gives to come back for."""
    drive = record.latest(TestDriven)
    if drive is None:
        return []
    seen = [
        (
            drive.flashed,
            "drive-flashed",
            "Somebody flashed at it on the test drive.",
            "Aim and stray light again before it leaves: Aim, then Verify.",
        ),
        (
            drive.heard,
            "drive-heard",
            "A fan or a hum was heard on the test drive.",
            "Find what touches the fan, or what the feed pulses at: Find a fault.",
        ),
        (
            drive.levelling == "stuck",
            "drive-levelling",
            "The levelling did not move under load.",
            "Aimed for one load alone it dazzles with another: its plug, its rod, its fuse.",
        ),
    ]
    return [
        Finding(which, Level.CAUTION, text, PRACTICE, advice=advice)
        for holds, which, text, advice in seen
        if holds
    ]


def drive_words(drive: TestDriven) -> str:
    """The test drive in a line: who, how long, where, what was met."""
    met = [
        "somebody flashed" if drive.flashed else "nobody flashed",
        "a fan or hum was heard" if drive.heard else "nothing was heard",
    ]
    met += [f"levelling {LEVELLING[drive.levelling].lower()}"] if drive.levelling != "none" else []
    met += ["in the wet"] if drive.wet else []
    met += [drive.note] if drive.note else []
    return f"{drive.who}, {say_minutes(drive.minutes)}, {drive.where}: {'; '.join(met)}."


def readied(record: Record, beam: BeamKey) -> tuple[str, ...]:
    """Which of the list before aiming were ticked for a beam's lamps."""
    ready = record.latest(Readied, beam)
    return ready.done if ready else ()


def ready_findings(record: Record, beam: BeamKey) -> list[Finding]:
    """A word where the list before aiming is not ticked through."""
    open_yet = len(CHECKS) - len(readied(record, beam))
    if not open_yet:
        return []
    text = worded(
        "Before aiming, {open_yet} of {checks} are not ticked.",
        open_yet=open_yet,
        checks=len(CHECKS),
    )
    return [
        Finding(
            "readying-open",
            Level.NOTE,
            text,
            PRACTICE,
            advice="What moves the car's body moves the beam.",
        )
    ]


def parallel_findings(
    record: Record, beams: Sequence[BeamKey], system: UnitSystem
) -> list[Finding]:
    """Left against right as left, for each pair among *beams*; lengths in *system*."""
    findings = []
    for beam in beams:
        left, right = record.aimed(beam, AimPhase.LEFT), record.aimed(across(beam), AimPhase.LEFT)
        if beam.side is Side.LEFT and left and right:
            findings.append(parallel(left.slope, right.slope, left.distance_m, system))
    return findings


def _moves(taken: Sequence[Aimed]) -> list[Move]:
    """The moves made since the lamp was last read as found: how far the screws were turned, what
    came of it.
    """
    start = max(
        (number for number, aim in enumerate(taken) if aim.phase == AimPhase.FOUND), default=0
    )
    moves: list[Move] = []
    goes_on = False
    for before, after in pairwise(taken[start:]):
        move = _move(before, after, goes_on)
        goes_on = any(move.turns)
        moves += [move] if goes_on else []
    return moves


def _move(before: Aimed, after: Aimed, goes_on: bool) -> Move:
    """What was turned between two readings, and by how much the beam moved."""
    right = None
    if after.sideways is not None and before.sideways is not None:
        right = after.sideways - before.sideways
    turned = after.turns or 0.0, after.turns_side or 0.0
    return Move(turned, after.slope - before.slope, right, goes_on)


COMBINED = {Function.LOW: Function.HIGH, Function.HIGH: Function.LOW}


def combined_with(record: Record, beam: BeamKey) -> BeamKey | None:
    """The high beam that low beam's adjuster moves too, or the other way round.

    One bulb and mirror give both, or one housing holds both and was told to have one adjuster. None
    where high beam also comes from a lamp of its own, with an adjuster of its own.
    """
    other = COMBINED.get(beam.function)
    if other is None:
        return None
    key = BeamKey(other, beam.side)
    mine, its = (record.front.givers(beam_key) for beam_key in (beam, key))
    return key if (mine and mine == its) or one_adjuster(record, beam) else None


def housing_of_both(record: Record, beam: BeamKey) -> UnitKey | None:
    """The housing that holds low and high beam of a side, not from one bulb; None for any other
    lamp.
    """
    functions = (beam.function, COMBINED.get(beam.function))
    mine, its = (
        record.front.givers(BeamKey(function, beam.side)) if function else ()
        for function in functions
    )
    units = {socket.of_unit for socket in (*mine, *its)}
    return units.pop() if mine and its and mine != its and len(units) == 1 else None


def one_adjuster(record: Record, beam: BeamKey) -> bool | None:
    """Whether the housing of both beams was told to have one adjuster for them; None where nobody
    said.
    """
    housing = housing_of_both(record, beam)
    adjusters = record.latest(AdjustersTold, housing) if housing else None
    return adjusters.shared if adjusters else None


def others_of(record: Record, beams: Sequence[BeamKey]) -> list[BeamKey]:
    """The other beams the adjusters of *beams* move."""
    return [other for key in beams if (other := combined_with(record, key))]


def combined_findings(
    record: Record, beams: Sequence[BeamKey], system: UnitSystem
) -> list[Finding]:
    """What to do with an adjuster that moves low and high of *beams*; a word where one of both is
    not read.
    """
    findings: list[Finding] = []
    for beam in beams:
        if (other := combined_with(record, beam)) is None:
            continue
        low, high = sorted((beam, other), key=lambda each: each.function is Function.HIGH)
        stand = _stand_together(record, low, high)
        if stand is None:
            findings.append(SHARED)
            continue
        distance_m = record.all(Aimed, low)[-1].distance_m
        findings.append(
            judge_together(*stand, distance_m, system).named(beam.side.value.capitalize())
        )
    return list(dict.fromkeys(findings))


def _stand_together(record: Record, low: BeamKey, high: BeamKey) -> tuple[Stands, Stands] | None:
    """How both beams of a combined lamp stand, both as left or both as found; None where one is not
    read so.

    Where low beam was read again after high beam, high beam has moved with it, by as much.
    """
    left = record.aimed(low, AimPhase.LEFT) or record.aimed(high, AimPhase.LEFT)
    last: dict[BeamKey, Aimed] = {}
    moved = 0.0
    for about, aim in _aims(record, AimPhase.LEFT if left else AimPhase.FOUND):
        if low in about:
            moved += aim.slope - last[low].slope if last.keys() >= {low, high} else 0.0
            last[low] = aim
        if high in about:
            last[high], moved = aim, 0.0
    if len(last) < 2:
        return None
    low_stands = Stands(last[low].slope, target_of(last[low]))
    return low_stands, Stands(last[high].slope + moved, target_of(last[high]))


def _aims(record: Record, phase: AimPhase) -> Iterator[tuple[frozenset[Key], Aimed]]:
    """Every aim of one phase, oldest first, with what it is about."""
    for entry in record.entries:
        if isinstance(entry.payload, Aimed) and entry.payload.phase == phase:
            yield entry.about, entry.payload
