"""Uploads remember that they arrived; tasks how often they were left; archives how deep; seals over the trail."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.add_column("upload", sa.Column("done_at", sa.String(27)))
    op.add_column("outbox", sa.Column("lapses", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("arrival", sa.Column("depth", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("arrival", sa.Column("archive_id", sa.String(16), nullable=False, server_default=""))
    op.add_column("arrival", sa.Column("unpack_trouble", sa.String(), nullable=False, server_default=""))
    op.create_index("ix_arrival_archive_id", "arrival", ["archive_id"])
    op.add_column("recipient", sa.Column("visited_at", sa.String(27)))
    # What a ZIP made before holds is not known, so nobody can be asked whether they may still have it.
    op.add_column("folder_pack", sa.Column("documents", sa.JSON(), nullable=False, server_default="[]"))
    op.create_table(
        "seal_key",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("public_key", sa.LargeBinary(32), nullable=False),
        sa.Column("began_at", sa.String(27), nullable=False),
    )
    op.create_table(
        "seal",
        sa.Column("size", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("root", sa.LargeBinary(32), nullable=False),
        sa.Column("at", sa.String(27), nullable=False),
        sa.Column("key_id", sa.String(16), sa.ForeignKey("seal_key.id"), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
    )
    for table in ("seal", "seal_key"):
        for act in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{act.lower()} BEFORE {act} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'seals are never changed'); END"
            )
