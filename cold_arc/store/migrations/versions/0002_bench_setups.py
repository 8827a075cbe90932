"""Set-ups kept on the bench by name."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "bench_setups",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("saved_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("bench_setups")
