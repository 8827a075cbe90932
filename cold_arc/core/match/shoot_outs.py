"""The shoot-out of a record: its turns out of the entries, its protocol, what it comes to."""

from __future__ import annotations

from collections.abc import Mapping

from cold_arc.core.car.front import BeamKey
from cold_arc.core.job.entries.readings import ShootOutEnded, Tried
from cold_arc.core.job.outcome import change_of
from cold_arc.core.job.record import Record
from cold_arc.core.metering.readings import WallReading
from cold_arc.core.metering.shoot_out import ShootOut, SourceTurn, shoot_out


def tried(record: Record, beam: BeamKey) -> list[Tried]:
    """The readings of a beam's shoot-out under way, or of the last one; the newest of a turn's
    place counts.
    """
    taken: dict[tuple[int, str], Tried] = {}
    ended = False
    for entry in record.entries:
        if beam not in entry.about:
            continue
        if isinstance(entry.payload, ShootOutEnded):
            ended = True
        elif isinstance(entry.payload, Tried):
            if ended:
                taken, ended = {}, False
            taken[entry.payload.turn, entry.payload.reading.point] = entry.payload
    return list(taken.values())


def turns(record: Record, beam: BeamKey) -> list[SourceTurn]:
    """The turns in their order."""
    by_turn: dict[int, dict[str, WallReading]] = {}
    sources: dict[int, str] = {}
    for entry in tried(record, beam):
        by_turn.setdefault(entry.turn, {})[entry.reading.point] = entry.reading
        sources[entry.turn] = entry.source
    return [SourceTurn(sources[number], by_turn[number]) for number in sorted(by_turn)]


def shoot_out_of(
    record: Record, beam: BeamKey, pattern: Mapping[str, float] | None = None
) -> ShootOut | None:
    """What a beam's shoot-out comes to; None where there is nothing to tell. *pattern*: its
    housing's, for shadows.
    """
    taken = turns(record, beam)
    return shoot_out(taken, change_of(record, beam), pattern) if taken else None
