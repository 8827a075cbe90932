"""What a car is known again by, and when it is to come back: of jobs handed over, as their sheet
says. Claims are found by an index of their own.
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("vin", sa.String(20)))
    op.add_column("jobs", sa.Column("plate", sa.String(15)))
    op.add_column("jobs", sa.Column("recheck", sa.Date()))
    for name in ("vin", "plate", "recheck"):
        op.create_index(f"ix_jobs_{name}", "jobs", [name])
    op.execute("CREATE INDEX ix_entries_claimed ON entries (kind) WHERE kind = 'claimed'")
    op.execute(
        "UPDATE jobs SET recheck = (SELECT json_extract(entries.payload, '$.recheck') FROM entries"
        " WHERE entries.job_id = jobs.id AND entries.kind = 'handed-over' AND entries.undone_at IS NULL"
        " AND json_valid(entries.payload) ORDER BY entries.id DESC LIMIT 1)"
    )


def downgrade() -> None:
    op.drop_index("ix_entries_claimed", "entries")
    for name in ("vin", "plate", "recheck"):
        op.drop_index(f"ix_jobs_{name}", "jobs")
        op.drop_column("jobs", name)
