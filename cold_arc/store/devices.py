"""The telephones and tablets let in: each known by a token of its own, kept as a digest."""

from __future__ import annotations

import hashlib
import secrets

from sqlalchemy import select
from sqlalchemy.orm import Session

from cold_arc.store.jobs import now
from cold_arc.store.models import DeviceRow

LONGEST_NAME = 120


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def let_in(session: Session, name: str) -> str:
    """Lets a device in under a name; the token it is known by from now on."""
    token = secrets.token_urlsafe(24)
    session.add(DeviceRow(digest=_digest(token), name=name[:LONGEST_NAME], since=now()))
    session.flush()
    return token


def is_known(session: Session, token: str) -> bool:
    """Whether a device was let in, and not thrown out since."""
    query = select(DeviceRow.id).where(
        DeviceRow.digest == _digest(token), DeviceRow.out_at.is_(None)
    )
    return session.scalar(query) is not None


def let_in_now(session: Session) -> list[DeviceRow]:
    """The devices that are let in, the newest first."""
    query = select(DeviceRow).where(DeviceRow.out_at.is_(None)).order_by(DeviceRow.id.desc())
    return list(session.scalars(query))


def throw_out(session: Session, device_id: int | None = None) -> int:
    """Throws a device out, or all of them; how many were in."""
    rows = [row for row in let_in_now(session) if device_id in (None, row.id)]
    for row in rows:
        row.out_at = now()
    session.flush()
    return len(rows)
