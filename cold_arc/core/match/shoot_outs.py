"""The shoot-outs of a record: each one's turns out of the entries, what it comes to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries.readings import ShootOutEnded, Tried
from cold_arc.core.job.outcome import change_of
from cold_arc.core.job.record import Record
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import ShootOut, SourceTurn, shoot_out

Turns = list[SourceTurn]


@dataclass(frozen=True)
class Round:
    """One shoot-out of a beam: its readings, the newest of a turn's place; whether it has ended."""

    tried: tuple[Tried, ...]
    ended: bool

    @property
    def turns(self) -> Turns:
        """The turns in their order."""
        by_turn: dict[int, dict[str, WallReading]] = {}
        sources: dict[int, str] = {}
        for entry in self.tried:
            by_turn.setdefault(entry.turn, {})[entry.reading.point] = entry.reading
            sources[entry.turn] = entry.source
        return [SourceTurn(sources[number], by_turn[number]) for number in sorted(by_turn)]

    @property
    def is_simulated(self) -> bool:
        """Whether a simulated meter read any of it."""
        return any(entry.reading.is_simulated for entry in self.tried)


def rounds(record: Record, beam: BeamKey) -> list[Round]:
    """Every shoot-out of a beam, in order; the last may be under way."""
    every: list[Round] = []
    taken: dict[tuple[int, str], Tried] = {}
    for entry in record.entries:
        if beam not in entry.about:
            continue
        if isinstance(entry.payload, Tried):
            taken[entry.payload.turn, entry.payload.reading.point] = entry.payload
        elif isinstance(entry.payload, ShootOutEnded) and taken:
            every.append(Round(tuple(taken.values()), ended=True))
            taken = {}
    return every + ([Round(tuple(taken.values()), ended=False)] if taken else [])


def under_way(record: Record, beam: BeamKey) -> Turns:
    """The turns of the shoot-out under way; none after one has ended."""
    last = rounds(record, beam)[-1:]
    return last[0].turns if last and not last[0].ended else []


def latest(record: Record, beam: BeamKey) -> Turns:
    """The turns of the shoot-out under way, or of the last that ended."""
    last = rounds(record, beam)[-1:]
    return last[0].turns if last else []


def told_by(
    record: Record, beam: BeamKey, turns: Turns, pattern: Mapping[str, float] | None = None
) -> ShootOut | None:
    """What some turns of a beam come to; None where there is nothing to tell. *pattern*: its
    housing's, for shadows.
    """
    return shoot_out(turns, change_of(record, beam), pattern) if turns else None
