"""The words for what hangs on the front of a car: functions, sides, optics, what is in a socket."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class Side(StrEnum):
    """A side of the car, always as seen from the driver's seat."""

    LEFT = "left"
    RIGHT = "right"

    @property
    def other(self) -> Side:
        """The side across the car."""
        return Side.RIGHT if self is Side.LEFT else Side.LEFT


class Traffic(StrEnum):
    """The side of the road that traffic keeps to."""

    RIGHT = "right"
    LEFT = "left"

    @property
    def other(self) -> Traffic:
        """The other side's traffic."""
        return Traffic.LEFT if self is Traffic.RIGHT else Traffic.RIGHT

    @property
    def kerb(self) -> float:
        """Where its kerb lies: 1 to the right, −1 to the left."""
        return 1.0 if self is Traffic.RIGHT else -1.0


class Function(StrEnum):
    """What a lamp does: a beam for the road, or a signal."""

    LOW = "low"
    HIGH = "high"
    FOG = "fog"
    DRL = "drl"
    TURN = "turn"
    POSITION = "position"
    MARKER = "marker"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return _FUNCTION_LABELS[self]

    @property
    def short(self) -> str:
        """The name where there is little room."""
        return _FUNCTION_SHORT[self]

    @property
    def is_road_beam(self) -> bool:
        """Whether it is a beam that is measured and aimed on the wall."""
        return self in {Function.LOW, Function.HIGH, Function.FOG}


_FUNCTION_LABELS = {
    Function.LOW: "Low beam",
    Function.HIGH: "High beam",
    Function.FOG: "Front fog",
    Function.DRL: "Daytime running",
    Function.TURN: "Turn signal",
    Function.POSITION: "Position",
    Function.MARKER: "Side marker",
}
_FUNCTION_SHORT = {
    Function.LOW: "Low",
    Function.HIGH: "High",
    Function.FOG: "Fog",
    Function.DRL: "DRL",
    Function.TURN: "Turn",
    Function.POSITION: "Pos",
    Function.MARKER: "Mark",
}


class Optic(StrEnum):
    """What makes the pattern of what stands in a socket."""

    REFLECTOR = "reflector"
    PROJECTOR = "projector"
    BI_PROJECTOR = "bi-projector"
    LENS_OPTIC = "lens-optic"
    PLAIN = "plain"
    SEALED = "sealed"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return OPTICS[self].label

    @property
    def is_projector(self) -> bool:
        """Whether a shield in front of a lens makes the cut-off."""
        return OPTICS[self].is_projector

    def housing(self, function: Function, market: str) -> str | None:
        """The modelled kind of housing (an id of ``core.beam.housings``) that gives a function in a
        market; None for one piece with its source, and for one that makes no beam.
        """
        facts = OPTICS[self]
        if function is Function.FOG:
            return facts.fog
        return facts.in_market.get(market, facts.housing)


@dataclass(frozen=True)
class OpticFacts:
    """What an optic is called, and the modelled kind of housing it is: usually, for fog, and in a
    *market* whose lamps differ.
    """

    label: str
    housing: str | None = None
    fog: str | None = None
    in_market: Mapping[str, str] = field(default_factory=dict)
    is_projector: bool = False


# Every optic a socket may have. A new one: its member above and its row here.
OPTICS = {
    Optic.REFLECTOR: OpticFacts(
        "Reflector", "reflector", "fog-reflector", in_market={"us": "vol-reflector"}
    ),
    Optic.PROJECTOR: OpticFacts("Projector", "projector", "fog-projector", is_projector=True),
    Optic.BI_PROJECTOR: OpticFacts(
        "Bi-function projector", "projector", "fog-projector", is_projector=True
    ),
    Optic.LENS_OPTIC: OpticFacts("Lens-optic", "lens-optic", "lens-optic"),
    Optic.PLAIN: OpticFacts("Plain, no beam"),
    Optic.SEALED: OpticFacts("Sealed or assembly"),
}


class Present(StrEnum):
    """The light source found in a socket."""

    HALOGEN = "halogen"
    HID = "hid"
    LED = "led"
    FILAMENT = "filament"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return {"halogen": "Halogen", "hid": "HID", "led": "LED", "filament": "Plain filament"}[
            self
        ]

    @property
    def follows_supply(self) -> bool:
        """Whether its light follows the supply voltage (a filament's does; drivers and ballasts
        regulate).
        """
        return self in {Present.HALOGEN, Present.FILAMENT}


class Holds(StrEnum):
    """What hangs in a socket: a bulb with its base, or what has none."""

    BULB = "bulb"
    MODULE = "module"
    LAMP = "lamp"
    NOTHING = "nothing"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return _HOLDS_LABELS[self]

    @property
    def words(self) -> str:
        """What it is called in a sentence."""
        return _HOLDS_WORDS[self]


_HOLDS_LABELS = {
    Holds.BULB: "A bulb",
    Holds.MODULE: "A ring, strip or module",
    Holds.LAMP: "The whole lamp, no bulb",
    Holds.NOTHING: "Nothing yet",
}
_HOLDS_WORDS = {
    Holds.BULB: "bulb",
    Holds.MODULE: "module",
    Holds.LAMP: "whole lamp",
    Holds.NOTHING: "nothing yet",
}


class Drive(StrEnum):
    """The side the steering wheel is on."""

    LEFT = "left"
    RIGHT = "right"


def side_words(side: Side, drive: Drive) -> str:
    """Both words for a side, since people mix them up: "Left · driver".

    >>> side_words(Side.LEFT, Drive.RIGHT)
    'Left · passenger'
    """
    return f"{side.value.capitalize()} · {'driver' if side.value == drive.value else 'passenger'}"
