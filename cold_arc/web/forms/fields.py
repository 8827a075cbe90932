"""Form fields that take numbers as people write them; what was typed stays in the field."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, TypeVar

from flask import g, url_for
from wtforms import Field, Form, RadioField, SelectField, SelectMultipleField, StringField
from wtforms.fields.choices import SelectChoice
from wtforms.validators import AnyOf, Optional, StopValidation, ValidationError
from wtforms.widgets import CheckboxInput, ListWidget

from cold_arc.core.metering import readings
from cold_arc.core.units import Meaning, NotUnderstoodError, UnitSystem
from cold_arc.core.units.quantities import (
    ClockAngle,
    Distance,
    Lux,
    Offset,
    Quantity,
    Sideways,
    Slope,
)

# What a form is checked with besides its own validators, by field.
ExtraValidators = Mapping[str, Sequence[Callable[..., object]]] | None

WALL_DISTANCE = Distance(0.5, 60, id="distance")
READING = Lux(0, 200_000, id="reading")
WARM_READING = Lux(0.01, 200_000, id="warm-reading")
AMBIENT = Lux(0, 200_000, display=False, id="ambient")
ACROSS = Offset(-5, 5, id="across")
DOWN = Offset(-5, 5, ways=("DOWN", "UP"), id="drop")
SUPPLY = Quantity(3, 32, "V")

# Every quantity a form asks for, by the name the live echo calls it.
QUANTITIES: dict[str, Quantity] = {
    quantity.name: quantity
    for quantity in (WALL_DISTANCE, READING, WARM_READING, AMBIENT, ACROSS, DOWN, SUPPLY)
}


def unit_system() -> UnitSystem:
    """The unit system of this request, as chosen in the top bar."""
    system: UnitSystem = g.system
    return system


class TypedField(StringField):
    """A text field for a quantity: its data is the number, once validated; None before, or where it
    was refused.

    What the quantity needs is read off the fields of those names beside it. *meanings*: the
    readings to choose from where the text has several.
    """

    data: Any
    meanings: tuple[Meaning, ...] = ()

    def __new__(cls, *args: Any, **kw: Any) -> Any:
        """Makes the quantity known to the live echo as soon as a form declares it."""
        quantity = kw.get("quantity") or args[1]
        QUANTITIES.setdefault(quantity.name, quantity)
        return super().__new__(cls, *args, **kw)

    def __init__(
        self, label: str, quantity: Quantity, required: bool | str = True, **kw: object
    ) -> None:
        missing = (
            [needed(required) if isinstance(required, str) else needed()]
            if required
            else [Optional()]
        )
        super().__init__(label, missing, **kw)
        self.quantity = QUANTITIES[quantity.name]

    def process_formdata(self, valuelist: list[str]) -> None:
        """Nothing is understood before the fields beside it are."""
        self.data = None

    def pre_validate(self, form: Form) -> None:
        """Reads what was typed; a blank is None."""
        self.data, self.meanings = None, ()
        if self.is_blank:
            return
        try:
            self.data = self.quantity.read(
                str(self.raw_data[0]), unit_system(), self._context(form)
            )
        except NotUnderstoodError as error:
            self.meanings = error.meanings
            raise StopValidation(str(error)) from error

    @property
    def is_blank(self) -> bool:
        """Whether nothing was typed."""
        return not (self.raw_data and str(self.raw_data[0]).strip())

    def _context(self, form: Form) -> dict[str, object]:
        beside = {name: form[name].data for name in self.quantity.needs if name in form}
        if beside.get("range_factor") not in RANGE_FACTORS:
            beside["range_factor"] = "1"
        return beside

    @property
    def typed(self) -> str:
        """What stands in the field."""
        if self.raw_data:
            return str(self.raw_data[0])
        return "" if self.data is None else self.quantity.write(self.data)

    def _value(self) -> str:
        return self.typed

    @property
    def echo(self) -> str:
        """How a value put there by us is understood; "" where it takes more than itself to say."""
        if self.raw_data or self.data is None or self.quantity.needs:
            return ""
        return self.quantity.say(self.data, unit_system(), {})


class Needed:
    """Rejects a blank, and checks nothing further then."""

    field_flags = {"required": True}  # noqa: RUF012

    def __init__(self, message: str) -> None:
        self.message = message

    def __call__(self, form: Form, field: Field) -> None:
        if not any(str(text).strip() for text in field.raw_data or ()):
            field.errors = []
            raise StopValidation(self.message)


def needed(message: str = "This is needed.") -> Needed:
    """The field must be filled, not with spaces alone."""
    return Needed(message)


class AskedByForm:
    """Marks a field that is not optional, though the form itself judges where it may stay blank."""

    field_flags = {"required": True}  # noqa: RUF012

    def __call__(self, form: Form, field: Field) -> None:
        """Refuses nothing."""


Words = Mapping[str, str]


def choices(words: Words) -> list[SelectChoice]:
    """Choices from value to words."""
    return [SelectChoice(value, label) for value, label in words.items()]


def one_of(
    label: str,
    words: Words,
    default: str | None = None,
    required: str = "",
    id: str | None = None,
) -> RadioField:
    """One choice of a few, all in sight; *required* is what to say when none is made; *id*: what a
    page calls it that has another of its name.
    """
    checks = [needed(required)] if required else []
    return RadioField(label, checks, choices=choices(words), default=default, id=id)


def one_of_or_none(label: str, words: Words) -> RadioField:
    """One choice of a few, or none made."""
    checks = [Optional(), AnyOf(list(words), "Not a valid choice.")]
    return RadioField(label, checks, choices=choices(words), validate_choice=False)


def one_of_by_form(label: str, words: Words) -> RadioField:
    """One choice of a few, or none made, as the form itself judges by ``must_choose``."""
    return RadioField(label, choices=choices(words), validate_choice=False)


def must_choose(field: RadioField, *, wanted: bool) -> None:
    """Refuses a choice that is none of those offered, and none made where one is *wanted*."""
    offered = {choice.value for choice in field.choices}
    if field.data and field.data not in offered:
        raise ValidationError("Not a valid choice.")
    if wanted and not field.data:
        raise ValidationError("This is needed.")


Sent = TypeVar("Sent", bound=Form)


def as_sent(form: type[Sent], sent: bool, known: Mapping[str, object] | None) -> Sent:
    """One of a page's several forms: as it was *sent*, else as what is *known* has it."""
    return form(data=known) if sent else form(formdata=None, data=known)


def listed(label: str, words: Words, default: str | None = None) -> SelectField:
    """One choice of many, from a list."""
    return SelectField(label, choices=choices(words), default=default)


class Checkboxes(SelectMultipleField):
    """Several choices as checkboxes."""

    widget = ListWidget(prefix_label=False)
    option_widget = CheckboxInput()


def several(label: str, words: Words) -> Checkboxes:
    """Any number of choices."""
    return Checkboxes(label, choices=choices(words))


def number(
    label: str,
    low: float,
    high: float,
    unit: str = "",
    required: bool = True,
    whole: bool = False,
    **kw: object,
) -> TypedField:
    """A plain number between bounds, in *unit* ("mm" takes any length)."""
    return TypedField(label, Quantity(low, high, unit, whole), required, **kw)


def distance(
    label: str, low: float, high: float, required: bool = True, **kw: object
) -> TypedField:
    """A length of metres or feet."""
    return TypedField(label, Distance(low, high), required, **kw)


def millimetres(label: str, low: float, high: float, required: bool = False) -> TypedField:
    """A length kept in millimetres; a bare number is millimetres."""
    return number(label, low, high, "mm", required)


def volts(label: str, required: bool = True, **kw: object) -> TypedField:
    """A supply voltage."""
    return TypedField(label, SUPPLY, required, **kw)


def slope(label: str, required: bool = True) -> TypedField:
    """Where a cut-off or hot spot stands, beside a field "distance"."""
    return TypedField(
        label, Slope(id="slope"), required=required and "Say where the cut-off stands."
    )


def sideways(label: str) -> TypedField:
    """Where an elbow or hot spot stands sideways, beside a field "distance"."""
    return TypedField(label, Sideways(id="sideways"), required=False)


def clock_angle(label: str, missing: str = "Read where it stopped.") -> TypedField:
    """Where a bulb stopped when it locked, or is to be turned; *missing*: what a blank is answered
    with.
    """
    return TypedField(label, ClockAngle(id="clock"), required=missing)


def live(quantity: Quantity, field_id: str, name: str, error: object) -> dict[str, str]:
    """The attributes by which a field's text is understood while it is typed."""
    beside = [SELECTORS[need] for need in quantity.needs]
    if quantity is READING:
        beside += [SELECTORS["distance"], SELECTORS["ambient"]]
    return {
        "aria-describedby": f"{field_id}-error {field_id}-echo",
        "aria-invalid": "true" if error else "false",
        "hx-get": url_for("echo.understood", quantity=quantity.name, name=name),
        "hx-trigger": "input changed delay:120ms"
        + (", load" if quantity.needs and quantity is not READING else ""),
        "hx-target": f"#{field_id}-echo",
        "hx-swap": "innerHTML",
        "hx-include": ", ".join(beside),
        "hx-push-url": "false",
        "hx-sync": "this:replace",
        "hx-select": "unset",
    }


SELECTORS = {
    "distance": "#work [name=distance]",
    "ambient": "#work [name=ambient]",
    "range_factor": "#work [name=range_factor]:checked",
}
RANGE_FACTORS = {str(factor): f"×{factor}" for factor in readings.RANGE_FACTORS}
