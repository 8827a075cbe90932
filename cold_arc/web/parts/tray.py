"""Tray: fasteners by kind and place, out of the car and back in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.car.front import UnitKey
from cold_arc.core.job.record import Record
from cold_arc.core.job.wants import TrayRow, tray


@dataclass(frozen=True)
class TrayLine:
    """One group of fasteners of one unit; *units* holds both when the step is shared."""

    row: TrayRow
    units: tuple[UnitKey, ...]
    side: str
    is_shared: bool

    @property
    def id(self) -> str:
        """What a form calls it, wherever it stands in the list."""
        return f"{self.row.step}/{self.row.fasteners.kind}/{self.row.fasteners.place}/{self.units[0]}/{self.is_shared}"

    @property
    def state(self) -> str:
        """How it stood when a form was made from it."""
        return f"{self.row.back}+{self.row.noted} of {self.row.fasteners.count}"


@dataclass(frozen=True)
class Tray:
    """All groups for the units in scope."""

    lines: tuple[TrayLine, ...]

    @property
    def loose(self) -> int:
        """Fasteners lying in the tray."""
        return sum(line.row.loose for line in self.lines)


def build_tray(record: Record, keys: Sequence[UnitKey]) -> Tray:
    """The tray for *keys*; a shared step's fasteners stand once for the pair."""
    lines: dict[tuple[object, ...], TrayLine] = {}
    for key in keys:
        route = record.route(key)
        shared = {step.id for step in route.steps if step.shared} if route else set()
        for row in tray(record, key):
            common = row.step in shared
            where = (row.step, row.fasteners, key.unit, None if common else key.side)
            both = (*lines[where].units, key) if where in lines else (key,)
            side = "shared" if common else f"{record.front.words(key).lower()} {key.side.value}"
            lines[where] = TrayLine(row, both, side, common)
    return Tray(tuple(lines.values()))
