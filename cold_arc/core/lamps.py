"""The words for what hangs on the front of a car: functions, sides, housings, lamps."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Side(StrEnum):
    """A side of the car, always as seen from the driver's seat."""

    LEFT = "left"
    RIGHT = "right"


class Function(StrEnum):
    """What one light unit does."""

    LOW = "low"
    HIGH = "high"
    FOG = "fog"
    DRL = "drl"
    TURN = "turn"
    POSITION = "position"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return _FUNCTION_LABELS[self]

    @property
    def is_road_beam(self) -> bool:
        """Whether the lamp throws a beam that is measured and aimed on the wall."""
        return self in {Function.LOW, Function.HIGH, Function.FOG}


_FUNCTION_LABELS = {
    Function.LOW: "Low beam",
    Function.HIGH: "High beam",
    Function.FOG: "Front fog",
    Function.DRL: "Daytime running",
    Function.TURN: "Turn signal",
    Function.POSITION: "Position",
}


class Housing(StrEnum):
    """What makes the pattern."""

    REFLECTOR = "reflector"
    PROJECTOR = "projector"
    LENS_OPTIC = "lens-optic"
    ASSEMBLY = "assembly"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return _HOUSING_LABELS[self]


_HOUSING_LABELS = {
    Housing.REFLECTOR: "Reflector",
    Housing.PROJECTOR: "Projector",
    Housing.LENS_OPTIC: "Lens-optic",
    Housing.ASSEMBLY: "Sealed or assembly",
}


class Present(StrEnum):
    """The light source found in the lamp."""

    HALOGEN = "halogen"
    HID = "hid"
    LED = "led"
    FILAMENT = "filament"

    @property
    def label(self) -> str:
        """The name shown to people."""
        return {"halogen": "Halogen", "hid": "HID", "led": "LED", "filament": "Plain filament"}[self]

    @property
    def follows_supply(self) -> bool:
        """Whether its light follows the supply voltage (a filament's does; drivers and ballasts regulate)."""
        return self in {Present.HALOGEN, Present.FILAMENT}


class Drive(StrEnum):
    """The side the steering wheel is on."""

    LEFT = "left"
    RIGHT = "right"


@dataclass(frozen=True, order=True)
class LampKey:
    """One lamp of a car: function × side. Written "low-left"."""

    function: Function
    side: Side

    def __str__(self) -> str:
        return f"{self.function.value}-{self.side.value}"

    @classmethod
    def parse(cls, text: str) -> LampKey:
        """The key from its written form; raises ValueError for anything else."""
        function, _, side = text.partition("-")
        return cls(Function(function), Side(side))

    @property
    def other_side(self) -> LampKey:
        """Its partner across the car."""
        return LampKey(self.function, Side.RIGHT if self.side is Side.LEFT else Side.LEFT)


ALL_LAMPS = tuple(LampKey(function, side) for function in Function for side in Side)


def side_words(side: Side, drive: Drive) -> str:
    """Both words for a side, since people mix them up: "Left · driver".

    >>> side_words(Side.LEFT, Drive.RIGHT)
    'Left · passenger'
    """
    return f"{side.value.capitalize()} · {'driver' if side.value == drive.value else 'passenger'}"


@dataclass(frozen=True)
class Lamp:
    """What is known of one lamp; unknown facts are None until identified."""

    key: LampKey
    housing: Housing | None = None
    base: str | None = None
    present: Present | None = None
