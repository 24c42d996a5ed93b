"""Floats are kept by day, so that they can be seen falling."""

import sqlalchemy as sa
from alembic import op

revision = "0054"
down_revision = "0053"


def upgrade() -> None:
    op.create_table(
        "submittal_float",
        sa.Column("submittal_id", sa.String(16), sa.ForeignKey("submittal.id"), primary_key=True),
        sa.Column("days", sa.String(), nullable=False),
    )
