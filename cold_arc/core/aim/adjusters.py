"""Adjusters: what each screw does, learnt from the moves made, and how far to turn next.

A lamp's two screws move its beam up and sideways, often both a little: [up, right] = M·[height
screw, side screw]. M is fitted by least squares to every move, over a wide prior, so that one move
is enough to go on and each more narrows it (Bayesian linear regression, textbooks). Turns are
clockwise positive. Limits: common practice, no published source.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cold_arc.core.aim.rules import Target
from cold_arc.core.findings import Finding, Level
from cold_arc.core.references import PRACTICE
from cold_arc.core.units import say_number, say_percent

Array = NDArray[np.float64]
SCREWS = ("height screw", "side screw")
# How well a slope is read; what a turn may do at all, one standard deviation (slopes); own.
READ_SLOPE, PRIOR_SLOPE = 0.0007, 0.02
# How many standard deviations off a move is more than its two readings may be (own).
CERTAIN_SD = 1.8
# Turns that count as an attempt.
TRIED_TURNS = 0.5
# A turn that moves the beam by less does nothing, slope.
NOTHING_SLOPE = 0.0004
# A move of less than this share of the fit has met its stop.
STOPPED_SHARE = 0.4
# Play that is worth a word, and the least turn worth making, turns.
PLAY_TURNS, LEAST_TURNS = 0.15, 0.1
FRACTIONS = {0: "", 1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞"}


@dataclass(frozen=True)
class Move:
    """Screws turned (height, side; clockwise positive) and by how much the beam then moved: slopes
    up, right; *right* None where it was not read."""

    turns: tuple[float, float]
    up: float
    right: float | None = None

    def along(self, screw: int) -> float | None:
        """By how much it moved the way a screw is there for; None where that was not read."""
        return self.up if screw == 0 else self.right


@dataclass(frozen=True)
class Response:
    """What a turn of each screw does, slope up and slope right, with one standard deviation;
    *tried*: turns in all.
    """

    up: tuple[float, float]
    up_sd: tuple[float, float]
    right: tuple[float, float]
    right_sd: tuple[float, float]
    tried: tuple[float, float]

    def is_known(self, screw: int) -> bool:
        """Whether a screw was turned at all."""
        return self.tried[screw] >= TRIED_TURNS / 2

    def is_dead(self, screw: int) -> bool:
        """Whether a screw was turned and did nothing either way."""
        does = max(abs(self.up[screw]), abs(self.right[screw]))
        return self.tried[screw] >= TRIED_TURNS and does < NOTHING_SLOPE


def fit(moves: Sequence[Move]) -> Response:
    """The response of both screws from the moves made."""
    up, up_sd = _regress([(move.turns, move.up) for move in moves])
    right, right_sd = _regress(
        [(move.turns, move.right) for move in moves if move.right is not None]
    )
    tried = tuple(sum(abs(move.turns[screw]) for move in moves) for screw in (0, 1))
    return Response(up, up_sd, right, right_sd, (tried[0], tried[1]))


def _regress(
    samples: Sequence[tuple[tuple[float, float], float]],
) -> tuple[tuple[float, float], tuple[float, float]]:
    turns = np.array([row for row, _ in samples], dtype=np.float64).reshape(-1, 2)
    moved = np.array([value for _, value in samples], dtype=np.float64)
    noise = 2 * READ_SLOPE**2  # a move is a difference of two readings
    inverse = turns.T @ turns / noise + np.eye(2) / PRIOR_SLOPE**2
    cover = np.linalg.inv(inverse)
    mean = cover @ turns.T @ moved / noise
    sd = np.sqrt(np.diag(cover))
    return (float(mean[0]), float(mean[1])), (float(sd[0]), float(sd[1]))


@dataclass(frozen=True)
class ScrewTurn:
    """What to turn next: which screw, how far, clockwise positive, and its standard deviation."""

    screw: int
    turns: float
    sd: float

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
    """How to move the beam by *up* and *right* (None: sideways is left alone), with the screws that
    are known.
    """
    live = [screw for screw in (0, 1) if response.is_known(screw) and not response.is_dead(screw)]
    matrix = np.array([response.up, response.right])
    if right is not None and live == [0, 1] and abs(np.linalg.det(matrix)) > NOTHING_SLOPE**2:
        turns = dict(enumerate(map(float, np.linalg.solve(matrix, [up, right]))))
    else:
        turns = _each_alone(response, live, up, right)
    return [
        _turn(response, screw, turned)
        for screw, turned in turns.items()
        if abs(turned) >= LEAST_TURNS
    ]


def _each_alone(
    response: Response, live: list[int], up: float, right: float | None
) -> dict[int, float]:
    """How far to turn each live screw, as if the other did nothing."""
    does = {0: response.up[0], 1: response.right[1]}
    wanted = {0: up} if right is None else {0: up, 1: right}
    return {
        screw: by / does[screw]
        for screw, by in wanted.items()
        if screw in live and abs(does[screw]) > 1e-9
    }


def _turn(response: Response, screw: int, turns: float) -> ScrewTurn:
    does, sd = (response.up, response.up_sd) if screw == 0 else (response.right, response.right_sd)
    return ScrewTurn(screw, turns, abs(turns) * sd[screw] / max(abs(does[screw]), 1e-9))


def advice(moves: Sequence[Move], target: Target, up: float, right: float | None) -> list[Finding]:
    """What the moves say: what to turn next, with its doubt, and what is wrong with a screw; *up*,
    *right*: where the beam stands."""
    if not moves:
        return []
    response = fit(moves)
    findings = [*_faults(moves, response)]
    wanted = target.nominal - up if target.set.excess(up) or target.set.is_line else 0.0
    side = _side_wanted(target, right)
    for turn in next_turns(response, wanted, side):
        doubt = f"± {say_number(2 * turn.sd, 1)} turns" if turn.sd else ""
        does = response.up if turn.screw == 0 else response.right
        learnt = f"a turn clockwise moves it {say_percent(does[turn.screw], 2, signed=True)}"
        text = f"Turn the {turn.words} to stand mid-band."
        findings.append(Finding(Level.NOTE, text, PRACTICE, f"{learnt} {doubt}".strip()))
    return findings


def _side_wanted(target: Target, right: float | None) -> float | None:
    """How far to go sideways; None where there is no limit, or it stands inside."""
    if right is None or target.sideways is None or not target.sideways.excess(right):
        return None
    return target.sideways.middle - right


def _faults(moves: Sequence[Move], response: Response) -> list[Finding]:
    """What is wrong with a screw: dead, with play, or at its end."""
    dead = [screw for screw in (0, 1) if response.is_dead(screw)]
    live = [screw for screw in (0, 1) if screw not in dead]
    return [
        *(_dead(screw, response.tried[screw]) for screw in dead),
        *(finding for n in live for finding in _short(moves, n)),
    ]


def _dead(screw: int, tried: float) -> Finding:
    text = f"The {SCREWS[screw]} moves nothing."
    advice = "Broken or stripped, or the lamp is levelled by a motor: look before turning on."
    return Finding(Level.CAUTION, text, PRACTICE, f"{say_number(tried, 2)} turns", advice=advice)


def _short(moves: Sequence[Move], screw: int) -> list[Finding]:
    """A screw's last turns against those before: play on the way back, an end on the way on."""
    along = [move for move in moves if move.along(screw) is not None]
    if len(along) < 2 or not along[-1].turns[screw]:
        return []
    last, before = along[-1], along[:-1]
    missing = _missing(before, last, screw)
    if missing is None:
        return []
    if before[-1].turns[screw] * last.turns[screw] > 0:
        return [_stopped(screw)] if missing > 1 - STOPPED_SHARE else []
    play = missing * abs(last.turns[screw])
    return [_play(screw, play)] if PLAY_TURNS <= play <= 1.0 and missing < 1.0 else []


def _missing(before: Sequence[Move], last: Move, screw: int) -> float | None:
    """The share of what the last turns should have done, by those before, that did not come; None
    where that is not known, or within what readings may be off.
    """
    usual = fit(before)
    does = usual.up if screw == 0 else usual.right
    expected = does[0] * last.turns[0] + does[1] * last.turns[1]
    if not usual.is_known(screw) or abs(expected) < NOTHING_SLOPE:
        return None
    moved = last.along(screw) or 0.0
    if abs(moved - expected) < CERTAIN_SD * math.sqrt(2) * READ_SLOPE:
        return None
    return 1 - moved / expected


def _play(screw: int, turns: float) -> Finding:
    text = (
        f"The {SCREWS[screw]} has play: about {say_number(turns, 1)} of a turn is lost on the way "
        "back."
    )
    return Finding(
        Level.NOTE, text, PRACTICE, advice="Come to the line turning the same way each time."
    )


def _stopped(screw: int) -> Finding:
    text = (
        f"The {SCREWS[screw]}'s last turns did far less than those before: it is near the end of "
        "its travel."
    )
    return Finding(
        Level.CAUTION, text, PRACTICE, advice="Don't force it: look at the lamp's seat and mounts."
    )
