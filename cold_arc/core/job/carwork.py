"""A car's whole work as tasks for a timeline: extra work, making safe, opening, fitting, proving,
closing, aiming, verifying.

Everything that needs what is before it comes after it; closing waits for all work behind; aiming
waits for a coat to cure. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from cold_arc.core.car.keys import SocketKey, UnitKey
from cold_arc.core.job import at_lamp
from cold_arc.core.job.entries.match import Chosen
from cold_arc.core.job.entries.plan import Ordered
from cold_arc.core.job.handwork import Handwork
from cold_arc.core.job.needs import is_over
from cold_arc.core.job.progress import Progress
from cold_arc.core.job.record import Record
from cold_arc.core.job.stages import Stage
from cold_arc.core.job.steps import Step
from cold_arc.core.work.composing import CarPlan, Opening, compose
from cold_arc.core.work.extras import (
    cure_minutes,
    fit_minutes,
    renew_minutes,
    stage_minutes,
)
from cold_arc.core.work.learning import Learnt, with_learnt
from cold_arc.core.work.schedule import Slot, Task, schedule
from cold_arc.core.work.tick import Tick, TickKind

# Of a part's minutes out and back, the share to open it.
OUT_SHARE = 0.5
# What a battery off takes, with the five minutes it is waited for, and on again, min (common
# practice, no published source).
BATTERY_MINUTES = {"safe": 6.0, "live": 1.0}


def tasks(record: Record, plan: CarPlan) -> list[Task]:
    """The tasks of a job, in the order of the work, from its record and the plan of its ways in."""
    before: list[Task] = []
    at_car: list[Task] = []
    if not _is_left_shut(record):
        before, at_car = list(_extras(record, "before", ())), _at_car(record, plan)
    if not record.road_beams:
        return [*before, *at_car]
    cured = _ids(before)
    aim = _stage(record, "aim", "Aim", after=_ids(at_car[-1:]), cured=cured, dark=True)
    verify = _stage(record, "verify", "Verify", after=(aim.id,), dark=True)
    return [*before, *at_car, aim, verify]


def _is_left_shut(record: Record) -> bool:
    """Whether nothing is taken apart: at a re-check, unless Fit was opened again."""
    fitted = (record.once(Progress).passed(Stage.FIT, key) for key in record.sockets)
    return record.is_recheck and all(fitted)


def _at_car(record: Record, plan: CarPlan) -> list[Task]:
    """What is done at the car, from making it safe to proving it closed, which comes last."""
    battery = _of_battery(record)
    behind = list(_opened(plan, battery.get("safe-off")))
    opened = [task for task, _ in behind]
    fits = list(_fits(record, _open_for(record, behind)))
    inside = [*fits, *_extras(record, "open", _ids(opened))]
    plugged = list(_closed(plan, _ids(inside), plan.plugged_in))
    cured = _ids(task for task in fits if task.cures)
    proved = _stage(record, "prove-open", "Prove, open", _ids([*inside, *plugged]), cured)
    again = _made(battery.get("safe-again"), (proved.id,))
    first = _ids([proved, *again])
    closings = list(_closed(plan, first, plan.covers))
    live = _made(battery.get("live-on"), (*first, *_ids(closings)))
    closings += live
    closings += _closed(plan, _ids([proved, *again, *closings]), plan.bonnet)
    shut = _stage(record, "prove-closed", "Prove, closed", after=_ids(closings or [proved]))
    safe = _made(battery.get("safe-off"), ())
    return [*safe, *opened, *inside, *plugged, proved, *again, *closings, shut]


def _ids(every: Iterable[Task]) -> tuple[str, ...]:
    return tuple(task.id for task in every)


def _open_for(
    record: Record, behind: Sequence[tuple[Task, tuple[UnitKey, ...]]]
) -> dict[UnitKey, tuple[str, ...]]:
    """What must be open for each unit: the ids of the openings before it."""
    return {key: tuple(task.id for task, units in behind if key in units) for key in record.units}


def still_to_do(record: Record, every: list[Task]) -> list[Task]:
    """The tasks that are not done yet, as ticked and as the table of needs has them."""
    gone = {task.id for task in every} & _done(record)
    return [
        replace(task, after=_but(task.after, gone), cured=_but(task.cured, gone))
        for task in every
        if task.id not in gone
    ]


def _but(names: tuple[str, ...], gone: set[str]) -> tuple[str, ...]:
    return tuple(name for name in names if name not in gone)


# The need that is met once a task of the whole car is done, and its stage.
OVER = {
    "prove-open": ("proved-open", Stage.PROVE),
    "prove-closed": ("proved-closed", Stage.PROVE),
    "aim": ("aimed", Stage.AIM),
    "verify": ("read-after", Stage.VERIFY),
}


def _done(record: Record) -> set[str]:
    """The ids of the tasks that are done."""
    progress = record.once(Progress)
    over = {name for name, (need, stage) in OVER.items() if is_over(progress, need, stage)}
    return over | _done_at_car(record) | _extras_done(record)


def _done_at_car(record: Record) -> set[str]:
    """The ids of what is made safe, fitted, opened and closed."""
    work = record.once(Handwork)
    number = {opening: place for place, opening in enumerate(record.plan.openings)}
    done = {_task_of(step, number) for step in work.steps if work.done(step)}
    return done | {f"fit-{key}" for key in record.sockets if _is_fitted(record, work, key)}


def _task_of(step: Step, number: Mapping[Opening, int]) -> str:
    """The id of the task a step at the car is; "" for one that is part of another."""
    if step.kind in BATTERY_MINUTES:
        return _battery_id(step)
    if step.opening is None:
        return ""
    return f"{'open' if step.kind == 'open' else 'close'}-{number[step.opening]}"


def _is_fitted(record: Record, work: Handwork, key: SocketKey) -> bool:
    """Whether a socket has steps at Fit and all are done."""
    mine = [step for step in work.steps if step.kind == "fit" and step.is_about(key)]
    return bool(mine) and all(map(work.done, mine))


def _extras_done(record: Record) -> set[str]:
    """The ids of the extra work that is ticked, at the unit or as a step of its sockets."""
    done: set[str] = set()
    for key in record.units:
        mine = [socket for socket in record.sockets if socket.of_unit == key]
        ticked = record.ticks(key).union(*(record.ticks(socket) for socket in mine))
        done |= {
            f"{extra.id}-{key}"
            for extra in at_lamp.extra_work(record, key)
            if {Tick.of(TickKind.EXTRA, extra.id), Tick.of(TickKind.FIT, extra.fit)} & ticked
        }
    return done


def _battery_id(step: Step) -> str:
    return f"{step.kind}-{step.ticks[0][1].name}"


def _of_battery(record: Record) -> dict[str, Step]:
    """The steps that take the battery off and put it on, by the ids of their tasks."""
    every = record.once(Handwork).steps
    return {_battery_id(step): step for step in every if step.kind in BATTERY_MINUTES}


def _made(step: Step | None, after: tuple[str, ...]) -> list[Task]:
    """A step at the battery as a task; none where there is none."""
    if step is None:
        return []
    return [Task(_battery_id(step), step.text, BATTERY_MINUTES[step.kind], after=after)]


def _opened(plan: CarPlan, safe: Step | None) -> Iterator[tuple[Task, tuple[UnitKey, ...]]]:
    """Each part opened, after all that stand before it, and what makes its lamps *safe*."""
    seen = [(_battery_id(safe), safe.units)] if safe else []
    for number, opening in enumerate(plan.openings):
        name = f"open-{number}"
        after = tuple(other for other, units in seen if set(units) & set(opening.units))
        seen.append((name, opening.units))
        yield (
            Task(
                name,
                opening.step.text,
                opening.minutes * (OUT_SHARE if opening.step.comes_back else 1.0),
                opening.step.people,
                after=after,
            ),
            opening.units,
        )


def _closed(plan: CarPlan, first: tuple[str, ...], wanted: Iterable[Opening]) -> Iterator[Task]:
    """Each part that is *wanted* closed, in that order, after all that comes *first*; the battery
    on after every other.
    """
    number = {opening: place for place, opening in enumerate(plan.openings)}
    seen: list[tuple[str, tuple[UnitKey, ...]]] = []
    for opening in wanted:
        name = f"close-{number[opening]}"
        mine = set(plan.units if opening.is_battery else opening.units)
        after = (*first, *(other for other, units in seen if set(units) & mine))
        seen.append((name, opening.units))
        yield Task(
            name,
            opening.step.closing_words,
            opening.minutes * (1 - OUT_SHARE),
            opening.step.people,
            after=after,
        )


def _fits(record: Record, open_for: dict[UnitKey, tuple[str, ...]]) -> Iterator[Task]:
    for sockets in at_lamp.fitted_together(record, record.units):
        steps = (step for each in sockets for step in at_lamp.fit_steps(record, each))
        if all(step.at_closing for step in steps):
            continue  # nothing is fitted there
        key = sockets[0]
        shorts = dict.fromkeys(record.front.socket(each).short for each in sockets)
        words = f"Fit {' · '.join(shorts)}, {key.side.value}"
        cures = cure_minutes() if record.is_opened(key.of_unit) else 0.0
        yield Task(
            f"fit-{key}", words, _fit_minutes(record, key), cures=cures, after=open_for[key.of_unit]
        )


def _fit_minutes(record: Record, key: SocketKey) -> float:
    """What fitting a socket takes, with what is put in new like for like; a housing once a lamp."""
    new = at_lamp.renewed(record, key)
    if at_lamp.sockets_of(record, key.of_unit)[0] != key:
        new -= at_lamp.OF_LAMP
    return fit_minutes()[_sort(record, key)] + sum(renew_minutes()[what] for what in new)


def _sort(record: Record, key: SocketKey) -> str:
    """What is put into a socket, as its minutes are told."""
    chosen = record.latest(Chosen, key)
    if chosen is None:
        return "bulb"
    return chosen.source.kind if chosen.source else "stay"


def _extras(record: Record, when: str, after: tuple[str, ...]) -> Iterator[Task]:
    for extra, keys in at_lamp.extra_work_at(record, when, record.units).items():
        for key in keys[:1] if extra.once else keys:
            where = "" if extra.once else f", {record.front.named(key).lower()}"
            yield Task(
                f"{extra.id}-{key}",
                f"{extra.text}{where}",
                extra.minutes,
                cures=extra.cures,
                after=after,
            )


def _stage(
    record: Record,
    name: str,
    words: str,
    after: tuple[str, ...],
    cured: tuple[str, ...] = (),
    dark: bool = False,
) -> Task:
    sides = len({key.side for key in record.units}) or 1
    return Task(name, words, stage_minutes()[name] * sides, after=after, cured=cured, dark=dark)


def on_order(record: Record) -> list[Ordered]:
    """The parts that are on order and not here, by what was said last of each."""
    newest = {order.what.casefold(): order for order in record.all(Ordered)}
    return [order for order in newest.values() if not order.arrived]


def learnt_plan(record: Record, known: Mapping[str, Learnt]) -> CarPlan:
    """The car's plan with the minutes that such cars really took."""
    return compose({key: with_learnt(steps, known) for key, steps in record.ways.items()})


@dataclass(frozen=True)
class WorkingDay:
    """How a job's work falls into hands and wall, minutes."""

    slots: tuple[Slot, ...]
    hands: float
    wall: float


def day_of(every: Sequence[Task], people: int) -> WorkingDay:
    """The schedule of a job's tasks, and how long hands and wall take in it."""
    slots = schedule(every, people)
    hands = max((slot.end for slot in slots if not slot.task.dark), default=0.0)
    return WorkingDay(
        tuple(slots), hands, sum(slot.task.minutes for slot in slots if slot.task.dark)
    )
