"""Routes have versions, and can be retired."""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"


def upgrade() -> None:
    op.add_column("route", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("route", sa.Column("retired_at", sa.String(27)))
