"""The tables. A job is its entries; the catalogue and saved routes hold core dataclasses as plain
values.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from typing import Any

from sqlalchemy import JSON, Date, DateTime, ForeignKey, Index, String, text
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import TypeDecorator

LOST_MOMENT = dt.datetime(1970, 1, 1, tzinfo=dt.UTC)


class UtcDateTime(TypeDecorator[dt.datetime]):
    """Aware datetimes, kept as UTC (SQLite itself forgets the zone); a damaged one is
    LOST_MOMENT.
    """

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: dt.datetime | None, dialect: Dialect) -> dt.datetime | None:
        """To UTC without a zone."""
        return value.astimezone(dt.UTC).replace(tzinfo=None) if value else None

    def process_result_value(
        self, value: dt.datetime | None, dialect: Dialect
    ) -> dt.datetime | None:
        """Back to UTC with its zone."""
        return value.replace(tzinfo=dt.UTC) if value else None

    def result_processor(self, dialect: Dialect, coltype: Any) -> Any:
        """A damaged moment must not keep its row, or any other, from being read."""
        return _or_else(super().result_processor(dialect, coltype), LOST_MOMENT)


class DateOrNone(TypeDecorator[dt.date]):
    """A date; a damaged one is none."""

    impl = Date
    cache_ok = True

    def result_processor(self, dialect: Dialect, coltype: Any) -> Any:
        """A damaged date must not keep its row, or any other, from being read."""
        return _or_else(super().result_processor(dialect, coltype), None)


def _or_else(read: Callable[[Any], Any] | None, lost: Any) -> Callable[[Any], Any]:
    def tolerant(value: Any) -> Any:
        try:
            return read(value) if read else value
        except (ValueError, TypeError):
            return lost

    return tolerant


class Model(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {  # noqa: RUF012
        dict[str, Any]: JSON(none_as_null=True),
        list[str]: JSON,
        dt.datetime: UtcDateTime,
        dt.date: DateOrNone,
    }


class JobRow(Model):
    """One job: a car's visit; *starts*: the day it is worked on. *vin* and *plate*: what the car is
    known again by, as compared; *recheck*: the day it is to come back, None once it did;
    *warranty_end* of its parts; *carried*: what a file of a newer version said of it besides.
    *board* keeps what the board shows of it, *words* what it is found by; None until worked out
    anew."""

    __tablename__ = "jobs"
    __table_args__ = (
        Index("ix_jobs_closed_due", "closed_at", "due"),
        Index("ix_jobs_found", "closed_at", "due", "words"),
        Index("ix_jobs_starts", "starts"),
        Index("ix_jobs_vin", "vin"),
        Index("ix_jobs_plate", "plate"),
        Index("ix_jobs_recheck", "recheck"),
        Index("ix_jobs_warranty_end", "warranty_end"),
        Index("ix_jobs_without_board", "id", sqlite_where=text("board IS NULL")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    opened_at: Mapped[dt.datetime]
    closed_at: Mapped[dt.datetime | None]
    due: Mapped[dt.date | None]
    starts: Mapped[dt.date | None]
    vin: Mapped[str | None] = mapped_column(String(20))
    plate: Mapped[str | None] = mapped_column(String(15))
    recheck: Mapped[dt.date | None]
    warranty_end: Mapped[dt.date | None]
    carried: Mapped[dict[str, Any] | None]
    board: Mapped[dict[str, Any] | None]
    words: Mapped[str | None]
    entries: Mapped[list[EntryRow]] = relationship(order_by="EntryRow.id", back_populates="job")


class EntryRow(Model):
    """One entry of a job's record; *kind* and *version* say what its payload is, *about* the keys
    it speaks of.
    """

    __tablename__ = "entries"
    __table_args__ = (
        Index("ix_entries_job_id", "job_id"),
        Index("ix_entries_faults_found", "kind", sqlite_where=text("kind = 'fault-found'")),
        Index("ix_entries_claimed", "kind", sqlite_where=text("kind = 'claimed'")),
        Index("ix_entries_housings_read", "kind", sqlite_where=text("kind = 'housing-read'")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    at: Mapped[dt.datetime]
    kind: Mapped[str] = mapped_column(String(40))
    version: Mapped[int]
    about: Mapped[list[str]]
    payload: Mapped[dict[str, Any]]
    undone_at: Mapped[dt.datetime | None]
    job: Mapped[JobRow] = relationship(back_populates="entries")


class LinkRow(Model):
    """One link of a job's chain (:mod:`cold_arc.core.job.chain`)."""

    __tablename__ = "links"
    __table_args__ = (Index("ix_links_job_id", "job_id"), Index("ix_links_digest", "digest"))

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    entry_id: Mapped[int] = mapped_column(ForeignKey("entries.id"))
    what: Mapped[str] = mapped_column(String(8))
    at: Mapped[dt.datetime]
    late: Mapped[bool]
    digest: Mapped[str] = mapped_column(String(64))


class LightSourceRow(Model):
    """One light source of the shop's catalogue."""

    __tablename__ = "light_sources"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    base: Mapped[str] = mapped_column(String(20))
    facts: Mapped[dict[str, Any]]
    retired_at: Mapped[dt.datetime | None]


class LightSourceHistoryRow(Model):
    """What a light source's facts were from a moment on, and what was done then."""

    __tablename__ = "light_source_history"
    __table_args__ = (Index("ix_light_source_history_source_id", "source_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    source_id: Mapped[int] = mapped_column(ForeignKey("light_sources.id"))
    at: Mapped[dt.datetime]
    what: Mapped[str] = mapped_column(String(20))
    facts: Mapped[dict[str, Any]]


class OutcomeRow(Model):
    """What one job measured of one source in one beam: *facts* a core ``Measured``; *predicted*
    ratios by place, None until worked out."""

    __tablename__ = "outcomes"
    __table_args__ = (
        Index("ix_outcomes_job_id", "job_id"),
        Index("ix_outcomes_lamp", "base", "optic", "function"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    beam: Mapped[str] = mapped_column(String(40))
    source: Mapped[str] = mapped_column(String(80))
    base: Mapped[str] = mapped_column(String(20))
    optic: Mapped[str] = mapped_column(String(20))
    function: Mapped[str] = mapped_column(String(20))
    facts: Mapped[dict[str, Any]]
    predicted: Mapped[dict[str, Any] | None]


class WorkDoneRow(Model):
    """What one part of one car took in one job; *facts* a core ``Done``."""

    __tablename__ = "work_done"
    __table_args__ = (
        Index("ix_work_done_job_id", "job_id"),
        Index("ix_work_done_vehicle", "vehicle"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    vehicle: Mapped[str] = mapped_column(String(120))
    part: Mapped[str] = mapped_column(String(200))
    facts: Mapped[dict[str, Any]]


class PictureRow(Model):
    """A picture taken at the car, as JPEG, and a small one of it, by the digests of their files
    (:mod:`cold_arc.store.picture_files`); its *number* within its job, by which the record goes.
    """

    __tablename__ = "pictures"
    __table_args__ = (Index("ix_pictures_number", "job_id", "number", unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("jobs.id"))
    number: Mapped[int] = mapped_column(server_default="0")
    at: Mapped[dt.datetime]
    jpeg_sum: Mapped[str] = mapped_column(String(64), server_default="")
    small_sum: Mapped[str] = mapped_column(String(64), server_default="")


class PictureOriginalRow(Model):
    """A picture as it came from the camera, by the digest of its file."""

    __tablename__ = "picture_originals"

    picture_id: Mapped[int] = mapped_column(ForeignKey("pictures.id"), primary_key=True)
    sum: Mapped[str] = mapped_column(String(64), server_default="")


class AimRuleRow(Model):
    """A shop's own copy of an aim rule."""

    __tablename__ = "aim_rules"

    id: Mapped[int] = mapped_column(primary_key=True)
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)


class AnswerRow(Model):
    """A form that was answered, by the key it carried, so that sent twice it is done once."""

    __tablename__ = "answers"
    __table_args__ = (Index("ix_answers_at", "at"),)

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    at: Mapped[dt.datetime]
    location: Mapped[str] = mapped_column(String(400))


class RouteTemplateRow(Model):
    """An access route saved for the next such car."""

    __tablename__ = "route_templates"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    vehicle: Mapped[str] = mapped_column(String(120))
    unit: Mapped[str] = mapped_column(String(20))
    steps: Mapped[dict[str, Any]]
    saved_at: Mapped[dt.datetime]


class SettingRow(Model):
    """One setting of the shop."""

    __tablename__ = "settings"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(String(400))


class DeviceRow(Model):
    """A telephone or tablet of the shop's network: what its token digests to, what it is told by,
    until when it was let in.
    """

    __tablename__ = "devices"

    id: Mapped[int] = mapped_column(primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    name: Mapped[str] = mapped_column(String(120))
    since: Mapped[dt.datetime]
    out_at: Mapped[dt.datetime | None]


class SchoolQuestionRow(Model):
    """One question of the school: whose, in which round as which; how it was answered, None while
    it is open.
    """

    __tablename__ = "school_questions"
    __table_args__ = (
        Index("ix_school_questions_place", "round", "number", unique=True),
        Index("ix_school_questions_learner", "learner"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    learner: Mapped[str] = mapped_column(String(60))
    round: Mapped[str] = mapped_column(String(32))
    number: Mapped[int]
    skill: Mapped[str] = mapped_column(String(40))
    level: Mapped[int]
    seed: Mapped[int]
    lamp: Mapped[dict[str, Any] | None]
    asked_at: Mapped[dt.datetime]
    answered_at: Mapped[dt.datetime | None]
    answer: Mapped[str] = mapped_column(String(400), server_default="")
    right: Mapped[bool | None]
    sure: Mapped[int | None]
    guessed: Mapped[float] = mapped_column(server_default="0")
    taken_for: Mapped[str] = mapped_column(String(40), server_default="")


class SchoolTaskRow(Model):
    """A set of skills somebody was given to practise, and when."""

    __tablename__ = "school_tasks"
    __table_args__ = (Index("ix_school_tasks_learner", "learner"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    learner: Mapped[str] = mapped_column(String(60))
    skills: Mapped[list[str]]
    given_at: Mapped[dt.datetime]


class BenchSetUpRow(Model):
    """A set-up kept on the bench by name."""

    __tablename__ = "bench_setups"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    facts: Mapped[dict[str, Any]]
    saved_at: Mapped[dt.datetime]


# The names of all tables there are, the migrations' own apart.
TABLES = frozenset(Model.metadata.tables)
