"""A project can have several sets of verdicts; a step that decides says which it gives."""

import sqlalchemy as sa
from alembic import op

revision = "0039"
down_revision = "0038"


def upgrade() -> None:
    op.add_column("review_step", sa.Column("verdicts", sa.String(), nullable=False, server_default=""))
