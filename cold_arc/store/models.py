"""The tables. A job is its entries; the catalogue and saved routes hold core dataclasses as plain values."""

from __future__ import annotations

import datetime as dt
from typing import Any

from sqlalchemy import JSON, DateTime, ForeignKey, Index, String
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import TypeDecorator


class UtcDateTime(TypeDecorator[dt.datetime]):
    """Aware datetimes, kept as UTC (SQLite itself forgets the zone)."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: dt.datetime | None, dialect: Dialect) -> dt.datetime | None:
        """To UTC without a zone."""
        return value.astimezone(dt.UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: dt.datetime | None, dialect: Dialect) -> dt.datetime | None:
        """Back to UTC with its zone."""
        return value.replace(tzinfo=dt.UTC) if value else None


class Model(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {dict[str, Any]: JSON, list[str]: JSON, dt.datetime: UtcDateTime}  # noqa: RUF012


class JobRow(Model):
    """One job: a car's visit."""

    __tablename__ = "jobs"

    id: Mapped[int] = mapped_column(primary_key=True)
    opened_at: Mapped[dt.datetime]
    closed_at: Mapped[dt.datetime | None]
    entries: Mapped[list[EntryRow]] = relationship(order_by="EntryRow.id", back_populates="job")


class EntryRow(Model):
    """One entry of a job's record; *kind* names the core payload, *payload* holds its plain values."""

    __tablename__ = "entries"
    __table_args__ = (Index("ix_entries_job_id", "job_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    at: Mapped[dt.datetime]
    kind: Mapped[str] = mapped_column(String(40))
    lamps: Mapped[list[str]]
    payload: Mapped[dict[str, Any]]
    undone_at: Mapped[dt.datetime | None]
    job: Mapped[JobRow] = relationship(back_populates="entries")


class LightSourceRow(Model):
    """One light source of the shop's catalogue."""

    __tablename__ = "light_sources"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    base: Mapped[str] = mapped_column(String(20))
    facts: Mapped[dict[str, Any]]
    retired_at: Mapped[dt.datetime | None]


class RouteTemplateRow(Model):
    """An access route saved for the next such car."""

    __tablename__ = "route_templates"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    vehicle: Mapped[str] = mapped_column(String(120))
    function: Mapped[str] = mapped_column(String(20))
    steps: Mapped[dict[str, Any]]
    saved_at: Mapped[dt.datetime]


class SettingRow(Model):
    """One setting of the shop."""

    __tablename__ = "settings"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(String(400))


class BenchSetUpRow(Model):
    """A set-up kept on the bench by name."""

    __tablename__ = "bench_setups"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    facts: Mapped[dict[str, Any]]
    saved_at: Mapped[dt.datetime]
