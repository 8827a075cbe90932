"""Tray: fasteners and plugs by kind and place, out of the car and back in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.job.record import Record
from cold_arc.core.job.tray import ToGoIn, TrayRow, moved_over, put_in, tray_of
from cold_arc.core.work.composing import Opening


@dataclass(frozen=True)
class TrayLine:
    """One group of fasteners, or a plug: *owners* are the lamps whose way in tells of it."""

    row: TrayRow
    owners: tuple[UnitKey, ...]
    side: str

    @property
    def id(self) -> str:
        """What a form calls it, wherever it stands in the list."""
        return (
            f"{self.row.step}/{self.row.fasteners.kind}/{self.row.fasteners.place}/{self.owners[0]}"
        )

    @property
    def state(self) -> str:
        """How it stood when a form was made from it."""
        return f"{self.row.back}+{self.row.noted} of {self.row.number}"


@dataclass(frozen=True)
class Tray:
    """All groups for the units in scope."""

    lines: tuple[TrayLine, ...]
    going_in: tuple[tuple[str, ToGoIn], ...] = ()

    @property
    def loose(self) -> int:
        """Fasteners and plugs lying in the tray, and what is not moved over yet."""
        left = sum(not (part.done or part.new) for _, part in self.going_in)
        return sum(line.row.loose for line in self.lines) + left


def build_tray(record: Record, keys: Sequence[UnitKey]) -> Tray:
    """The tray for *keys*: what a part holds stands once, however many lamps lie behind it."""
    lines = [
        TrayLine(row, opening.owners, _where(record, opening))
        for opening in record.plan.openings
        if set(keys) & set(opening.units)
        for row in tray_of(record, opening)
    ]
    going_in = [
        (_words(record, key), part)
        for key in keys
        for part in (*moved_over(record, key), *put_in(record, key))
    ]
    return Tray(tuple(lines), tuple(going_in))


def _where(record: Record, opening: Opening) -> str:
    """Where a part is: at one lamp, on one side, or on the whole car."""
    if opening.place.unit:
        return _words(record, opening.units[0])
    return f"{opening.place.side.value} side" if opening.place.side else "whole car"


def _words(record: Record, key: UnitKey) -> str:
    return record.front.named(key).lower()
