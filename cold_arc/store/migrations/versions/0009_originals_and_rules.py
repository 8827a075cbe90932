"""Pictures as they came from the camera, in which photographs of the wall are measured; a shop's own aim rules."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    op.create_table(
        "picture_originals",
        sa.Column("picture_id", sa.Integer(), sa.ForeignKey("pictures.id"), primary_key=True),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "aim_rules",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("facts", sa.JSON(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("aim_rules")
    op.drop_table("picture_originals")
