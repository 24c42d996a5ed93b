"""Events bring along what they are about."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    op.add_column("live_event", sa.Column("load", sa.JSON(), nullable=True))
