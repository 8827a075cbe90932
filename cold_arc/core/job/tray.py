"""The tray: what came loose and where it is, and what is moved over from an old part to a new."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.job.at_lamp import fit_steps, sockets_of
from cold_arc.core.job.entries.fit import FastenerBack
from cold_arc.core.job.facts import wired
from cold_arc.core.job.record import Record
from cold_arc.core.work.access import Fasteners
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.tick import Tick, TickKind


@dataclass(frozen=True)
class TrayRow:
    """Fasteners or a plug of one step: out of the car, back in, or noted as lost or broken; *units*
    behind it.
    """

    step: int
    fasteners: Fasteners
    out: bool
    said: FastenerBack
    units: tuple[UnitKey, ...]

    @property
    def count(self) -> int:
        """How many there are: as counted in hand, or the most there may be."""
        return self.said.counted or self.fasteners.most or self.fasteners.count

    @property
    def uncounted(self) -> bool:
        """Whether only a range is known of those that are out."""
        return self.out and self.fasteners.most is not None and not self.said.counted

    @property
    def number(self) -> str:
        """How many, in words: the range while nobody counted them."""
        return str(self.said.counted) if self.said.counted else self.fasteners.number

    @property
    def back(self) -> int:
        """How many are back in the car."""
        return self.said.back

    @property
    def noted(self) -> int:
        """How many are noted as lost or broken."""
        return self.said.noted

    @property
    def loose(self) -> int:
        """How many lie in the tray, unaccounted for."""
        return self.count - self.back - self.noted if self.out else 0

    @property
    def words(self) -> str:
        """What is missing, in words."""
        what = f"{self.fasteners.kind}, {self.fasteners.place}"
        if self.uncounted:
            return f"{self.number} {what}: not counted"
        return f"{self.loose} {what}: not back"


def tray(record: Record, key: UnitKey) -> list[TrayRow]:
    """Every group of fasteners and every plug on the way in to one unit."""
    return [
        row
        for opening in record.plan.openings
        if key in opening.units
        for row in tray_of(record, opening)
    ]


def tray_of(record: Record, opening: Opening) -> list[TrayRow]:
    """What comes loose where a part is opened: out once its step is ticked for a lamp behind it.

    What was counted back before the part was last opened counts no more.
    """
    opened_at = max(
        record.tick_ids[key].get(Tick.of(TickKind.ROUTE, number), 0)
        for key, number in opening.ids.items()
    )
    counts = _counted_since(record, opening, opened_at)
    return [
        TrayRow(
            opening.step.id,
            group,
            bool(opened_at),
            counts.get((group.kind, group.place))
            or counts.get((group.kind, ""))
            or FastenerBack(opening.step.id, group.kind, 0, place=group.place),
            opening.units,
        )
        for group in opening.step.held
    ]


def _counted_since(
    record: Record, opening: Opening, since: int
) -> dict[tuple[str, str], FastenerBack]:
    """What was said last of each group of a part's fasteners since it was opened."""
    return {
        (count.kind, count.place): count
        for entry in record.entries
        if isinstance(count := entry.payload, FastenerBack)
        and entry.id > since
        and any(key in entry.about and count.step == of for key, of in opening.ids.items())
    }


@dataclass(frozen=True)
class ToGoIn:
    """What lies ready and goes into a lamp, and whether it has: moved over from the old one, or a
    *new* part of its wiring.
    """

    what: str
    done: bool
    new: bool = False

    @property
    def state(self) -> str:
        """How it stands, in words."""
        if self.new:
            return "put in" if self.done else "new, to put in"
        return "moved over" if self.done else "on the old lamp, to move over"


def moved_over(record: Record, unit: UnitKey) -> list[ToGoIn]:
    """What is moved over at one unit: each once, however many sockets it has."""
    seen: dict[str, ToGoIn] = {}
    for key in sockets_of(record, unit):
        for step in fit_steps(record, key):
            done = Tick.of(TickKind.FIT, step.id) in record.ticks(key)
            for what in step.moves:
                seen.setdefault(what, ToGoIn(what, done))
    return list(seen.values())


def put_in(record: Record, unit: UnitKey) -> list[ToGoIn]:
    """What is put in along the wiring at one unit."""
    return [
        ToGoIn(part.words, Tick.of(TickKind.FIT, part.id) in record.ticks(key), new=True)
        for key in sockets_of(record, unit)
        for part in wired(record, key)
    ]
