"""Marks of every kind: their look, label, order, lock, whom they are for; pens in rolls."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    text, flag = "VARCHAR NOT NULL DEFAULT ''", "BOOLEAN NOT NULL DEFAULT 0"
    added = {
        "look": "JSON NOT NULL DEFAULT '{}'", "label": text, "meant_for": text, "locked": flag,
        "rank": "INTEGER NOT NULL DEFAULT 0", "state_by": text, "state_at": "VARCHAR(27)",
    }  # fmt: skip
    for name, kind in added.items():
        op.execute(f"ALTER TABLE mark ADD COLUMN {name} {kind}")
    op.execute("UPDATE mark SET look = json_object('colour', colour)")
    op.execute("ALTER TABLE mark DROP COLUMN colour")
    op.create_table(
        "pen_roll",
        sa.Column("project_id", sa.String(16), sa.ForeignKey("project.id"), primary_key=True),
        sa.Column("person_id", sa.String(16), primary_key=True),
        sa.Column("pens", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
    )
