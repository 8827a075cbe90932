"""Jobs are found by their sources too: what is kept of each is worked out afresh."""

from alembic import op

revision, down_revision = "0010", "0009"

def upgrade() -> None:
    """What is kept of every job is marked stale."""
    op.execute("UPDATE jobs SET board = NULL")


def downgrade() -> None:
    """Nothing stands otherwise."""
