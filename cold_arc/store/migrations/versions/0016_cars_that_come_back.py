"""What a car is known again by, when it is to come back and when its warranty ends: of jobs handed
over, as their sheet says. Claims are found by an index of their own. What a file of a newer version
said of a job besides is carried on.
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
COLUMNS = ("vin", "plate", "recheck", "warranty_end")


def upgrade() -> None:
    op.add_column("jobs", sa.Column("vin", sa.String(20)))
    op.add_column("jobs", sa.Column("plate", sa.String(15)))
    op.add_column("jobs", sa.Column("recheck", sa.Date()))
    op.add_column("jobs", sa.Column("warranty_end", sa.Date()))
    op.add_column("jobs", sa.Column("carried", sa.JSON()))
    for name in COLUMNS:
        op.create_index(f"ix_jobs_{name}", "jobs", [name])
    op.execute("CREATE INDEX ix_entries_claimed ON entries (kind) WHERE kind = 'claimed'")
    for name in ("recheck", "warranty_end"):
        op.execute(
            f"UPDATE jobs SET {name} = (SELECT json_extract(entries.payload, '$.{name}') FROM entries"
            " WHERE entries.job_id = jobs.id AND entries.kind = 'handed-over' AND entries.undone_at IS NULL"
            " AND json_valid(entries.payload) ORDER BY entries.id DESC LIMIT 1)"
        )


def downgrade() -> None:
    op.drop_column("jobs", "carried")
    op.drop_index("ix_entries_claimed", "entries")
    for name in COLUMNS:
        op.drop_index(f"ix_jobs_{name}", "jobs")
        op.drop_column("jobs", name)
