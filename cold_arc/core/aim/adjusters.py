"""Adjusters: what each screw does, learnt from the moves made, and how far to turn next.

A lamp's two screws move its beam up and sideways, often both a little: [up, right] = M·[height
screw, side screw]. M is fitted to every move over a wide prior, together with how far off the last
reading is, for two moves share the reading between them (Bayesian linear regression with correlated
errors, textbooks). What lies within its own doubt is no ground for a turn. Turns are clockwise
positive. Limits: common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.aim.rules import Target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import worded

Array = NDArray[np.float64]
SCREWS = ("height screw", "side screw")
# How well a slope is read; what a turn may do at all its own way, and the other; what play may take
# of a turn back, turns: one standard deviation each (own).
READ_SLOPE, PRIOR_SLOPE, CROSS_SLOPE, PLAY_SD = 0.0007, 0.02, 0.0015, 0.2
# How many standard deviations a screw's response stands off nothing before it is turned by; a move
# off what it should have been before an end of travel, or play, is told (own).
KNOWN_SD, CERTAIN_SD, PLAY_CERTAIN_SD = 2.5, 2.0, 1.8
# Turns that count as an attempt.
TRIED_TURNS = 0.5
# A screw that certainly moves the beam by less than this a turn does nothing, slope (own).
NOTHING_SLOPE = 0.0012
# A move of less than this share of the fit has met its stop.
STOPPED_SHARE = 0.4
# Readings that scatter by this many times what they should, from so many moves on: loose (own).
LOOSE, LOOSE_MOVES = 3.0, 4
# Play that is worth a word, and the least turn worth making, turns.
PLAY_TURNS, LEAST_TURNS = 0.15, 0.1
# Turns that are told at once before it is read again, and that a usual screw has at all from where
# it stood, each way (own).
MOST_AT_ONCE, MOST_IN_ALL = 8.0, 20.0
FRACTIONS = {0: "", 1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞"}


@dataclass(frozen=True)
class Move:
    """Screws turned (height, side; clockwise positive) and by how much the beam then moved: slopes
    up, right; *right* None where it was not read. *goes_on*: from the reading the move before ended
    at.
    """

    turns: tuple[float, float]
    up: float
    right: float | None = None
    goes_on: bool = True

    def along(self, screw: int) -> float | None:
        """By how much it moved the way a screw is there for; None where that was not read."""
        return self.up if screw == 0 else self.right


@dataclass(frozen=True)
class Axis:
    """What a turn of each screw does along one axis: slopes (2), their covariance (2, 2); how far
    the last reading is off, its variance and its covariance with them (2); how many times more than
    it should the fit scatters.
    """

    does: Array
    cover: Array
    off: float
    off_var: float
    off_does: Array
    scatter: float = 1.0

    @property
    def sd(self) -> Array:
        """One standard deviation of what each screw does."""
        return np.asarray(np.sqrt(np.diag(self.cover)))

    def needed_var(self, turns: Array) -> float:
        """The variance of how far off such turns leave the beam."""
        return float(self.off_var + turns @ self.cover @ turns - 2 * self.off_does @ turns)


@dataclass(frozen=True)
class Response:
    """What the screws do up and right; *tried*: turns of each in all; *net* where each stands, and
    *way* it was turned last (0: never).
    """

    up: Axis
    right: Axis
    tried: tuple[float, float]
    net: tuple[float, float]
    way: tuple[float, float]

    @property
    def axes(self) -> tuple[Axis, Axis]:
        """Each screw's own axis: height's is up, side's is right."""
        return self.up, self.right

    def is_known(self, screw: int) -> bool:
        """Whether what a screw does stands clear of its doubt."""
        axis = self.axes[screw]
        return bool(abs(axis.does[screw]) >= KNOWN_SD * axis.sd[screw])

    def is_dead(self, screw: int) -> bool:
        """Whether a screw was turned and certainly did next to nothing either way."""
        if self.tried[screw] < TRIED_TURNS or self.is_known(screw):
            return False
        own, other = self.axes[screw], self.axes[1 - screw]
        most = abs(own.does[screw]) + 2 * own.sd[screw]
        return bool(max(most, abs(other.does[screw])) < NOTHING_SLOPE)


def fit(moves: Sequence[Move]) -> Response:
    """The response of both screws from the moves made."""
    up = _axis([(move, move.up) for move in moves], 0)
    right = _axis([(move, move.right) for move in moves if move.right is not None], 1)
    turned = np.array([move.turns for move in moves], dtype=np.float64).reshape(-1, 2)
    tried, net = np.abs(turned).sum(axis=0), turned.sum(axis=0)
    ways = [_last_way([move.turns[screw] for move in moves]) for screw in (0, 1)]
    return Response(
        up,
        right,
        (float(tried[0]), float(tried[1])),
        (float(net[0]), float(net[1])),
        (ways[0], ways[1]),
    )


def _last_way(turned: Sequence[float]) -> float:
    """Which way a screw was turned last: 1, −1, or 0 where it never was."""
    return float(np.sign(next((turns for turns in reversed(turned) if turns), 0.0)))


def _axis(samples: Sequence[tuple[Move, float]], screw: int) -> Axis:
    """A screw's own axis, fitted twice: what play may take is known once what a turn does is."""
    turns = np.array([move.turns for move, _ in samples], dtype=np.float64).reshape(-1, 2)
    moved = np.array([value for _, value in samples], dtype=np.float64)
    goes_on = [move.goes_on for move, _ in samples]
    first = _regress(turns, moved, _errors(turns, goes_on, np.zeros(2)), screw)
    return _regress(turns, moved, _errors(turns, goes_on, first.does), screw)


def _errors(turns: Array, goes_on: Sequence[bool], does: Array) -> Array:
    """The covariance of the moves' errors: each is a difference of two readings, neighbours share
    one; play takes of a screw turned the other way.
    """
    cover = 2 * READ_SLOPE**2 * np.eye(len(turns))
    way = np.zeros(2)
    for number, turned in enumerate(turns):
        if number and goes_on[number]:
            cover[number, number - 1] = cover[number - 1, number] = -(READ_SLOPE**2)
        back = (turned * way < 0).astype(float)
        cover[number, number] += float(np.sum((back * does * PLAY_SD) ** 2))
        way = np.where(turned != 0, np.sign(turned), way)
    return cover


def _regress(turns: Array, moved: Array, errors: Array, screw: int) -> Axis:
    count = len(moved)
    prior = np.diag([CROSS_SLOPE**2, CROSS_SLOPE**2, READ_SLOPE**2])
    prior[screw, screw] = PRIOR_SLOPE**2
    last = np.zeros(count)
    last[-1:] = 1.0  # the last reading is the end of the last move
    design = np.column_stack([turns, last])
    own = prior.copy()
    own[2, 2] = 0.0  # its error is among the moves' errors already
    inverse = np.linalg.inv(design @ own @ design.T + errors) if count else np.zeros((0, 0))
    gain = (prior @ design.T) @ inverse
    mean, cover = gain @ moved, prior - gain @ design @ prior
    rest = moved - turns @ mean[:2]
    scatter = math.sqrt(float(rest @ np.linalg.inv(errors) @ rest) / max(count - 2, 1))
    return Axis(mean[:2], cover[:2, :2], float(mean[2]), float(cover[2, 2]), cover[2, :2], scatter)


@dataclass(frozen=True)
class ScrewTurn:
    """What to turn next: which screw, how far, clockwise positive, and its standard deviation;
    *whole*: how far it is in all, where that is too much at once.
    """

    screw: int
    turns: float
    sd: float
    whole: float | None = None

    @property
    def in_all(self) -> float:
        """How far it is in all."""
        return self.turns if self.whole is None else self.whole

    @property
    def words(self) -> str:
        """ "height screw 1¼ turns clockwise"."""
        return f"{SCREWS[self.screw]} {say_turns(self.turns)}"


def say_turns(turns: float) -> str:
    """A turn to the eighth: "1¼ turns clockwise".

    >>> say_turns(-0.52)
    '½ turn anticlockwise'
    """
    eighths = round(abs(turns) * 8)
    whole, rest = divmod(eighths, 8)
    figure = f"{whole or ''}{FRACTIONS[rest]}" or "0"
    plural = "s" if eighths > 8 else ""
    return f"{figure} turn{plural} {'clockwise' if turns > 0 else 'anticlockwise'}"


def next_turns(response: Response, up: float, right: float | None) -> list[ScrewTurn]:
    """How to move the beam by *up* and *right* (None: sideways is left alone), by the screws whose
    response is known; at most so far at once, and none that would take more turns than a screw has.
    """
    return [turn for turn in _worth_it(response, up, right) if not _is_too_far(response, turn)]


def _worth_it(response: Response, up: float, right: float | None) -> list[ScrewTurn]:
    """The turns that would move the beam there but for those too small to make."""
    wanted = _wanted_turns(response, up, right)
    return [turn for turn in wanted if abs(turn.turns) >= LEAST_TURNS]


def _wanted_turns(response: Response, up: float, right: float | None) -> list[ScrewTurn]:
    """Every turn that would move the beam there, however small or far."""
    wanted = {0: up} if right is None else {0: up, 1: right}
    screws = [screw for screw in wanted if response.is_known(screw)]
    if not screws:
        return []
    axes = [response.axes[screw] for screw in screws]
    inverse = np.linalg.inv(_apart(np.array([axis.does[screws] for axis in axes])))
    needed = np.array([wanted[screw] + axis.off for screw, axis in zip(screws, axes, strict=True)])
    turns = np.zeros(2)
    turns[screws] = inverse @ needed
    doubts = np.diag([axis.needed_var(turns) for axis in axes])
    cover = inverse @ doubts @ inverse.T
    return [
        _turn(response, screw, float(turns[screw]), math.sqrt(cover[place, place]))
        for place, screw in enumerate(screws)
    ]


def _apart(matrix: Array) -> Array:
    """What screws do (1 or 2 each way); each by itself where two do too much alike to be solved
    for together.
    """
    if len(matrix) == 2:
        own, cross = abs(matrix[0, 0] * matrix[1, 1]), abs(matrix[0, 1] * matrix[1, 0])
        if own <= 2 * cross:
            return np.asarray(np.diag(np.diag(matrix)))
    return matrix


def _turn(response: Response, screw: int, turns: float, sd: float) -> ScrewTurn:
    """A turn with its doubt: a quotient's, and the play's where it goes back."""
    axis = response.axes[screw]
    share = (2 * axis.sd[screw] / axis.does[screw]) ** 2
    play = PLAY_SD if turns * response.way[screw] < 0 else 0.0
    sd = math.hypot(sd / (1 - share), play)
    if abs(turns) <= MOST_AT_ONCE:
        return ScrewTurn(screw, turns, sd)
    return ScrewTurn(screw, math.copysign(MOST_AT_ONCE, turns), 0.0, turns)


def _is_too_far(response: Response, turn: ScrewTurn) -> bool:
    """Whether a screw would stand farther from where it stood than a usual one goes."""
    stands = response.net[turn.screw] + turn.in_all
    return max(abs(turn.in_all), abs(stands)) > MOST_IN_ALL


def advice(moves: Sequence[Move], target: Target, up: float, right: float | None) -> list[Finding]:
    """What the moves say: what to turn next, with its doubt, and what is wrong with a screw; *up*,
    *right*: where the beam stands."""
    if not moves:
        return []
    response = fit(moves)
    wanted = target.nominal - up if target.set.excess(up) or target.set.is_line else 0.0
    side = _side_wanted(target, right)
    turns = [turn for turn in _worth_it(response, wanted, side) if turn.screw or wanted]
    return [
        *_faults(moves, response),
        *_unsure(response, {0: wanted, 1: side or 0.0}),
        *(_told(response, turn) for turn in turns),
    ]


def _told(response: Response, turn: ScrewTurn) -> Finding:
    """A turn in words, with what it goes by; a caution where it is more than a screw has."""
    does = float(response.axes[turn.screw].does[turn.screw])
    learnt = worded("a turn clockwise moves it {does:percent 2 signed}", does=does)
    if _is_too_far(response, turn):
        text = worded(
            "By its moves so far the {screw} would have to be turned {in_all} times: more "
            "than such a screw has.",
            screw=SCREWS[turn.screw],
            in_all=round(abs(turn.in_all)),
        )
        return Finding("turn-beyond-screw", Level.CAUTION, text, PRACTICE, learnt, advice=LOOK)
    if turn.whole is not None:
        text = worded("Turn the {turn}, then read again: it is a long way.", turn=turn.words)
        return Finding("turn-long-way", Level.NOTE, text, PRACTICE, learnt)
    text = worded("Turn the {turn} to stand mid-band.", turn=turn.words)
    return Finding(
        "turn-to-middle",
        Level.NOTE,
        text,
        PRACTICE,
        worded("{learnt} ± {sd:number 1} turns", learnt=learnt, sd=2 * turn.sd),
    )


LOOK = (
    "Broken, stripped, seized or loose, or the lamp is levelled by a motor: look before turning on."
)


def _unsure(response: Response, wanted: dict[int, float]) -> Iterator[Finding]:
    """The first screw that is wanted and was turned, but by too little to tell what it does."""
    for screw, by in wanted.items():
        if (
            by
            and response.tried[screw]
            and not response.is_known(screw)
            and not response.is_dead(screw)
        ):
            text = worded(
                "What the {screw} did so far is no more than readings differ: no turn is told "
                "by it yet.",
                screw=SCREWS[screw],
            )
            yield Finding(
                "screw-unsure",
                Level.NOTE,
                text,
                PRACTICE,
                worded("{tried:number 2} turns", tried=response.tried[screw]),
                advice="Turn it alone, two turns more one way, and read again.",
            )
            return


def _side_wanted(target: Target, right: float | None) -> float | None:
    """How far to go sideways; None where there is no limit, or it stands inside."""
    if right is None or target.sideways is None or not target.sideways.excess(right):
        return None
    return target.sideways.middle - right


def _faults(moves: Sequence[Move], response: Response) -> list[Finding]:
    """What is wrong with a screw: dead, with play, or at its end; or with both, loose."""
    dead = [screw for screw in (0, 1) if response.is_dead(screw)]
    live = [screw for screw in (0, 1) if screw not in dead]
    short = [finding for screw in live for finding in _short(moves, screw)]
    loose = [] if short or len(moves) < LOOSE_MOVES else _loose(response)
    return [*(_dead(screw, response.tried[screw]) for screw in dead), *short, *loose]


def _loose(response: Response) -> list[Finding]:
    if max(axis.scatter for axis in response.axes) < LOOSE:
        return []
    text = "The beam does not follow the screws: it moves by what no turn explains."
    return [Finding("screws-loose", Level.CAUTION, text, PRACTICE, advice=LOOK)]


def _dead(screw: int, tried: float) -> Finding:
    text = worded("The {screw} moves nothing.", screw=SCREWS[screw])
    return Finding(
        "screw-dead",
        Level.CAUTION,
        text,
        PRACTICE,
        worded("{tried:number 2} turns", tried=tried),
        advice=LOOK,
    )


def _short(moves: Sequence[Move], screw: int) -> list[Finding]:
    """A screw's last turns against those before: play on the way back, an end on the way on."""
    along = [move for move in moves if move.along(screw) is not None]
    if len(along) < 2 or not along[-1].turns[screw]:
        return []
    last, before = along[-1], along[:-1]
    if _last_way([move.turns[screw] for move in before]) * last.turns[screw] > 0:
        missing = _missing(before, last, screw, CERTAIN_SD)
        return [_stopped(screw)] if missing > 1 - STOPPED_SHARE else []
    missing = _missing(before, last, screw, PLAY_CERTAIN_SD)
    play = missing * abs(last.turns[screw])
    return [_play(screw, play)] if PLAY_TURNS <= play <= 1.0 and missing < 1.0 else []


def _missing(before: Sequence[Move], last: Move, screw: int, certain_sd: float) -> float:
    """The share of what the last turns should have done, by those before, that did not come; 0
    where that is not known, or within *certain_sd* of what the fit and readings may be off.
    """
    usual = fit(before)
    axis, turned = usual.axes[screw], np.array(last.turns)
    expected = float(axis.does @ turned)
    own = float(axis.does[screw] * turned[screw])  # what the other screw does is no share of it
    if not usual.is_known(screw) or abs(own) < NOTHING_SLOPE / 2:
        return 0.0
    short = expected - (last.along(screw) or 0.0)
    sd = math.sqrt(axis.needed_var(turned) + READ_SLOPE**2)
    if abs(short) < certain_sd * sd:
        return 0.0
    return short / own


def _play(screw: int, turns: float) -> Finding:
    text = worded(
        "The {screw} has play: about {turns:number 1} of a turn is lost on the way back.",
        screw=SCREWS[screw],
        turns=turns,
    )
    return Finding(
        "screw-play",
        Level.NOTE,
        text,
        PRACTICE,
        advice="Come to the line turning the same way each time.",
    )


def _stopped(screw: int) -> Finding:
    text = worded(
        "The {screw}'s last turns did far less than those before: it is near the end "
        "of its travel.",
        screw=SCREWS[screw],
    )
    return Finding(
        "screw-stopped",
        Level.CAUTION,
        text,
        PRACTICE,
        advice="Don't force it: look at the lamp's seat and mounts.",
    )
