"""Codes on prints."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "print_code",
        sa.Column("code", sa.String(), primary_key=True),
        sa.Column("revision_id", sa.String(16), sa.ForeignKey("revision.id"), nullable=False, unique=True),
        sa.Column("made_at", sa.String(27), nullable=False),
    )
