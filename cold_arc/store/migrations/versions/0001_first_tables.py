"""First tables: jobs and their entries, catalogue, saved routes, settings."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("opened_at", sa.DateTime, nullable=False),
        sa.Column("closed_at", sa.DateTime),
    )
    op.create_table(
        "entries",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("kind", sa.String(40), nullable=False),
        sa.Column("lamps", sa.JSON, nullable=False),
        sa.Column("payload", sa.JSON, nullable=False),
        sa.Column("undone_at", sa.DateTime),
    )
    op.create_index("ix_entries_job_id", "entries", ["job_id"])
    op.create_table(
        "light_sources",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("base", sa.String(20), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("retired_at", sa.DateTime),
    )
    op.create_table(
        "route_templates",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("vehicle", sa.String(120), nullable=False),
        sa.Column("function", sa.String(20), nullable=False),
        sa.Column("steps", sa.JSON, nullable=False),
        sa.Column("saved_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "settings",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("value", sa.String(400), nullable=False),
    )


def downgrade() -> None:
    for table in ("settings", "route_templates", "light_sources", "entries", "jobs"):
        op.drop_table(table)
