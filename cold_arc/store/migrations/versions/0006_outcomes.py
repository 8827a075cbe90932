"""What the shop measured of each source, kept with its job; jobs with readings after are worked out once more for
it."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "outcomes",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("beam", sa.String(40), nullable=False),
        sa.Column("source", sa.String(80), nullable=False),
        sa.Column("base", sa.String(20), nullable=False),
        sa.Column("optic", sa.String(20), nullable=False),
        sa.Column("function", sa.String(20), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("predicted", sa.JSON),
    )
    op.create_index("ix_outcomes_job_id", "outcomes", ["job_id"])
    op.create_index("ix_outcomes_lamp", "outcomes", ["base", "optic", "function"])
    op.execute(
        "UPDATE jobs SET board = NULL WHERE id IN"
        " (SELECT job_id FROM entries WHERE kind = 'read' AND payload LIKE '%after%')"
    )


def downgrade() -> None:
    op.drop_table("outcomes")
