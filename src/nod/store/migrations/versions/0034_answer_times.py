"""A review keeps by when the contract wants an answer, and what silence means."""

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"


def upgrade() -> None:
    op.add_column("review", sa.Column("answer_by", sa.String(10)))
    op.add_column("review", sa.Column("silence", sa.String(), nullable=False, server_default="nothing"))
    op.add_column("review", sa.Column("silence_told_at", sa.String(27)))
