"""Steps say when to remind, and when they did; people can be away with somebody who stands in."""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"


def upgrade() -> None:
    op.add_column("review_step", sa.Column("remind_before", sa.Integer(), nullable=False, server_default="1"))
    op.add_column("review_step", sa.Column("remind_every", sa.Integer(), nullable=False, server_default="2"))
    op.add_column("review_step", sa.Column("lead_after", sa.Integer(), nullable=False, server_default="3"))
    op.add_column("review_step", sa.Column("reminded_on", sa.Date()))
    op.add_column("review_step", sa.Column("lead_told_on", sa.Date()))
    op.create_table(
        "absence",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), nullable=False),
        sa.Column("person_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("stand_in_id", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("first_on", sa.Date(), nullable=False),
        sa.Column("last_on", sa.Date(), nullable=False),
        sa.Column("set_by", sa.String(16), sa.ForeignKey("person.id"), nullable=False),
        sa.Column("set_at", sa.String(27), nullable=False),
        sa.Column("handed_at", sa.String(27)),
        sa.Column("removed_at", sa.String(27)),
    )
    op.create_index("ix_absence_project_id", "absence", ["project_id"])
