"""What is ticked at the car: a step's kind and its name, written "fit:seat" where it is kept."""

from __future__ import annotations

from enum import StrEnum


class TickKind(StrEnum):
    """What a ticked step did: a part of the way in opened or closed, a step at the lamp, extra
    work, a lamp made safe, tools counted, a lamp proved.
    """

    ROUTE = "route"
    CLOSE = "close"
    FIT = "fit"
    EXTRA = "extra"
    SAFE = "safe"
    TOOLS = "tools"
    PROVE = "prove"


_KINDS = {kind.value: kind for kind in TickKind}


class Tick(str):
    """A ticked step as it is written. Steps' ids never change their meaning.

    >>> Tick("close:3").part, Tick("fit:seat").part, Tick.of(TickKind.FIT, "seat")
    (3, None, 'fit:seat')
    """

    @classmethod
    def of(cls, kind: TickKind, name: object) -> Tick:
        """The tick of a kind and a name."""
        return cls(f"{kind}:{name}")

    @property
    def kind(self) -> TickKind | None:
        """What it did; None for one that is not known any more."""
        return _KINDS.get(self.partition(":")[0])

    @property
    def name(self) -> str:
        """The step's id among those of its kind."""
        return self.partition(":")[2]

    @property
    def part(self) -> int | None:
        """The part of the way in that it opened or closed, by its id; None for another tick."""
        is_part = self.kind in (TickKind.ROUTE, TickKind.CLOSE) and self.name.isdigit()
        return int(self.name) if is_part else None


TOOLS_OUT = Tick.of(TickKind.TOOLS, "out")
TOOLS_BACK = Tick.of(TickKind.TOOLS, "back")
MADE_SAFE = Tick.of(TickKind.SAFE, "off")
SAFE_ONCE_MORE = Tick.of(TickKind.SAFE, "again")
MADE_LIVE = Tick.of(TickKind.SAFE, "on")
PROVED_OPEN = Tick.of(TickKind.PROVE, "open")
