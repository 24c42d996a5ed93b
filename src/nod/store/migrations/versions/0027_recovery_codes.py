"""Codes on paper beside the authenticator app."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"


def upgrade() -> None:
    op.create_table(
        "recovery_code",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("hash", sa.String(64), nullable=False),
        sa.Column("made_at", sa.String(27), nullable=False),
        sa.Column("used_at", sa.String(27)),
    )
    op.create_index("ix_recovery_code_person_id", "recovery_code", ["person_id"])
