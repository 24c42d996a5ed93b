"""Calendar feeds: a secret address under which somebody's calendar reads the days of a project's submittals."""

import sqlalchemy as sa
from alembic import op

revision = "0051"
down_revision = "0050"


def upgrade() -> None:
    op.create_table(
        "calendar_feed",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("person_id", sa.String(), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("view", sa.String(), nullable=False),
        sa.Column("token_sha256", sa.String(64), nullable=False, unique=True),
        sa.Column("made_at", sa.String(27), nullable=False),
        sa.Column("withdrawn_at", sa.String(27)),
    )
    op.create_index("ix_calendar_feed_of", "calendar_feed", ["person_id", "project_id"])
