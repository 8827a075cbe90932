"""Exercises at the wall: where the cut-off stands, which way the collar is preset, two screws."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from cold_arc.core.aim.rules import SlopeBand, built_in
from cold_arc.core.beam.report import stands_deg
from cold_arc.core.beam.setup import SetUp
from cold_arc.core.car.lamps import Traffic
from cold_arc.core.school.exercise import (
    CollarShown,
    Exercise,
    Judgement,
    LineShown,
    NoAnswerError,
    Posed,
    ScrewsShown,
    by_level,
    figure_of,
)
from cold_arc.core.school.skills import kinds
from cold_arc.core.units import say_clock_angle, say_degrees, say_percent
from cold_arc.core.work import clocking
from cold_arc.devices.simulated_screws import SimulatedScrews

DISTANCE_M, HEIGHT_M = 10.0, 0.65
STANDS = f"lamp {HEIGHT_M:g} m high, wall at {DISTANCE_M:g} m"
# Lamps whose cut-off is looked for, and how near the line must come, degrees, by level (own; a
# practised eye lays a tape within a tenth of a degree).
EDGED = (("reflector", "H7"), ("reflector", "H11"), ("projector", "H7"), ("projector", "D2S"))
LINE_WITHIN_DEG = (0.35, 0.28, 0.22, 0.17, 0.13)
MOST_OFF_DEG = 1.2


def line(posed: Posed) -> Exercise:
    """Lay the line on the cut-off, away from the rise."""
    luck, level = posed.luck, posed.level
    housing, base = luck.choice(EDGED)
    setup = SetUp(
        housing=housing,
        base=base,
        source=luck.choice(("nominal", "led")) if base != "D2S" else "nominal",
        traffic=luck.choice(tuple(Traffic)),
        aim_v=round(luck.uniform(-MOST_OFF_DEG, MOST_OFF_DEG), 2),
        haze=round(luck.uniform(0.0, 0.08 * (level - 1)), 2),
    )
    shown = LineShown(setup, stands_deg(setup), by_level(level, LINE_WITHIN_DEG), DISTANCE_M)
    side = setup.traffic.other.value
    return Exercise(
        posed,
        kinds()["line"].ask,
        shown,
        (f"Its flat part, on the {side}. Wall at {DISTANCE_M:g} m.",),
        why=f"It stands {say_degrees(shown.stands_deg, 2)} from the lamp's height",
    )


def judge_line(exercise: Exercise, answer: str) -> Judgement:
    """*answer*: a slope, up positive."""
    assert isinstance(exercise.shown, LineShown)
    laid = math.degrees(math.atan(figure_of(answer, "Lay the line, or type where it stands.")))
    off = laid - exercise.shown.stands_deg
    way = "too high" if off > 0 else "too low"
    answered = f"{say_degrees(laid, 2)}: {say_degrees(abs(off), 2)} {way}"
    within = exercise.shown.within_deg
    note = f"Asked at this level: within {say_degrees(within, 2)}."
    return Judgement(abs(off) <= within, answered, exercise.why, notes=(note,))


# Where bulbs stop, by level: in steps of so many degrees; how near the preset must come.
STOPS_DEG, COLLAR_WITHIN_DEG = (30.0, 15.0, 10.0, 5.0, 1.0), (12.0, 9.0, 7.0, 6.0, 5.0)
ALIKE_FROM = 3


def collar(posed: Posed) -> Exercise:
    """Where to preset the collar of a bulb that stopped askew."""
    luck, level = posed.luck, posed.level
    alike = 2 if level >= ALIKE_FROM and luck.random() < 0.5 else 1
    step = by_level(level, STOPS_DEG)
    most = 150 if alike == 2 else 90
    stopped = step * luck.randint(1, int(most / step)) * luck.choice((1, -1))
    within = by_level(level, COLLAR_WITHIN_DEG)
    words = [f"It locked at {say_clock_angle(stopped)}, seen from behind."]
    if alike == 2:
        words.append("Two equal faces, no shield: it looks alike twice in a turn.")
    preset = clocking.preset(stopped, alike).preset_deg
    return Exercise(
        posed,
        kinds()["collar"].ask,
        CollarShown(stopped, alike, within),
        tuple(words),
        why=f"Preset it {say_clock_angle(preset)}",
    )


def judge_collar(exercise: Exercise, answer: str) -> Judgement:
    """*answer*: degrees clockwise."""
    shown = exercise.shown
    assert isinstance(shown, CollarShown)
    turned = figure_of(answer, "Say where it is preset.")
    left_deg = clocking.preset(shown.stopped_deg + turned, shown.turns_alike).stopped_deg
    answered = f"Preset {say_clock_angle(turned)}: it then locks at {say_clock_angle(left_deg)}"
    note = clocking.second_reading(
        clocking.preset(shown.stopped_deg, shown.turns_alike),
        clocking.preset(shown.stopped_deg + turned, shown.turns_alike),
    )
    right = abs(left_deg) <= shown.within_deg
    return Judgement(
        right, answered, exercise.why, notes=(note.text,) if note and not right else ()
    )


# What a turn of a screw does, slopes: its own way and the other; play, turns; by level.
TURN_SLOPE, CROSS = (0.004, 0.007), (0.0, 0.06, 0.1, 0.14, 0.18)
PLAY_TURNS, PAR = (0.0, 0.05, 0.1, 0.15, 0.2), (4, 4, 4, 4, 3)
SIDEWAYS_FROM, RULE = 3, "un-r48-low"
MOST_MOVES, MOST_TURNS = 12, 8.0
# How far off it comes; where the elbow must stand, where it is aimed too (own; slopes).
ELBOW_SLOPE = 0.005
OFF_SLOPE, OFF_SIDEWAYS = (0.008, 0.022), (0.008, 0.02)


def screws(posed: Posed) -> Exercise:
    """Aim a lamp by two screws whose turns are not known beforehand."""
    luck, level = posed.luck, posed.level
    target = built_in()[RULE].target(HEIGHT_M)
    sideways = level >= SIDEWAYS_FROM
    cross = by_level(level, CROSS)
    own = [luck.uniform(*TURN_SLOPE) * luck.choice((1, -1)) for _ in range(2)]
    up = target.nominal + luck.uniform(*OFF_SLOPE) * luck.choice((1, -1))
    right = luck.uniform(*OFF_SIDEWAYS) * luck.choice((1, -1)) if sideways else 0.0
    shown = ScrewsShown(
        SetUp(housing="projector", base="H7", source="led"),
        (round(up, 4), round(right, 4)),
        (own[0], cross * own[0] * luck.choice((1, -1))),
        (cross * own[1] * luck.choice((1, -1)), own[1]),
        by_level(level, PLAY_TURNS),
        PAR[level - 1],
        sideways,
        replace(target, sideways=SlopeBand(-ELBOW_SLOPE, ELBOW_SLOPE)),
        DISTANCE_M,
    )
    aside = f" Elbow within {say_percent(ELBOW_SLOPE, 1)} of the lamp's centre line."
    elbow = aside if sideways else ""
    return Exercise(
        posed,
        f"{kinds()['screws'].ask}: {shown.par} moves at most",
        shown,
        (f"Set it within {target.set.words}: {STANDS}.{elbow}",),
        why=f"Within {target.set.words} in {shown.par} moves",
    )


@dataclass(frozen=True)
class Turned:
    """The moves made, (height, side) turns clockwise, and where the beam stood after each."""

    moves: tuple[tuple[float, float], ...]
    stood: tuple[tuple[float, float], ...]

    @property
    def stands(self) -> tuple[float, float]:
        """Where it stands now: slopes up, right."""
        return self.stood[-1]


def moves_of(answer: str) -> tuple[tuple[float, float], ...]:
    """Moves as an address writes them, "0.5,0;-1,2"; NoAnswerError for what is none."""
    moves, otherwise = [], f"A move is up to {MOST_TURNS:g} turns of each screw."
    for part in filter(None, answer.split(";")):
        turns = tuple(figure_of(text, otherwise) for text in part.split(","))
        if len(turns) != 2 or any(abs(turn) > MOST_TURNS for turn in turns):
            raise NoAnswerError(otherwise)
        moves.append((turns[0], turns[1]))
    if len(moves) > MOST_MOVES:
        raise NoAnswerError(f"No more than {MOST_MOVES} moves.")
    return tuple(moves)


def turn(shown: ScrewsShown, moves: tuple[tuple[float, float], ...]) -> Turned:
    """What moves do to the lamp."""
    lamp = SimulatedScrews(
        *shown.stands, per_height=shown.per_height, per_side=shown.per_side, play=shown.play
    )
    stood = [(lamp.up, lamp.right)]
    for height, side in moves:
        lamp.turn(height, side)
        stood.append((lamp.up, lamp.right))
    return Turned(moves, tuple(stood))


def judge_screws(exercise: Exercise, answer: str) -> Judgement:
    """*answer*: the moves made."""
    shown = exercise.shown
    assert isinstance(shown, ScrewsShown)
    turned = turn(shown, moves_of(answer))
    if not turned.moves:
        raise NoAnswerError("Turn a screw first.")
    up, right = turned.stands
    within = not shown.target.set.excess(up)
    straight = not (shown.sideways and shown.target.sideways_excess(right))
    count = len(turned.moves)
    answered = (
        f"{count} {'move' if count == 1 else 'moves'}: the cut-off stands at {say_percent(up, 2)}"
    )
    if shown.sideways:
        answered += f", the elbow at {say_percent(right, 2)}"
    return Judgement(within and straight and count <= shown.par, answered, exercise.why)
