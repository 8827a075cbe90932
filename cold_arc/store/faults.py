"""How often the shop found each cause: what the next diagnosis weighs besides the table's own
weights.
"""

from __future__ import annotations

from collections import Counter

from sqlalchemy import literal_column, select
from sqlalchemy.orm import Session

from cold_arc.core.job import plausible
from cold_arc.core.job.entries.prove import FaultFound
from cold_arc.store.models import EntryRow

MOST_COUNTED = 2000


def found(session: Session) -> tuple[tuple[str, int], ...]:
    """Each cause found and cured, and how often, of the newest entries."""
    is_found = EntryRow.kind == literal_column(
        "'fault-found'"
    )  # as written in the index, so that it serves
    query = select(EntryRow.version, EntryRow.payload).where(is_found, EntryRow.undone_at.is_(None))
    rows = session.execute(query.order_by(EntryRow.id.desc()).limit(MOST_COUNTED))
    read = (plausible.read("fault-found", version, payload) for version, payload in rows)
    counted = Counter(
        entry.cause for entry in read if isinstance(entry, FaultFound) and entry.cured
    )
    return tuple(sorted(counted.items()))
