"""A submittal has items, each with its own verdict, and lots, each with its own days."""

import sqlalchemy as sa
from alembic import op

revision = "0055"
down_revision = "0054"


def upgrade() -> None:
    op.create_table(
        "submittal_item",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("submittal_id", sa.String(16), sa.ForeignKey("submittal.id"), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("paragraph", sa.String(), nullable=False),
        sa.Column("verdict", sa.String(), nullable=False),
    )
    op.create_index("ix_submittal_item_submittal_id", "submittal_item", ["submittal_id"])
    op.create_table(
        "submittal_item_answer",
        sa.Column("round_id", sa.String(16), sa.ForeignKey("submittal_round.id"), primary_key=True),
        sa.Column("item_id", sa.String(16), sa.ForeignKey("submittal_item.id"), primary_key=True),
        sa.Column("verdict", sa.String(), nullable=False),
    )
    op.create_table(
        "submittal_lot",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("submittal_id", sa.String(16), sa.ForeignKey("submittal.id"), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("required_on", sa.Date()),
        sa.Column("lead", sa.Integer()),
        sa.Column("lead_in", sa.String(), nullable=False),
        sa.Column("delivered_on", sa.Date()),
    )
    op.create_index("ix_submittal_lot_submittal_id", "submittal_lot", ["submittal_id"])
