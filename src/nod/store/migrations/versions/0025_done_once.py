"""What was done under a key of a form is done once."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    op.create_table(
        "done_once",
        sa.Column("person_id", sa.String(16), primary_key=True),
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("fingerprint", sa.String(64), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("status", sa.Integer(), nullable=False),
        sa.Column("body", sa.String(), nullable=False),
    )
    op.create_index("ix_done_once_at", "done_once", ["at"])
