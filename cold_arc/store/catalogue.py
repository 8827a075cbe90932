"""The shop's light sources, its saved access routes and its settings."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.access import RouteStep
from cold_arc.core.light_source import LightSource
from cold_arc.core.record import Routed, structure, to_plain
from cold_arc.store.jobs import now
from cold_arc.store.models import LightSourceRow, RouteTemplateRow, SettingRow


def add_light_source(session: Session, source: LightSource) -> int:
    """Adds a light source; returns its id."""
    row = LightSourceRow(name=source.name, base=source.base, facts=to_plain(source))
    session.add(row)
    session.flush()
    return row.id


def change_light_source(session: Session, source_id: int, source: LightSource) -> None:
    """Replaces what the catalogue says of one; choices already made keep what they saw."""
    row = session.get_one(LightSourceRow, source_id)
    row.name, row.base, row.facts = source.name, source.base, to_plain(source)


def take_in(session: Session, sources: Iterable[LightSource]) -> tuple[int, int]:
    """Adds sources, or changes those of the same base and name; returns how many of each."""
    known = {(row.base, row.name.casefold()): row for row in session.scalars(select(LightSourceRow))}
    added = changed = 0
    for source in sources:
        row = known.get((source.base, source.name.casefold()))
        if row is None:
            row = LightSourceRow()
            session.add(row)
            known[source.base, source.name.casefold()] = row
            added += 1
        else:
            changed += 1
        row.name, row.base, row.facts = source.name, source.base, to_plain(source)
    session.flush()
    return added, changed


def retire_light_source(session: Session, source_id: int, retired: bool) -> None:
    """Takes one off the shelf, or puts it back."""
    session.get_one(LightSourceRow, source_id).retired_at = now() if retired else None


def light_sources(session: Session, retired: bool = False) -> dict[int, LightSource]:
    """The light sources on the shelf by id (or the retired ones), by base and name."""
    on_shelf = LightSourceRow.retired_at.is_not(None) if retired else LightSourceRow.retired_at.is_(None)
    query = select(LightSourceRow).where(on_shelf).order_by(LightSourceRow.base, LightSourceRow.name)
    return {row.id: structure(row.facts, LightSource) for row in session.scalars(query)}


def save_route(session: Session, route: Routed, vehicle: str, function: str) -> None:
    """Saves a route for the next such car; one of the same name, car and lamp is replaced."""
    query = select(RouteTemplateRow).filter_by(name=route.name, vehicle=vehicle, function=function)
    row = session.scalars(query).one_or_none()
    if row is None:
        row = RouteTemplateRow(name=route.name, vehicle=vehicle, function=function)
        session.add(row)
    row.steps, row.saved_at = {"steps": to_plain(route)["steps"]}, now()
    session.flush()


def saved_routes(session: Session, vehicle: str, function: str) -> dict[int, tuple[RouteTemplateRow, Routed]]:
    """Saved routes by id, those for this car and lamp first."""
    rows = session.scalars(select(RouteTemplateRow).order_by(RouteTemplateRow.saved_at.desc())).all()
    ordered = sorted(rows, key=lambda row: (row.vehicle != vehicle, row.function != function))
    return {row.id: (row, Routed(row.name, structure(row.steps["steps"], tuple[RouteStep, ...]))) for row in ordered}


def setting(session: Session, key: str, default: str = "") -> str:
    """One setting of the shop."""
    row = session.get(SettingRow, key)
    return row.value if row else default


def set_setting(session: Session, key: str, value: str) -> None:
    """Keeps one setting of the shop."""
    session.merge(SettingRow(key=key, value=value))
    session.flush()
