"""Records are chained: every entry that stands is linked now, marked as chained late, and every
undoing after them.

The digests are worked out here as they are defined today (docs/proof.md), by a copy of the
definition: what later changes in the program must not change what this wrote.
"""

import hashlib
import json
from typing import Any

import rfc8785
import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "links",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("entry_id", sa.Integer(), sa.ForeignKey("entries.id"), nullable=False),
        sa.Column("what", sa.String(8), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("late", sa.Boolean(), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
    )
    op.create_index("ix_links_job_id", "links", ["job_id"])
    op.create_index("ix_links_digest", "links", ["digest"])
    database = op.get_bind()
    for (job_id,) in database.execute(sa.text("SELECT id FROM jobs ORDER BY id")).all():
        _chain(database, job_id)


def _chain(database: Any, job_id: int) -> None:
    rows = database.execute(
        sa.text(
            "SELECT id, at, kind, version, about, payload, undone_at FROM entries "
            "WHERE job_id = :job ORDER BY id"
        ),
        {"job": job_id},
    ).all()
    before = ""
    added = [("entry", place, row) for place, row in enumerate(rows, 1)]
    undone = [("undo", place, row) for place, row in enumerate(rows, 1) if row[6] is not None]
    for what, place, row in (*added, *undone):
        at = _moment(row[1] if what == "entry" else row[6])
        plain: dict[str, Any] = {"before": before, "what": what, "place": place, "at": at, "late": True}
        if what == "entry":
            plain |= {
                "kind": str(row[2]),
                "version": row[3],
                "entered": at,
                "about": _value(str(row[4])),
                "payload": _value(str(row[5])),
            }
        before = hashlib.sha256(rfc8785.dumps(plain)).hexdigest()
        database.execute(
            sa.text(
                "INSERT INTO links (job_id, entry_id, what, at, late, digest) "
                "VALUES (:job, :entry, :what, :at, 1, :digest)"
            ),
            {
                "job": job_id,
                "entry": row[0],
                "what": what,
                "at": at.replace("T", " ").removesuffix("Z"),
                "digest": before,
            },
        )


def _moment(stored: Any) -> str:
    """A stored moment as ISO 8601; what is none as the program reads a damaged one."""
    text = str(stored).replace(" ", "T")
    whole = text if "." in text else f"{text}.000000"
    is_moment = len(whole) == 26 and whole[10] == "T"
    return f"{whole}Z" if is_moment else "1970-01-01T00:00:00.000000Z"


def _value(text: str) -> Any:
    try:
        value = json.loads(text)
        rfc8785.dumps(value)
    except (ValueError, RecursionError):
        return {"text": text}
    return value if json.dumps(value) == text else {"text": text}


def downgrade() -> None:
    op.drop_table("links")
