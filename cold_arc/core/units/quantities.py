"""What a field asks for: how it is read, what is plausible, how it is said and written back.
Declared once, used by the form, the live echo and the files."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from cold_arc.core.units import reading, saying
from cold_arc.core.units.figures import NotUnderstoodError, write_figure
from cold_arc.core.units.measures import FOOT_M, MINUS, NBSP, UnitSystem, with_unit
from cold_arc.core.units.reading import Within
from cold_arc.core.units.saying import MOST_DECIMALS

Context = Mapping[str, Any]


@dataclass(frozen=True)
class Quantity:
    """A figure in *unit* ("" for none) from *low* to *high*.

    *needs* names what else must be known to read it: "distance" (m), "range_factor".
    """

    low: float
    high: float
    unit: str = ""
    whole: bool = False
    id: str = ""
    needs: ClassVar[tuple[str, ...]] = ()
    # The keypad a phone should bring up: figures alone where the unit goes without saying.
    keypad: ClassVar[str] = "decimal"

    @property
    def name(self) -> str:
        """What the live echo calls it."""
        made = f"{type(self).__name__}-{self.unit}-{self.low:g}-{self.high:g}".lower()
        return self.id or re.sub(
            r"[^a-z0-9.-]+", "", made.replace("%", "percent").replace("°", "deg")
        )

    @property
    def words(self) -> str:
        """Its bounds in words."""
        if self.whole and self.high - self.low == 1:
            return with_unit(f"{self.low:g} or {self.high:g}", self.unit)
        low, high = (_figure(bound).replace(NBSP, " ") for bound in (self.low, self.high))
        return with_unit(f"between {low} and {high}", self.unit)

    @property
    def within(self) -> Within:
        """Its bounds."""
        return Within(self.low, self.high, self.words)

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """The number typed, in the unit it is kept in; NotUnderstoodError or AmbiguousError, in
        words.
        """
        value = reading.parse_number(text, self.within, self.unit)
        if self.whole and value != int(value):
            raise NotUnderstoodError("Must be a whole number.")
        return value

    def write(self, value: float) -> str:
        """The number as one would type it, in a way that reads back as itself alone."""
        return with_unit(write_figure(round(value, MOST_DECIMALS)), self._unit_for(value))

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """How it was understood."""
        return with_unit(_figure(value), self._unit_for(value), NBSP)

    def _unit_for(self, value: float) -> str:
        """The unit of a figure: one year, two years."""
        return (
            self.unit.removesuffix("s")
            if value == 1 and self.unit in ("years", "turns")
            else self.unit
        )


def _figure(value: float) -> str:
    """A figure whole, parted in thousands only from five digits on: a year is written in one
    piece.
    """
    if abs(value) >= 10_000:
        return saying.say_number(value, 10)
    return write_figure(round(value, MOST_DECIMALS)).replace("-", MINUS)


@dataclass(frozen=True)
class Code(Quantity):
    """The figure of a code such as IP67."""

    keypad: ClassVar[str] = "text"

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """The figure, with or without the letters before it."""
        return reading.parse_code(text, self.within)

    def write(self, value: float) -> str:
        """The code."""
        return f"IP{value:g}"

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """The code."""
        return self.write(value)


@dataclass(frozen=True)
class Distance(Quantity):
    """A length of metres or feet, kept in metres."""

    unit: str = "m"

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """A bare number is metres or feet."""
        return reading.parse_length(text, "ft" if system is UnitSystem.INCH else "m", self.within)

    def write(self, value: float) -> str:
        """Metres to the millimetre."""
        return f"{write_figure(round(value, 3))} m"

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """In both units."""
        return (
            f"{saying.say_number(value, 4)}{NBSP}m, {saying.say_number(value / FOOT_M, 4)}{NBSP}ft"
        )


def bare_offset(system: UnitSystem) -> str:
    """The unit a bare short length on the wall is in."""
    return "in" if system is UnitSystem.INCH else "cm"


@dataclass(frozen=True)
class Offset(Quantity):
    """A short length on the wall along the first of two ways, kept in metres."""

    keypad: ClassVar[str] = "text"

    unit: str = "m"
    ways: tuple[str, str] = ("RIGHT", "LEFT")

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """A bare number is centimetres or inches, the first way."""
        return reading.parse_offset(text, bare_offset(system), self.ways, self.within)

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """The length and its way."""
        way = self.ways[0] if value >= 0 else self.ways[1]
        return f"{saying.say_offset(abs(value), system)} {way.lower()}"


@dataclass(frozen=True)
class Lux(Quantity):
    """A meter's reading, kept in lux. *display*: a bare figure is what the meter shows, before its
    range factor.
    """

    unit: str = "lx"
    display: bool = True
    needs: ClassVar[tuple[str, ...]] = ("range_factor",)

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """Lux, the range factor applied where it belongs."""
        factor = float(context.get("range_factor") or 1)
        return reading.parse_illuminance(text, factor, self.within, self.display)

    def write(self, value: float) -> str:
        """Lux with its factor, so that no range changes it."""
        return f"{write_figure(round(value, MOST_DECIMALS))} lx x1"

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """Lux."""
        return saying.say_lux(value)


@dataclass(frozen=True)
class LuxAlone(Lux):
    """The same where no range is set beside it: a factor stands in the text, or there is none."""

    needs: ClassVar[tuple[str, ...]] = ()
    display: bool = False


@dataclass(frozen=True)
class Slope(Quantity):
    """Where a cut-off stands, kept as rise over run."""

    keypad: ClassVar[str] = "text"

    low: float = -reading.MOST_SLOPE
    high: float = reading.MOST_SLOPE
    needs: ClassVar[tuple[str, ...]] = ("distance",)

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """Below the lamp unless a sign or a word says otherwise."""
        return reading.parse_slope(text, _distance(context), bare_offset(system))

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """In all three languages."""
        return saying.say_slope(value, _distance(context), system)


@dataclass(frozen=True)
class Mark(Slope):
    """The slope a maker marks on a lamp, kept as rise over run: a bare figure is per cent, as marks
    are.
    """

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """Below the lamp unless a sign or a word says otherwise."""
        bare = not text.strip(" \t0123456789.,+-−–")
        return super().read(f"{text.strip()} %" if bare and text.strip() else text, system, context)


@dataclass(frozen=True)
class Sideways(Slope):
    """Where an elbow or hot spot stands sideways, kept as rise over run, right positive."""

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """To the right unless a sign or a word says otherwise."""
        return reading.parse_sideways(text, _distance(context), bare_offset(system))

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """The offset and the slope."""
        side = "right" if value >= 0 else "left"
        offset = saying.say_offset(abs(value) * _distance(context), system)
        return f"{offset} {side} · {saying.say_percent(abs(value), 2)} {side}"


def _distance(context: Context) -> float:
    distance_m = context.get("distance")
    if not distance_m:
        raise NotUnderstoodError("Give the distance first.")
    return float(distance_m)


@dataclass(frozen=True)
class ClockAngle(Quantity):
    """Where a bulb stopped, kept in degrees clockwise from upright."""

    keypad: ClassVar[str] = "text"

    low: float = -180.0
    high: float = 180.0
    unit: str = "°"

    def read(self, text: str, system: UnitSystem, context: Context) -> float:
        """Clockwise unless a sign or a word says otherwise."""
        return reading.parse_clock_angle(text)

    def write(self, value: float) -> str:
        """Degrees and the way round."""
        return f"{write_figure(abs(round(value, MOST_DECIMALS)))} {'cw' if value >= 0 else 'ccw'}"

    def say(self, value: float, system: UnitSystem, context: Context) -> str:
        """In words."""
        return saying.say_clock_angle(value)
