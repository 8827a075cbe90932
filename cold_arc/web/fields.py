"""Form fields that take numbers as people write them; what was typed stays in the field."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from flask import g
from wtforms import Field, RadioField, SelectField, SelectMultipleField, StringField
from wtforms.fields.choices import SelectChoice
from wtforms.validators import AnyOf, Optional, StopValidation, ValidationError
from wtforms.widgets import CheckboxInput, ListWidget

from cold_arc.core import units
from cold_arc.core.units import UnitSystem

Parse = Callable[[str], Any]


def unit_system() -> UnitSystem:
    """The unit system of this request, as chosen in the top bar."""
    system: UnitSystem = g.system
    return system


class TypedField(StringField):
    """A text field whose data is what *parse* makes of the text; *say* writes a value back as text."""

    data: Any

    def __init__(self, label: str, parse: Parse, say: Callable[[Any], str], **kwargs: Any) -> None:
        super().__init__(label, **kwargs)
        self.parse, self.say = parse, say

    def process_formdata(self, valuelist: list[str]) -> None:
        """Parses the typed text; a blank is None."""
        self.data = None
        if valuelist and valuelist[0].strip():
            self.data = self.parse(valuelist[0])

    def _value(self) -> str:
        if self.raw_data:
            return str(self.raw_data[0])
        return "" if self.data is None else self.say(self.data)


class Bounds:
    """Rejects a value outside low to high, naming the bounds in words."""

    def __init__(self, low: float, high: float, words: str) -> None:
        self.low, self.high, self.words = low, high, words

    def __call__(self, form: Any, field: Field) -> None:
        if field.data is not None and not self.low <= field.data <= self.high:
            raise ValidationError(f"Must be {self.words}.")


class Needed:
    """Rejects a blank, and checks nothing further then."""

    field_flags = {"required": True}  # noqa: RUF012

    def __init__(self, message: str) -> None:
        self.message = message

    def __call__(self, form: Any, field: Field) -> None:
        if not any(str(text).strip() for text in field.raw_data or ()):
            field.errors = []
            raise StopValidation(self.message)


def needed(message: str = "This is needed.") -> Needed:
    """The field must be filled, not with spaces alone."""
    return Needed(message)


Words = Mapping[str, str]


def choices(words: Words) -> list[SelectChoice]:
    """Choices from value to words."""
    return [SelectChoice(value, label) for value, label in words.items()]


def one_of(label: str, words: Words, default: str | None = None, required: str = "") -> RadioField:
    """One choice of a few, all in sight; *required* is what to say when none is made."""
    checks = [needed(required)] if required else []
    return RadioField(label, checks, choices=choices(words), default=default)


def one_of_or_none(label: str, words: Words) -> RadioField:
    """One choice of a few, or none made."""
    checks = [Optional(), AnyOf(list(words), "Not a valid choice.")]
    return RadioField(label, checks, choices=choices(words), validate_choice=False)


def listed(label: str, words: Words) -> SelectField:
    """One choice of many, from a list."""
    return SelectField(label, choices=choices(words))


class Checkboxes(SelectMultipleField):
    """Several choices as checkboxes."""

    widget = ListWidget(prefix_label=False)
    option_widget = CheckboxInput()


def several(label: str, words: Words) -> Checkboxes:
    """Any number of choices."""
    return Checkboxes(label, choices=choices(words))


def _validators(required: bool, *more: Any) -> list[Any]:
    return [needed() if required else Optional(), *more]


def plain(value: float) -> str:
    """A number as one would type it back."""
    return f"{value:g}"


def number(label: str, low: float, high: float, words: str, required: bool = True, **kw: Any) -> TypedField:
    """A plain number between bounds."""
    checks = _validators(required, Bounds(low, high, words))
    return TypedField(label, units.parse_number, plain, validators=checks, **kw)


def _bare_distance() -> str:
    return "ft" if unit_system() is UnitSystem.INCH else "m"


def bare_offset() -> str:
    """The unit a bare short length on the wall is in."""
    return "in" if unit_system() is UnitSystem.INCH else "cm"


def parse_distance(text: str) -> float:
    """Metres; a bare number is metres or feet."""
    return units.parse_length(text, _bare_distance())


def say_distance_typed(metres: float) -> str:
    """A distance as one would type it."""
    return f"{plain(round(metres, 3))} m"


def distance(label: str, low: float, high: float, words: str, required: bool = True, **kw: Any) -> TypedField:
    """A length of metres or feet."""
    checks = _validators(required, Bounds(low, high, words))
    return TypedField(label, parse_distance, say_distance_typed, validators=checks, **kw)


def millimetres(label: str, low: float, high: float, words: str, required: bool = False) -> TypedField:
    """A length kept in millimetres; a bare number is millimetres."""

    def parse(text: str) -> float:
        return round(units.parse_length(text, "mm") * 1000, 3)

    checks = _validators(required, Bounds(low, high, words))
    return TypedField(label, parse, lambda mm: f"{plain(mm)} mm", validators=checks)


def offset(label: str, required: bool = False) -> TypedField:
    """A short length on the wall, metres inside."""

    def parse(text: str) -> float:
        return units.parse_length(text, bare_offset())

    checks = _validators(required, Bounds(-20, 20, "within 20 m"))
    return TypedField(label, parse, lambda m: f"{plain(round(m * 100, 2))} cm", validators=checks)


def volts(label: str, required: bool = True, **kw: Any) -> TypedField:
    """A supply voltage."""
    checks = _validators(required, Bounds(3, 32, "between 3 and 32 V"))
    return TypedField(label, units.parse_volts, lambda v: f"{plain(v)} V", validators=checks, **kw)


def lux(label: str, required: bool = False, **kw: Any) -> TypedField:
    """An illuminance."""
    checks = _validators(required, Bounds(0, 200_000, "no more than 200 000 lx"))
    return TypedField(label, units.parse_illuminance, lambda lx: f"{plain(lx)} lx", validators=checks, **kw)
