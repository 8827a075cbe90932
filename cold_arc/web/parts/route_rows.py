"""The steps of a way in as rows: of one lamp's route, and of the whole car's plan, out and back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from cold_arc.core.job.record import Record
from cold_arc.core.units import say_minutes
from cold_arc.core.work.access import ONE_WAY, PLUGGED, RISKS, RouteStep, cautions
from cold_arc.core.work.composing import CarPlan, Opening
from cold_arc.core.work.learning import Learnt, part_of

MARKS = {ONE_WAY: "never undone", PLUGGED: "plugged in before proving"}
NOT_DONE = "not done: no bulb comes out of it"
LEAVES_WHOLE = "not done: the lamp leaves whole"


@dataclass(frozen=True)
class RouteRow:
    """One step in words: its badges, *asides* in quiet words, *plugs* lines, and the *learnt*
    minutes beside its own where it was done before.
    """

    text: str
    badges: tuple[str, ...]
    risk: str
    asides: tuple[str, ...]
    fasteners: tuple[str, ...]
    plugs: tuple[str, ...]
    caution: str
    minutes: float | None
    learnt: str = ""


def route_row(step: RouteStep, texts: Mapping[int, str], leaves: bool) -> RouteRow:
    """A step of one lamp's route; *texts*: its steps' words by id, of those that are done;
    *leaves*: whether the whole lamp leaves the car.
    """
    badges = [MARKS[step.kind]] if step.kind in MARKS else []
    if step.id not in texts:
        badges.insert(0, LEAVES_WHOLE if leaves else NOT_DONE)
    if step.shared or step.opens:
        badges.append("once for both" if step.shared else f"opens {step.opens}")
    return _row(step, texts.get(step.id, step.text), badges, [])


def opened_rows(plan: CarPlan, record: Record, known: Mapping[str, Learnt]) -> list[RouteRow]:
    """The whole car's steps as they are opened, with what the shop learnt of each part."""
    raw = {part_of(step): step.minutes for steps in record.ways.values() for step in steps}
    return [_opened(opening, record, raw, known) for opening in plan.openings]


def closed_rows(plan: CarPlan, record: Record) -> list[RouteRow]:
    """The whole car's steps as they are closed, once all is proved."""
    return [_closed(opening, record) for opening in (*plan.covers, *plan.bonnet)]


def plugged_in(plan: CarPlan, record: Record) -> list[str]:
    """What is plugged in again before anything is proved, and at which lamp."""
    openings = plan.plugged_in
    return [f"{each.step.closing_words}: {_where(each, record)}." for each in openings]


def _opened(
    opening: Opening, record: Record, raw: Mapping[str, float], known: Mapping[str, Learnt]
) -> RouteRow:
    part = part_of(opening.step)
    before = known.get(part)
    learnt = (
        f"planned {say_minutes(raw[part])}, took {say_minutes(before.actual)} (n {before.n})"
        if before and before.n
        else ""
    )
    where, lamps = [_where(opening, record)], list(_lamps(opening))
    return _row(opening.step, opening.step.text, where, lamps, opening.minutes, learnt)


def _closed(opening: Opening, record: Record) -> RouteRow:
    step = opening.step
    people = [f"{step.people} people"] if step.people > 1 else []
    return RouteRow(
        text=step.closing_words,
        badges=(_where(opening, record), *people),
        risk="",
        asides=tuple(_lamps(opening)),
        fasteners=tuple(group.words for group in step.fasteners),
        plugs=tuple(_listed("Plug in again", step.unplug)),
        caution="",
        minutes=None,
    )


def _row(
    step: RouteStep,
    text: str,
    badges: list[str],
    asides: list[str],
    minutes: float | None = None,
    learnt: str = "",
) -> RouteRow:
    """A step as it is opened."""
    people = [f"{step.people} people"] if step.people > 1 else []
    plugs = (*_listed("Unplug first", step.unplug), *_listed("Leave plugged", step.keep))
    return RouteRow(
        text,
        badges=(*badges, *people),
        risk=f"risk {RISKS[step.risk]}" if step.risk > 1 else "",
        asides=(*asides, *([", ".join(step.tools)] if step.tools else [])),
        fasteners=tuple(group.words for group in step.fasteners),
        plugs=plugs,
        caution=cautions()[step.caution] if step.caution else "",
        minutes=step.minutes if minutes is None else minutes,
        learnt=learnt,
    )


def _where(opening: Opening, record: Record) -> str:
    """At which lamp, on which side, or once for the car."""
    if opening.place.unit:
        return record.front.named(opening.units[0])
    return f"{opening.place.side.value} side" if opening.place.side else "once"


def _lamps(opening: Opening) -> Iterator[str]:
    """How many lamps lie behind it, where more than one does."""
    if len(opening.units) > 1:
        yield f"for {len(opening.units)} lamps"


def _listed(title: str, names: tuple[str, ...]) -> Iterator[str]:
    if names:
        yield f"{title}: {', '.join(names)}"
