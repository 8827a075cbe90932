"""Stage 5, Plan: the way to the lamp, its steps, tools, fasteners and minutes."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, abort, request
from flask_wtf import FlaskForm
from wtforms import BooleanField, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core import access
from cold_arc.core.access import Fasteners, RouteStep
from cold_arc.core.record import Record, Routed
from cold_arc.core.stages import Stage
from cold_arc.store.catalogue import save_route, saved_routes
from cold_arc.web import fields
from cold_arc.web.db import session
from cold_arc.web.scope import Scope
from cold_arc.web.stage_page import Desk, after_save, open_desk

bp = Blueprint("plan", __name__)


class StepForm(FlaskForm):
    """One step of the route."""

    text = StringField("Step", [fields.needed("Say what is done."), Length(max=200)])
    minutes = fields.number("Minutes, out and back", 0, 600, "between 0 and 600 minutes")
    tools = StringField("Tools, commas between", [Length(max=200)])
    fasteners = StringField("Fasteners, like “4 push pin, liner; 2 screw T20, edge”", [Length(max=300)])
    shared = BooleanField("Once for both sides")
    caution = fields.listed("Caution", {"": "None"} | {key: key for key in access.cautions()})

    def validate_fasteners(self, field: Any) -> None:
        """Each group is a count, a kind, a place."""
        try:
            parse_fasteners(field.data or "")
        except ValueError as error:
            raise ValidationError(str(error)) from error

    def step(self, step_id: int) -> RouteStep:
        """The step entered."""
        return RouteStep(
            id=step_id,
            text=self.text.data.strip(),
            minutes=self.minutes.data,
            tools=tuple(tool.strip() for tool in (self.tools.data or "").split(",") if tool.strip()),
            fasteners=parse_fasteners(self.fasteners.data or ""),
            shared=self.shared.data,
            caution=self.caution.data,
        )


def parse_fasteners(text: str) -> tuple[Fasteners, ...]:
    """Groups from "4 push pin, liner; 2 screw T20, edge"; ValueError naming the group that is not understood."""
    groups = []
    for part in filter(None, (part.strip() for part in text.split(";"))):
        count, _, rest = part.partition(" ")
        kind, _, place = rest.partition(",")
        if not count.isdecimal() or not 0 < int(count) <= 200 or not kind.strip():
            raise ValueError(f"“{part}” is not understood. Write it like 4 push pin, liner.")
        groups.append(Fasteners(kind.strip(), int(count), place.strip() or "here"))
    return tuple(groups)


def _step_data(step: RouteStep) -> dict[str, Any]:
    return {
        **vars(step),
        "tools": ", ".join(step.tools),
        "fasteners": "; ".join(group.words for group in step.fasteners),
    }


@bp.route("/jobs/<int:job_id>/<scope:scope>/plan", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> Any:
    """Loads, edits and saves the route for the lamps in scope."""
    desk = open_desk(job_id, scope, Stage.PLAN)
    if request.method == "POST":
        return _change(desk)
    return _render(desk, _edit_form(desk))


def _change(desk: Desk) -> Any:
    """Does what the button says: load a route, save a step, move it, drop it, or keep the route for later."""
    what, _, argument = request.form.get("do", "").partition(":")
    route = desk.record.latest(Routed, desk.first)
    if what == "load":
        return _load(desk, argument)
    if what == "step":
        return _save_step(desk, route or Routed("Own route", ()))
    if route is None:
        abort(404)
    if what == "template":
        save_route(session(), route, desk.job.booking.vehicle, desk.first.function.value)
        after_save(f"Saved “{route.name}” for the next {desk.job.booking.make}.")
        return desk.save()
    if what in {"up", "down", "drop"} and argument in {str(step.id) for step in route.steps}:
        return desk.save(Routed(route.name, _moved(route.steps, what, int(argument))))
    abort(404)


def _moved(steps: tuple[RouteStep, ...], what: str, step_id: int) -> tuple[RouteStep, ...]:
    if what == "drop":
        return tuple(step for step in steps if step.id != step_id)
    return access.moved(steps, step_id, -1 if what == "up" else 1)


def _next_id(record: Record) -> int:
    return max((step.id for route in record.all(Routed) for step in route.steps), default=0) + 1


def _load(desk: Desk, argument: str) -> Any:
    origin, _, number = argument.partition("-")
    if not number.isdecimal():
        abort(404)
    if origin == "starter" and int(number) < len(access.starter_routes()):
        route: Any = access.starter_routes()[int(number)]
    else:
        saved = saved_routes(session(), "", "").get(int(number))
        route = saved[1] if origin == "saved" and saved else abort(404)
    return desk.save(Routed(route.name, access.renumbered(route.steps, _next_id(desk.record))))


def _save_step(desk: Desk, route: Routed) -> Any:
    form = StepForm()
    if not form.validate():
        return _render(desk, form)
    editing = request.form.get("step_id", "")
    known = {str(step.id): step for step in route.steps}
    if editing in known:
        changed = form.step(int(editing))
        steps = tuple(changed if step.id == changed.id else step for step in route.steps)
    else:
        steps = (*route.steps, form.step(_next_id(desk.record)))
    return desk.save(replace(route, steps=steps))


def _edit_form(desk: Desk) -> StepForm:
    route = desk.record.latest(Routed, desk.first)
    editing = request.args.get("step", "")
    step = next((step for step in route.steps if str(step.id) == editing), None) if route else None
    return StepForm(data=_step_data(step) if step else None)


def _render(desk: Desk, form: StepForm) -> Any:
    route = desk.record.latest(Routed, desk.first)
    steps = route.steps if route else ()
    booking = desk.job.booking
    return desk.render(
        (),
        (step.caution for step in steps if step.caution),
        form=form,
        route=route,
        editing=request.values.get("step_id") or request.args.get("step", ""),
        one_side=access.minutes_one_side(steps),
        both=access.minutes_both(steps),
        tools=access.tools(steps),
        starters=access.starter_routes(),
        saved=saved_routes(session(), booking.vehicle, desk.first.function.value),
        vehicle=booking.vehicle,
        differs=len({desk.record.latest(Routed, key) for key in desk.keys}) > 1,
    )
