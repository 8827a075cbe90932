"""The front of a car: units (one piece each), the sockets in them, and the beams and signals the
sockets give.

A front is the same on both sides; what is done to one side alone is said by the side of a key. Keys
have a written form for addresses, files and forms: a unit "headlamp-left", a socket of it
"headlamp-1-left", a beam "low-left".
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from cold_arc.core.car.keys import MOST_NUMBER, BeamKey, Key, SocketKey, UnitKey, UnitKind
from cold_arc.core.car.lamps import Function, Holds, Optic, Present, Side

MOST_UNITS, MOST_SOCKETS = 8, 6


@dataclass(frozen=True)
class SocketPlan:
    """A place for one source: what it gives, and where known what makes the pattern and what is in
    it.
    """

    number: int
    functions: tuple[Function, ...]
    optic: Optic | None = None
    present: Present | None = None

    @property
    def is_of_use(self) -> bool:
        """Whether it gives anything, under a number that can be written."""
        return 0 < self.number < MOST_NUMBER and bool(self.functions)

    @property
    def words(self) -> str:
        """What it gives: "Low and high beam", "Turn signal"."""
        if self.functions == (Function.LOW, Function.HIGH):
            return "Low and high beam"
        first, *others = (function.label for function in self.functions)
        return " and ".join([first, *(label.lower() for label in others)])

    @property
    def short(self) -> str:
        """What it gives where there is little room: "Low · High"."""
        return " · ".join(function.short for function in self.functions)


@dataclass(frozen=True)
class UnitPlan:
    """One piece on each side of the car; *name* where its kind alone would not tell it from
    another.
    """

    kind: UnitKind
    sockets: tuple[SocketPlan, ...]
    number: int = 1
    name: str = ""

    @property
    def id(self) -> str:
        """Its written name: "headlamp", "headlamp2"."""
        return f"{self.kind.value}{self.number if self.number > 1 else ''}"

    @property
    def is_numbered(self) -> bool:
        """Whether its number can be written."""
        return 0 < self.number < MOST_NUMBER

    @property
    def words(self) -> str:
        """Its name as shown."""
        return self.name or self.kind.label


@dataclass(frozen=True)
class Front:
    """Everything that shines ahead. Units and sockets keep their numbers when others come and
    go.
    """

    units: tuple[UnitPlan, ...] = ()

    def __post_init__(self) -> None:
        """Refuses what no front can be: nothing in a unit, a name twice, more than any car
        carries.
        """
        if len(self.units) > MOST_UNITS:
            raise ValueError(f"More than {MOST_UNITS} units a side.")
        if len(self._plans) != len(self.units) + sum(len(unit.sockets) for unit in self.units):
            raise ValueError("A unit or socket stands twice.")
        for unit in self.units:
            if not unit.sockets or len(unit.sockets) > MOST_SOCKETS:
                raise ValueError(f"{unit.words}: 1 to {MOST_SOCKETS} sockets.")
            if not unit.is_numbered or not all(socket.is_of_use for socket in unit.sockets):
                raise ValueError(f"{unit.words}: a socket that gives nothing.")

    @cached_property
    def _plans(self) -> dict[str, UnitPlan | SocketPlan]:
        """Every unit and socket by its written name."""
        units: dict[str, UnitPlan | SocketPlan] = {unit.id: unit for unit in self.units}
        return units | {
            f"{unit.id}-{socket.number}": socket for unit in self.units for socket in unit.sockets
        }

    def sockets(self) -> tuple[SocketKey, ...]:
        """Every socket, left then right, in the order of the units."""
        return self._sockets

    @cached_property
    def _sockets(self) -> tuple[SocketKey, ...]:
        return tuple(
            SocketKey(unit.id, socket.number, side)
            for unit in self.units
            for socket in unit.sockets
            for side in Side
        )

    def has(self, key: Key) -> bool:
        """Whether there is such a unit, socket or beam."""
        return bool(self.givers(key)) if isinstance(key, BeamKey) else key.name in self._plans

    def unit(self, key: UnitKey | SocketKey) -> UnitPlan:
        """The plan of a unit, or of the unit a socket is in; KeyError for another car's."""
        plan = self._plans[key.unit]
        assert isinstance(plan, UnitPlan)
        return plan

    def socket(self, key: SocketKey) -> SocketPlan:
        """The plan of a socket; KeyError for another car's."""
        plan = self._plans[key.name]
        assert isinstance(plan, SocketPlan)
        return plan

    def givers(self, beam: BeamKey) -> tuple[SocketKey, ...]:
        """The sockets that give a beam; twin high beams have two."""
        return self._givers.get(beam, ())

    @cached_property
    def _givers(self) -> dict[BeamKey, tuple[SocketKey, ...]]:
        givers: dict[BeamKey, tuple[SocketKey, ...]] = {}
        for key in self.sockets():
            for function in dict.fromkeys(self.socket(key).functions):
                beam = BeamKey(function, key.side)
                givers[beam] = (*givers.get(beam, ()), key)
        return givers

    def beams_of(self, socket: SocketKey) -> list[BeamKey]:
        """What a socket gives."""
        return [BeamKey(function, socket.side) for function in self.socket(socket).functions]

    def named(self, key: Key) -> str:
        """What a key is called, with its side: "Low beam left"."""
        return f"{self.words(key)} {key.side.value}"

    def words(self, key: Key) -> str:
        """What a key is called, without its side: "Low beam", "Headlamp", "Low and high beam
        bulb".
        """
        if isinstance(key, BeamKey):
            return key.function.label
        if isinstance(key, UnitKey):
            return self.unit(key).words
        mine = self.socket(key)
        twins = (
            sum(
                socket.functions == mine.functions for unit in self.units for socket in unit.sockets
            )
            > 1
        )
        where = f", {self.unit(key).words.lower()}" if twins else ""
        return f"{mine.words} {self._noun(key)}{where}"

    def _noun(self, key: SocketKey) -> str:
        """What a socket's source is called before it is looked at."""
        whole = self.socket(key).optic is Optic.SEALED
        return "lamp" if whole or self.unit(key).kind is UnitKind.DAYTIME else "bulb"


# What a source is called that is no bulb.
_NOUNS = {Holds.MODULE: "module", Holds.LAMP: "lamp", Holds.NOTHING: "lamp"}


@dataclass(frozen=True)
class HungFront(Front):
    """A front, and what *hangs* in the sockets that hold no bulb, by their written names."""

    hangs: tuple[tuple[str, Holds], ...] = ()

    def _noun(self, key: SocketKey) -> str:
        usual = super()._noun(key)
        held = dict(self.hangs).get(str(key))
        return _NOUNS[held] if held in _NOUNS and usual == "bulb" else usual


@dataclass(frozen=True)
class Socket:
    """What is known of one socket; facts not identified yet are None. What holds no bulb has no
    base: *plug*, *wires* (their colours), *fasteners* and *outline* say how it hangs.
    """

    key: SocketKey
    functions: tuple[Function, ...]
    optic: Optic | None = None
    base: str | None = None
    present: Present | None = None
    holds: Holds = Holds.BULB
    plug: str = ""
    wires: str = ""
    fasteners: str = ""
    outline: str = ""

    @property
    def holds_bulb(self) -> bool:
        """Whether a bulb hangs in it, of which a base is asked."""
        return self.holds is Holds.BULB

    @property
    def has_led_bulb(self) -> bool:
        """Whether the bulb that hangs in it is an LED's."""
        return self.holds_bulb and self.present is Present.LED

    @property
    def words(self) -> str:
        """What is in it, as far as told: "H7 Halogen", "Module LED", "Nothing yet"."""
        if self.holds is Holds.NOTHING:
            return self.holds.label
        held = (self.base or "") if self.holds_bulb else self.holds.words.capitalize()
        return f"{held} {self.present.label if self.present else ''}".strip()

    def gives(self, function: Function) -> bool:
        """Whether *function* is among what it gives."""
        return function in self.functions

    @property
    def road_beams(self) -> tuple[Function, ...]:
        """The beams it gives that are read and aimed on the wall."""
        return tuple(function for function in self.functions if function.is_road_beam)
