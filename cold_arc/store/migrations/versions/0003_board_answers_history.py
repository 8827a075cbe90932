"""What the board shows kept with each job, answers by their form's key, the shelf's history."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    with op.batch_alter_table("jobs") as jobs:
        jobs.add_column(sa.Column("due", sa.Date))
        jobs.add_column(sa.Column("board", sa.JSON))
    op.execute(
        "UPDATE jobs SET due = (SELECT json_extract(payload, '$.due') FROM entries WHERE entries.job_id = jobs.id"
        " AND kind = 'Booking' AND undone_at IS NULL AND json_valid(payload) ORDER BY entries.id DESC LIMIT 1)"
    )
    op.create_index("ix_jobs_closed_due", "jobs", ["closed_at", "due"])
    op.create_index("ix_jobs_without_board", "jobs", ["id"], sqlite_where=sa.text("board IS NULL"))
    op.create_table(
        "answers",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("location", sa.String(400), nullable=False),
    )
    op.create_index("ix_answers_at", "answers", ["at"])
    op.create_table(
        "light_source_history",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("light_sources.id"), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
    )
    op.create_index("ix_light_source_history_source_id", "light_source_history", ["source_id"])


def downgrade() -> None:
    op.drop_table("light_source_history")
    op.drop_table("answers")
    op.drop_index("ix_jobs_without_board", "jobs")
    op.drop_index("ix_jobs_closed_due", "jobs")
    with op.batch_alter_table("jobs") as jobs:
        jobs.drop_column("board")
        jobs.drop_column("due")
