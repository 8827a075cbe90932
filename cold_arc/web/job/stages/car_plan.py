"""Stage 5, Plan, the whole car: its ways in and extra work as one plan, as a timeline, on a day,
kept and compared.
"""

from __future__ import annotations

import datetime as dt
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from flask import Blueprint, abort, redirect, request
from flask.typing import ResponseReturnValue
from flask_wtf import FlaskForm
from wtforms import DateField, Field, StringField
from wtforms.validators import Length, Optional, ValidationError

from cold_arc.core.car.keys import UnitKey
from cold_arc.core.job import at_lamp
from cold_arc.core.job.carwork import day_of, learnt_plan, on_order, tasks
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import ExtraWork, Ordered, PlanKept, PlannedFor
from cold_arc.core.job.facts import wired
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.units import say_minutes, say_time
from cold_arc.core.work import when
from cold_arc.core.work.access import MOST_PEOPLE, RISKS
from cold_arc.core.work.composing import CarPlan
from cold_arc.core.work.extras import extras
from cold_arc.core.work.learning import Learnt
from cold_arc.core.work.schedule import schedule
from cold_arc.store import work_done
from cold_arc.web.forms import fields
from cold_arc.web.forms.plain_numbers import whole
from cold_arc.web.job.stage_page import StagePage, open_stage
from cold_arc.web.parts.route_rows import closed_rows, opened_rows, plugged_in
from cold_arc.web.parts.timeline import Timeline, build_timeline
from cold_arc.web.scope import Scope
from cold_arc.web.shell.db import session
from cold_arc.web.shell.place import has_dark_bay, shop_people, shop_place

bp = Blueprint("car_plan", __name__)
# A plan that differs by less is the same, minutes: what rounding may do.
SAME_MIN = 0.5


class WhenForm(FlaskForm):
    """The day and time the car is worked on, and by how many."""

    day = DateField("Day", [fields.needed("Say which day.")])
    starts = StringField("Start, like 14:30", [fields.needed("Say when."), Length(max=10)])
    people = fields.number("People", 1, MOST_PEOPLE, whole=True)

    def validate_starts(self, field: Field) -> None:
        """A time of the day."""
        if read_time(field.data) is None:
            raise ValidationError("Write the time like 14:30.")

    def validate_day(self, field: Field) -> None:
        """A day that can be planned."""
        if field.data and not when.is_planned(field.data):
            raise ValidationError(f"A day from {when.YEARS[0]} to {when.YEARS[1]}.")

    def planned(self) -> PlannedFor:
        """What was asked for."""
        return PlannedFor(self.day.data, read_time(self.starts.data) or 0, int(self.people.data))


class OrderForm(FlaskForm):
    """A part on order."""

    what = StringField("Part", [fields.needed("Say what is on order."), Length(max=80)])
    arrives = DateField("Expected", [Optional()])


def read_time(text: str | None) -> int | None:
    """Minutes after midnight of "14:30"; None for what is no time."""
    hours, _, minutes = (text or "").strip().replace(".", ":").partition(":")
    if not _is_clock(hours) or not _is_clock(minutes) or len(minutes) != 2:
        return None
    hour, minute = int(hours), int(minutes)
    return hour * 60 + minute if hour < 24 and minute < 60 else None


def _is_clock(figure: str) -> bool:
    """Whether it is one or two plain digits."""
    return figure.isascii() and figure.isdecimal() and len(figure) <= 2


def known_of(page: StagePage) -> dict[str, Learnt]:
    """What the shop learnt at such cars, from its other jobs."""
    return work_done.known(session(), page.job.booking, page.job.id)


@bp.route("/jobs/<int:job_id>/<scope:scope>/plan/whole", methods=["GET", "POST"])
def page(job_id: int, scope: Scope) -> ResponseReturnValue:
    """The ways in of all lamps and the extra work as one plan."""
    page = open_stage(job_id, scope, Stage.PLAN)
    if request.method == "GET":
        return _render(page)
    what, _, argument = request.form.get("do", "").partition(":")
    handlers: dict[str, Callable[[StagePage, str], ResponseReturnValue]] = {
        "extras": _extras,
        "when": _when,
        "off": _off,
        "order": _order,
        "arrived": _arrived,
        "keep": _keep,
    }
    return handlers[what](page, argument) if what in handlers else abort(404)


def _back(page: StagePage) -> str:
    return f"{page.url}/whole"


def _extras(page: StagePage, _: str) -> ResponseReturnValue:
    """The extra work ticked for each unit."""
    entries: dict[tuple[str, ...], list[UnitKey]] = {}
    for key in page.record.units:
        chosen = tuple(
            name for name in extras() if f"{name}/{key}" in request.form.getlist("extra")
        )
        if chosen != tuple(extra.id for extra in page.record.extras(key)):
            entries.setdefault(chosen, []).append(key)
    page.refuse_stale([(ExtraWork(chosen), frozenset(keys)) for chosen, keys in entries.items()])
    for chosen, keys in entries.items():
        page.save(ExtraWork(chosen), about=keys, merged=True)
    return redirect(_back(page), 303)


def _when(page: StagePage, _: str) -> ResponseReturnValue:
    form = WhenForm()
    return (
        page.save(form.planned(), about=(), back=_back(page))
        if form.validate()
        else _render(page, planned=form)
    )


def _off(page: StagePage, _: str) -> ResponseReturnValue:
    return page.save(PlannedFor(None), about=(), back=_back(page))


def _order(page: StagePage, _: str) -> ResponseReturnValue:
    form = OrderForm()
    if not form.validate():
        return _render(page, order=form)
    return page.save(Ordered(form.what.data.strip(), form.arrives.data), about=(), back=_back(page))


def _arrived(page: StagePage, what: str) -> ResponseReturnValue:
    if what not in {order.what for order in on_order(page.record)}:
        abort(404)
    return page.save(Ordered(what, arrived=True), about=(), back=_back(page), merged=True)


def _keep(page: StagePage, _: str) -> ResponseReturnValue:
    kept = kept_plan(learnt_plan(page.record, known_of(page)))
    return page.save(kept, about=(), back=_back(page), merged=True)


def parts_of(record: Record) -> dict[str, int]:
    """What is to be fitted, what is put in along its wiring, and how many of each."""
    chosen = [
        choice.source.name
        for sockets in at_lamp.fitted_together(record, record.units)
        if (choice := record.latest(Chosen, sockets[0])) and choice.source
    ]
    wiring = [part.words for key in record.sockets for part in wired(record, key)]
    return dict(Counter([*chosen, *wiring]))


def kept_plan(plan: CarPlan) -> PlanKept:
    """A plan as it is kept, to compare later ones with."""
    steps = tuple(
        f"{opening.step.text} ({opening.place.side.value if opening.place.side else 'once'})"
        for opening in plan.openings
    )
    return PlanKept(
        round(plan.minutes, 1), round(plan.one_by_one, 1), steps, sum(plan.fasteners.values())
    )


@dataclass(frozen=True)
class Since:
    """What changed in a plan since it was kept: which version that was, steps come and gone,
    minutes more.
    """

    version: int
    come: tuple[str, ...]
    gone: tuple[str, ...]
    minutes: float
    fasteners: int

    @property
    def words(self) -> str:
        """How much more or less it is."""
        if not self.come and not self.gone and abs(self.minutes) < SAME_MIN:
            return f"Against version {self.version}: nothing has changed."
        longer = "more" if self.minutes >= 0 else "less"
        more = "more" if self.fasteners >= 0 else "fewer"
        return (
            f"Against version {self.version}: {say_minutes(abs(self.minutes))} {longer}, "
            f"{abs(self.fasteners)} fasteners {more}."
        )

    @property
    def lines(self) -> list[str]:
        """The steps come and gone."""
        return [f"New: {text}" for text in self.come] + [f"Gone: {text}" for text in self.gone]


def since_kept(versions: list[PlanKept], now: PlanKept) -> Since | None:
    """How the plan differs from the newest kept; None where none is."""
    if not versions:
        return None
    last = versions[-1]
    come, gone = Counter(now.steps) - Counter(last.steps), Counter(last.steps) - Counter(now.steps)
    return Since(
        len(versions),
        tuple(come.elements()),
        tuple(gone.elements()),
        now.minutes - last.minutes,
        now.fasteners - last.fasteners,
    )


def _render(
    page: StagePage, planned: WhenForm | None = None, order: OrderForm | None = None
) -> ResponseReturnValue:
    record, known = page.record, known_of(page)
    plan, visit = learnt_plan(record, known), _visit(record)
    work = _Work(page, plan, visit)
    return page.render(
        (),
        (opening.step.caution for opening in plan.openings if opening.step.caution),
        template="plan-whole",
        plan=plan,
        totals=_totals(plan, work, known) if plan.openings else (),
        opened=opened_rows(plan, record, known),
        closed=closed_rows(plan, record),
        while_open=[*_while_open(record), *plugged_in(plan, record)],
        without=_without_a_way(record),
        timeline=work.timeline,
        people=work.people,
        most_people=MOST_PEOPLE,
        extras=extras(),
        work_on=record.extra_on,
        chosen=_extras_chosen(record),
        at_fit=_at_fit(record),
        planned=planned or WhenForm(data=work.planned),
        said=visit,
        dark=work.dark,
        dark_words=work.dark_words,
        order=order or OrderForm(formdata=None),
        waiting=work.waiting,
        late=work.late,
        versions=record.all(PlanKept),
        since=since_kept(record.all(PlanKept), kept_plan(plan)),
    )


def _visit(record: Record) -> PlannedFor | None:
    """When the car is planned for; None where it is not, or was taken off."""
    visit = record.latest(PlannedFor)
    return visit if visit and visit.day else None


def _without_a_way(record: Record) -> list[str]:
    """The units no way in is told for, in words."""
    units = (key for key in record.units if record.route(key) is None)
    return list(dict.fromkeys(map(record.front.words, units)))


def _totals(plan: CarPlan, work: _Work, known: Mapping[str, Learnt]) -> list[tuple[str, str]]:
    """What the whole car takes: each total's name and words."""
    record = work.page.record
    spares = plan.spares_with({part: learnt.spare_share for part, learnt in known.items()})
    consumables = "; ".join(_consumables(record))
    totals = [
        ("Ways in, out and back, one person", say_minutes(plan.minutes)),
        ("Each lamp by itself", say_minutes(plan.one_by_one)),
        ("Hands in all", say_minutes(work.day.hands)),
        ("On the wall", say_minutes(work.day.wall)),
        ("Fasteners", _counted(plan.fasteners) or "none"),
        ("Plugs", ", ".join(plan.plugs) or "none"),
        ("Worst risk", RISKS[plan.risk]),
        (
            "Spares to have ready",
            "; ".join(filter(None, [_counted(spares) or "none", consumables])),
        ),
        ("Parts", _counted(parts_of(record))),
        ("Tools", ", ".join(record.once(Handwork).tools) or "none"),
    ]
    return [(name, words) for name, words in totals if words]


def _counted(counts: Mapping[str, int]) -> str:
    """ "4 push pin, 2 bolt": each kind with how many."""
    return ", ".join(f"{count} {kind}" for kind, count in counts.items())


def _while_open(record: Record) -> list[str]:
    """The extra work that is done while its lamp is open."""
    return [
        f"{extra.text}: {record.front.named(key)}."
        for key in record.units
        for extra in record.extras(key)
        if extra.when == "open"
    ]


def _extras_chosen(record: Record) -> set[tuple[UnitKey, str]]:
    return {(key, extra.id) for key in record.units for extra in record.extras(key)}


def _at_fit(record: Record) -> set[tuple[UnitKey, str]]:
    """The extra work that a step at Fit stands for, asked for or not."""
    return {
        (key, extra.id)
        for key in record.units
        for extra in at_lamp.extra_work(record, key)
        if at_lamp.at_fit(record, extra, key)
    }


def _consumables(record: Record) -> list[str]:
    """What the car's extra work uses up."""
    besides = (extra for key in record.units for extra in at_lamp.extra_work(record, key))
    return list(dict.fromkeys(name for extra in besides for name in extra.consumables))


class _Work:
    """A job's work as its page lays it on a day; *visit*: when it is planned for."""

    def __init__(self, page: StagePage, plan: CarPlan, visit: PlannedFor | None) -> None:
        self.page, self.visit, self.tasks = page, visit, tasks(page.record, plan)
        planned_for = page.record.latest(PlannedFor)
        usual = planned_for.people if planned_for else shop_people()
        self.people = min(max(whole(request.args.get("people")) or usual, 1), MOST_PEOPLE)
        self.day = day_of(self.tasks, self.people)
        self.waiting = on_order(page.record)
        self.on = visit.day if visit and visit.day else self._first_day()
        self.dark = when.dark_from(shop_place(), has_dark_bay(), self.on)
        self.start = visit.starts_min if visit else when.best_start(self.day.hands, self.dark)

    def _first_day(self) -> dt.date:
        """Today, or the day the last part on order is expected."""
        today = dt.date.today()
        return max([today, *(order.due for order in self.waiting if order.due)])

    @property
    def dark_words(self) -> str:
        """When the wall is dark, and from when to when the car is worked on."""
        if self.dark is None:
            return "When it is dark is not known."
        dark = f"Dark from {say_time(self.dark)}." if self.dark else "The wall is dark at any hour."
        stay = when.Visit("", self.start, self.day.hands, self.day.wall, self.people)
        if not stay.wall:
            return dark
        wall, ends = say_time(stay.wall_from(self.dark)), say_time(stay.ends(self.dark))
        return f"{dark} From {say_time(stay.starts)}, the wall from {wall}, done at {ends}."

    @property
    def planned(self) -> dict[str, object]:
        """What the form for the day begins with."""
        return {"day": self.on, "starts": say_time(self.start), "people": self.people}

    @property
    def timeline(self) -> Timeline | None:
        """The tasks drawn; None where there are none."""
        if not self.tasks:
            return None
        waits = max((self.dark or 0.0) - self.start, 0.0)
        return build_timeline(schedule(self.tasks, self.people, waits), self.people)

    @property
    def late(self) -> list[Ordered]:
        """The parts that are not here by the day it is planned for."""
        day = self.visit.day if self.visit else None
        return [order for order in self.waiting if day and (not order.due or order.due > day)]
