"""Steps of the work at the car: what each is about, and how fitting steps and parts become one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cold_arc.core.car.keys import Key, SocketKey, UnitKey
from cold_arc.core.car.lamps import Side
from cold_arc.core.work.composing import Opening
from cold_arc.core.work.fitting import FitStep, cover_checks
from cold_arc.core.work.tick import Tick, TickKind


@dataclass(frozen=True)
class Step:
    """One step: what is ticked for which things once it is done; *opening* for what is opened or
    closed.
    """

    kind: str
    text: str
    ticks: tuple[tuple[Key, Tick], ...]
    units: tuple[UnitKey, ...]
    caution: str = ""
    why: str = ""
    check: str = ""
    opening: Opening | None = None

    @property
    def id(self) -> str:
        """What a form calls it: "open:headlamp-left:3"."""
        key, tick = self.ticks[0]
        return f"{self.kind}:{key}:{tick.name}"

    def is_about(self, key: Key) -> bool:
        """Whether it is ticked for a unit or socket."""
        return any(about == key for about, _ in self.ticks)

    @property
    def puts_battery_on(self) -> bool:
        """Whether the battery is on from then on: once all is closed but what it stands under."""
        closes = self.opening if self.kind == "close" else None
        return self.kind == "live" or (closes is not None and closes.is_battery)

    @property
    def shuts_bonnet(self) -> bool:
        """Whether it closes what the battery stands under."""
        return self.kind == "close" and self.opening is not None and self.opening.is_bonnet

    @property
    def sides(self) -> tuple[Side, ...]:
        """The sides it is about."""
        return tuple(side for side in Side if any(key.side is side for key, _ in self.ticks))


def of_battery(
    kind: str, lamps: Sequence[UnitKey], tick: Tick, text: str, why: str, caution: str = ""
) -> list[Step]:
    """One step for all lamps that must be made "safe", or "live" again; none where there are
    none.
    """
    units = tuple(dict.fromkeys(lamps))
    ticks = tuple((key, tick) for key in units)
    return [Step(kind, text, ticks, units, caution, why)] if units else []


def fitted(kind: str, fit_step: FitStep, sockets: Sequence[SocketKey]) -> Step:
    """A fitting step at some sockets, done for them together."""
    return Step(
        kind,
        fit_step.text,
        tuple((socket, Tick.of(TickKind.FIT, fit_step.id)) for socket in sockets),
        tuple(dict.fromkeys(socket.of_unit for socket in sockets)),
        fit_step.caution,
        fit_step.why,
        fit_step.check,
    )


def opened(opening: Opening) -> Step:
    """A part of the way in opened."""
    step = opening.step
    return Step(
        "open",
        step.text,
        _ticks(opening, TickKind.ROUTE),
        opening.units,
        step.caution,
        opening=opening,
    )


def closed(kind: str, opening: Opening) -> Step:
    """What is opened closed, or plugged in, again; a cover with what is looked at."""
    looked = cover_checks().get(opening.step.cover)
    return Step(
        kind,
        opening.step.closing_words,
        _ticks(opening, TickKind.CLOSE),
        opening.units,
        why=looked.why if looked else "",
        check=looked.check if looked else "",
        opening=opening,
    )


def _ticks(opening: Opening, kind: TickKind) -> tuple[tuple[Key, Tick], ...]:
    return tuple((key, Tick.of(kind, number)) for key, number in opening.ids.items())


def bulb_of(step: Step, among: Sequence[SocketKey]) -> SocketKey | None:
    """The one bulb a step is about, where its lamp has several of those in hand."""
    keys = [key for key, _ in step.ticks if isinstance(key, SocketKey)]
    lamp = [socket for socket in among if socket.of_unit in step.units]
    return keys[0] if len(keys) == 1 and len(lamp) > 1 else None


def lamp_of(step: Step, among: Sequence[SocketKey]) -> UnitKey | None:
    """The one lamp a step is about, where those in hand are in several."""
    several = len({socket.of_unit.name for socket in among}) > 1
    return step.units[0] if several and len(step.units) == 1 else None
