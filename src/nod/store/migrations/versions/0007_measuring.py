"""Scales of pages and regions; outlines of areas and how exactly marks were placed."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.execute("ALTER TABLE mark ADD COLUMN rings JSON NOT NULL DEFAULT '[]'")
    op.execute("ALTER TABLE mark ADD COLUMN aim_pt FLOAT NOT NULL DEFAULT 0")
    op.create_table(
        "scale",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("revision_id", sa.String(16), sa.ForeignKey("revision.id"), nullable=False, index=True),
        sa.Column("page", sa.Integer(), nullable=False),
        sa.Column("box", sa.JSON()),
        sa.Column("how", sa.String(), nullable=False),
        sa.Column("said", sa.String(), nullable=False),
        sa.Column("mm_per_pt", sa.Float(), nullable=False),
        sa.Column("share", sa.Float(), nullable=False),
        sa.Column("set_by", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("set_at", sa.String(27), nullable=False),
        sa.Column("removed_at", sa.String(27)),
    )
