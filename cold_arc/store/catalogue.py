"""The shop's light sources, its saved access routes and its settings."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.job import plausible
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.entries.plan import Routed
from cold_arc.core.light_source import LightSource
from cold_arc.core.work.access import with_undoing
from cold_arc.store.jobs import now
from cold_arc.store.models import (
    LightSourceHistoryRow,
    LightSourceRow,
    RouteTemplateRow,
    SettingRow,
)

# Where a session keeps the settings it read, with the transaction they were read in.
_SETTINGS = "settings"


def add_light_source(session: Session, source: LightSource) -> int:
    """Adds a light source; returns its id. ImplausibleError for what can't be stored."""
    plausible.check(source)
    row = LightSourceRow(name=source.name, base=source.base, facts=to_plain(source))
    session.add(row)
    _note(session, row, "added")
    return row.id


def change_light_source(session: Session, source_id: int, source: LightSource) -> None:
    """Replaces what the catalogue says of one; choices already made keep what they saw."""
    plausible.check(source)
    row = session.get_one(LightSourceRow, source_id)
    row.name, row.base, row.facts = source.name, source.base, to_plain(source)
    _note(session, row, "changed")


def _note(session: Session, row: LightSourceRow, what: str) -> None:
    """One more line of a source's history."""
    session.flush()
    session.add(LightSourceHistoryRow(source_id=row.id, at=now(), what=what, facts=row.facts))


@dataclass(frozen=True)
class ShelfChange:
    """One line of a source's history: when, what was done, and each fact that changed, as it was
    and as it became.
    """

    at: dt.datetime
    what: str
    facts: tuple[tuple[str, Any, Any], ...]


def history(session: Session, source_id: int, most: int = 50) -> list[ShelfChange]:
    """What was done to a source, newest first; of a row that can't be read, no facts."""
    query = (
        select(LightSourceHistoryRow)
        .filter_by(source_id=source_id)
        .order_by(LightSourceHistoryRow.id.desc())
    )
    rows = session.scalars(query.limit(most + 1)).all()
    facts = [row.facts if isinstance(row.facts, dict) else {} for row in rows]
    before = [*facts[1:], *facts[-1:]]
    return [
        ShelfChange(row.at, row.what, changed_facts(old, new) if old and new else ())
        for row, old, new in zip(rows, before, facts, strict=True)
    ][:most]


def changed_facts(
    old: Mapping[str, Any], new: Mapping[str, Any]
) -> tuple[tuple[str, Any, Any], ...]:
    """Facts that differ: name, old, new."""
    return tuple(
        (name, old.get(name), new.get(name))
        for name in {**old, **new}
        if old.get(name) != new.get(name)
    )


def take_in(session: Session, sources: Iterable[LightSource]) -> tuple[int, int]:
    """Adds sources, or changes those of the same base and name; returns how many of each."""
    known = {
        (row.base, row.name.casefold()): row for row in session.scalars(select(LightSourceRow))
    }
    added = changed = 0
    for source in sources:
        row = known.get((source.base, source.name.casefold()))
        if row is None:
            row = LightSourceRow(name=source.name, base=source.base, facts=to_plain(source))
            session.add(row)
            known[source.base, source.name.casefold()] = row
            added += 1
            _note(session, row, "added")
        else:
            changed += 1
            row.name, row.base, row.facts = source.name, source.base, to_plain(source)
            _note(session, row, "changed")
    session.flush()
    return added, changed


def retire_light_source(session: Session, source_id: int, retired: bool) -> None:
    """Takes one off the shelf, or puts it back."""
    row = session.get_one(LightSourceRow, source_id)
    if bool(row.retired_at) is not retired:
        row.retired_at = now() if retired else None
        _note(session, row, "retired" if retired else "put back")


def light_sources(session: Session, retired: bool = False) -> dict[int, LightSource]:
    """The light sources on the shelf by id (or the retired ones), by base and name.

    One that can't be read stays in its row and is left out.
    """
    on_shelf = (
        LightSourceRow.retired_at.is_not(None) if retired else LightSourceRow.retired_at.is_(None)
    )
    query = (
        select(LightSourceRow).where(on_shelf).order_by(LightSourceRow.base, LightSourceRow.name)
    )
    read = {
        row.id: plausible.read_or_none(row.facts, LightSource) for row in session.scalars(query)
    }
    return {number: source for number, source in read.items() if source is not None}


def save_route(session: Session, route: Routed, vehicle: str, unit: str) -> None:
    """Saves a route for the next such car; one of the same name, car and unit is replaced."""
    query = select(RouteTemplateRow).filter_by(name=route.name, vehicle=vehicle, unit=unit)
    row = session.scalars(query).one_or_none()
    if row is None:
        row = RouteTemplateRow(name=route.name, vehicle=vehicle, unit=unit)
        session.add(row)
    row.steps, row.saved_at = {"steps": to_plain(route)["steps"]}, now()
    session.flush()


def stored_route(name: str, stored: Any) -> Routed | None:
    """A saved route from its row's name and JSON; None for one that can't be read."""
    if not isinstance(stored, dict) or not isinstance(steps := stored.get("steps"), list):
        return None
    lifted = [
        with_undoing(step) if isinstance(step, dict) and isinstance(step.get("text"), str) else step
        for step in steps
    ]
    return plausible.read_or_none({"name": name, "steps": lifted}, Routed)


def saved_routes(
    session: Session, vehicle: str, unit: str
) -> dict[int, tuple[RouteTemplateRow, Routed]]:
    """Saved routes by id, those for this car and unit first."""
    rows = session.scalars(
        select(RouteTemplateRow).order_by(RouteTemplateRow.saved_at.desc())
    ).all()
    ordered = sorted(rows, key=lambda row: (row.vehicle != vehicle, row.unit != unit))
    read = {row.id: (row, stored_route(row.name, row.steps)) for row in ordered}
    return {number: (row, route) for number, (row, route) in read.items() if route is not None}


def setting(session: Session, key: str, default: str = "") -> str:
    """One setting of the shop."""
    return _settings(session).get(key, default)


def _settings(session: Session) -> dict[str, str]:
    """All of them, read at once and known until the transaction ends."""
    known = session.info.get(_SETTINGS)
    if known is None or known[0] is not session.get_transaction():
        rows = session.execute(select(SettingRow.key, SettingRow.value))
        known = session.info[_SETTINGS] = (
            session.get_transaction(),
            {row.key: row.value for row in rows},
        )
    return cast(dict[str, str], known[1])


def set_setting(session: Session, key: str, value: str) -> None:
    """Keeps one setting of the shop."""
    session.merge(SettingRow(key=key, value=value))
    session.flush()
    session.info.pop(_SETTINGS, None)
