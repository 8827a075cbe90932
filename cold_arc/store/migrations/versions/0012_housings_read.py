"""Housings read from a wall serve the next car of the same make and model: an index over those
entries alone.
"""

from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.execute("CREATE INDEX ix_entries_housings_read ON entries (kind) WHERE kind = 'housing-read'")


def downgrade() -> None:
    op.drop_index("ix_entries_housings_read", "entries")
