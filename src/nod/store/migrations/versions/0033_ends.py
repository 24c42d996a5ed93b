"""Routes say what is done with a document that leaves a review, by its verdict; a review keeps what it began with."""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"


def upgrade() -> None:
    for table in ("route", "review"):
        op.add_column(table, sa.Column("ends", sa.JSON(), nullable=False, server_default="{}"))
