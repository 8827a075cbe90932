"""The school: questions with their answers, and what somebody was given to practise."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "school_questions",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("learner", sa.String(60), nullable=False),
        sa.Column("round", sa.String(32), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("skill", sa.String(40), nullable=False),
        sa.Column("level", sa.Integer(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("lamp", sa.JSON()),
        sa.Column("asked_at", sa.DateTime(), nullable=False),
        sa.Column("answered_at", sa.DateTime()),
        sa.Column("answer", sa.String(400), nullable=False, server_default=""),
        sa.Column("right", sa.Boolean()),
        sa.Column("sure", sa.Integer()),
        sa.Column("guessed", sa.Double(), nullable=False, server_default="0"),
        sa.Column("taken_for", sa.String(40), nullable=False, server_default=""),
    )
    op.create_index("ix_school_questions_place", "school_questions", ["round", "number"], unique=True)
    op.create_index("ix_school_questions_learner", "school_questions", ["learner"])
    op.create_table(
        "school_tasks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("learner", sa.String(60), nullable=False),
        sa.Column("skills", sa.JSON(), nullable=False),
        sa.Column("given_at", sa.DateTime(), nullable=False),
    )
    op.create_index("ix_school_tasks_learner", "school_tasks", ["learner"])


def downgrade() -> None:
    op.drop_table("school_tasks")
    op.drop_table("school_questions")
