"""What a job is found by, kept with it; the board is worked out once more, so that every job has it."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    with op.batch_alter_table("jobs") as jobs:
        jobs.add_column(sa.Column("words", sa.String))
    op.create_index("ix_jobs_found", "jobs", ["closed_at", "due", "words"])
    op.execute("UPDATE jobs SET board = NULL")


def downgrade() -> None:
    op.drop_index("ix_jobs_found", "jobs")
    with op.batch_alter_table("jobs") as jobs:
        jobs.drop_column("words")
