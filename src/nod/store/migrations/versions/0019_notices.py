"""What people follow, and what they were told."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.create_table(
        "follow",
        sa.Column("person_id", sa.String(), sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("target", sa.String(), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("since_at", sa.String(27), nullable=False),
    )
    op.create_index("ix_follow_target", "follow", ["target", "kind"])
    op.create_table(
        "notice",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("act_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("because", sa.String(), nullable=False),
        sa.Column("link", sa.String(), nullable=False),
        sa.Column("about", sa.JSON(), nullable=False),
        sa.Column("read_at", sa.String(27), nullable=True),
        sa.UniqueConstraint("act_id", "person_id"),
    )
    op.add_column("summary_line", sa.Column("kind", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_notice_person", "notice", ["person_id", "project_id", "at"])
