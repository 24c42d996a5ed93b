"""Routes say whether whoever starts may change the people; steps, whether a place may be handed on."""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"


def upgrade() -> None:
    op.add_column("route", sa.Column("may_change", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("review_step", sa.Column("handing_on", sa.Boolean(), nullable=False, server_default="1"))
