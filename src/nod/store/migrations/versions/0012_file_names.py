"""Revisions are found by the names of their files; marks have a discipline, and the files they came from are kept."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("mark", sa.Column("discipline", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_revision_file_name", "revision", [sa.text("lower(file_name)")])
    op.create_table(
        "mark_file",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("revision_id", sa.String(16), sa.ForeignKey("revision.id"), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("told", sa.JSON(), nullable=False),
        sa.Column("taken_by", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("taken_at", sa.String(27), nullable=False),
    )
    op.create_index("ix_mark_file_revision_id", "mark_file", ["revision_id"])
