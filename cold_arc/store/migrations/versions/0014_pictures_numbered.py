"""Pictures are numbered within their job, so that a record means the same pictures wherever it is
taken in; those there are keep the number they go by.
"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.add_column("pictures", sa.Column("number", sa.Integer(), nullable=False, server_default="0"))
    op.execute("UPDATE pictures SET number = id")
    op.create_index("ix_pictures_number", "pictures", ["job_id", "number"], unique=True)
    op.drop_index("ix_pictures_job_id", "pictures")


def downgrade() -> None:
    op.create_index("ix_pictures_job_id", "pictures", ["job_id"])
    op.drop_index("ix_pictures_number", "pictures")
    op.drop_column("pictures", "number")
