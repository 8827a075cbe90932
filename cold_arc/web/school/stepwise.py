"""Exercises answered step by step: what one more step makes of the answer so far. Nothing is kept
until the whole is sent.
"""

from __future__ import annotations

from flask import request
from flask_wtf import FlaskForm

from cold_arc.core.school.exercise import Exercise, NoAnswerError
from cold_arc.core.units.quantities import LuxAlone, Quantity
from cold_arc.school import taking
from cold_arc.school import wall as at_wall
from cold_arc.web.forms import fields

_ONCE = {"data-no-draft": ""}  # a step is made once: nothing of it is kept


class _StepForm(FlaskForm):
    """A step, by which nothing is saved."""

    class Meta:
        """No token is asked."""

        csrf = False

    @property
    def is_used(self) -> bool:
        """Whether the step is what its fields say."""
        return True

    def emptied(self) -> None:
        """Ready for the next step."""
        for field in self:
            field.raw_data, field.data = None, None


class ScrewForm(_StepForm):
    """Turns of both screws, clockwise positive."""

    _turns = Quantity(-at_wall.MOST_TURNS, at_wall.MOST_TURNS, id="turns")
    height = fields.TypedField("Height screw, turns", _turns, required=False, render_kw=_ONCE)
    side = fields.TypedField("Side screw, turns", _turns, required=False, render_kw=_ONCE)

    def step(self) -> str:
        """The move, as an answer writes it; NoAnswerError where none was made."""
        height, side = self.height.data or 0.0, self.side.data or 0.0
        if not height and not side:
            raise NoAnswerError("Turn at least one of the screws.")
        return f"{height:g},{side:g}"


WRITE = "write"


class ReadingForm(_StepForm):
    """What the meter reads, its range counted in."""

    _lux = LuxAlone(0, taking.MOST_LUX, id="read-off")
    lux = fields.TypedField("It reads", _lux, taking.WRITE_DOWN, render_kw=_ONCE)

    @property
    def is_used(self) -> bool:
        """Whether something is written down."""
        return request.args.get("act", WRITE) == WRITE

    def step(self) -> str:
        """The act, as an answer writes it."""
        return f"={self.lux.data:g}" if self.is_used else request.args["act"]


StepForm = ScrewForm | ReadingForm
FORMS = {"screws": ScrewForm, "take": ReadingForm}
# What must be in an address for it to be a step.
STEPS = {"height", "act"}


def form_of(exercise: Exercise) -> StepForm | None:
    """The form of a step; None for what is answered at once."""
    made = FORMS.get(exercise.posed.kind)
    return made(request.args) if made else None


def so_far(exercise: Exercise, form: StepForm | None, made: str) -> tuple[str, str]:
    """The answer with one more step, where one was made; an error where that is none."""
    if form is None or not STEPS & request.args.keys():
        return made, ""
    if form.is_used and not form.validate():
        return made, ""
    try:
        more = ";".join(filter(None, [made, form.step()]))
        _check(exercise, more)
    except NoAnswerError as wrong:
        return made, str(wrong)
    form.emptied()
    return more, ""


def _check(exercise: Exercise, answer: str) -> None:
    if exercise.posed.kind == "screws":
        at_wall.moves_of(answer)
    else:
        taking.done(exercise, answer)
