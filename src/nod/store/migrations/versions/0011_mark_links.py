"""Links of marks to other things."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.create_table(
        "mark_link",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("mark_id", sa.String(16), sa.ForeignKey("mark.id"), nullable=False),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("target", sa.String(), nullable=False),
        sa.Column("made_by", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("made_at", sa.String(27), nullable=False),
        sa.Column("removed_at", sa.String(27)),
    )
    op.create_index("ix_mark_link_mark_id", "mark_link", ["mark_id"])
    op.create_index("ix_mark_link_target", "mark_link", ["kind", "target"])
