"""A comment is released to its author outside at a time of its own."""

import sqlalchemy as sa
from alembic import op

revision = "0037"
down_revision = "0036"


def upgrade() -> None:
    op.add_column("review_comment", sa.Column("released_at", sa.String(27), nullable=True))
