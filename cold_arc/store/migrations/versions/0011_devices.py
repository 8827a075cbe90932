"""Devices of the shop's network, each let in by itself and thrown out by itself."""

import sqlalchemy as sa
from alembic import op

revision, down_revision = "0011", "0010"


def upgrade() -> None:
    op.create_table(
        "devices",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("since", sa.DateTime(), nullable=False),
        sa.Column("out_at", sa.DateTime()),
    )


def downgrade() -> None:
    op.drop_table("devices")
