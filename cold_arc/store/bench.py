"""Set-ups kept on the bench by name."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.core.beam.setup import SetUp
from cold_arc.core.job.codec import to_plain
from cold_arc.core.job.plausible import read_or_none
from cold_arc.store.jobs import now
from cold_arc.store.models import BenchSetUpRow


def keep_setup(session: Session, name: str, setup: SetUp) -> int:
    """Keeps a set-up under a name, in place of one so named; returns its id."""
    row = session.scalars(select(BenchSetUpRow).filter_by(name=name)).one_or_none()
    if row is None:
        row = BenchSetUpRow(name=name)
        session.add(row)
    row.facts, row.saved_at = to_plain(setup), now()
    session.flush()
    return row.id


def kept_setups(session: Session) -> dict[int, tuple[str, SetUp]]:
    """Names and set-ups by id, by name; one this version can't read stays in its row and is left
    out.
    """
    rows = session.scalars(select(BenchSetUpRow).order_by(BenchSetUpRow.name))
    read = {row.id: (row.name, read_or_none(row.facts, SetUp)) for row in rows}
    return {number: (name, setup) for number, (name, setup) in read.items() if setup is not None}


def drop_setup(session: Session, setup_id: int) -> None:
    """Forgets a kept set-up."""
    if row := session.get(BenchSetUpRow, setup_id):
        session.delete(row)
