"""When a job is worked on, what the work took and broke by car and part, and pictures taken at the car."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.execute("ALTER TABLE jobs ADD COLUMN starts DATE")
    op.create_index("ix_jobs_starts", "jobs", ["starts"])
    op.create_table(
        "work_done",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("vehicle", sa.String(120), nullable=False),
        sa.Column("part", sa.String(200), nullable=False),
        sa.Column("facts", sa.JSON(), nullable=False),
    )
    op.create_index("ix_work_done_job_id", "work_done", ["job_id"])
    op.create_index("ix_work_done_vehicle", "work_done", ["vehicle"])
    op.create_table(
        "pictures",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("job_id", sa.Integer(), sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("small", sa.LargeBinary(), nullable=False),
    )
    op.create_index("ix_pictures_job_id", "pictures", ["job_id"])


def downgrade() -> None:
    op.drop_table("pictures")
    op.drop_table("work_done")
    op.drop_index("ix_jobs_starts", "jobs")
    op.execute("ALTER TABLE jobs DROP COLUMN starts")
