"""Tray: fasteners by kind and place, out of the car and back in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.lamps import LampKey
from cold_arc.core.record import Record, Routed
from cold_arc.core.stages import TrayRow, tray


@dataclass(frozen=True)
class TrayLine:
    """One group of fasteners of one lamp; *lamps* holds both when the step is shared."""

    row: TrayRow
    lamps: tuple[LampKey, ...]
    side: str


@dataclass(frozen=True)
class Tray:
    """All groups for the lamps in scope."""

    lines: tuple[TrayLine, ...]

    @property
    def loose(self) -> int:
        """Fasteners lying in the tray."""
        return sum(line.row.loose for line in self.lines)


def build_tray(record: Record, keys: Sequence[LampKey]) -> Tray:
    """The tray for *keys*; a shared step's fasteners stand once for the pair."""
    lines: dict[tuple[object, ...], TrayLine] = {}
    for key in keys:
        route = record.latest(Routed, key)
        shared = {step.id for step in route.steps if step.shared} if route else set()
        for row in tray(record, key):
            common = row.step in shared
            where = (row.step, row.fasteners, key.function, None if common else key.side)
            both = (*lines[where].lamps, key) if where in lines else (key,)
            lines[where] = TrayLine(row, both, "shared" if common else f"{key.function.value} {key.side.value}")
    return Tray(tuple(lines.values()))
