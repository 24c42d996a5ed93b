"""What somebody has begun to answer in a review is kept until they hand in."""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"


def upgrade() -> None:
    op.create_table(
        "begun_answer",
        sa.Column("step_id", sa.String(16), sa.ForeignKey("review_step.id"), primary_key=True),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("document_id", sa.String(16), sa.ForeignKey("document.id"), primary_key=True),
        sa.Column("verdict", sa.String(), nullable=False),
        sa.Column("comment", sa.String(), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
    )
