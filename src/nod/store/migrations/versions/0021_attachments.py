"""Files added to anything."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    op.create_table(
        "attachment",
        sa.Column("seq", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("id", sa.String(16), nullable=False, unique=True),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("on_kind", sa.String(), nullable=False),
        sa.Column("on_id", sa.String(), nullable=False),
        sa.Column("reply_id", sa.String(), nullable=False, server_default=""),
        sa.Column("folder_id", sa.String(16), sa.ForeignKey("folder.id"), nullable=False),
        sa.Column("sha256", sa.String(64), sa.ForeignKey("blob.sha256"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("added_by", sa.String(16), sa.ForeignKey("person.id"), nullable=True),
        sa.Column("added_at", sa.String(27), nullable=False),
        sa.Column("said_at", sa.String(27), nullable=True),
        sqlite_autoincrement=True,
    )
    for column in ("project_id", "reply_id", "sha256"):
        op.create_index(f"ix_attachment_{column}", "attachment", [column])
    op.create_index("ix_attachment_on", "attachment", ["on_id", "on_kind"])
