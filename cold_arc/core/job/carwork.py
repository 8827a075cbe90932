"""A car's whole work as tasks for a timeline: extra work, opening, fitting, proving, closing, aiming, verifying.

Everything that needs what is before it comes after it; closing waits for all work behind; aiming waits for a coat to
cure. Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterator

from cold_arc.core.car.front import SocketKey, UnitKey
from cold_arc.core.job.entries import Chosen, Ordered
from cold_arc.core.job.record import Record
from cold_arc.core.work.composing import CarPlan
from cold_arc.core.work.extras import Extra, fit_minutes, stage_minutes
from cold_arc.core.work.schedule import Task

# Of a part's minutes out and back, the share to open it.
OUT_SHARE = 0.5


def tasks(record: Record, plan: CarPlan) -> list[Task]:
    """The tasks of a job, in the order of the work, from its record and the plan of its ways in."""
    before, behind = list(_extras(record, "before", ())), list(_opened(plan))
    open_for = {key: tuple(it.id for it, units in behind if key in units) for key in record.units}
    inside = [*_fits(record, open_for), *_extras(record, "open", tuple(it.id for it, _ in behind))]
    proved = _stage(record, "prove-open", "Prove, open", after=tuple(it.id for it in inside))
    closings = list(_closed(plan, proved.id))
    shut = _stage(record, "prove-closed", "Prove, closed", after=tuple(it.id for it in closings) or (proved.id,))
    cured = tuple(it.id for it in before)
    aim = _stage(record, "aim", "Aim", after=(shut.id,), cured=cured, dark=True)
    verify = _stage(record, "verify", "Verify", after=(aim.id,), dark=True)
    wall = [aim, verify] if record.road_beams else []
    return [*before, *(it for it, _ in behind), *inside, proved, *closings, shut, *wall]


def _opened(plan: CarPlan) -> Iterator[tuple[Task, tuple[UnitKey, ...]]]:
    """Each part opened, after all that stand before it."""
    seen: list[tuple[str, tuple[UnitKey, ...]]] = []
    for number, it in enumerate(plan.openings):
        name = f"open-{number}"
        after = tuple(other for other, units in seen if set(units) & set(it.units))
        seen.append((name, it.units))
        yield Task(name, it.step.text, it.minutes * OUT_SHARE, it.step.people, after=after), it.units


def _closed(plan: CarPlan, proved: str) -> Iterator[Task]:
    """Each part closed, in the exact reverse."""
    seen: list[tuple[str, tuple[UnitKey, ...]]] = []
    for number, it in reversed(list(enumerate(plan.openings))):
        name = f"close-{number}"
        after = (proved, *(other for other, units in seen if set(units) & set(it.units)))
        seen.append((name, it.units))
        yield Task(name, f"Back: {it.step.text}", it.minutes * (1 - OUT_SHARE), it.step.people, after=after)


def _fits(record: Record, open_for: dict[UnitKey, tuple[str, ...]]) -> Iterator[Task]:
    for key in record.sockets:
        words = f"Fit {record.front.socket(key).short}, {key.side.value}"
        yield Task(f"fit-{key}", words, fit_minutes()[_sort(record, key)], after=open_for[key.of_unit])


def _sort(record: Record, key: SocketKey) -> str:
    """What is put into a socket, as its minutes are told."""
    chosen = record.latest(Chosen, key)
    if chosen is None:
        return "bulb"
    return chosen.source.kind if chosen.source else "stay"


def _extras(record: Record, when: str, after: tuple[str, ...]) -> Iterator[Task]:
    asked: dict[Extra, list[UnitKey]] = {}
    for key in record.units:
        for extra in record.extras(key):
            if extra.when == when:
                asked.setdefault(extra, []).append(key)
    for extra, keys in asked.items():
        for key in keys[:1] if extra.once else keys:
            where = "" if extra.once else f", {record.front.words(key).lower()} {key.side.value}"
            yield Task(f"{extra.id}-{key}", f"{extra.text}{where}", extra.minutes, cures=extra.cures, after=after)


def _stage(
    record: Record, name: str, words: str, after: tuple[str, ...], cured: tuple[str, ...] = (), dark: bool = False
) -> Task:
    sides = len({key.side for key in record.units}) or 1
    return Task(name, words, stage_minutes()[name] * sides, after=after, cured=cured, dark=dark)


def on_order(record: Record) -> list[Ordered]:
    """The parts that are on order and not here, by what was said last of each."""
    newest = {it.what.casefold(): it for it in record.all(Ordered)}
    return [it for it in newest.values() if not it.arrived]
