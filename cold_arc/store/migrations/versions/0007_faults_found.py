"""Faults found are counted for the next diagnosis: an index over those entries alone."""

from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.execute("CREATE INDEX ix_entries_faults_found ON entries (kind) WHERE kind = 'fault-found'")


def downgrade() -> None:
    op.drop_index("ix_entries_faults_found", "entries")
