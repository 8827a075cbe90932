"""Stage 5, Plan: the way to the lamp, its steps, tools, fasteners and minutes."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from flask import Blueprint, abort, redirect, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from werkzeug.wrappers import Response
from wtforms import BooleanField, Field, StringField
from wtforms.validators import Length, ValidationError

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.car.lamps import side_words
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.work import access
from cold_arc.core.work.access import (
    COVERS,
    MOST_PEOPLE,
    OPENED,
    RISKS,
    STEP_KINDS,
    Fasteners,
    RouteStep,
    WayIn,
)
from cold_arc.core.work.composing import compose
from cold_arc.core.work.offering import PAIR, Ground, KnownWay, Offer
from cold_arc.store.catalogue import save_route, saved_routes
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.stage_page import StagePage, after_save, open_stage
from cold_arc.web.job.stages.car_plan import known_of, learnt_plan
from cold_arc.web.parts.route_rows import RouteRow, route_row
from cold_arc.web.scope import Scope, pairs, stage_url
from cold_arc.web.shell.db import session, writable
from cold_arc.web.shell.place import plan_prefers

bp = Blueprint("plan", __name__)
MOST_FASTENERS = 200


class StepForm(FlaskForm):
    """One step of the route."""

    text = StringField("Step", [fields.needed("Say what is done."), Length(max=200)])
    minutes = fields.number("Minutes, out and back", 0, 600, "min")
    tools = StringField("Tools, commas between", [Length(max=200)])
    fasteners = StringField(
        "Fasteners, like “4 push pin, liner; 8 to 10 bolt, edge”", [Length(max=300)]
    )
    shared = BooleanField("Once for both sides")
    opens = StringField("Part it opens, if other lamps lie behind it too", [Length(max=60)])
    behind = StringField("Stands behind these parts (none: the step before)", [Length(max=200)])
    unplug = StringField("Unplug before it moves", [Length(max=200)])
    keep = StringField("Don't unplug first", [Length(max=200)])
    people = fields.number("People", 1, MOST_PEOPLE, required=False, whole=True)
    risk = fields.listed("Risk", {str(level): word for level, word in enumerate(RISKS)}, "0")
    caution = fields.listed("Caution", {"": "None"} | access.caution_names())
    kind = fields.listed("Afterwards", dict(STEP_KINDS), OPENED)
    closing = StringField("Words when it is closed again", [Length(max=200)])
    cover = fields.listed("Takes off the lamp", dict(COVERS), "")
    inside = BooleanField("Inside the lamp: not done where the whole lamp leaves the car")

    def validate_fasteners(self, field: Field) -> None:
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
            tools=_listed(self.tools.data),
            fasteners=parse_fasteners(self.fasteners.data or ""),
            shared=self.shared.data,
            caution=self.caution.data,
            opens=(self.opens.data or "").strip().lower(),
            behind=tuple(name.lower() for name in _listed(self.behind.data)),
            unplug=_listed(self.unplug.data),
            keep=_listed(self.keep.data),
            people=int(self.people.data or 1),
            risk=int(self.risk.data or 0),
            kind=self.kind.data,
            closing=(self.closing.data or "").strip(),
            cover=self.cover.data,
            inside=self.inside.data,
        )


def _listed(text: str | None) -> tuple[str, ...]:
    """What stands between commas."""
    return tuple(word.strip() for word in (text or "").split(",") if word.strip())


def parse_fasteners(text: str) -> tuple[Fasteners, ...]:
    """Groups from "4 push pin, liner; 8 to 10 screw T20, edge"; ValueError naming the group that is
    not understood.
    """
    return tuple(
        _fasteners(part) for part in filter(None, (part.strip() for part in text.split(";")))
    )


# How many of what: a number, or a range until they are counted in hand; "8 to" and "8 -" are none.
_GROUP = re.compile(
    r"(\d+)(?:\s*(?:to|or|-|–)\s*(\d+))?\s+(?!(?:to|or)\b|[-–])([^,]*[^,\s])(?:,\s*(.*))?", re.ASCII
)


def _fasteners(part: str) -> Fasteners:
    """One group; ValueError where it is not understood."""
    group = _GROUP.fullmatch(part)
    if group is None:
        raise ValueError(
            f"“{part}” is not understood. Write it like 4 push pin, liner, or 8 to 10 bolt, edge."
        )
    least, most = whole(group[1]) or 0, whole(group[2] or group[1]) or 0
    if not 0 < least <= most <= MOST_FASTENERS:
        raise ValueError(f"“{part}”: from the least to the most, 1 to {MOST_FASTENERS}.")
    return Fasteners(group[3], least, group[4] or "here", most if most > least else None)


def _step_data(step: RouteStep) -> dict[str, object]:
    return {
        **vars(step),
        **{name: ", ".join(getattr(step, name)) for name in ("tools", "behind", "unplug", "keep")},
        "risk": str(step.risk),
        "fasteners": "; ".join(group.words for group in step.fasteners),
    }


@bp.route("/jobs/<int:job_id>/<scope:scope>/plan", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The car's plan: for each unit the way in, loaded, edited and saved."""
    page = _in_hand(job_id, scope)
    if not isinstance(page, StagePage):
        return page
    if request.method == "POST":
        return _change(page)
    return _render(page, _edit_form(page))


def _offers(page: StagePage) -> dict[str, list[Offer]]:
    """The ways in known for this car and lamp, of which one may be proposed; other cars'; the
    starters.
    """
    ground = Ground(page.units, page.record.ways, known_of(page), plan_prefers())
    offers = {
        origin: [ground.offer(way) for way in ways] for origin, ways in _known_ways(page).items()
    }
    return offers | {"known": ground.proposed(offers["known"])}


def _known_ways(page: StagePage) -> dict[str, list[KnownWay]]:
    """The ways in that may be offered, by where they come from."""
    unit, vehicle = _unit(page), page.job.booking.vehicle
    known: list[KnownWay] = []
    others: list[KnownWay] = []
    for key, (row, route) in saved_routes(session(), vehicle, unit.unit).items():
        name, _, side = row.unit.partition("-")
        value = f"saved-{key}"
        if (row.vehicle, name) == (vehicle, unit.unit) and _is_on(page, side):
            note = f"{side} side only" if side else ""
            known.append(KnownWay(value, route.name, route.steps, note, side))
        else:
            note = f"{row.vehicle}, {row.unit}"
            others.append(KnownWay(value, route.name, route.steps, note))
    starters = [
        KnownWay(f"starter-{way.name}", way.name, way.steps, way.note)
        for way in access.starter_ways()
    ]
    return {"known": known, "other": others, "starter": starters}


def _is_on(page: StagePage, side: str) -> bool:
    """Whether a way in for a side, or for both (""), is one for the units in scope."""
    return side in ("", *(unit.side.value for unit in page.units))


def _in_hand(job_id: int, scope: Scope) -> StagePage | Response:
    """The page on one unit's way in: of several units in scope, on the first at Plan without one;
    of one whose sides have ways of their own, on one side.
    """
    page = open_stage(job_id, scope, Stage.PLAN)
    if len({key.unit for key in page.units}) > 1:
        return redirect(stage_url(job_id, Scope(_first_to_plan(page).unit), Stage.PLAN), 302)
    if not _differs(page):
        return page
    if request.method == "POST":
        after_save("Each side has a way in of its own: change one side. Nothing was changed.")
    without = [key for key in page.units if page.record.route(key) is None]
    first = next(iter(without or page.units))
    return redirect(stage_url(job_id, Scope(first.unit, first.side), Stage.PLAN), 303)


def _first_to_plan(page: StagePage) -> UnitKey:
    """Of several units the first at Plan without a way in, or the first."""
    at_plan = [key.of_unit for key in page.sockets if page.progress.current(key) is Stage.PLAN]
    waiting = [key for key in at_plan or page.units if page.record.route(key) is None]
    return next(iter(waiting or at_plan or page.units))


def _differs(page: StagePage) -> bool:
    """Whether the sides in scope have ways in of their own."""
    return len({page.record.route(key) for key in page.units}) > 1


@dataclass(frozen=True)
class SideTab:
    """A side, or both alike, whose way in can be looked at: its words, address, way in."""

    words: str
    href: str
    here: bool
    route: str


def _side_tabs(page: StagePage) -> list[SideTab]:
    """Both alike, left, right; none of a unit worked on at one side only."""
    unit = _unit(page).unit
    units = [key for key in page.record.units if key.unit == unit]
    if len(units) < 2:
        return []
    routes = [page.record.route(key) for key in units]
    tabs = [
        SideTab(
            side_words(key.side, page.job.booking.drive),
            stage_url(page.job.id, Scope(unit, key.side), Stage.PLAN),
            page.scope.side is key.side,
            route.name if route else "no way in yet",
        )
        for key, route in zip(units, routes, strict=True)
    ]
    if len(set(routes)) == 1:
        both = stage_url(page.job.id, Scope(unit), Stage.PLAN)
        tabs.insert(0, SideTab("Both alike", both, page.scope.side is None, ""))
    return tabs


def _unit(page: StagePage) -> UnitKey:
    """The unit whose way in is shown."""
    return page.units[0]


@dataclass(frozen=True)
class WayLine:
    """One unit's way in, as listed: its words, address, and what is known."""

    words: str
    href: str
    here: bool
    route: str
    minutes: float


def _ways(page: StagePage) -> list[WayLine]:
    """The ways in of the whole car, a unit each."""
    ways = []
    for pair in pairs(page.record.units):
        keys = [key for key in page.record.units if key.name == pair.name]
        minutes = compose(
            {key: way for key, way in page.record.ways.items() if key in keys}
        ).minutes
        routes = dict.fromkeys(route.name for key in keys if (route := page.record.route(key)))
        ways.append(
            WayLine(
                page.record.front.words(keys[0]),
                stage_url(page.job.id, pair, Stage.PLAN),
                pair.name == _unit(page).name,
                " / ".join(routes),
                minutes,
            )
        )
    return ways


def _change(page: StagePage) -> ResponseReturnValue:
    """Does what the button says: load a route, save a step, move it, drop it, or keep the route for
    later.
    """
    what, _, argument = request.form.get("do", "").partition(":")
    route = page.record.route(_unit(page))
    if what == "load":
        return _load(page, argument)
    if what == "step":
        return _save_step(page, route or Routed("Own route", ()))
    if route is None:
        abort(404)
    if what == "template":
        side = f"-{page.scope.side.value}" if page.scope.side else ""
        save_route(writable(), route, page.job.booking.vehicle, f"{_unit(page).unit}{side}")
        after_save(f"Saved “{route.name}” for the next {page.job.booking.make}.")
        return page.save(about=())
    if what in {"up", "down", "drop"} and argument in {str(step.id) for step in route.steps}:
        return page.save(
            Routed(route.name, _moved(route.steps, what, int(argument))),
            about=page.units,
            merged=True,
        )
    abort(404)


def _moved(steps: tuple[RouteStep, ...], what: str, step_id: int) -> tuple[RouteStep, ...]:
    if what == "drop":
        return tuple(step for step in steps if step.id != step_id)
    return access.moved(steps, step_id, -1 if what == "up" else 1)


def _next_id(record: Record) -> int:
    return max((step.id for route in record.all(Routed) for step in route.steps), default=0) + 1


def _load(page: StagePage, argument: str) -> ResponseReturnValue:
    origin, _, name = argument.partition("-")
    if origin == PAIR:
        return _load_pair(page, name.split("-"))
    starters = {starter.name: starter for starter in access.starter_ways()}
    units = page.units
    if origin == "starter" and name in starters:
        route: WayIn | Routed = starters[name]
    else:
        row, route = saved_routes(session(), "", "").get(whole(name) or 0) or abort(404)
        units = [
            key for key in units if row.unit == str(key)
        ] or units  # of one side: that side's alone
    way_in = Routed(route.name, access.renumbered(route.steps, _next_id(page.record)))
    return page.save(way_in, about=units)


def _load_pair(page: StagePage, names: list[str]) -> ResponseReturnValue:
    """A saved way in of its own for each side in scope."""
    saved, first = saved_routes(session(), "", ""), _next_id(page.record)
    entries: list[tuple[Routed, list[UnitKey]]] = []
    for name in names:
        row, route = saved.get(whole(name) or 0) or abort(404)
        units = [key for key in page.units if row.unit == str(key)] or abort(404)
        entries.append((Routed(route.name, access.renumbered(route.steps, first)), units))
        first += len(route.steps)
    return page.save_each(entries)


def _save_step(page: StagePage, route: Routed) -> ResponseReturnValue:
    form = StepForm()
    if not form.validate():
        return _render(page, form)
    editing = request.form.get("step_id", "")
    known = {str(step.id): step for step in route.steps}
    if editing and editing not in known:
        form.text.errors = ["This step was removed meanwhile. Record it as a new one, or leave it."]
        return _render(page, form, lost=True)
    if editing in known:
        changed = form.step(int(editing))
        if _step_as_seen(page, changed.id) not in (None, known[editing]):
            form.text.errors = [
                f"Changed meanwhile to “{known[editing].text}”. Look, then record it again."
            ]
            return _render(page, form)
        steps = tuple(changed if step.id == changed.id else step for step in route.steps)
    else:
        steps = (*route.steps, form.step(_next_id(page.record)))
    return page.save(replace(route, steps=steps), about=page.units, merged=True)


def _step_as_seen(page: StagePage, step_id: int) -> RouteStep | None:
    """The step as it stood when the form was made; None where that is not known."""
    seen = whole(request.form.get("seen"))
    routes = [
        entry.payload
        for entry in page.record.entries
        if isinstance(entry.payload, Routed)
        and _unit(page) in entry.about
        and seen is not None
        and entry.id <= seen
    ]
    steps = routes[-1].steps if routes else ()
    return next((step for step in steps if step.id == step_id), None)


def _edit_form(page: StagePage) -> StepForm:
    route = page.record.route(_unit(page))
    editing = request.args.get("step", "")
    step = next((step for step in route.steps if str(step.id) == editing), None) if route else None
    return StepForm(data=_step_data(step) if step else None)


def _render(page: StagePage, form: StepForm, lost: bool = False) -> ResponseReturnValue:
    """The page; *lost*: the step under change is there no more, so what was typed stands as a new
    one.
    """
    route = page.record.route(_unit(page))
    steps = page.record.ways.get(_unit(page), ())
    return page.render(
        at_lamp.way_findings(page.record, _unit(page)),
        (step.caution for step in steps if step.caution),
        form=form,
        route=route,
        rows=_rows(route, steps, page.record.leaves(_unit(page))),
        editing="" if lost else request.values.get("step_id") or request.args.get("step", ""),
        one_side=access.minutes_one_side(steps),
        both=access.minutes_both(steps) if len(page.units) > 1 else None,
        tools=access.tools(steps),
        offers=_offers(page),
        vehicle=page.job.booking.vehicle,
        tabs=_side_tabs(page),
        ways=_ways(page),
        plan=learnt_plan(page.record, known_of(page)),
    )


def _rows(route: Routed | None, steps: Sequence[RouteStep], leaves: bool) -> dict[int, RouteRow]:
    """The rows of a route's steps by id; *steps*: those that are done, in their words; *leaves*:
    whether the whole lamp does.
    """
    texts = {step.id: step.text for step in steps}
    return {step.id: route_row(step, texts, leaves) for step in route.steps} if route else {}
