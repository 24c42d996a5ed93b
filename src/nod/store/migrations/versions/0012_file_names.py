"""Revisions are found by the names of their files; marks have a discipline."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("mark", sa.Column("discipline", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_revision_file_name", "revision", [sa.text("lower(file_name)")])
