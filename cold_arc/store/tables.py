"""Every job of the shop as rows of a table, one job read at a time."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.job.tables import Row, ShopTable
from cold_arc.store import cars
from cold_arc.store.models import JobRow


def rows(session: Session, table: ShopTable) -> Iterator[Row]:
    """A table's rows over all jobs, the oldest first."""
    for number in session.scalars(select(JobRow.id).order_by(JobRow.id)).all():
        visit = cars.visit(session, number)
        if visit is not None:
            yield from table.rows(visit)
