"""The shoot-outs of a record: each one's turns out of the entries, what it comes to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cold_arc.core.car.keys import BeamKey
from cold_arc.core.job.entries.readings import Eyed, ShootOutEnded, Tried
from cold_arc.core.job.outcome import change_of
from cold_arc.core.job.record import Record
from cold_arc.core.metering.by_eye import Patch
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import ShootOut, SourceTurn, shoot_out

Turns = list[SourceTurn]


@dataclass(frozen=True)
class Round:
    """One shoot-out of a beam: its readings, the newest of a turn's place; whether it has ended."""

    tried: tuple[Tried, ...]
    ended: bool
    eyed: tuple[Eyed, ...] = ()

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
    def patches(self) -> dict[str, list[Patch]]:
        """What the eye saw with each source, as last told; none with those where nothing was
        marked.
        """
        newest = {eyed.subject(): eyed for eyed in self.eyed}
        by_source: dict[str, list[Patch]] = {turn.source: [] for turn in self.turns}
        for eyed in newest.values():
            by_source.setdefault(eyed.source, []).extend([] if eyed.off else [eyed.patch])
        return by_source if any(by_source.values()) else {}

    @property
    def is_simulated(self) -> bool:
        """Whether a simulated meter read any of it."""
        return any(entry.reading.is_simulated for entry in self.tried)


def rounds(record: Record, beam: BeamKey) -> list[Round]:
    """Every shoot-out of a beam, in order; the last may be under way."""
    every: list[Round] = []
    taken: dict[tuple[int, str], Tried] = {}
    eyed: list[Eyed] = []
    for entry in record.entries:
        if beam not in entry.about:
            continue
        if isinstance(entry.payload, Tried):
            taken[entry.payload.turn, entry.payload.reading.point] = entry.payload
        elif isinstance(entry.payload, Eyed):
            eyed.append(entry.payload)
        elif isinstance(entry.payload, ShootOutEnded) and taken:
            every.append(Round(tuple(taken.values()), ended=True, eyed=tuple(eyed)))
            taken, eyed = {}, []
    last = Round(tuple(taken.values()), ended=False, eyed=tuple(eyed))
    return every + ([last] if taken else [])


def under_way(record: Record, beam: BeamKey) -> Turns:
    """The turns of the shoot-out under way; none after one has ended."""
    last = rounds(record, beam)[-1:]
    return last[0].turns if last and not last[0].ended else []


def latest(record: Record, beam: BeamKey) -> Turns:
    """The turns of the shoot-out under way, or of the last that ended."""
    last = rounds(record, beam)[-1:]
    return last[0].turns if last else []


def seen_by_eye(record: Record, beam: BeamKey) -> dict[str, list[Patch]]:
    """What the eye saw with each source of the shoot-out under way, or of the last."""
    last = rounds(record, beam)[-1:]
    return last[0].patches if last else {}


def told_by(
    record: Record, beam: BeamKey, turns: Turns, pattern: Mapping[str, float] | None = None
) -> ShootOut | None:
    """What some turns of a beam come to; None where there is nothing to tell. *pattern*: its
    housing's, for shadows.
    """
    return shoot_out(turns, change_of(record, beam), pattern) if turns else None
