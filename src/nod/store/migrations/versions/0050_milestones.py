"""A submittal says which activity of the schedule it is for."""

import sqlalchemy as sa
from alembic import op

revision = "0050"
down_revision = "0049"


def upgrade() -> None:
    op.add_column("submittal", sa.Column("milestone", sa.String(), nullable=False, server_default=""))
