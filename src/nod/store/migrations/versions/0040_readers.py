"""Ink can be for some of those who see the sheet, what is said in a review shown at its end, a step without marks."""

import sqlalchemy as sa
from alembic import op

revision = "0040"
down_revision = "0039"


def upgrade() -> None:
    op.add_column("thread", sa.Column("readers", sa.String(), nullable=False, server_default="everybody"))
    op.create_table(
        "thread_reader",
        sa.Column("thread_id", sa.String(16), sa.ForeignKey("thread.id"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("group_id", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("thread_id", "kind", "group_id"),
    )
    op.create_index("ix_thread_reader_group", "thread_reader", ["kind", "group_id"])
    for table in ("route", "review"):
        op.add_column(table, sa.Column("shows", sa.String(), nullable=False, server_default="at_once"))
    op.add_column("review_step", sa.Column("marking", sa.Boolean(), nullable=False, server_default="1"))
