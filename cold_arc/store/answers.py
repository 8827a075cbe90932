"""Forms already answered, by the key each carries: sent twice, a form is done once."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import delete, update
from sqlalchemy.orm import Session

from cold_arc.store.jobs import now
from cold_arc.store.models import AnswerRow

KEPT_DAYS = 3


def answered(session: Session, key: str) -> str | None:
    """Where the form of *key* led when it was answered; None if it was not."""
    row = session.get(AnswerRow, key)
    return row.location if row else None


def note(session: Session, key: str) -> None:
    """Counts the form of *key* as answered, once the caller commits."""
    session.add(AnswerRow(key=key, at=now(), location=""))
    session.flush()


def led_to(session: Session, key: str, location: str) -> None:
    """Says where an answered form led."""
    session.execute(update(AnswerRow).where(AnswerRow.key == key).values(location=location[:400]))


def forget_old(session: Session) -> None:
    """Drops the keys of forms nobody will send again."""
    session.execute(delete(AnswerRow).where(AnswerRow.at < now() - dt.timedelta(days=KEPT_DAYS)))
