"""Transmittals that came in: what another company says it sent, by its own list or its bag."""

import sqlalchemy as sa
from alembic import op

revision = "0044"
down_revision = "0043"


def upgrade() -> None:
    op.create_table(
        "received",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False, index=True),
        sa.Column("batch_id", sa.String(), sa.ForeignKey("batch.id"), nullable=False, index=True),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("dated", sa.Date()),
        sa.Column("purpose", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("bag_sha256", sa.String(), nullable=False),
        sa.Column("proof", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False, index=True),
        sa.Column("faults", sa.JSON(), nullable=False),
        sa.Column("entered_by", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("entered_at", sa.DateTime(), nullable=False),
        sa.Column("receipt_at", sa.DateTime()),
        sa.Column("receipt_to", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
    )
    op.create_table(
        "received_line",
        sa.Column("received_id", sa.String(), sa.ForeignKey("received.id"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
    )
